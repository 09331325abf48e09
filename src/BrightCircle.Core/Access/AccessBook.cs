using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>
/// The catalogue made ready for access decisions: what exists and when it was released, the plans and their promises.
/// A decision is a pure function of the book, the member's facts and the moment.
/// </summary>
public sealed class AccessBook
{
    /// <summary>One thing as decisions see it.</summary>
    /// <param name="Out">It is released, or planned for a moment.</param>
    /// <param name="At">When it came or comes out.</param>
    /// <param name="CurrentFrom">From when its edition is current, in its own span.</param>
    /// <param name="CurrentUntil">Until when.</param>
    /// <param name="Standing">Released outside any edition, for whoever joins later too.</param>
    /// <param name="Place">The piece whose places it needs; −1 where none.</param>
    readonly record struct Entry(long Piece, long Shelf, bool Out, Instant At, Instant CurrentFrom, Instant CurrentUntil, bool Standing,
        bool Teaser = false, long Module = -1, long Lesson = -1, long Place = -1);

    enum Covers : byte { Everything, Shelf, Piece, Module, Lesson, Tally }
    enum Reaches : byte { Everything, Joining, Paid }
    readonly record struct Rule(Covers Covers, long Id, Reaches Reach, bool Keeps);

    readonly Dictionary<Thing, int> positions;
    readonly Entry[] entries;
    // The entries of a piece's lessons stand together.
    readonly Dictionary<PieceId, (int From, int Count)> lessonsOf;
    readonly Dictionary<PlanId, Rule[]> rules;
    readonly Dictionary<PlanId, Plan> plans;
    readonly HashSet<long> tallies = [];

    /// <param name="tallies">The tallies that can be marked; a promise of everything covers them too.</param>
    public AccessBook(IEnumerable<Plan> plans, IEnumerable<Piece> pieces, IEnumerable<Edition> editions, IEnumerable<TallyId>? tallies = null)
    {
        this.plans = plans.ToDictionary(p => p.Id);
        rules = this.plans.ToDictionary(p => p.Key, p => p.Value.Promise.Select(Compile).ToArray());
        foreach (var t in tallies ?? []) this.tallies.Add(t.Value);
        var current = CurrentSpans(editions);
        var list = pieces as IReadOnlyCollection<Piece> ?? [.. pieces];
        var made = new List<Entry>(list.Sum(p => 1 + p.Outline.Parts.Count + p.Outline.Lessons.Count));
        positions = new(made.Capacity);
        lessonsOf = new(list.Count);
        void Add(Thing thing, in Entry entry)
        {
            positions[thing] = made.Count;
            made.Add(entry);
        }
        foreach (var p in list)
        {
            var whole = OfPiece(p, current);
            Add(p.Id, whole);
            lessonsOf[p.Id] = (made.Count, p.Outline.Lessons.Count);
            foreach (var l in p.Outline.Lessons) Add(l.Id, OfLesson(p, l, whole, current));
            foreach (var part in p.Outline.Parts)
                if (part.Module is { } m) Add(m.Id, OfModule(m, whole, made, positions, part.Lessons));
        }
        entries = [.. made];
    }

    readonly record struct Current(Edition Edition, Instant From, Instant Until);

    /// <summary>Each edition is current until the next of its own span: a day's or a week's never ends a month's.</summary>
    static Dictionary<EditionId, Current> CurrentSpans(IEnumerable<Edition> editions)
    {
        static Instant Opens(Edition e) => e.ReleasedAt ?? e.ReleaseAt;
        var map = new Dictionary<EditionId, Current>();
        foreach (var span in editions.Where(e => e.ReleasedAt is not null || e.Scheduled).GroupBy(e => e.Span))
        {
            var ordered = span.OrderBy(Opens).ThenBy(e => e.FirstDay).ToArray();
            for (var i = 0; i < ordered.Length; i++)
                map[ordered[i].Id] = new(ordered[i], Opens(ordered[i]), i + 1 < ordered.Length ? Opens(ordered[i + 1]) : Instant.MaxValue);
        }
        return map;
    }

    static Entry OfPiece(Piece p, Dictionary<EditionId, Current> current)
    {
        var place = p.Places is null ? -1 : p.Id.Value;
        if (p.EditionId is { } id && current.TryGetValue(id, out var edition))
        {
            var planned = p.ReleasedAt is null && p.Ready;
            var at = p.ReleasedAt ?? (planned ? edition.From : Instant.MaxValue);
            return new(p.Id.Value, p.ShelfId.Value, p.ReleasedAt is not null || planned, at, Instant.Max(at, edition.From), edition.Until, false, Place: place);
        }
        var released = p.ReleasedAt ?? (p.Ready ? p.OpensAt : null) ?? Instant.MaxValue;
        var standing = p.EditionId is null && !p.Dated;
        return new(p.Id.Value, p.ShelfId.Value, released < Instant.MaxValue, released, released, standing ? Instant.MaxValue : released, standing,
            Place: place);
    }

    /// <summary>A lesson is out when it and its piece are; it belongs to its own edition where it has one, else to its piece's.</summary>
    static Entry OfLesson(Piece piece, Lesson lesson, in Entry whole, Dictionary<EditionId, Current> current)
    {
        var hasOwn = lesson.EditionId is { } id && id != piece.EditionId;
        Current? own = hasOwn && current.TryGetValue(lesson.EditionId!.Value, out var found) ? found : null;
        var pieceIsReleased = piece.ReleasedAt is not null;
        var released = pieceIsReleased && lesson.ReleasedAt is not null;
        // Where it waits for an edition of its own that isn't planned, it isn't planned either.
        var waits = hasOwn && own is null;
        var planned = !released && lesson.Ready && !waits && whole.Out && (!pieceIsReleased || own is not null);
        var at = released ? Instant.Max(lesson.ReleasedAt!.Value, whole.At)
            : planned ? Instant.Max(whole.At, own?.From ?? Instant.MinValue) : Instant.MaxValue;
        var (from, until) = own is { } o ? (Instant.Max(at, o.From), o.Until) : (Instant.Max(at, whole.CurrentFrom), whole.CurrentUntil);
        return new(whole.Piece, whole.Shelf, released || planned, at, from, until, whole.Standing && own is null,
            lesson.Teaser, lesson.ModuleId?.Value ?? -1, lesson.Id.Value, lesson.Teaser ? -1 : whole.Place);
    }

    /// <summary>A module is out with the first of its lessons.</summary>
    static Entry OfModule(Module module, in Entry whole, List<Entry> made, Dictionary<Thing, int> positions, IReadOnlyList<Lesson> lessons)
    {
        Entry? first = null;
        foreach (var l in lessons)
            if (made[positions[l.Id]] is { Out: true } e && (first is null || e.At < first.Value.At)) first = e;
        return (first ?? whole with { Out = false, At = Instant.MaxValue }) with { Teaser = false, Module = module.Id.Value, Lesson = -1, Place = whole.Place };
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
    public bool Knows(Thing thing) => thing.Kind == ThingKind.Tally ? tallies.Contains(thing.Id) : positions.ContainsKey(thing);

    /// <summary>
    /// Whether a member may open a thing at a moment. The most generous of all holdings and inclusions decides; where none opens it yet, the one that opens it
    /// first.
    /// Facts known later than <see cref="MemberFacts.AsOf"/> are not in it; a moment after that assumes things go on as they stand.
    /// </summary>
    /// <exception cref="KeyNotFoundException">The book doesn't know the thing.</exception>
    public AccessDecision Decide(MemberFacts facts, Thing thing, Instant moment) =>
        thing.Kind == ThingKind.Tally ? DecideTally(facts, thing.Id, moment) : Decide(facts, entries[positions[thing]], moment);

    /// <summary>A tally may be marked as long as something that covers it, or everything, is held.</summary>
    AccessDecision DecideTally(MemberFacts facts, long tally, Instant moment)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);
        var best = Refused(facts);
        for (short h = 0; h < facts.held.Length; h++)
        {
            if (!rules.TryGetValue(facts.held[h].Plan, out var promise)) continue;
            for (short i = 0; i < promise.Length; i++)
            {
                if (promise[i].Covers != Covers.Everything && (promise[i].Covers != Covers.Tally || promise[i].Id != tally)) continue;
                if (moment < facts.held[h].Until) return new(AccessState.Open, AccessRule.WhileHeld, default, h, i);
                best = new(AccessState.Locked, AccessRule.HoldingOver, default, h, i);
            }
        }
        return best;
    }

    static AccessDecision Refused(MemberFacts facts, Instant comesOut = default) =>
        new(AccessState.Locked, facts.held.Length == 0 ? AccessRule.NothingHeld : AccessRule.NotCovered, comesOut);

    AccessDecision Decide(MemberFacts facts, in Entry thing, Instant moment)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);
        if (!thing.Out) return new(AccessState.Hidden, AccessRule.NotReleased);
        var isOut = thing.At <= moment;
        if (isOut && thing.Teaser) return new(AccessState.Open, AccessRule.Teaser);
        var comesOut = isOut ? default : thing.At;
        var best = Refused(facts, comesOut);
        var when = isOut ? moment : thing.At;
        for (short h = 0; h < facts.held.Length; h++)
        {
            var held = facts.held[h];
            if (!rules.TryGetValue(held.Plan, out var promise)) continue;
            for (short i = 0; i < promise.Length; i++)
            {
                ref readonly var rule = ref promise[i];
                if (!Covered(rule, thing)) continue;
                var by = By(rule, held, thing, when, isOut);
                if (by.Opens())
                {
                    if (!isOut) return new(AccessState.OpensAt, AccessRule.ScheduledRelease, thing.At, h, i);
                    if (thing.Place < 0 || facts.Places.Contains(new(thing.Place))) return new(AccessState.Open, by, default, h, i);
                    by = AccessRule.NoPlace;
                }
                if (by.Nearness() > best.Rule.Nearness()) best = new(AccessState.Locked, by, comesOut, h, i);
            }
        }
        return best;
    }

    /// <summary>The rule by which an inclusion of a holding opens a thing at a moment at which it is out, or the one by which it doesn't.</summary>
    static AccessRule By(in Rule rule, MemberFacts.Held held, in Entry thing, Instant when, bool isOut)
    {
        if (when < held.Until) return Reached(rule, held, thing);
        if (!isOut) return AccessRule.EndsBefore;
        var kept = rule.Keeps && !held.KeepsNothing && thing.At < held.LastPaid && Reached(rule, held, thing).Opens();
        return kept ? AccessRule.KeptAfterLeaving : AccessRule.HoldingOver;
    }

    static bool Covered(in Rule rule, in Entry thing) => rule.Covers switch
    {
        Covers.Everything => true,
        Covers.Shelf => rule.Id == thing.Shelf,
        Covers.Piece => rule.Id == thing.Piece,
        Covers.Module => rule.Id == thing.Module,
        Covers.Lesson => rule.Id == thing.Lesson,
        Covers.Tally => false,
    };

    /// <summary>The rule by which an inclusion reaches a thing that is out, or the one by which it doesn't.</summary>
    static AccessRule Reached(in Rule rule, MemberFacts.Held held, in Entry thing)
    {
        switch (rule.Reach)
        {
            case Reaches.Everything:
                return AccessRule.EverythingReleased;
            case Reaches.Joining:
                if (thing.At >= held.Start) return AccessRule.SinceJoining;
                if (thing.Standing) return AccessRule.StandingContent;
                return thing.CurrentFrom <= held.Start && held.Start < thing.CurrentUntil ? AccessRule.CurrentWhenJoining : AccessRule.BeforeJoining;
            case Reaches.Paid:
                foreach (var p in held.Paid)
                    if (thing.CurrentFrom < p.To && p.From < thing.CurrentUntil || thing.At >= p.From && thing.At < p.To) return AccessRule.InPaidTime;
                return AccessRule.OutsidePaidTime;
            default:
                throw new InvalidOperationException("No such reach.");
        }
    }

    /// <summary>The moment a thing was or will be released; null where nothing is planned.</summary>
    public Instant? ReleaseOf(Thing thing) => entries[positions[thing]] is { Out: true } e ? e.At : null;

    /// <summary>Whether any part of a piece that isn't just a teaser is open: the piece itself, or one of its lessons.</summary>
    public bool OpensPartOf(MemberFacts facts, PieceId piece, Instant moment)
    {
        if (Decide(facts, piece, moment).IsOpen) return true;
        var (from, count) = lessonsOf[piece];
        for (var i = from; i < from + count; i++)
            if (Decide(facts, entries[i], moment) is { IsOpen: true, Rule: not AccessRule.Teaser }) return true;
        return false;
    }

    /// <summary>The plans that would open the thing to somebody who joined at the moment and got a place, by rank. For what is to come: when it
    /// comes.</summary>
    public IReadOnlyList<Plan> PlansThatOpen(Thing thing, Instant moment)
    {
        if (thing.Kind == ThingKind.Tally)
            return [.. plans.Values.Where(p => rules[p.Id].Any(r => r.Covers == Covers.Everything || r.Covers == Covers.Tally && r.Id == thing.Id))
                .OrderBy(p => p.Rank)];
        var entry = entries[positions[thing]];
        if (!entry.Out) return [];
        return [.. plans.Values.Where(plan => Opens(plan.Id, entry, moment)).OrderBy(p => p.Rank).ThenBy(p => p.Id.Value)];
    }

    bool Opens(PlanId plan, in Entry entry, Instant joined)
    {
        var held = MemberFacts.Joining(plan, joined);
        foreach (ref readonly var rule in rules[plan].AsSpan())
            if (Covered(rule, entry) && Reached(rule, held, entry).Opens()) return true;
        return false;
    }

    /// <summary>Whether all that a plan would ever open to somebody who joined it at the moment is open to them already; false where it would open
    /// nothing.</summary>
    public bool AddsNothing(MemberFacts facts, PlanId plan, Instant moment)
    {
        var some = false;
        foreach (ref readonly var entry in entries.AsSpan())
        {
            if (!Opens(plan, ToCome(entry, moment), moment)) continue;
            if (!Decide(facts, entry, moment).IsOpen) return false;
            some = true;
        }
        return some;
    }

    /// <summary>Whether whoever holds a plan at a moment and goes on gets anything of a piece once it is out: the piece, or lessons of it.</summary>
    public bool GivesPartOf(PlanId plan, PieceId piece, Instant moment)
    {
        if (Opens(plan, ToCome(entries[positions[piece]], moment), moment)) return true;
        var (from, count) = lessonsOf[piece];
        for (var i = from; i < from + count; i++)
            if (Opens(plan, ToCome(entries[i], moment), moment)) return true;
        return false;
    }

    /// <summary>The same for one lesson.</summary>
    public bool Gives(PlanId plan, LessonId lesson, Instant moment) => Opens(plan, ToCome(entries[positions[lesson]], moment), moment);

    /// <summary>What isn't planned yet, as if it came out after the moment and were current from then on.</summary>
    static Entry ToCome(in Entry entry, Instant moment) => entry.Out ? entry
        : entry with { At = moment, CurrentFrom = moment, CurrentUntil = Instant.MaxValue };

    /// <summary>The plans whose promise covers a piece or something in it, whatever its reach, drafts too.</summary>
    public IReadOnlyList<Plan> PlansThatCover(PieceId piece)
    {
        var whole = positions[piece];
        var (from, count) = lessonsOf[piece];
        bool CoversSome(in Rule rule)
        {
            if (Covered(rule, entries[whole])) return true;
            for (var i = from; i < from + count; i++)
                if (Covered(rule, entries[i])) return true;
            return false;
        }
        return [.. plans.Values.Where(plan => rules[plan.Id].Any(r => CoversSome(r))).OrderBy(p => p.Rank)];
    }
}
