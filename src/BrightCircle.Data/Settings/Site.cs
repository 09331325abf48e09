using System.Text.Json.Serialization;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>The site's own settings: one row.</summary>
public sealed class Site
{
    public const int TheOnly = 1;
    public int Id { get; init; } = TheOnly;
    public string Name { get; set; } = "";
    public string Tagline { get; set; } = "";
    public string About { get; set; } = "";
    public string ZoneId { get; set; } = "Europe/London";
    public Currency Currency { get; set; } = new("GBP");
    public string HelpAddress { get; set; } = "";
    public string Picture { get; set; } = "";
    /// <summary>One of the eight shelf colours, for the front.</summary>
    public int Colour { get; set; } = 5;
    public Instant SetUpAt { get; set; }
    public bool IsDemo { get; set; }
    /// <summary>It isn't live yet: people, orders and letters are rehearsals that go when it goes live, and its clock can be moved.</summary>
    public bool IsTrial { get; set; }
    /// <summary>Time can be moved on: in a demo, and while a site rehearses.</summary>
    public bool ClockCanMove => IsDemo || IsTrial;
    /// <summary>How numbers, dates and signs are written, as a culture's name: "en-GB".</summary>
    public string Culture { get; set; } = "en-GB";
    /// <summary>Who sells, as it stands on receipts.</summary>
    public string BusinessName { get; set; } = "";
    public string BusinessAddress { get; set; } = "";
    /// <summary>How far the house clock is ahead of real time, in milliseconds; 0 once it is live.</summary>
    public long ClockAheadMs { get; set; }
    /// <summary>The PostgreSQL text-search configuration of the content's language.</summary>
    public string Language { get; set; } = "english";
    /// <summary>What each month is aimed to hold.</summary>
    public IReadOnlyList<CadenceTarget> Cadence { get; set; } = [];
    /// <summary>The kinds of documents that may be uploaded, by their endings.</summary>
    public string[] DocumentKinds { get; set; } = DefaultDocumentKinds;
    /// <summary>Which links to videos kept elsewhere can be shown in the page, and by which address.</summary>
    public IReadOnlyList<VideoHost> VideoHosts { get; set; } = VideoHost.Default;
    /// <summary>Signs the short-lived addresses of members' files and the private feeds; made when it is first needed, protected by the data-protection
    /// keys.</summary>
    public string? FileKey { get; set; }

    /// <summary>The sign that stands before the site's name, and in letters; null for none.</summary>
    public FileId? Logo { get; set; }
    /// <summary>The menu of the front and of the member side; null for the usual.</summary>
    public IReadOnlyList<MenuItem>? Menu { get; set; }
    /// <summary>What everybody gets who comes, however they come; null for nothing.</summary>
    public PlanId? ArrivalPlanId { get; set; }
    /// <summary>On which days after the first failure a payment is asked for again; with the last one grace ends.</summary>
    public int[] RetryDays { get; set; } = [1, 3, 5, 7];
    /// <summary>The ways to pay on offer, the usual one first.</summary>
    public IReadOnlyList<Core.Offer.WayOffered> Ways { get; set; } = Core.Offer.WayOffered.Usual;
    /// <summary>The page of one's own that buyers agree to; null for none.</summary>
    public long? TermsPageId { get; set; }
    /// <summary>Which of what happens with money the owner is written to about, and when.</summary>
    public OwnerLetters OwnerLetters { get; set; } = new();
    /// <summary>What letters are signed with, protected by the data-protection keys; null while there is none.</summary>
    public string? MailKey { get; set; }
    /// <summary>Under which name its other half stands in the DNS; empty while there is none.</summary>
    public string MailSelector { get; set; } = "";
    public bool SignsMail { get; set; }
    /// <summary>By what push services know this site, protected by the data-protection keys; null while there is none.</summary>
    public string? PushKey { get; set; }
    /// <summary>Which links of letters to many are opened is counted.</summary>
    public bool CountsLinks { get; set; }
    /// <summary>Whoever goes away while joining and said that they may be reminded gets one letter.</summary>
    public bool WritesHalfWay { get; set; }
    /// <summary>What other programs are known by, protected by the data-protection keys; null while there is none.</summary>
    public string? ProgramKey { get; set; }
    /// <summary>Nobody of the team comes to the Desk without a second step of signing in.</summary>
    public bool TeamNeedsSecondStep { get; set; }
    /// <summary>Whoever is about to leave is shown a pause, or a cheaper way, once.</summary>
    public bool OffersOnLeaving { get; set; }
    /// <summary>What newcomers are asked to do first.</summary>
    public IReadOnlyList<Core.Members.FirstStep> FirstSteps { get; set; } = [];
    /// <summary>What is asked of whoever says hello; empty for the usual.</summary>
    public string HelloWords { get; set; } = "";
    /// <summary>Members find one another: whoever wants stands among the people here.</summary>
    public bool ShowsPeople { get; set; }
    /// <summary>They may write to one another too, where both agree.</summary>
    public bool MembersWrite { get; set; }
    /// <summary>What waits in spaces until the team has seen it.</summary>
    public Core.Community.HoldRules Holds { get; set; } = Core.Community.HoldRules.None;
    /// <summary>What those meet who may not open something; null for the usual.</summary>
    public DoorwayWish? Doorway { get; set; }

    public static string[] DefaultDocumentKinds => ["pdf", "epub", "docx", "xlsx", "pptx", "odt", "ods", "odp", "txt", "csv", "md", "zip", "ics", "vtt"];
}

public enum OwnerLetterWhen { Never, AtOnce, Daily }

/// <summary>Of what the owner hears by letter.</summary>
/// <param name="Sale">Something was bought.</param>
/// <param name="Failure">A payment failed.</param>
/// <param name="Dispute">A bank took money back.</param>
/// <param name="Talk">In the morning: what members began in spaces and nobody has answered.</param>
public sealed record OwnerLetters(OwnerLetterWhen Sale = OwnerLetterWhen.Never, OwnerLetterWhen Failure = OwnerLetterWhen.Never,
    OwnerLetterWhen Dispute = OwnerLetterWhen.AtOnce, bool Talk = false)
{
    [JsonIgnore] public bool HasDaily => Talk || Sale == OwnerLetterWhen.Daily || Failure == OwnerLetterWhen.Daily || Dispute == OwnerLetterWhen.Daily;
}

/// <summary>What an edition is aimed to hold: "2 courses a month".</summary>
/// <param name="What">What counts.</param>
/// <param name="Shelf">Only on this shelf; null for any.</param>
public sealed record CadenceTarget(int Count, CadenceUnit What, long? Shelf);

public enum CadenceUnit { Pieces, Courses, Lessons }
