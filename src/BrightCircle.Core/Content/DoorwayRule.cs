namespace BrightCircle.Core.Content;

/// <summary>What somebody meets who may not open something.</summary>
public enum DoorwayKind
{
    /// <summary>A page that says what it is, and the way in.</summary>
    Shown,
    /// <summary>The same, with the beginning of the lesson.</summary>
    Extract,
    /// <summary>They are led to another page.</summary>
    AnotherPage,
    /// <summary>As if it weren't there: in lists and under its own address.</summary>
    NotFound,
}

/// <summary>What the owner says of doorways in one place: the whole site, a shelf, a piece. What is left out is taken from the next wider place.</summary>
/// <param name="Strangers">Words for those who aren't signed in.</param>
/// <param name="Members">Words for those who are, and hold nothing that opens it.</param>
/// <param name="NotYet">Words for those for whom it opens by itself later.</param>
/// <param name="NotYetPicture">The picture over those.</param>
/// <param name="Button">The words on the button that leads in; the price's own where there are none.</param>
/// <param name="ExtractWords">How many words an extract has at most.</param>
/// <param name="Page">Where another page is: a path of the site, or a full address.</param>
/// <param name="Outline">Whether what is in it is listed.</param>
/// <param name="ClosedCover">The picture on cards for those who can't open it; the quiet version of the cover where there is none.</param>
public sealed record DoorwayWish(DoorwayKind? Kind = null, string? Strangers = null, string? Members = null, string? NotYet = null,
    FileId? NotYetPicture = null, string? Button = null, int? ExtractWords = null, string? Page = null, bool? Outline = null, FileId? ClosedCover = null)
{
    public const int MostWords = 600, LongestButton = 40, LeastExtract = 20, MostExtract = 1000, LongestPage = 300;

    /// <summary>The pictures it names.</summary>
    public IEnumerable<FileId> UsedFiles() => new[] { NotYetPicture, ClosedCover }.OfType<FileId>();

    public bool IsEmpty => this == new DoorwayWish();

    /// <summary>Why it can't be so, with the name of its field; null where it can.</summary>
    /// <param name="inTheEnd">What counts here with it.</param>
    public (string Why, string Field)? Wrong(DoorwayRule inTheEnd)
    {
        if (Strangers?.Length > MostWords) return ($"Those words are too long; {MostWords} letters are the most.", nameof(Strangers));
        if (Members?.Length > MostWords) return ($"Those words are too long; {MostWords} letters are the most.", nameof(Members));
        if (NotYet?.Length > MostWords) return ($"Those words are too long; {MostWords} letters are the most.", nameof(NotYet));
        if (Button?.Length > LongestButton) return ($"A button holds {LongestButton} letters.", nameof(Button));
        if (ExtractWords is < LeastExtract or > MostExtract) return ($"An extract has {LeastExtract} to {MostExtract} words.", nameof(ExtractWords));
        if (Page is not null && !IsPage(Page))
            return ("That isn’t an address. Write a path of this site, like /pages/about, or a full one that begins with https://.", nameof(Page));
        if (Page is not null && (Page.StartsWith("/read/", StringComparison.OrdinalIgnoreCase) || Page.StartsWith("/lessons/",
            StringComparison.OrdinalIgnoreCase)))
            return ("Pieces and lessons have doorways of their own. Choose a page that everybody can open.", nameof(Page));
        if (Kind == DoorwayKind.AnotherPage && inTheEnd.Page is null) return ("Say which page.", nameof(Page));
        return null;
    }

    /// <summary>A path of this site, or a full address of another; nothing that a browser would read as something else.</summary>
    public static bool IsPage(string address) => address.Length is > 0 and <= LongestPage && !address.Any(c => char.IsControl(c) || c is '\\' or ' ')
        && (address[0] == '/' && !address.StartsWith("//", StringComparison.Ordinal)
            || address.StartsWith("https://", StringComparison.OrdinalIgnoreCase) && Uri.TryCreate(address, UriKind.Absolute, out var uri)
                && uri.Host.Length > 0);
}

/// <summary>What counts for one thing in the end: the nearest wish of each kind, or what suits most.</summary>
public sealed record DoorwayRule(DoorwayKind Kind, string Strangers, string Members, string NotYet, FileId? NotYetPicture, string Button, int ExtractWords,
    string? Page, bool Outline, FileId? ClosedCover = null)
{
    public const int UsualExtract = 120;

    public static DoorwayRule Usual { get; } = new(DoorwayKind.Shown, "", "", "", null, "", UsualExtract, null, true);

    /// <summary>Field by field the first that is there.</summary>
    /// <param name="nearestFirst">The piece's, its shelf's, the site's.</param>
    public static DoorwayRule Of(params ReadOnlySpan<DoorwayWish?> nearestFirst)
    {
        var rule = new DoorwayWish();
        foreach (var w in nearestFirst)
            if (w is not null)
                rule = new(rule.Kind ?? w.Kind, rule.Strangers ?? w.Strangers, rule.Members ?? w.Members, rule.NotYet ?? w.NotYet,
                    rule.NotYetPicture ?? w.NotYetPicture, rule.Button ?? w.Button, rule.ExtractWords ?? w.ExtractWords, rule.Page ?? w.Page,
                    rule.Outline ?? w.Outline, rule.ClosedCover ?? w.ClosedCover);
        // Led to a page that nobody named any more, they meet the usual one.
        var kind = rule.Kind is DoorwayKind.AnotherPage && rule.Page is null ? DoorwayKind.Shown : rule.Kind ?? Usual.Kind;
        return new(kind, rule.Strangers ?? "", rule.Members ?? "", rule.NotYet ?? "", rule.NotYetPicture, rule.Button ?? "",
            rule.ExtractWords ?? UsualExtract, rule.Page, rule.Outline ?? Usual.Outline, rule.ClosedCover);
    }

    /// <summary>How many words of a lesson are shown: as many as wished, and never more than half of what it has.</summary>
    public int ShownOf(int words) => Math.Min(ExtractWords, words / 2);
}
