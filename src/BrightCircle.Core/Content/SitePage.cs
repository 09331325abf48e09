using System.Text.RegularExpressions;
using NodaTime;

namespace BrightCircle.Core.Content;

/// <summary>Where a page of the owner's own stands.</summary>
public enum SitePageKind
{
    /// <summary>A page by itself, at an address of its own.</summary>
    Free,
    /// <summary>Under the front's head.</summary>
    Front,
    /// <summary>A plan's own page.</summary>
    Plan,
    /// <summary>Beside the form with which a plan is joined.</summary>
    Join,
    /// <summary>After a price was joined.</summary>
    Confirmation,
}

/// <summary>A page, or part of one, that the owner writes: the same sections everywhere.</summary>
public sealed partial class SitePage
{
    public const int LongestTitle = 120, LongestDescription = 300, LongestSlug = 80;

    public long Id { get; init; }
    public SitePageKind Kind { get; init; }
    /// <summary>Of a plan's page and of words beside joining it.</summary>
    public PlanId? PlanId { get; init; }
    /// <summary>Of words after joining by it.</summary>
    public PriceId? PriceId { get; init; }
    /// <summary>The last part of its address, for a page by itself; empty for the others.</summary>
    public string Slug { get; set; } = "";
    public string Title { get; set; } = "";
    /// <summary>What it is about, where its link is passed on.</summary>
    public string Description { get; set; } = "";
    /// <summary>The picture beside that.</summary>
    public FileId? Picture { get; set; }
    public IReadOnlyList<Block> Sections { get; set; } = [];
    /// <summary>Anybody can see it.</summary>
    public bool IsPublic { get; set; }
    public int Version { get; set; }
    public Instant ChangedAt { get; set; }
    public string ChangedBy { get; set; } = "";

    /// <summary>Whether this may stand in an address: small letters, digits and single dashes between them.</summary>
    public static bool IsSlug(string slug) => slug.Length is > 0 and <= LongestSlug && Slugs().IsMatch(slug);

    /// <summary>A title as it stands in an address; empty where nothing of it can.</summary>
    public static string SlugOf(string title) => string.Join('-', new string([.. title.ToLowerInvariant()
        .Select(c => c is >= 'a' and <= 'z' or >= '0' and <= '9' ? c : ' ')]).Split(' ', StringSplitOptions.RemoveEmptyEntries));

    [GeneratedRegex("^[a-z0-9]+(-[a-z0-9]+)*$")] private static partial Regex Slugs();
}
