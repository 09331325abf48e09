namespace BrightCircle.Core.Content;

/// <summary>For whom an entry of a menu stands there.</summary>
public enum MenuFor { Everybody, SignedOut, SignedIn, Guests, Holders }

/// <summary>An entry of a menu.</summary>
/// <param name="Word">What it is called.</param>
/// <param name="Path">Where it leads: a path of the site, or a full address.</param>
/// <param name="Plan">Of which plan they are holders; any, where null.</param>
/// <param name="Shown">It stands there; hidden, it is kept for later.</param>
public sealed record MenuItem(string Word, string Path, MenuFor For = MenuFor.Everybody, PlanId? Plan = null, bool Shown = true)
{
    public const int Most = 12, LongestWord = 30;

    /// <summary>What stands there while the owner says nothing else.</summary>
    public static IReadOnlyList<MenuItem> Usual { get; } =
    [
        new("What’s inside", "/inside", MenuFor.SignedOut), new("Tiers", "/tiers", MenuFor.SignedOut),
        new("Home", "/me", MenuFor.SignedIn), new("Shelves", "/shelves", MenuFor.SignedIn), new("Spaces", "/spaces", MenuFor.SignedIn),
        new("Sessions", "/sessions", MenuFor.SignedIn),
        new("Account", "/me/account", MenuFor.SignedIn),
    ];

    /// <summary>Whether somebody sees it.</summary>
    /// <param name="holds">The plans they hold now; null where they aren't signed in.</param>
    public bool IsFor(IReadOnlyCollection<PlanId>? holds) => Shown && For switch
    {
        MenuFor.Everybody => true,
        MenuFor.SignedOut => holds is null,
        MenuFor.SignedIn => holds is not null,
        MenuFor.Guests => holds is { Count: 0 },
        MenuFor.Holders => holds is not null && (Plan is { } p ? holds.Contains(p) : holds.Count > 0),
        _ => throw new InvalidOperationException($"Nobody is {For}."),
    };

    /// <summary>Why it can't be so; null where it can.</summary>
    public string? Wrong() => Word.Length is 0 or > LongestWord ? $"Each entry has a word of {LongestWord} letters at most."
        : !Enum.IsDefined(For) ? "Choose who sees each entry."
        : !DoorwayWish.IsPage(Path) ? $"“{Path}” isn’t an address. Write a path of this site, like /tiers, or a full one that begins with https://." : null;
}
