using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A member's bookmarks and notes, and their own feed.</summary>
public sealed class KeptModel(TakePart part, FileLinks links, SiteAddress address) : MemberPage
{
    public override string Place => "home";
    public override bool KeptOffline => true;
    public IReadOnlyList<(Lesson Lesson, bool Bookmarked, string Note, NodaTime.Instant At)> Rows { get; private set; } = [];
    public string? Feed { get; private set; }

    public async Task OnGet()
    {
        if (Visitor.Member is not { } member) return;
        Rows = [.. (await part.Kept(member, Ct)).Where(r => Now.LessonById.ContainsKey(r.Lesson))
            .Select(r => (Now.LessonById[r.Lesson], r.Bookmarked, r.Note, r.At))];
        await links.Ready(Ct);
        if (Visitor.Recorded is not null) Feed = $"{address.Url}/feed/{links.TokenFor("feed", member.Value, Visitor.Person!.FeedsVersion)}/news.xml";
    }
}
