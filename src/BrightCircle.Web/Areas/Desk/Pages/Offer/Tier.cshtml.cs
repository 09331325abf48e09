using BrightCircle.App.Offer;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What a plan is called, where it stands and who may take it; what it promises has a page of its own.</summary>
public sealed class TierModel(SavePlan save) : DeskPage
{
    public override string Place => "tiers";
    public Plan? Plan { get; private set; }
    public PlanKind Kind { get; private set; }
    public string Word => Kind switch { PlanKind.Tier => "tier", PlanKind.Pass => "pass" };
    public PlanDraft Draft { get; private set; } = null!;

    public IActionResult OnGet(string id, PlanKind kind)
    {
        if (!Find(id, kind)) return NotFound();
        Draft = Plan is { } p ? new(p.Name, p.Rank, p.Description, p.Promise, p.Kind, p.Availability, p.StartPath, p.StartPieceId?.Value ?? 0,
            p.GroupLink, p.GroupWords)
            : new("", Kind == PlanKind.Pass ? 0 : Now.Plans.Select(x => x.Rank).DefaultIfEmpty(0).Max() + 1, "", [], Kind);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, PlanKind kind, string? name, int rank, string? description, Availability availability,
        string? startPath, long startPiece, string? groupLink, string? groupWords)
    {
        if (!Find(id, kind)) return NotFound();
        Draft = new(name, rank, description, [], Kind, availability, startPath ?? "", startPiece, groupLink ?? "", groupWords);
        if (!ModelState.IsValid) return Page();
        var saved = await save.Do(Actor, Plan?.Id, Draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell(Plan is null ? $"{name} is there. Now say what it promises." : $"{name} is saved.");
        return Redirect($"/desk/tiers/{saved.Value.Value}" + (Plan is null ? "/promise" : ""));
    }

    /// <summary>What its holders could start with: what they may open, and what was chosen.</summary>
    public IEnumerable<Piece> Starts => Now.Pieces.Where(p => p.Id.Value == Draft.StartPiece || p.State != PieceState.Draft && Opens(p))
        .OrderBy(p => p.Title, StringComparer.CurrentCultureIgnoreCase);

    bool Find(string id, PlanKind kind)
    {
        Plan = long.TryParse(id, out var n) ? Now.PlanById.GetValueOrDefault(new(n)) : null;
        Kind = Plan?.Kind ?? kind;
        return Plan is not null || id == "new";
    }

    AccessBook Book => Now.Book;
    IEnumerable<Piece> Released => Now.Pieces.Where(p => p.State == PieceState.Released);
    bool Opens(Piece p) => Book.GivesPartOf(Plan!.Id, p.Id, Moment);
    public int ReleasedCount => Released.Count();
    public int OpensNow => Released.Count(Opens);
    public IEnumerable<(Shelf, int, int)> ByShelf =>
        Now.Shelves.Select(s => (s, Released.Count(p => p.ShelfId == s.Id && Opens(p)), Released.Count(p => p.ShelfId == s.Id)));
    public int NextOpens => Now.NextEdition is { } e ? Now.PartsOf[e.Id].Count(p => p.State != PieceState.Draft && Opens(p)) : 0;
}
