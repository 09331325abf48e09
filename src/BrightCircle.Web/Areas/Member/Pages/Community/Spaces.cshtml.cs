using BrightCircle.App.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The spaces that are open to whoever asks.</summary>
public sealed class SpacesModel(ReadTalk talk) : MemberPage
{
    public override string Place => "spaces";
    public IReadOnlyList<SpaceSeenFromOutside> Spaces { get; private set; } = [];

    public async Task OnGet() => Spaces = await talk.Spaces(Visitor.AllTalks(Now, Moment), Ct);
}
