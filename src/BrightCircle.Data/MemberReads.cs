using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>Who is signed in, and all that access decisions about them rest on: read in one round trip.</summary>
/// <param name="Confirmed">The address was proved by a link sent to it.</param>
/// <param name="Places">The pieces with only so many places in which they have one.</param>
/// <param name="Cohorts">Those they were put into.</param>
/// <param name="Done">The lessons they have done, where any decision asks for it.</param>
public sealed record SignedIn(long AccountId, string Name, string Email, TeamRole? Role, string SecurityStamp, bool HasPassword, Standing Standing,
    Instant? JoinedAt, bool WantsNews,
    string? ZoneId, bool Confirmed, int FeedsVersion, IReadOnlyList<Holding> Holdings, IReadOnlySet<PieceId> Places,
    IReadOnlySet<CohortId> Cohorts, IReadOnlyDictionary<LessonId, Instant> Done)
{
    public bool IsTeam => Role is not null;
    /// <summary>What decisions about them rest on, as known at a moment.</summary>
    public MemberFacts FactsAt(Instant at) => MemberFacts.From(Holdings, at, Places, Done, Cohorts);
    public MemberId MemberId => new(AccountId);
    /// <summary>Them before a price; the team buys nothing.</summary>
    public Buyer Buyer => new(Name, Email, Standing, JoinedAt, Holdings);
}

/// <summary>Which first steps a member did, and which they put away.</summary>
public sealed record FirstStepsState(IReadOnlySet<FirstStep> Done, IReadOnlySet<FirstStep> PutAway)
{
    public static FirstStepsState None { get; } = new(new HashSet<FirstStep>(), new HashSet<FirstStep>());
}

public sealed record OpeningState(LessonId Lesson, Instant FirstAt, Instant LastAt, Instant? DoneAt);

/// <summary>What a member did with one block.</summary>
public sealed record PlayedState(int Position, double Share, int Times);

/// <summary>A practice sheet's tries of one member, the last of them whole.</summary>
public sealed record TriesState(int Count, long LastId, Instant LastAt, bool? Passed, bool EverPassed, Dictionary<string, Answer> Answers, SheetResult Result);

/// <summary>A file as far as a page that shows it needs it.</summary>
public sealed record FileState(FileId Id, string Address, string Name, string MediaType, FileKind Kind, long Bytes, int? Width, int? Height, string Alt,
    Dictionary<string, string> Sizes);

/// <summary>A question under a lesson, with its answers.</summary>
public sealed record QuestionState(long Id, long? Answers, long Account, string Name, bool ByTeam, string Text, Instant At);

/// <summary>A lesson as one member reads it: its blocks, the files they use, and all the member did here.</summary>
public sealed record LessonReading(IReadOnlyList<Block> Blocks, IReadOnlyDictionary<FileId, FileState> Files,
    IReadOnlyDictionary<LessonId, OpeningState> Openings,
    IReadOnlyDictionary<BlockId, PlayedState> Played, IReadOnlyDictionary<BlockId, TriesState> Tries, IReadOnlyDictionary<BlockId,
        Dictionary<string, Answer>> Drafts,
    IReadOnlyDictionary<BlockId, Dictionary<string, string>> Forms, TallyCounts Tallies, string Note, bool Bookmarked, IReadOnlyList<QuestionState> Questions)
{
    /// <summary>Only what stands in it, whoever reads.</summary>
    public static LessonReading Plain(IReadOnlyList<Block> blocks, IReadOnlyDictionary<FileId, FileState> files) =>
        new(blocks, files, new Dictionary<LessonId, OpeningState>(), new Dictionary<BlockId, PlayedState>(), new Dictionary<BlockId, TriesState>(),
            new Dictionary<BlockId, Dictionary<string, Answer>>(), new Dictionary<BlockId, Dictionary<string, string>>(), TallyCounts.None, "", false, []);
    public Instant? DoneAt(LessonId lesson) => Openings.GetValueOrDefault(lesson)?.DoneAt;
}

/// <summary>How often a member marked each tally in each week.</summary>
public sealed class TallyCounts
{
    readonly Dictionary<TallyId, Dictionary<IsoWeek, int>> counts = [];
    public static TallyCounts None { get; } = new();
    public IEnumerable<TallyId> Tallies => counts.Keys;
    public IReadOnlyDictionary<IsoWeek, int> Of(TallyId tally) => counts.TryGetValue(tally, out var weeks) ? weeks : [];
    internal void Add(TallyId tally, IsoWeek week, int n) => (counts.TryGetValue(tally, out var weeks) ? weeks : counts[tally] = [])[week] = n;
}

/// <summary>Who takes part in a piece with places.</summary>
public sealed record PlaceState(int Taken, int Waiting, bool HasPlace, bool Waits);

/// <summary>A member who holds or held something.</summary>
public sealed record Holder(MemberId Id, string Name, string Email, bool WantsNews, Standing Standing, IReadOnlyList<Holding> Holdings,
    IReadOnlySet<PieceId> Places, IReadOnlySet<CohortId> Cohorts, IReadOnlyDictionary<LessonId, Instant> Done)
{
    /// <summary>What decisions about them rest on, as known at a moment.</summary>
    public MemberFacts FactsAt(Instant at) => MemberFacts.From(Holdings, at, Places, Done, Cohorts);
}
