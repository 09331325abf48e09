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

public sealed class LeaveModel(LeavePlan leave) : MemberPage
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

    public IActionResult OnGet(long id)
    {
        var holding = Visitor.Person!.Holdings.FirstOrDefault(h => h.Id == new HoldingId(id));
        if (holding is null || !Leaving.Possible(holding, Moment)) return Redirect("/me/account");
        Plan = Now.PlanById[holding.PlanId];
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

    public async Task<IActionResult> OnPost(long id)
    {
        var done = await leave.Do(Member, new(id), Ct);
        Tell(done.Ok ? "It’s done. What stays open, and until when, stands below." : done.Refusal!);
        return Redirect("/me/account");
    }
}
