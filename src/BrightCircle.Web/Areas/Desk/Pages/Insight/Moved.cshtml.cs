using BrightCircle.App.Insight;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The people behind a figure of the month's comings and goings.</summary>
public sealed class MovedModel(MovedMembers moved) : DeskPage
{
    public override string Place => "departures";
    public Move What { get; private set; }
    public PlanId? Tier { get; private set; }
    public IReadOnlyList<MovedMember> Rows { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;
    public string Title => What switch
    {
        Move.Joined => "Who joined",
        Move.Returned => "Who came back",
        Move.Left => "Who left",
        Move.CameOver => Tier is null ? "Who changed their tier" : "Who came from another tier",
        Move.WentOver => "Who went to another tier",
    };

    public static string Word(Move move) => move switch
    {
        Move.Joined => "joined",
        Move.Returned => "came back",
        Move.Left => "left",
        Move.CameOver => "from another tier",
        Move.WentOver => "to another tier",
    };
    /// <summary>The moves this list can be of. Between tiers one is asked for: over all, who comes to one goes from another.</summary>
    public IEnumerable<(Move Move, string Word)> Moves => Enum.GetValues<Move>().Where(m => Tier is not null || m != Move.WentOver)
        .Select(m => (m, Tier is null && m == Move.CameOver ? "changed tier" : Word(m)));

    /// <param name="tier">Null for all.</param>
    public static string PathOf(Move move, PlanId? tier) => $"/desk/departures/moved?what={move}{(tier is { } t ? $"&tier={t.Value}" : "")}";
    public string Path(Move move) => PathOf(move, Tier);

    public async Task<IActionResult> OnGet(Move what, long tier, int p = 1)
    {
        if (!ModelState.IsValid || !Enum.IsDefined(what) || tier != 0 && !Now.PlanById.ContainsKey(new(tier))) return NotFound();
        (What, Tier, p) = (what, tier == 0 ? null : new PlanId(tier), Math.Clamp(p, 1, 100_000));
        if (Tier is null && What == Move.WentOver) return Redirect(PathOf(Move.CameOver, null));
        (Rows, var count) = await moved.Load(What, Tier, Moment, p, Ct);
        Pager = new(p, count, MovedMembers.PageSize, n => $"{Path(What)}&p={n}");
        return Page();
    }
}
