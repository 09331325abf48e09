using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

public enum AccessState : byte
{
    /// <summary>Doesn't exist for them: not released, and nothing they hold will open it.</summary>
    Hidden,
    /// <summary>Exists, and isn't theirs to open.</summary>
    Locked,
    /// <summary>Will open by itself at a known moment.</summary>
    OpensAt,
    Open,
}

/// <summary>The rule that decided. Those that open come first, then those that keep closed.</summary>
public enum AccessRule : byte
{
    Team,
    /// <summary>A lesson that everybody may open.</summary>
    Teaser,
    EverythingReleased, SinceJoining, CurrentWhenJoining, InPaidTime, KeptAfterLeaving,
    /// <summary>Something that goes on, a tally, open as long as what covers it is held.</summary>
    WhileHeld,
    ScheduledRelease,
    NotReleased, NothingHeld, NotCovered, BeforeJoining, OutsidePaidTime, HoldingOver,
}

/// <summary>An access decision with what it rests on. The words are made by <see cref="Why"/>, only when somebody asks.</summary>
/// <param name="Holding">The position of the deciding holding in the facts, −1 where none.</param>
/// <param name="Inclusion">The position of the deciding inclusion in that holding's promise, −1 where none.</param>
public readonly record struct AccessDecision(AccessState State, AccessRule Rule, Instant OpensAt = default, short Holding = -1, short Inclusion = -1)
{
    public bool IsOpen => State == AccessState.Open;
}

/// <summary>What one member holds, as known at a moment, made ready for many decisions.</summary>
public sealed class MemberFacts
{
    internal readonly record struct Span(Instant From, Instant To);

    internal sealed record Held(Holding Holding, PlanId Plan, Instant Start, Span[] Paid, bool Open, bool Over, bool KeepsNothing, Instant LastPaid);

    public static MemberFacts Nobody { get; } = new([], Instant.MinValue, false);
    /// <summary>The team sees everything.</summary>
    public static MemberFacts Team { get; } = new([], Instant.MinValue, true);

    MemberFacts(Held[] held, Instant asOf, bool isTeam) => (this.held, AsOf, IsTeam) = (held, asOf, isTeam);

    internal readonly Held[] held;
    public Instant AsOf { get; }
    public bool IsTeam { get; }
    public bool HoldsAnything => held.Any(h => h.Open);
    public IEnumerable<Holding> Holdings => held.Select(h => h.Holding);
    public Holding At(int position) => held[position].Holding;

    /// <param name="asOf">Facts that became known later are left out.</param>
    public static MemberFacts From(IEnumerable<Holding> holdings, Instant asOf)
    {
        var list = new List<Held>();
        foreach (var h in holdings)
        {
            var state = h.StateAt(asOf);
            if (state == HoldingState.NotYet) continue;
            var over = state == HoldingState.Over;
            var paid = h.Facts.Where(f => f.IsPaidTime && f.At <= asOf).OrderBy(f => f.From)
                .Select(f => new Span(f.From, f.To ?? Instant.MaxValue)).ToArray();
            var endedAt = h.Facts.FirstOrDefault(f => f.Kind == HoldingFactKind.Ended && f.At <= asOf)?.At ?? h.LeavingAt(asOf);
            var reason = h.Facts.FirstOrDefault(f => f.Kind == HoldingFactKind.Ended && f.At <= asOf)?.Reason;
            // A renewal that is just due counts as paid until a fact says otherwise; nobody is locked out by a slow worker.
            if (!over && state is HoldingState.Active or HoldingState.Trial && paid.Length > 0 && paid[^1].To <= asOf) paid[^1] = paid[^1] with { To = Instant.MaxValue };
            if (over && endedAt is { } end)
                paid = [.. paid.Where(p => p.From < end).Select(p => p.To > end ? p with { To = end } : p)];
            var lastPaid = paid.Length == 0 ? h.StartsAt : paid[^1].To;
            list.Add(new(h, h.PlanId, h.StartsAt, paid, !over, over, reason is EndReason.Refunded or EndReason.ChargedBack or EndReason.EndedByTeam, lastPaid));
        }
        return new([.. list], asOf, false);
    }
}

/// <summary>
/// The catalogue made ready for access decisions: what exists and when it was released, the plans and their promises.
/// A decision is a pure function of the book, the member's facts and the moment.
/// </summary>
public sealed class AccessBook
{
    readonly record struct Thing(long Piece, long Shelf, bool Released, bool Planned, Instant At, Instant CurrentFrom, Instant CurrentUntil, bool Teaser = false, long Module = -1, long Lesson = -1);
    enum Covers : byte { Everything, Shelf, Piece, Module, Lesson, Tally }
    enum Reaches : byte { Everything, Joining, Paid }
    readonly record struct Rule(Covers Covers, long Id, Reaches Reach, bool Keeps);

    readonly Dictionary<PieceId, int> positions;
    readonly Thing[] things;
    readonly Dictionary<LessonId, int> lessonPositions;
    readonly Thing[] lessonThings;
    // The lessons of a piece stand together.
    readonly (int From, int Count)[] lessonsOf;
    readonly Dictionary<PlanId, Rule[]> rules;
    readonly Dictionary<PlanId, Plan> plans;

    public AccessBook(IEnumerable<Plan> plans, IEnumerable<Piece> pieces, IEnumerable<Edition> editions)
    {
        this.plans = plans.ToDictionary(p => p.Id);
        rules = this.plans.ToDictionary(p => p.Key, p => p.Value.Promise.Select(Compile).ToArray());

        var released = editions.Where(e => e.ReleasedAt is not null || e.Scheduled).OrderBy(e => e.ReleasedAt ?? e.ReleaseAt).ToArray();
        var current = new Dictionary<EditionId, (Edition Edition, Instant Until)>();
        for (var i = 0; i < released.Length; i++)
            current[released[i].Id] = (released[i], i + 1 < released.Length ? released[i + 1].ReleasedAt ?? released[i + 1].ReleaseAt : Instant.MaxValue);

        var list = pieces as IReadOnlyCollection<Piece> ?? [.. pieces];
        things = new Thing[list.Count];
        positions = new(list.Count);
        foreach (var p in list)
        {
            var edition = p.EditionId is { } e && current.TryGetValue(e, out var found) ? found : default;
            var planned = p.ReleasedAt is null && p.Ready && edition.Edition is { };
            var at = p.ReleasedAt ?? (planned ? edition.Edition!.ReleasedAt ?? edition.Edition.ReleaseAt : Instant.MaxValue);
            var from = edition.Edition is null ? at : Instant.Max(at, edition.Edition.ReleasedAt ?? edition.Edition.ReleaseAt);
            things[positions.Count] = new(p.Id.Value, p.ShelfId.Value, p.ReleasedAt is not null, planned, at, from, edition.Edition is null ? from : edition.Until);
            positions[p.Id] = positions.Count;
        }

        var lessonCount = list.Sum(p => p.Outline.Lessons.Count);
        lessonThings = new Thing[lessonCount];
        lessonPositions = new(lessonCount);
        lessonsOf = new (int, int)[things.Length];
        foreach (var p in list)
        {
            lessonsOf[positions[p.Id]] = (lessonPositions.Count, p.Outline.Lessons.Count);
            ref readonly var whole = ref things[positions[p.Id]];
            foreach (var l in p.Outline.Lessons)
            {
                lessonThings[lessonPositions.Count] = LessonThing(p, l, whole, current);
                lessonPositions[l.Id] = lessonPositions.Count;
            }
        }
    }

    /// <summary>A lesson is out when it and its piece are; it belongs to its own edition where it has one, else to its piece's.</summary>
    static Thing LessonThing(Piece piece, Lesson lesson, in Thing whole, Dictionary<EditionId, (Edition Edition, Instant Until)> current)
    {
        var own = lesson.EditionId is { } e && e != piece.EditionId && current.TryGetValue(e, out var found) ? found : default;
        var ownAt = own.Edition is null ? Instant.MinValue : own.Edition.ReleasedAt ?? own.Edition.ReleaseAt;
        var released = whole.Released && lesson.ReleasedAt is not null;
        // Where it waits for an edition of its own that isn't planned, it isn't planned either.
        var waits = lesson.EditionId is { } w && w != piece.EditionId && own.Edition is null;
        var planned = !released && lesson.Ready && !waits && (whole.Planned || whole.Released && own.Edition is not null);
        var at = released ? Instant.Max(lesson.ReleasedAt!.Value, whole.At) : planned ? Instant.Max(whole.At, ownAt) : Instant.MaxValue;
        var (from, until) = own.Edition is null ? (Instant.Max(at, whole.CurrentFrom), whole.CurrentUntil) : (Instant.Max(at, ownAt), own.Until);
        return new(whole.Piece, whole.Shelf, released, planned, at, from, until, lesson.Teaser, lesson.ModuleId?.Value ?? -1, lesson.Id.Value);
    }

    static Rule Compile(Inclusion i)
    {
        var (covers, id) = i.Covers switch
        {
            Coverage.Everything => (Covers.Everything, 0L),
            Coverage.OnShelf s => (Covers.Shelf, s.Shelf.Value),
            Coverage.OnePiece p => (Covers.Piece, p.Piece.Value),
            Coverage.OneModule m => (Covers.Module, m.Module.Value),
            Coverage.OneLesson l => (Covers.Lesson, l.Lesson.Value),
            Coverage.OneTally t => (Covers.Tally, t.Tally.Value),
            _ => throw new InvalidOperationException($"No such coverage: {i.Covers}"),
        };
        var reach = i.Reach switch
        {
            Reach.EverythingReleased => Reaches.Everything,
            Reach.FromJoining => Reaches.Joining,
            Reach.WhilePaid => Reaches.Paid,
            _ => throw new InvalidOperationException($"No such reach: {i.Reach}"),
        };
        return new(covers, id, reach, i.Keep switch
        {
            Keep.Nothing => false,
            Keep.WhatHadOpened => true,
            _ => throw new InvalidOperationException($"No such keep: {i.Keep}"),
        });
    }

    public IReadOnlyCollection<Plan> Plans => plans.Values;
    public Plan Plan(PlanId id) => plans[id];
    public int RankOf(PlanId id) => plans.TryGetValue(id, out var p) ? p.Rank : 0;

    /// <summary>
    /// Whether a member may open a piece at a moment. The most generous of all holdings and inclusions decides.
    /// Facts known later than <see cref="MemberFacts.AsOf"/> are not in it; a moment after that assumes things go on as they stand.
    /// </summary>
    /// <exception cref="KeyNotFoundException">The book doesn't know the piece.</exception>
    public AccessDecision Decide(MemberFacts facts, PieceId piece, Instant moment)
    {
        return Decide(facts, things[positions[piece]], moment);
    }

    /// <summary>Whether a member may open a lesson at a moment: as for its piece, by the lesson's own release; a teaser is open to everybody.</summary>
    /// <exception cref="KeyNotFoundException">The book doesn't know the lesson.</exception>
    public AccessDecision Decide(MemberFacts facts, LessonId lesson, Instant moment) => Decide(facts, lessonThings[lessonPositions[lesson]], moment);

    /// <summary>Whether a member may mark a tally: as long as they hold something that covers it, or everything.</summary>
    public AccessDecision Decide(MemberFacts facts, TallyId tally)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);
        var best = new AccessDecision(AccessState.Locked, facts.held.Length == 0 ? AccessRule.NothingHeld : AccessRule.NotCovered);
        for (short h = 0; h < facts.held.Length; h++)
        {
            if (!rules.TryGetValue(facts.held[h].Plan, out var promise)) continue;
            for (short i = 0; i < promise.Length; i++)
            {
                if (promise[i].Covers != Covers.Everything && (promise[i].Covers != Covers.Tally || promise[i].Id != tally.Value)) continue;
                if (facts.held[h].Open) return new(AccessState.Open, AccessRule.WhileHeld, default, h, i);
                best = new(AccessState.Locked, AccessRule.HoldingOver, default, h, i);
            }
        }
        return best;
    }

    AccessDecision Decide(MemberFacts facts, in Thing thing, Instant moment)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);

        var out_ = thing.At <= moment && (thing.Released || thing.Planned);
        if (out_ && thing.Teaser) return new(AccessState.Open, AccessRule.Teaser);
        var best = new AccessDecision(AccessState.Locked, facts.held.Length == 0 ? AccessRule.NothingHeld : AccessRule.NotCovered);
        for (short h = 0; h < facts.held.Length; h++)
        {
            var held = facts.held[h];
            if (!rules.TryGetValue(held.Plan, out var promise)) continue;
            for (short i = 0; i < promise.Length; i++)
            {
                ref readonly var rule = ref promise[i];
                if (!Covered(rule, thing)) continue;
                if (!out_)
                {
                    if (held.Open && thing.Planned) return new(AccessState.OpensAt, AccessRule.ScheduledRelease, thing.At, h, i);
                    continue;
                }
                var reached = Reached(rule, held, thing);
                if (held.Open && reached <= AccessRule.KeptAfterLeaving) return new(AccessState.Open, reached, default, h, i);
                if (held.Over && rule.Keeps && !held.KeepsNothing && reached <= AccessRule.KeptAfterLeaving && thing.At < held.LastPaid)
                    return new(AccessState.Open, AccessRule.KeptAfterLeaving, default, h, i);
                var refusal = held.Over ? AccessRule.HoldingOver : reached;
                if (refusal > best.Rule) best = new(AccessState.Locked, refusal, default, h, i);
            }
        }
        return out_ ? best : new(AccessState.Hidden, AccessRule.NotReleased);
    }

    static bool Any(ReadOnlySpan<Thing> lessons, in Rule rule)
    {
        foreach (ref readonly var l in lessons) if (Covered(rule, l)) return true;
        return false;
    }

    static bool Covered(in Rule rule, in Thing thing) => rule.Covers switch
    {
        Covers.Everything => true,
        Covers.Shelf => rule.Id == thing.Shelf,
        Covers.Piece => rule.Id == thing.Piece,
        Covers.Module => rule.Id == thing.Module,
        Covers.Lesson => rule.Id == thing.Lesson,
        _ => false,
    };

    /// <summary>The rule by which an inclusion reaches a released thing, or the one by which it doesn't.</summary>
    static AccessRule Reached(in Rule rule, MemberFacts.Held held, in Thing thing)
    {
        switch (rule.Reach)
        {
            case Reaches.Everything:
                return AccessRule.EverythingReleased;
            case Reaches.Joining:
                if (thing.At >= held.Start) return AccessRule.SinceJoining;
                return thing.CurrentFrom <= held.Start && held.Start < thing.CurrentUntil ? AccessRule.CurrentWhenJoining : AccessRule.BeforeJoining;
            default:
                foreach (var p in held.Paid)
                    if (thing.CurrentFrom < p.To && p.From < thing.CurrentUntil || thing.At >= p.From && thing.At < p.To) return AccessRule.InPaidTime;
                return AccessRule.OutsidePaidTime;
        }
    }

    /// <summary>The moment a piece was or will be released; null where nothing is planned.</summary>
    public Instant? ReleaseOf(PieceId piece) => things[positions[piece]] is { At: var at } t && (t.Released || t.Planned) ? at : null;

    /// <summary>The same of a lesson.</summary>
    public Instant? ReleaseOf(LessonId lesson) => lessonThings[lessonPositions[lesson]] is { At: var at } t && (t.Released || t.Planned) ? at : null;

    public bool Knows(PieceId piece) => positions.ContainsKey(piece);

    /// <summary>The plans that would open the piece to somebody who joined at the moment, the lowest rank first.</summary>
    public IReadOnlyList<Plan> PlansThatOpen(PieceId piece, Instant moment) => PlansThatOpen(things[positions[piece]], moment);

    /// <summary>The same for a lesson: also the plans that cover no more of its piece than its module or the lesson itself.</summary>
    public IReadOnlyList<Plan> PlansThatOpen(LessonId lesson, Instant moment) => PlansThatOpen(lessonThings[lessonPositions[lesson]], moment);

    IReadOnlyList<Plan> PlansThatOpen(in Thing asked, Instant moment)
    {
        var thing = asked;
        if (thing.At > moment) return [];
        var now = new MemberFacts.Span(moment, Instant.MaxValue);
        return [.. plans.Values.Where(plan => rules[plan.Id].Any(r => Covered(r, thing)
            && Reached(r, new(null!, plan.Id, now.From, [now], true, false, false, now.To), thing) <= AccessRule.KeptAfterLeaving)).OrderBy(p => p.Rank)];
    }

    /// <summary>The plans whose promise covers any of the pieces or something in them, whatever its reach.</summary>
    public IReadOnlyList<Plan> PlansThatCover(IEnumerable<PieceId> pieces)
    {
        var at = pieces.Where(positions.ContainsKey).Select(p => positions[p]).ToArray();
        bool CoversSome(Rule rule, int piece) => rule.Covers is Covers.Module or Covers.Lesson
            ? lessonThings.AsSpan(lessonsOf[piece].From, lessonsOf[piece].Count) is var lessons && Any(lessons, rule)
            : Covered(rule, things[piece]);
        return [.. plans.Values.Where(plan => rules[plan.Id].Any(r => at.Any(p => CoversSome(r, p)))).OrderBy(p => p.Rank)];
    }
}
