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

    /// <summary>Live sessions in its time that are open to them.</summary>
    public IReadOnlyList<Core.Community.LiveSession> Sessions { get; private set; } = [];

    /// <summary>The spaces that opened with it and are open to them.</summary>
    public IReadOnlyList<Core.Community.Space> Spaces { get; private set; } = [];

    /// <summary>Where it stays as a lesson that is open to them; null where it doesn't.</summary>
    public Lesson? StaysOf(Core.Community.LiveSession session) =>
        session.LessonId is { } id && Now.LessonById.TryGetValue(id, out var lesson) && Decide(lesson).IsOpen ? lesson : null;

    public async Task<IActionResult> OnGet(string month)
    {
        var released = Now.Editions.Where(e => e.State == EditionState.Released).ToList();
        var at = released.FindIndex(e => EditionPath.Key(e) == month);
        if (at < 0) return NotFound();
        (Edition, Before, After) = (released[at], at > 0 ? released[at - 1] : null, at + 1 < released.Count ? released[at + 1] : null);
        Sessions = [.. Now.Community.Between(Now.Calendar.At(Edition.FirstDay.AtMidnight()), Now.Calendar.At(Edition.LastDay.PlusDays(1).AtMidnight()))
            .Where(s => Now.Book.Decide(Visitor.Facts, s.SeriesId, Moment).IsOpen)];
        Spaces = [.. Now.Spaces.Where(s => s.EditionId == Edition.Id && Visitor.Talks(Now, s.Id, Moment) is not null)];
        if (Visitor.Member is { } member) openings = await reader.Openings(member, Ct);
        return Page();
    }
}
