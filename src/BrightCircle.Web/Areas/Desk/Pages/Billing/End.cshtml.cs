using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class EndModel(EndPlan end, MemberPageQuery query) : DeskPage
{
    public override string Place => "members";
    public string Name { get; private set; } = "";
    public string Plan { get; private set; } = "";
    /// <summary>How many released pieces this closes: the difference of two decisions.</summary>
    public int Closes { get; private set; }

    public async Task<IActionResult> OnGet(long id, long holding)
    {
        var file = await query.Load(new(id), Ct);
        if (file?.Holdings.FirstOrDefault(h => h.Id == new HoldingId(holding)) is not { } h) return NotFound();
        (Name, Plan) = (file.Member.Name, Now.PlanName(h.PlanId));
        var before = MemberFacts.From(file.Holdings, Moment);
        var after = MemberFacts.From(file.Holdings.Where(x => x.Id != h.Id), Moment);
        Closes = Now.Pieces.Count(p => p.State == PieceState.Released && Now.Book.Decide(before, p.Id, Moment).IsOpen
            && !Now.Book.Decide(after, p.Id, Moment).IsOpen);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, long holding)
    {
        var done = await end.Do(Actor, new(id), new(holding), Ct);
        Tell(done.Ok ? "It has ended." : done.Refusal!);
        return Redirect($"/desk/members/{id}");
    }
}
