using BrightCircle.App.Learning;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A member's own tally: the week, the row of weeks, half a year.</summary>
public sealed class TallyModel(Tallies tallies, MemberReader reader) : MemberPage
{
    public const int WeeksShown = 26;
    const int MarksShown = 12;
    public override string Place => "home";
    public TallyStanding Standing { get; private set; } = null!;
    public IReadOnlyList<(NodaTime.Instant At, NodaTime.LocalDate Day, bool WithRun)> Marks { get; private set; } = [];
    public bool MayMark => Visitor.IsMember && Decide(Standing.Tally).IsOpen;
    public bool MayTakeBack => Visitor.Recorded is not null && Marks.Count > 0
        && Marks[0].Day >= Now.Calendar.Of(Visitor.Person!.ZoneId).Date(Moment).PlusDays(-1);
    public string Zone => Visitor.Person?.ZoneId ?? Now.Calendar.Zone.Id;

    public async Task<IActionResult> OnGet(long id)
    {
        if (Now.TallyById.GetValueOrDefault(new(id)) is not { } tally) return NotFound();
        var counts = TallyCounts.None;
        if (Visitor.Member is { } member) (counts, Marks) = await reader.TalliesAndMarks(member, tally.Id, MarksShown, Ct);
        Standing = StandingOf(tally, counts);
        // What is neither theirs nor was ever marked by them isn't here.
        if (!Decide(tally).IsOpen && Standing.InAll == 0) return NotFound();
        return Page();
    }

    public async Task<IActionResult> OnPostMark(long id, string? then)
    {
        if (Visitor.Marks(Now, new(id), Moment) is not { } by) return NotFound();
        var done = await tallies.Mark(by, null, Ct);
        Tell(done.Value is { } now ? $"{by.Tally.Name}: {now.Words()}." : done.Refusal!);
        return Redirect(then == "home" ? "/me" : then?.StartsWith("challenge-", StringComparison.Ordinal) == true
            && long.TryParse(then.AsSpan("challenge-".Length), System.Globalization.CultureInfo.InvariantCulture, out var challenge)
            ? $"/challenges/{challenge}" : $"/me/tallies/{id}");
    }

    public async Task<IActionResult> OnPostTakeBack(long id)
    {
        if (Visitor.Recorded is not { } member) return NotFound();
        var done = await tallies.TakeBack(member, Visitor.Person!.ZoneId, new(id), Ct);
        Tell(done.Ok ? "Taken back." : done.Refusal!);
        return Redirect($"/me/tallies/{id}");
    }
}
