using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class FindModel(MemberList members) : DeskPage
{
    public string? Q { get; private set; }
    public IReadOnlyList<(string Icon, string Text, string Soft, string Link)> Hits { get; private set; } = [];

    public Task OnGet(string? q) => Find(q);

    public async Task<IActionResult> OnGetHits(string? q)
    {
        await Find(q);
        return Partial("_Hits", this);
    }

    async Task Find(string? q)
    {
        Q = q?.Trim();
        if (string.IsNullOrEmpty(Q)) return;
        Hits = [.. (await members.First(new(new(Q), "name", Down: false), 8, Ct))
            .Select(m => ("bi-person", m.Name, m.Standing.Word(), $"/desk/members/{m.Id.Value}")),
            .. Now.Pieces.Where(p => p.Title.Contains(Q, StringComparison.CurrentCultureIgnoreCase)).Take(8)
                .Select(p => ("bi-file-text", p.Title, Now.ShelfById[p.ShelfId].Name, $"/desk/pieces/{p.Id.Value}")),
            .. Now.LessonById.Values.Where(l => l.Title.Contains(Q, StringComparison.CurrentCultureIgnoreCase) && Now.PieceOf(l).IsCourse).Take(6)
                .Select(l => ("bi-file-earmark", l.Title, Now.PieceOf(l).Title, $"/desk/lessons/{l.Id.Value}")),
            .. Now.Plans.Where(p => p.Name.Contains(Q, StringComparison.CurrentCultureIgnoreCase))
                .Select(p => (p.IsTier ? "bi-layers" : "bi-ticket", p.Name, p.IsTier ? "tier" : "pass", $"/desk/tiers/{p.Id.Value}"))];
        // Where to go and what to do, before people and pieces that only have the word in their name.
        var places = DeskPlaces.Meant(Q).Where(p => May(false, p.Path)).Take(6).Select(
            p => (p.Icon, p.Word, p.Under is { } under && DeskPlaces.Find(under) is { } entry ? entry.Word : "the Desk", p.Path));
        Hits = [.. places, .. Hits];
    }
}
