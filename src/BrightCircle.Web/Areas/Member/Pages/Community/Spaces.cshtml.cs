using BrightCircle.App.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The spaces that are open to whoever asks.</summary>
public sealed class SpacesModel(ReadTalk talk) : MemberPage
{
    public override string Place => "spaces";
    public IReadOnlyList<SpaceSeenFromOutside> Spaces { get; private set; } = [];
    /// <summary>Those in which something can begin, or which are simply closed; those of earlier editions stand apart.</summary>
    public IEnumerable<SpaceSeenFromOutside> Current => Spaces.Where(s => s.Space.FullAt is null);
    /// <summary>The newest first.</summary>
    public IReadOnlyList<SpaceSeenFromOutside> Earlier { get; private set; } = [];

    /// <summary>Plans they hold whose holders meet elsewhere, too; the team sees all of them.</summary>
    public IReadOnlyList<Core.Offer.Plan> Elsewhere => [.. Now.Plans.Where(p => p.GroupLink.Length > 0 && Visitor.Person is { } who
        && (who.IsTeam || who.Holdings.Any(h => h.PlanId == p.Id && h.IsHeldAt(Moment))))];

    /// <summary>What they began to write.</summary>
    public IReadOnlyList<Begun> Begun { get; private set; } = [];

    public async Task OnGet()
    {
        (Spaces, Begun) = await talk.Spaces(Visitor.AllTalks(Now, Moment), Ct);
        Earlier = [.. Spaces.Where(s => s.Space.FullAt is not null).OrderByDescending(s => s.Space.MadeAt)];
    }
}
