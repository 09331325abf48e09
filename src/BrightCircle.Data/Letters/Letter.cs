using BrightCircle.Core;
using NodaTime;

namespace BrightCircle.Data;

public enum LetterKind
{
    Welcome, SignIn, Receipt, Edition, PaymentFailed, Ending, Lapsed, Refund, Place, Answered, Marked, Confirm, HasAccount, Seat,
    Covered, Changed, Paused, Closed, PriceTold,
    Credited, OrderPlaced, PaymentWanted, OrderReminder, OrderOver, Voucher, VoucherFor, CardRunsOut, OwnerNews,
    /// <summary>A copy of a letter to many.</summary>
    Many,
    TeamInvite,
    /// <summary>To somebody who went away while joining.</summary>
    HalfWay,
    /// <summary>About a live session somebody comes to: a reminder, or what has changed.</summary>
    Session,
    /// <summary>What was said in spaces.</summary>
    Talk,
    /// <summary>About what somebody wrote in a space: it was taken away, or they can’t write for a time.</summary>
    TalkWord,
    /// <summary>The team has written to a member.</summary>
    Message,
    /// <summary>A challenge begins, or is over.</summary>
    Challenge,
    /// <summary>Another member has written to them.</summary>
    Words,
}

public enum LetterState
{
    Queued,
    Sent,
    Refused,
    /// <summary>A device showed what it says, and whoever it was for wanted that instead.</summary>
    Shown,
}

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
    /// <summary>The letter to many it is a copy of; null for every other.</summary>
    public long? MailingId { get; init; }
    /// <summary>The plan it is about; null where it is about none.</summary>
    public PlanId? PlanId { get; init; }
    /// <summary>The owner's version it was made from when it went out; null where it went out in the house's own words.</summary>
    public long? TextId { get; set; }
    public string Key { get; init; } = "";
    public Instant CreatedAt { get; init; }
    public LetterState State { get; set; }
    public string? Subject { get; set; }
    public Instant? SentAt { get; set; }
    /// <summary>When it was given to devices that show it instead.</summary>
    public Instant? ShownAt { get; set; }
    public int Tries { get; set; }
    public Instant? NotBefore { get; set; }
    public string? LastError { get; set; }
    /// <summary>For a refused letter: somebody of the team has dealt with it.</summary>
    public Instant? SetAsideAt { get; set; }
    public string? SetAsideBy { get; set; }
}
