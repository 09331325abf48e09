using BrightCircle.App.Billing;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class LeaveModel(LeavePlan leave, ChangePlan change) : MemberPage
{
    public override string Place => "account";
    public Plan Plan { get; private set; } = null!;
    /// <summary>Until when it stays open; null where it ends at once.</summary>
    public Instant? Until { get; private set; }
    /// <summary>How many pieces would stay open: computed with the ending added, not guessed from the promise.</summary>
    public int KeepsCount => Keeps.Count;
    public IReadOnlyList<Piece> Keeps { get; private set; } = [];
    /// <summary>What closes with it.</summary>
    public IReadOnlyList<Piece> Closes { get; private set; } = [];

    public async Task<IActionResult> OnGet(long id)
    {
        var holding = Visitor.Person!.Holdings.FirstOrDefault(h => h.Id == new HoldingId(id));
        if (holding is null || !Leaving.Possible(holding, Moment)) return Redirect("/me/account");
        (Plan, Id) = (Now.PlanById[holding.PlanId], holding.Id);
        await Offers(holding);
        Until = Leaving.OpenUntil(holding, Moment);
        var end = Until ?? Moment;
        var after = holding.Copy();
        after.Ended(end, EndReason.Left);
        var facts = MemberFacts.From(Visitor.Person.Holdings.Where(h => h.Id != holding.Id).Append(after), end, Visitor.Person.Places,
            Visitor.Person.Done, Visitor.Person.Cohorts);
        var before = MemberFacts.From(Visitor.Person.Holdings, Moment, Visitor.Person.Places, Visitor.Person.Done, Visitor.Person.Cohorts);
        var open = Now.Pieces.Where(p => p.State == PieceState.Released && Now.Book.OpensPartOf(before, p.Id,
            Moment)).ToLookup(p => Now.Book.OpensPartOf(facts, p.Id, end));
        (Keeps, Closes) = ([.. open[true]], [.. open[false]]);
        return Page();
    }

    /// <summary>Why people leave, as they may say it.</summary>
    public static IReadOnlyList<string> Reasons { get; } = ["It costs too much for me", "I don’t have the time", "It isn’t what I expected",
        "I’ve had what I came for"];

    public bool CanPause { get; private set; }
    /// <summary>The cheapest way to stay with something, and what it comes to in a month; null where there is none that is cheaper.</summary>
    public Price? Cheaper { get; private set; }
    public HoldingId Id { get; private set; }

    async Task Offers(Core.Members.Holding holding)
    {
        if (!Now.Site!.OffersOnLeaving) return;
        CanPause = Pausing.Refuses(holding, Now.Calendar.Date(Moment).PlusDays(1), Now.PriceOf(holding)?.Pause, byTeam: false, Moment) is null;
        var mine = PaymentSchedule.For(holding.Agreement).EffectiveMonthly;
        Cheaper = change.WaysFrom(holding, Visitor.Buyer, Moment)
            .Select(p => (Price: p, Monthly: PaymentSchedule.For(p.Terms, Moment, Now.Calendar).EffectiveMonthly)).Where(x => x.Monthly < mine)
            .OrderBy(x => x.Monthly!.Value.Minor).Select(x => x.Price).FirstOrDefault();
        // Once, honestly: whoever comes back to leave isn't asked again.
        if ((CanPause || Cheaper is not null) && !Visitor.IsLooking && !await leave.ShowOffers(Member, holding.Id, Ct)) (CanPause, Cheaper) = (false, null);
    }

    public async Task<IActionResult> OnPost(long id, string? reason, string? why)
    {
        var said = string.Join(": ", new[] { Reasons.FirstOrDefault(r => r == reason), why?.Trim() }.Where(x => !string.IsNullOrEmpty(x)));
        var done = await leave.Do(Member, new(id), Ct, said);
        Tell(done.Ok ? "It’s done. What stays open, and until when, stands below." : done.Refusal!);
        return Redirect("/me/account");
    }
}
