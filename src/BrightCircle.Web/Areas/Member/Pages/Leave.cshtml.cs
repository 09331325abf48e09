using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class LeaveModel(OwnMembership own) : MemberPage
{
    public override string Place => "account";
    public Plan Plan { get; private set; } = null!;
    public Instant? Until { get; private set; }
    public bool Grace { get; private set; }
    /// <summary>How many pieces would stay open if they left now: computed with the ending added, not guessed from the promise.</summary>
    public int KeepsCount { get; private set; }

    public IActionResult OnGet(long id)
    {
        var holding = Visitor.Person!.Holdings.FirstOrDefault(h => h.Id == new HoldingId(id));
        if (holding is null || holding.StateAt(Moment) is not (HoldingState.Active or HoldingState.Trial or HoldingState.Grace)) return Redirect("/me/account");
        Plan = Now.PlanById[holding.PlanId];
        Grace = holding.StateAt(Moment) == HoldingState.Grace;
        Until = holding.PaidThrough(Moment);
        if (Until <= Moment) Until = null;
        var after = new Holding { Id = holding.Id, MemberId = holding.MemberId, PlanId = holding.PlanId, StartsAt = holding.StartsAt, Anchor = holding.Anchor };
        after.Facts.AddRange(holding.Facts);
        after.Facts.Add(HoldingFact.Ended(default, holding.Id, Moment, EndReason.Left));
        var facts = MemberFacts.From(Visitor.Person.Holdings.Where(h => h.Id != holding.Id).Append(after), Moment);
        KeepsCount = Now.Pieces.Count(p => p.State == PieceState.Released && Now.Book.Decide(facts, p.Id, Moment).IsOpen);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id)
    {
        var done = await own.Leave(Member, new(id), Ct);
        Tell(done.Ok ? "It’s done. We’ve written down for you what stays open and until when." : done.Refusal!);
        return Redirect("/me/account");
    }
}
