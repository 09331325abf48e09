using BrightCircle.App.Community;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Settings;
using BrightCircle.App.Words;
using BrightCircle.Core.Community;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The board of a challenge: everybody, week by week, those with nothing first.</summary>
public sealed class DeskChallengeModel(Challenges challenges, SiteAddress address) : DeskPage
{
    public const int MostShown = 200;
    public override string Place => "challenges";
    public new Challenge Challenge { get; private set; } = null!;
    public ChallengeBoard Board { get; private set; } = null!;

    LocalDate Today => Now.Calendar.Date(Moment);
    public bool IsOver => Challenge.IsOver(Today);
    public string Where => ChallengeWords.Long(Challenge, Today, Now.Culture);
    /// <summary>Where people begin to take part, as it is passed on; null where nothing is on offer.</summary>
    public string? JoinLink => Now.PricesOf(Challenge.PlanId).FirstOrDefault(p => p.Within(Now.PlanById[p.PlanId]) != Availability.Closed) is { } price
        ? $"{address.Url}/join/{price.Code}" : null;
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public string? About { get; set; }
    [BindProperty] public string? Badge { get; set; }
    bool Find(long id)
    {
        if (!Now.Community.ChallengeById.TryGetValue(new(id), out var challenge)) return false;
        Challenge = challenge;
        return true;
    }

    async Task<IActionResult> Show()
    {
        Board = await challenges.Board(Challenge, Ct);
        return Page();
    }

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Find(id)) return NotFound();
        (Name, About, Badge) = (Challenge.Name, Challenge.About, Challenge.BadgeId?.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
        return await Show();
    }

    public async Task<IActionResult> OnPostDescribe(long id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = await challenges.Describe(Actor, Challenge.Id, Name, About, Badge, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return await Show();
        }
        Tell("It is saved.");
        return Redirect($"/desk/challenges/{id}");
    }

    /// <summary>A word for what somebody did this week, as a message from whoever presses.</summary>
    public async Task<IActionResult> OnPostCheer(long id, long member, [FromServices] Correspond correspond)
    {
        if (!Find(id)) return NotFound();
        Board = await challenges.Board(Challenge, Ct);
        if (Board.ThisWeek == 0 || Board.Rows.FirstOrDefault(r => r.Member.Value == member) is not { } row) return NotFound();
        var done = await correspond.Answer(Actor, row.Member, CheerFor(row), true, Ct);
        Tell(done.Ok ? $"{row.Name} gets a word from you." : done.Refusal!);
        return Redirect($"/desk/challenges/{id}");
    }

    string CheerFor(ChallengeRow row)
    {
        var (did, aim) = (row.Done[Board.ThisWeek - 1], Board.Aims[Board.ThisWeek - 1]);
        return did >= aim ? $"{did} of {aim} this week in {Challenge.Name}: that is all of it. Well done."
            : $"{did} of {aim} this week in {Challenge.Name}. Well begun; I’m looking forward to the rest.";
    }

    public async Task<IActionResult> OnPostWrite(long id, [FromServices] Audiences audiences, [FromServices] Mailings mailings)
    {
        if (!Find(id)) return NotFound();
        var begun = await WriteToThose.Begin(Now, audiences, mailings, Actor, Bounded.To($"{Challenge.Name}: under the aim", Audience.MostName),
            new Condition.AllOf([new Condition.Holds([Challenge.PlanId]), new Condition.Not(new Condition.MetTally(Challenge.TallyId, 0))]), Ct);
        if (begun.Ok) return Redirect($"/desk/mailings/{begun.Value}");
        Tell(begun.Refusal!);
        return Redirect($"/desk/challenges/{id}");
    }
}
