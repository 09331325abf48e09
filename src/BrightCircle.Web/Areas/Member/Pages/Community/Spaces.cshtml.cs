using BrightCircle.App.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The spaces that are open to whoever asks.</summary>
public sealed class SpacesModel(ReadTalk talk) : MemberPage
{
    public override string Place => "spaces";
    public IReadOnlyList<SpaceSeenFromOutside> Spaces { get; private set; } = [];

    /// <summary>What they began to write.</summary>
    public IReadOnlyList<Begun> Begun { get; private set; } = [];

    public async Task OnGet() => (Spaces, Begun) = await talk.Spaces(Visitor.AllTalks(Now, Moment), Ct);
}
