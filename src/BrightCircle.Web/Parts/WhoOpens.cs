using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>Which plans open a piece, a module or a lesson, how far back and at which pace; and the way to add it to a promise.</summary>
public sealed record WhoOpens(DeskPage Page, Piece Piece, Module? Module, Lesson? Lesson)
{
    public bool MayAdd => Page.IsOwner && Page.Now.Plans.Count > 0;

    /// <summary>As the promise editor takes it.</summary>
    public string Add => Lesson is { } l && Piece.IsCourse ? $"lesson-{l.Id.Value}" : Module is { } m ? $"module-{m.Id.Value}" : $"piece-{Piece.Id.Value}";

    public IReadOnlyList<(Plan Plan, string Says)> Plans => [.. Page.Now.Plans.Select(p => (p, Says(p))).Where(x => x.Item2.Length > 0)];

    string Says(Plan plan)
    {
        var all = Module is null && Lesson is null;
        var lines = Bonus.Unfold(plan.Promise, Page.Now.PlanById.GetValueOrDefault).Where(u => all
            ? PromiseTable.Covering(u.Inclusion.Covers, Piece) != PieceCovering.Not
            : PromiseTable.CoversAll(u.Inclusion.Covers, Piece, Module?.Id ?? Lesson?.ModuleId, Lesson?.Id));
        return string.Join("; ", lines.Select(u => PromiseWords.ReachWords(u.Inclusion.Reach)
            + (all && PromiseTable.Covering(u.Inclusion.Covers, Piece) == PieceCovering.Part ? ", part of it" : "") + (u.IsBonus ? ", as a bonus" : "")
            + (u.Inclusion.Pace is { IsNone: false } pace ? $", {PaceWords.Describe(pace)}" : "")));
    }
}
