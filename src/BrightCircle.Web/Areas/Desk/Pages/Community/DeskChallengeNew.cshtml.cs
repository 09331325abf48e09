using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The badges a challenge can end with.</summary>
/// <param name="MayBeNew">One can be made with it.</param>
public sealed record BadgeChoice(IReadOnlyList<Core.Members.Tag> Tags, string? Chosen, bool MayBeNew)
{
    public IEnumerable<Core.Members.Tag> Badges => Tags.Where(t => t.IsBadge);
    public string Value(Core.Members.Tag tag) => tag.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture);
}

/// <summary>A challenge with all that belongs to it, from one form.</summary>
public sealed class DeskChallengeNewModel(Challenges challenges) : DeskPage
{
    public override string Place => "challenges";
    public ChallengeDraft Draft { get; private set; } = null!;
    /// <summary>The one it is another round of.</summary>
    public Challenge? Of { get; private set; }

    void Find(long from) => Of = Now.Community.ChallengeById.GetValueOrDefault(new(from));

    public void OnGet(long from = 0)
    {
        Find(from);
        Draft = challenges.New(Of);
    }

    public async Task<IActionResult> OnPost(ChallengeDraft draft, long from = 0)
    {
        Find(from);
        ModelState.Clear();
        Draft = draft;
        var made = await challenges.Make(Actor, draft, Ct);
        if (!made.Ok)
        {
            Refuse(made.Refusal!, made.Field);
            return Page();
        }
        Tell($"{draft.Name} is there, with its tally{(draft.HasSpace ? ", its space" : "")} and its pass.");
        return Redirect($"/desk/challenges/{made.Value.Value}");
    }
}
