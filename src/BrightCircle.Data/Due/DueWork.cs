using NodaTime;

namespace BrightCircle.Data;

public enum DueKind
{
    Renew, Release, EndHolding, LapseHolding, Refund, Chargeback, ReleasePiece, Announce, Purge, Reindex, MovePromise, BeginHolding,
    PeopleBatch, EndSeats, EndPause, Settle, MovePrice,
    /// <summary>A placed order: reminded of, or given up.</summary>
    ChaseOrder,
    /// <summary>A transfer is asked for before it is due.</summary>
    AskTransfer,
    SendVoucher,
    DisputeDecided,
    /// <summary>A letter to the owner about one thing with money.</summary>
    OwnerNews,
    /// <summary>A letter to the owner about a day.</summary>
    OwnerMorning,
    /// <summary>A card on file runs out.</summary>
    CardExpiring,
    /// <summary>The choice of somebody who went away half-way is forgotten.</summary>
    ForgetOrders,
    /// <summary>The next copies of a letter to many are written.</summary>
    Mailing,
    /// <summary>Something happened to a member that a routine waits for.</summary>
    RoutineHears,
    /// <summary>A member's way through a routine goes on.</summary>
    RoutineStep,
    /// <summary>The morning on which routines are begun that rest on a day.</summary>
    RoutineDay,
    /// <summary>Some members begin a routine by no event of theirs.</summary>
    RoutineBegin,
    /// <summary>An edition has come out, and routines begin for those for whom it opens something.</summary>
    RoutineEdition,
    /// <summary>The payment service is told to forget the card of somebody who was deleted.</summary>
    ForgetCard,
    /// <summary>Whoever went away while joining is written to, if they said so.</summary>
    RemindHalfWay,
    /// <summary>The members of each tier when a month began are counted.</summary>
    CountMonth,
    /// <summary>A live session is near, and whoever comes is reminded.</summary>
    SessionNear,
    /// <summary>An hour at which some are told of the day’s talk.</summary>
    TalkHour,
    /// <summary>Whoever wants to hear of what is said in a space at once is told.</summary>
    TalkAtOnce,
    /// <summary>What somebody took away of their own words is forgotten.</summary>
    ForgetWords,
    /// <summary>A picture that came to stand nowhere is forgotten.</summary>
    ForgetPicture,
    /// <summary>An hour with the host is near, and whoever has it is reminded.</summary>
    HourNear,
    /// <summary>A challenge begins or is over, and whoever takes part is told.</summary>
    ChallengeTurn,
    /// <summary>Another member has written to somebody who hasn’t seen it here.</summary>
    WordsWritten,
    /// <summary>An edition has come out, and the spaces that are made for editions open.</summary>
    SpaceOfEdition
}

/// <summary>Something that falls due. The row goes when it is done; what was done is in the journal, the ledger and the facts.</summary>
public sealed class DueWork
{
    public long Id { get; init; }
    public DueKind Kind { get; init; }
    /// <summary>The holding, edition, payment or order it is about; of what is about nothing here, a number of its own.</summary>
    public long SubjectId { get; init; }
    /// <summary>For a renewal: which turn was to be charged when it was put in, for the outlook; what is owed is worked out when it is done.</summary>
    public int Turn { get; init; }
    public int Attempt { get; init; }
    /// <summary>For a renewal: what will be asked, in minor units, as it was known when the row was put in; for the outlook.</summary>
    public long? AmountMinor { get; init; }
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
