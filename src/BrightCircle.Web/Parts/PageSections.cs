using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.Areas.Front.Pages;

namespace BrightCircle.Web.Parts;

/// <summary>The sections of a page of the owner's own, as they are shown.</summary>
/// <param name="Plan">Whose page it is; null where it is nobody's.</param>
public sealed record PageSections(TiersPage Page, SitePage Written, Plan? Plan)
{
    public string Src(FileId file, int width) => $"/pages/files/{Written.Id}/{file.Value}?w={width}";
    public string Html(string html) => RichTextFiles.WithAddresses(html, id => Src(id, 960));
    public Plan? PlanOf(PlanId? named) => named is { } id ? Page.Now.PlanById.GetValueOrDefault(id) : Plan;
}
