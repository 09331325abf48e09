using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>Everything under a tag that the visitor may know of.</summary>
public sealed class TagsModel : BrightPage
{
    const int PageSize = 40;
    public string Tag { get; private set; } = "";
    public IReadOnlyList<Piece> Pieces { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;

    public IActionResult OnGet(string tag, int p = 1)
    {
        Tag = tag.ToLowerInvariant();
        var all = Now.Pieces.Where(x => x.Tags.Contains(Tag) && x.ReleasedAt is not null && Decide(x).IsKnown).OrderByDescending(x => x.ReleasedAt)
            .ThenByDescending(x => x.Id.Value).ToArray();
        if (all.Length == 0) return NotFound();
        p = Math.Max(1, p);
        Pieces = [.. all.Skip((p - 1) * PageSize).Take(PageSize)];
        Pager = new(p, all.Length, PageSize, n => $"?p={n}");
        return Page();
    }
}
