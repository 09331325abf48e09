using BrightCircle.App.Releases;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class EditionModel(MemberReader reader) : MemberPage
{
    IReadOnlyDictionary<LessonId, OpeningState> openings = new Dictionary<LessonId, OpeningState>();
    public override string Place => "home";
    public override bool KeptOffline => true;
    public Edition Edition { get; private set; } = null!;
    public Edition? Before { get; private set; }
    public Edition? After { get; private set; }
    public PieceWay Way(Piece p) => WayOf(p, openings);
    public IReadOnlyList<Lesson> LessonParts => [.. Now.LessonPartsOf[Edition.Id].Where(l => l.ReleasedAt is not null && Decide(l).IsKnown)];

    public async Task<IActionResult> OnGet(string month)
    {
        var released = Now.Editions.Where(e => e.State == EditionState.Released).ToList();
        var at = released.FindIndex(e => EditionPath.Key(e) == month);
        if (at < 0) return NotFound();
        (Edition, Before, After) = (released[at], at > 0 ? released[at - 1] : null, at + 1 < released.Count ? released[at + 1] : null);
        if (Visitor.Member is { } member) openings = await reader.Openings(member, Ct);
        return Page();
    }
}
