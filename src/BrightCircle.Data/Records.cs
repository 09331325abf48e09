using BrightCircle.Core;
using BrightCircle.Core.Billing;
using Microsoft.AspNetCore.Identity;
using NodaTime;

namespace BrightCircle.Data;

public enum TeamRole { Owner, Editor, Host, Support }

/// <summary>Someone who can sign in. A member's account has the member's number; the team's have a role instead.</summary>
public sealed class Account : IdentityUser<long>
{
    public string Name { get; set; } = "";
    public TeamRole? Role { get; set; }
}

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
    /// <summary>How far the house clock is ahead of real time, in milliseconds; 0 outside a demo.</summary>
    public long ClockAheadMs { get; set; }
    /// <summary>The PostgreSQL text-search configuration of the content's language.</summary>
    public string Language { get; set; } = "english";
    /// <summary>What each month is aimed to hold.</summary>
    public IReadOnlyList<CadenceTarget> Cadence { get; set; } = [];
    /// <summary>The kinds of documents that may be uploaded, by their endings.</summary>
    public string[] DocumentKinds { get; set; } = DefaultDocumentKinds;
    /// <summary>Signs the short-lived addresses of members' files and the private feeds; made when it is first needed, protected by the data-protection keys.</summary>
    public string? FileKey { get; set; }

    public static string[] DefaultDocumentKinds => ["pdf", "epub", "docx", "xlsx", "pptx", "odt", "ods", "odp", "txt", "csv", "md", "zip", "ics", "vtt"];
}

public enum DueKind { Renew, Release, EndHolding, LapseHolding, Refund, Chargeback, ReleasePiece, Announce, Purge, Reindex }

/// <summary>Something that falls due. The row goes when it is done; what was done is in the journal, the ledger and the facts.</summary>
public sealed class DueWork
{
    public long Id { get; init; }
    public DueKind Kind { get; init; }
    /// <summary>The holding, edition or payment it is about.</summary>
    public long SubjectId { get; init; }
    /// <summary>For a renewal: the boundary and the attempt.</summary>
    public int Turn { get; init; }
    public int Attempt { get; init; }
    public required Instant DueAt { get; init; }
    /// <summary>When it is worked on: when it falls due, or later where a try went wrong.</summary>
    public Instant ReadyAt { get; set; }
    /// <summary>The same thing is never queued twice.</summary>
    public string Key { get; init; } = "";
    public string? Payload { get; init; }
    /// <summary>How often it went wrong, and what was said then.</summary>
    public int Tries { get; set; }
    public string? LastError { get; set; }
}

public enum LetterKind { Welcome, SignIn, Receipt, Edition, PaymentFailed, Ending, Lapsed, Refund, Place, Answered, Marked }
public enum LetterState { Queued, Sent, Refused }

/// <summary>A letter to send or sent: the outbox of mail. It is rendered when it goes out, from these facts.</summary>
public sealed class Letter
{
    public long Id { get; init; }
    public LetterKind Kind { get; init; }
    public MemberId? MemberId { get; init; }
    public string ToAddress { get; init; } = "";
    public string ToName { get; init; } = "";
    public Dictionary<string, string> Fields { get; init; } = [];
    public EditionId? EditionId { get; init; }
    public long? SignInLinkId { get; init; }
    public string Key { get; init; } = "";
    public Instant CreatedAt { get; init; }
    public LetterState State { get; set; }
    public string? Subject { get; set; }
    public Instant? SentAt { get; set; }
    public int Tries { get; set; }
    public Instant? NotBefore { get; set; }
    public string? LastError { get; set; }
}

public enum CheckoutPurpose { Join, ChangeCard, ConfirmPayment }
public enum CheckoutState { Open, Completed }

/// <summary>Somebody on the way through the Till, for a plan or with another card.</summary>
public sealed class Checkout
{
    public long Id { get; init; }
    public CheckoutPurpose Purpose { get; init; }
    public PriceId? PriceId { get; init; }
    public HoldingId? HoldingId { get; set; }
    public MemberId? MemberId { get; set; }
    public string Email { get; init; } = "";
    public string Name { get; init; } = "";
    public Instant CreatedAt { get; init; }
    /// <summary>Whether the price's trial applies: it is for those who never held the plan.</summary>
    public bool WithTrial { get; init; }
    /// <summary>For a payment in grace: which turn it pays.</summary>
    public int Turn { get; init; }
    public string? Session { get; set; }
    public CheckoutState State { get; set; }
    public Instant? CompletedAt { get; set; }
    /// <summary>It made the account, so the browser that did it may be signed in.</summary>
    public bool MadeAccount { get; set; }
}

/// <summary>A card kept by the payment service for renewals; the newest of a member counts.</summary>
public sealed class Card
{
    public long Id { get; init; }
    public MemberId MemberId { get; init; }
    public string Token { get; init; } = "";
    public string Label { get; init; } = "";
    public Instant AddedAt { get; init; }
}

/// <summary>A personal way in that works once. The secret in the link is made from the number and never stored.</summary>
public sealed class SignInLink
{
    public long Id { get; init; }
    public long AccountId { get; init; }
    public Instant CreatedAt { get; init; }
    public Instant ExpiresAt { get; init; }
    public Instant? UsedAt { get; set; }
    public string ReturnPath { get; init; } = "/me";
}

public enum ClockMoveState { Running, Done, Failed }

/// <summary>One moving-forward of the house clock, with what happened on the way.</summary>
public sealed class ClockMove
{
    public long Id { get; init; }
    public Instant FromMoment { get; init; }
    public Instant ToMoment { get; init; }
    public Instant Reached { get; set; }
    public ClockMoveState State { get; set; }
    public Dictionary<string, long> Counts { get; set; } = [];
    public string? Error { get; set; }
}

/// <summary>How many members are in each standing: kept by a trigger, so that no page counts members.</summary>
public sealed class StandingCount
{
    public Core.Members.Standing Standing { get; init; }
    public int Members { get; init; }
}
