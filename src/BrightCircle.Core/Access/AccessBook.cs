using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>
/// The catalogue made ready for access decisions: what exists and when it was released, the plans and their promises, the paces.
/// A decision is a pure function of the book, the member's facts and the moment.
/// </summary>
public sealed partial class AccessBook
{
    readonly Dictionary<Thing, int> positions;
    readonly Entry[] entries;
    readonly Dictionary<PieceId, (int From, int Count)> lessonsOf;
    readonly Dictionary<PlanId, Promised> promised;
    readonly Dictionary<(PlanId Plan, int Number), Promised> earlier = [];
    readonly Dictionary<PlanId, Plan> plans;
    readonly HashSet<long> tallies = [], apart = [];
    readonly SiteCalendar calendar;

    /// <param name="tallies">The tallies that can be marked; a promise of everything covers them too.</param>
    /// <param name="calendar">The site's, in which steps and lengths are counted; UTC where null.</param>
    /// <param name="timelines">The paces of pieces of their own.</param>
    /// <param name="quiet">Pieces of which those don't hear who can't open them.</param>
    /// <param name="spaces">The spaces, and whether everybody with an account may come in. A promise of everything is one of everything on the shelves:
    /// spaces are promised one by one.</param>
    /// <param name="series">The series of live sessions, in the same way.</param>
    /// <param name="apart">Tallies that a promise of everything doesn't cover: those of challenges, for whoever takes part.</param>
    public AccessBook(IEnumerable<Plan> plans, IEnumerable<Piece> pieces, IEnumerable<Edition> editions, IEnumerable<TallyId>? tallies = null,
        SiteCalendar? calendar = null, IEnumerable<PieceTimeline>? timelines = null, IEnumerable<Cohort>? cohorts = null,
        IReadOnlySet<PieceId>? quiet = null, IEnumerable<(SpaceId Id, bool ForGuests)>? spaces = null,
        IEnumerable<(LiveSeriesId Id, bool ForGuests)>? series = null, IReadOnlySet<TallyId>? apart = null)
    {
        this.plans = plans.ToDictionary(p => p.Id);
        this.calendar = calendar ?? SiteCalendar.For("Etc/UTC");
        promised = this.plans.ToDictionary(p => p.Key, p => Promised.Of(p.Value.Promise, p.Value.PaceOf, this.plans));
        foreach (var p in this.plans.Values)
            foreach (var v in p.Earlier) earlier[(p.Id, v.Number)] = Promised.Of(v.Promise, v.PaceOf, this.plans);
        foreach (var t in tallies ?? []) this.tallies.Add(t.Value);
        foreach (var t in apart ?? new HashSet<TallyId>()) this.apart.Add(t.Value);
        var list = pieces as IReadOnlyCollection<Piece> ?? [.. pieces];
        var making = new Making(editions, timelines ?? [], cohorts ?? [], quiet ?? new HashSet<PieceId>(),
            list.Sum(p => 1 + p.Outline.Parts.Count + p.Outline.Lessons.Count));
        foreach (var p in list) making.Add(p);
        foreach (var (id, forGuests) in spaces ?? []) making.Add(id, forGuests);
        foreach (var (id, forGuests) in series ?? []) making.Add(id, forGuests);
        (entries, positions, lessonsOf) = ([.. making.Entries], making.Positions, making.LessonsOf);
    }

    public IReadOnlyCollection<Plan> Plans => plans.Values;
    public Plan Plan(PlanId id) => plans[id];
    public bool Knows(Thing thing) => thing.Kind == ThingKind.Tally ? tallies.Contains(thing.Id) : positions.ContainsKey(thing);
    /// <summary>All pieces, modules and lessons.</summary>
    public IEnumerable<Thing> Things => positions.Keys;

    Promised? PromiseOf(MemberFacts.Held held) =>
        earlier.Count > 0 && earlier.TryGetValue((held.Plan, held.Promise), out var old) ? old : promised.GetValueOrDefault(held.Plan);

    /// <summary>
    /// Whether a member may open a thing at a moment. The most generous of all holdings and inclusions decides; where none opens it yet, the one that opens it
    /// first.
    /// Facts known later than <see cref="MemberFacts.AsOf"/> are not in it; a moment after that assumes things go on as they stand.
    /// </summary>
    /// <exception cref="KeyNotFoundException">The book doesn't know the thing.</exception>
    public AccessDecision Decide(MemberFacts facts, Thing thing, Instant moment) =>
        thing.Kind == ThingKind.Tally ? DecideTally(facts, thing.Id, moment) : Decide(facts, entries[positions[thing]], moment);

    /// <summary>A tally may be marked as long as something that covers it, or everything, is held; one that stands apart only by name.</summary>
    AccessDecision DecideTally(MemberFacts facts, long tally, Instant moment)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);
        var best = Refused(facts);
        for (short h = 0; h < facts.held.Length; h++)
        {
            var held = facts.held[h];
            if (PromiseOf(held) is not { } promise || moment < held.Begins) continue;
            for (short i = 0; i < promise.Rules.Length; i++)
            {
                var rule = promise.Rules[i];
                if (rule.Covers == Covers.Everything ? apart.Contains(tally) : rule.Covers != Covers.Tally || rule.Id != tally) continue;
                var by = moment < Until(rule, held) ? Met(rule, facts, moment) ? AccessRule.WhileHeld : AccessRule.NeedUnmet
                    : moment < held.Until ? AccessRule.InclusionOver : AccessRule.HoldingOver;
                if (by.Opens()) return new(AccessState.Open, by, default, h, rule.Line);
                if (by.Nearness() > best.Rule.Nearness()) best = new(AccessState.Locked, by, default, h, rule.Line);
            }
        }
        return best;
    }

    static AccessDecision Refused(MemberFacts facts, Instant comesOut = default) =>
        new(AccessState.Locked, facts.held.Length == 0 ? AccessRule.NothingHeld : AccessRule.NotCovered, comesOut);

    AccessDecision Decide(MemberFacts facts, in Entry thing, Instant moment)
    {
        var decision = DecideAloud(facts, thing, moment);
        return thing.Quiet && decision.State == AccessState.Locked && !decision.Rule.IsHeldBack() ? new(AccessState.Hidden, AccessRule.KeptQuiet) : decision;
    }

    AccessDecision DecideAloud(MemberFacts facts, in Entry thing, Instant moment)
    {
        if (facts.IsTeam) return new(AccessState.Open, AccessRule.Team);
        if (!thing.Out) return new(AccessState.Hidden, AccessRule.NotReleased);
        if (thing.ClosesAt <= moment) return new(AccessState.Locked, AccessRule.WindowOver);
        var from = thing.From;
        var isFree = thing.Teaser || thing.OpenToAll;
        if (isFree && from <= moment) return new(AccessState.Open, thing.OpenToAll ? AccessRule.OpenToAll : AccessRule.Teaser);
        var comesOut = from <= moment ? default : from;
        var refused = Refused(facts, comesOut);
        AccessDecision? soonest = isFree && thing.OpenToAll ? new(AccessState.OpensAt, Waits(thing, from), from) : null;
        for (short h = 0; h < facts.held.Length; h++)
        {
            var held = facts.held[h];
            if (PromiseOf(held) is not { } promise) continue;
            for (short i = 0; i < promise.Rules.Length; i++)
            {
                var rule = promise.Rules[i];
                if (!Covered(rule, thing)) continue;
                var opens = Opens(facts, held, promise, rule, thing);
                var by = By(facts, held, rule, thing, opens, moment);
                if (by.Opens())
                {
                    if (opens.At <= moment) return new(AccessState.Open, by, default, h, rule.Line);
                    if (soonest is null || opens.At < soonest.Value.OpensAt)
                        soonest = new(AccessState.OpensAt, opens.At == held.Begins ? AccessRule.HoldingBegins : Waits(thing, opens.At), opens.At, h, rule.Line);
                }
                else if (by.Nearness() > refused.Rule.Nearness()) refused = new(AccessState.Locked, by, comesOut, h, rule.Line);
            }
        }
        return soonest ?? refused;
    }

    /// <summary>Why a thing opens later than at once.</summary>
    static AccessRule Waits(in Entry thing, Instant opens) =>
        opens == thing.At ? AccessRule.ScheduledRelease : opens == thing.From ? AccessRule.OpensLater : AccessRule.Paced;

    /// <summary>From when an inclusion of a holding opens a thing.</summary>
    /// <param name="At">UTC; <see cref="Instant.MaxValue"/> where that isn't known.</param>
    /// <param name="Not">Why it isn't known: the part before it isn't done, or there is no date yet.</param>
    readonly record struct Turned(Instant At, AccessRule? Not = null);

    Turned Opens(MemberFacts facts, MemberFacts.Held held, Promised promise, Rule rule, in Entry thing)
    {
        var at = Instant.Max(thing.From, held.Begins);
        var (pace, timeline, _) = PaceFor(facts, held, promise, rule, thing);
        if (pace is null) return new(at);
        var anchor = Anchor(pace, facts, held, thing);
        if (anchor is null) return new(Instant.MaxValue, AccessRule.NoDateYet);
        int? moved = timeline is not null && timeline.Moves.TryGetValue(new(thing.Lesson), out var days) ? days : null;
        if (pace.Opens(pace.CountsModules ? thing.ModuleStep : thing.Step, moved, anchor.Value, calendar, held.Pauses) is not { } paced)
            return new(Instant.MaxValue, AccessRule.NoDateYet);
        at = Instant.Max(at, paced);
        if (!pace.AfterPrevious || thing.Previous < 0) return new(at);
        return facts.Completed.TryGetValue(new(entries[thing.Previous].Lesson), out var done) && done <= facts.AsOf
            ? new(Instant.Max(at, done)) : new(Instant.MaxValue, AccessRule.PreviousFirst);
    }

    /// <summary>The pace that counts for a thing: the closest of the piece's own for a cohort, price or plan, the price's, the inclusion's, the piece's for
    /// everybody.</summary>
    static (Pace? Pace, PieceTimeline? Timeline, PaceSaidBy By) PaceFor(MemberFacts facts, MemberFacts.Held held, Promised promise, Rule rule,
        in Entry thing)
    {
        // A bonus is given all at once.
        if (held.AllAtOnce || rule.IsBonus || thing.Step < 0) return default;
        PieceTimeline? everybodys = null;
        foreach (var t in thing.Timelines ?? [])
        {
            if (t.Cohort is { } cohort && CohortOf(facts, held, thing)?.Id != cohort || t.Price is { } price && held.Price != price
                || t.Plan is { } plan && held.Plan != plan) continue;
            if (t.Closeness > 0) return (t.Pace, t, PaceSaidBy.ThePiece);
            everybodys = t;
        }
        if (held.Price is { } by && promise.PaceOf.TryGetValue(by, out var pricePace)) return (pricePace.IsNone ? null : pricePace, null, PaceSaidBy.ThePrice);
        if (rule.Pace is { } own) return (own.IsNone ? null : own, null, PaceSaidBy.ThePromise);
        return (everybodys?.Pace, everybodys, everybodys is null ? PaceSaidBy.Nobody : PaceSaidBy.Everybodys);
    }

    static Instant? Anchor(Pace pace, MemberFacts facts, MemberFacts.Held held, in Entry thing) => pace is Pace.Steps { From: PaceFrom.Cohort }
        ? CohortOf(facts, held, thing)?.StartsAt : Instant.Max(held.PaceFrom, thing.PieceOut);

    Instant Until(Rule rule, MemberFacts.Held held) =>
        rule.Ends is { } length ? Instant.Min(held.Until, calendar.Boundary(held.Start, length, 1)) : held.Until;

    /// <summary>The rule by which an inclusion of a holding opens a thing, now or when its time comes; or the one by which it doesn't.</summary>
    AccessRule By(MemberFacts facts, MemberFacts.Held held, Rule rule, in Entry thing, Turned opens, Instant moment)
    {
        if (opens.Not is { } not) return moment < Until(rule, held) ? Reached(rule, held, thing, moment) is var r && r.Opens() ? not : r
            : moment < held.Until ? AccessRule.InclusionOver : AccessRule.HoldingOver;
        var isOut = opens.At <= moment;
        var when = isOut ? moment : opens.At;
        var until = Until(rule, held);
        AccessRule by;
        if (when < until)
        {
            by = Reached(rule, held, thing, when);
            if (by.Opens() && !Met(rule, facts, when)) by = AccessRule.NeedUnmet;
        }
        else if (!isOut && moment < until) by = AccessRule.EndsBefore;
        else by = isOut && Kept(facts, held, rule, thing, opens.At, until, moment) ? AccessRule.KeptAfterLeaving
            : until < held.Until ? AccessRule.InclusionOver : AccessRule.HoldingOver;
        // Who has left may read on, where the promise says so, and doesn't write.
        if (thing.Writing && by == AccessRule.KeptAfterLeaving) by = AccessRule.HoldingOver;
        if (!by.Opens()) return by;
        if (thing.ClosesAt <= when || thing.Days is { } days && calendar.PlusDays(opens.At, days) <= when) return AccessRule.WindowOver;
        return isOut && thing.Place >= 0 && !facts.Places.Contains(new(thing.Place)) ? AccessRule.NoPlace : by;
    }

    /// <summary>What had opened by the end of the last paid moment stays, where the promise says so and for as long as it says.</summary>
    bool Kept(MemberFacts facts, MemberFacts.Held held, Rule rule, in Entry thing, Instant opened, Instant until, Instant moment)
    {
        if (rule.Keep == Keeps.Nothing || held.KeepsNothing) return false;
        var last = Instant.Min(held.LastPaid, until);
        if (opened >= last || rule.KeepFor is { } length && moment >= calendar.Boundary(until, length, 1)) return false;
        var before = last - Duration.Epsilon;
        return Reached(rule, held, thing, before).Opens() && Met(rule, facts, before);
    }

    /// <summary>Whether all that an inclusion needs beside its holding is so at a moment.</summary>
    bool Met(Rule rule, MemberFacts facts, Instant at)
    {
        foreach (var need in rule.Needs)
            if (!Met(need, facts, at)) return false;
        return true;
    }

    bool Met(Need need, MemberFacts facts, Instant at)
    {
        switch (need)
        {
            case Need.HoldingPlan p:
                foreach (var h in facts.held)
                    if (h.Plan == p.Plan && h.Start <= at && at < h.Until) return true;
                return false;
            case Need.DoneLesson l:
                return IsDone(facts, l.Lesson, at);
            case Need.DonePiece p:
                if (!lessonsOf.TryGetValue(p.Piece, out var range)) return false;
                var some = false;
                for (var i = range.From; i < range.From + range.Count; i++)
                {
                    if (!entries[i].Out || entries[i].At > at) continue;
                    if (!IsDone(facts, new(entries[i].Lesson), at)) return false;
                    some = true;
                }
                return some;
            default:
                throw new InvalidOperationException($"No such need: {need}");
        }
    }

    static bool IsDone(MemberFacts facts, LessonId lesson, Instant at) =>
        facts.Completed.TryGetValue(lesson, out var done) && done <= at && done <= facts.AsOf;

    static bool Covered(Rule rule, in Entry thing) => rule.Covers switch
    {
        Covers.Everything => thing.Space < 0 && thing.Live < 0,
        Covers.Shelf => rule.Id == thing.Shelf,
        Covers.Piece => rule.Id == thing.Piece,
        Covers.Module => rule.Id == thing.Module,
        Covers.Lesson => rule.Id == thing.Lesson,
        Covers.Tally => false,
        Covers.Space => rule.Id == thing.Space && !(thing.Writing && rule.ReadOnly),
        Covers.Live => rule.Id == thing.Live,
    };

    /// <summary>The rule by which an inclusion reaches a thing that is out, at a moment, or the one by which it doesn't.</summary>
    static AccessRule Reached(Rule rule, MemberFacts.Held held, in Entry thing, Instant when)
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
            case Reaches.Latest:
                return when < thing.DropsOutOf(rule.Latest) ? AccessRule.InLatestEditions : AccessRule.OutOfLatest;
            default:
                throw new InvalidOperationException("No such reach.");
        }
    }

    /// <summary>The version of the promise that the holding behind a decision lives by.</summary>
    public IReadOnlyList<Inclusion> PromiseBehind(MemberFacts facts, AccessDecision decision)
    {
        var held = facts.held[decision.Holding];
        return plans[held.Plan].PromiseOf(held.Promise);
    }

    /// <summary>A thing's turn by the pace behind a decision about it; null where none holds it back.</summary>
    public Turn? TurnOf(MemberFacts facts, AccessDecision decision, Thing thing)
    {
        if (decision.Holding < 0 || decision.Inclusion < 0 || thing.Kind == ThingKind.Tally) return null;
        var (held, entry) = (facts.held[decision.Holding], entries[positions[thing]]);
        if (PromiseOf(held) is not { } promise || Array.Find(promise.Rules, r => r.Line == decision.Inclusion) is not { } rule) return null;
        var (pace, timeline, _) = PaceFor(facts, held, promise, rule, entry);
        if (pace is null || pace.IsNone || Anchor(pace, facts, held, entry) is not { } anchor) return null;
        return new(pace, pace.CountsModules ? entry.ModuleStep : entry.Step, anchor,
            timeline is not null && timeline.Moves.TryGetValue(new(entry.Lesson), out var days) ? days : null);
    }

    /// <summary>
    /// The pace at which whoever joins a plan by a price goes through a piece, and who says so: cohorts aside, and for a piece without lessons nothing.
    /// </summary>
    /// <param name="plan">Null for what counts for everybody.</param>
    public (Pace? Pace, PaceSaidBy By) PaceOf(PieceId piece, PlanId? plan, PriceId? price)
    {
        var (from, count) = lessonsOf[piece];
        if (count == 0) return default;
        var entry = entries[from] with { Cohorts = null };
        if (plan is null)
        {
            var all = entry.Timelines?.FirstOrDefault(t => t.Closeness == 0);
            return (all?.Pace, all is null ? PaceSaidBy.Nobody : PaceSaidBy.Everybodys);
        }
        var held = MemberFacts.Joining(plan.Value, entry.PieceOut) with { Price = price };
        foreach (var rule in promised[plan.Value].Rules)
            if (Covered(rule, entry) && PaceFor(MemberFacts.Nobody, held, promised[plan.Value], rule, entry) is { Pace: { } pace } said) return (pace, said.By);
        return default;
    }

    /// <summary>The part that has to be done before a thing where a pace asks for it; null where there is none.</summary>
    public LessonId? Before(Thing thing) => entries[positions[thing]].Previous is >= 0 and var p ? new(entries[p].Lesson) : null;

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
            return [.. plans.Values.Where(p => promised[p.Id].Rules.Any(r => r.Covers == Covers.Everything || r.Covers == Covers.Tally && r.Id == thing.Id))
                .OrderBy(p => p.Rank)];
        var entry = entries[positions[thing]];
        if (!entry.Out) return [];
        return [.. plans.Values.Where(plan => Opens(plan.Id, entry, moment)).OrderBy(p => p.Rank).ThenBy(p => p.Id.Value)];
    }

    bool Opens(PlanId plan, in Entry entry, Instant joined)
    {
        var held = MemberFacts.Joining(plan, joined);
        foreach (var rule in promised[plan].Rules)
            if (Covered(rule, entry) && Reached(rule, held, entry, Instant.Max(joined, entry.At)).Opens()) return true;
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
        : entry with { Out = true, At = moment, PieceOut = Instant.Min(entry.PieceOut, moment), CurrentFrom = moment, CurrentUntil = Instant.MaxValue };

    /// <summary>The plans whose promise covers a piece or something in it, whatever its reach, drafts too.</summary>
    public IReadOnlyList<Plan> PlansThatCover(PieceId piece)
    {
        var whole = positions[piece];
        var (from, count) = lessonsOf[piece];
        bool CoversSome(Rule rule)
        {
            if (Covered(rule, entries[whole])) return true;
            for (var i = from; i < from + count; i++)
                if (Covered(rule, entries[i])) return true;
            return false;
        }
        return [.. plans.Values.Where(plan => promised[plan.Id].Rules.Any(CoversSome)).OrderBy(p => p.Rank)];
    }
}

/// <summary>A part's turn in a pace.</summary>
/// <param name="Step">Its place in the pattern, from 0.</param>
/// <param name="Anchor">From when it is counted, UTC.</param>
/// <param name="Moved">Its own offset in days, where it was moved by hand.</param>
public sealed record Turn(Pace Pace, int Step, Instant Anchor, int? Moved);

/// <summary>Who says at which pace a piece opens.</summary>
public enum PaceSaidBy
{
    Nobody,
    /// <summary>The piece's own, for the plan, the price or the cohort.</summary>
    ThePiece,
    /// <summary>The promise, for the price.</summary>
    ThePrice,
    /// <summary>The line of the promise.</summary>
    ThePromise,
    /// <summary>The piece's own for everybody.</summary>
    Everybodys,
}
