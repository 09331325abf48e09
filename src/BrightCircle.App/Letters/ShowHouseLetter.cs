using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A letter of the house as somebody gets it: from the last one of its kind that was written, or from made-up facts where none ever was.</summary>
public sealed class ShowHouseLetter(BrightContext db, Catalogue catalogue, LetterModels models, SendTrial trial, IClock clock)
{
    /// <param name="own">The words to show it in; null for as it came with the house.</param>
    /// <param name="plan">Only about this plan; null for any.</param>
    /// <param name="member">As they got the last one, or would get one; null for whoever got the last one.</param>
    public async Task<(string Name, RenderedLetter Letter)> As(HouseLetter house, LetterText? own, PlanId? plan, MemberId? member, TeamActor by,
        CancellationToken ct)
    {
        Mailings.NeedRole(by);
        var those = db.Letters.AsNoTracking().Where(l => l.Kind == house.Kind);
        if (plan is { } p) those = those.Where(l => l.PlanId == p);
        if (member is { } m) those = those.Where(l => l.MemberId == m);
        var trip = new OneTrip(db);
        var last = trip.First(those.OrderByDescending(l => l.Id));
        var person = trip.First(db.Members.AsNoTracking().Where(x => x.Id == member));
        await trip.Ask(ct);
        var letter = last.Value ?? HouseLetters.Sample(house, plan, person.Value?.Name ?? by.Name, person.Value?.Email ?? "somebody@mail.example",
            catalogue.Now, clock.GetCurrentInstant());
        return (letter.ToName.Length > 0 ? letter.ToName : letter.ToAddress, models.Render(letter, own, showLink: false));
    }

    /// <summary>Sends whoever writes it one, at once. The links in it that are somebody’s own lead nowhere.</summary>
    public async Task<Result> Trial(TeamActor by, HouseLetter house, LetterText? own, PlanId? plan, CancellationToken ct) =>
        await trial.Do(by, (await As(house, own, plan, null, by, ct)).Letter, ct);
}
