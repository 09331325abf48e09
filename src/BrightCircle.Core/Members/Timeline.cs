using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>A stretch of a holding's time in one state.</summary>
/// <param name="From">Its first moment, UTC.</param>
/// <param name="To">Its end, exclusive; <see cref="Instant.MaxValue"/> where nothing known ends it.</param>
/// <param name="Because">The fact that makes it so; null before the holding begins.</param>
public readonly record struct Stretch(Instant From, Instant To, HoldingState State, HoldingFact? Because);

/// <summary>
/// A holding's facts folded in their order: which state it was in when, what was paid, what is owed from a standstill, what is to its credit. Everything
/// that asks about a holding over time asks here. At each moment only what was known then counts; after the last fact things go on as they stand.
/// </summary>
public sealed class Timeline
{
    readonly Stretch[] stretches;

    Timeline(Stretch[] stretches, Fold end)
    {
        this.stretches = stretches;
        (Ended, Leaving, Paid, Missed, Promise) = (end.Ended, end.Leaving, [.. end.Opens], [.. end.Missed], end.Moved?.Promise);
        (Pauses, Balance) = ([.. end.Pauses], end.Balance);
        foreach (var f in end.Opens)
        {
            if (f.To is null) (PaidThrough, IsPaidForEver) = (null, true);
            else if (!IsPaidForEver && (PaidThrough is null || f.To > PaidThrough)) PaidThrough = f.To;
        }
    }

    /// <summary>Stretches that follow each other without gap from the holding's start on.</summary>
    public IReadOnlyList<Stretch> Stretches => stretches;
    /// <summary>Paid, trial and given facts, by their start; their ends as pauses moved them.</summary>
    public IReadOnlyList<HoldingFact> Paid { get; }
    /// <summary>Periods that were not charged and are still owed.</summary>
    public IReadOnlyList<HoldingFact> Missed { get; }
    public HoldingFact? Ended { get; }
    /// <summary>The leaving that counts: not taken back.</summary>
    public HoldingFact? Leaving { get; }
    /// <summary>The end of the last paid, trial or given stretch; null where there is none, and where one has no end.</summary>
    public Instant? PaidThrough { get; }
    public bool IsPaidForEver { get; }
    /// <summary>The version of the promise it was moved to last; null where it wasn't.</summary>
    public int? Promise { get; }
    /// <summary>Its pauses in their order, as they were or are to be.</summary>
    public IReadOnlyList<(Instant From, Instant To)> Pauses { get; }
    /// <summary>What its next charges use first; null where there never was any.</summary>
    public Money? Balance { get; }

    /// <summary>Paid, trial and given time without its pauses, by its start; the end is null for ever.</summary>
    public IEnumerable<(Instant From, Instant? To)> PaidTime
    {
        get
        {
            foreach (var f in Paid)
            {
                var from = f.From;
                foreach (var (start, end) in Pauses)
                {
                    if (start < from || start >= (f.To ?? Instant.MaxValue)) continue;
                    if (from < start) yield return (from, start);
                    from = end;
                }
                if (from < (f.To ?? Instant.MaxValue)) yield return (from, f.To);
            }
        }
    }

    public HoldingState At(Instant moment) => StretchAt(moment)?.State ?? HoldingState.NotYet;

    public Stretch? StretchAt(Instant moment)
    {
        for (var i = stretches.Length - 1; i >= 0; i--)
            if (stretches[i].From <= moment) return stretches[i];
        return null;
    }

    /// <summary>Moments at which the state changes.</summary>
    public IEnumerable<Instant> Changes => stretches.Select(s => s.From);

    public static Timeline Of(Instant startsAt, IEnumerable<HoldingFact> facts, Agreement agreement)
    {
        var ordered = facts.ToArray();
        Array.Sort(ordered, static (a, b) => a.At != b.At ? a.At.CompareTo(b.At) : a.Seq.CompareTo(b.Seq));
        var fold = new Fold(agreement);
        var list = new List<Stretch>(ordered.Length + 2);
        // What is ended before it begins is over from then on.
        foreach (var f in ordered)
            if (f.Kind == HoldingFactKind.Ended && f.At < startsAt) startsAt = f.At;
        var at = startsAt;
        for (var i = 0; i < ordered.Length;)
        {
            var known = Instant.Max(ordered[i].At, startsAt);
            fold.Until(list, at, known);
            // What becomes known at the same moment counts together.
            while (i < ordered.Length && Instant.Max(ordered[i].At, startsAt) == known) fold.Take(ordered[i++]);
            at = known;
        }
        fold.Until(list, at, Instant.MaxValue);
        return new([.. list], fold);
    }

    /// <summary>What is known so far.</summary>
    sealed class Fold(Agreement agreement)
    {
        readonly Instant accessEnds = agreement.AccessEnds ?? Instant.MaxValue;
        /// <summary>What opened it, as it was known before any pause moved its end.</summary>
        readonly List<HoldingFact> asPaid = [];
        public List<HoldingFact> Opens { get; private set; } = [];
        public List<HoldingFact> Missed { get; } = [];
        public List<(Instant From, Instant To)> Pauses { get; } = [];
        public HoldingFact? Leaving { get; private set; }
        public HoldingFact? Ended { get; private set; }
        public HoldingFact? Moved { get; private set; }
        public Money? Balance { get; private set; }
        HoldingFact? grace, planned, closed, paused;

        /// <summary>Takes one more fact. A new kind doesn't compile until it stands here.</summary>
        public void Take(HoldingFact f) => _ = f.Kind switch
        {
            HoldingFactKind.Paid or HoldingFactKind.Trial or HoldingFactKind.Given => Open(f),
            HoldingFactKind.Grace => grace is null || f.From >= grace.From ? grace = f : grace,
            HoldingFactKind.Leaving => Leaving = f,
            HoldingFactKind.Staying => Leaving = null,
            HoldingFactKind.Missed => Miss(f),
            HoldingFactKind.Waived => Waive(f),
            HoldingFactKind.Moved => Moved = f,
            HoldingFactKind.Ended => Ended ??= f,
            HoldingFactKind.Planned => planned = f,
            HoldingFactKind.Closed => closed = f,
            HoldingFactKind.Paused => Pause(f),
            HoldingFactKind.Resumed => Resume(f),
            HoldingFactKind.Credit => PutCredit(f, f.Amount!.Value),
        };

        HoldingFact Open(HoldingFact f)
        {
            var i = asPaid.Count;
            while (i > 0 && asPaid[i - 1].From > f.From) i--;
            asPaid.Insert(i, f);
            closed = null;
            MoveEnds();
            return f.Amount is { } used ? PutCredit(f, -used) : f;
        }

        HoldingFact PutCredit(HoldingFact f, Money amount)
        {
            Balance = Balance is { } has ? has + amount : amount;
            return f;
        }

        HoldingFact Pause(HoldingFact f)
        {
            Pauses.Add((f.From, f.To ?? throw new InvalidOperationException("A pause has an end.")));
            MoveEnds();
            return paused = f;
        }

        HoldingFact Resume(HoldingFact f)
        {
            if (paused is { } p && Pauses[^1] is var last && f.From < last.To)
            {
                // It ends now: the rest of the paid time goes on from here.
                Pauses[^1] = (last.From, f.From);
                paused = HoldingFact.Stored(p.HoldingId, p.Seq, p.Kind, p.At, p.From, f.From);
                MoveEnds();
            }
            return f;
        }

        /// <summary>
        /// A pause moves the end of the paid stretch it began in by as many calendar days as it has; what was paid ahead moves to where the agreement has those
        /// payments then.
        /// </summary>
        void MoveEnds()
        {
            if (Pauses.Count == 0)
            {
                Opens = [.. asPaid];
                return;
            }
            var calendar = agreement.Calendar;
            var (opens, before) = (asPaid.ToArray(), agreement);
            foreach (var (from, until) in Pauses)
            {
                var after = before.Paused(from, until);
                Instant? end = null;
                for (var i = 0; i < opens.Length; i++)
                {
                    var f = opens[i];
                    if (f.To is not { } to || f.At > from) continue;
                    if (f.From <= from && from < to)
                    {
                        end = to;
                        opens[i] = f.Moved(f.From, calendar.PlusDays(to, calendar.DaysBetween(from, until)));
                    }
                    else if (f.From >= end && before.At(f.From) is { } charge && after.Find(charge.Purpose, charge.Turn) is { } moved)
                        opens[i] = f.Moved(moved.DueAt, moved.PaidThrough ?? to);
                }
                before = after;
            }
            Opens = [.. opens];
        }

        HoldingFact Miss(HoldingFact f)
        {
            Missed.Add(f);
            return f;
        }

        HoldingFact Waive(HoldingFact f)
        {
            Missed.Clear();
            return f;
        }

        /// <summary>Adds the stretches from one moment to another by what is known.</summary>
        public void Until(List<Stretch> list, Instant from, Instant to)
        {
            while (from < to)
            {
                var (state, because, ends) = StateFrom(from);
                ends = Instant.Min(ends, to);
                if (list.Count > 0 && list[^1].State == state && list[^1].Because == because) list[^1] = list[^1] with { To = ends };
                else list.Add(new(from, ends, state, because));
                from = ends;
            }
        }

        /// <summary>The state at a moment, why, and until when it stays so if nothing more becomes known.</summary>
        (HoldingState State, HoldingFact? Because, Instant Until) StateFrom(Instant m)
        {
            if (Ended is not null) return (HoldingState.Over, Ended, Instant.MaxValue);
            // What has an end of its own is over then, whatever is paid.
            if (m >= accessEnds) return (HoldingState.Over, Opens.Count > 0 ? Opens[^1] : planned, Instant.MaxValue);
            var (state, because, until) = Running(m);
            return (state, because, Instant.Min(until, accessEnds));
        }

        (HoldingState State, HoldingFact? Because, Instant Until) Running(Instant m)
        {
            var ends = Instant.MaxValue;
            if (Leaving is { To: { } leaves })
            {
                if (m >= leaves) return (HoldingState.Over, Leaving, Instant.MaxValue);
                // Whoever only changes to something else then hasn't left.
                if (Leaving.Reason != EndReason.Replaced) return (HoldingState.Ending, Leaving, leaves);
                ends = leaves;
            }
            if (paused is { } p && p.From <= m && m < p.To) return (HoldingState.Paused, p, Instant.Min(p.To.Value, ends));
            if (closed is not null) return (HoldingState.Closed, closed, ends);
            HoldingFact? open = null;
            foreach (var f in Opens)
                if (f.From <= m) open = f;
                else
                {
                    ends = Instant.Min(ends, f.From);
                    break;
                }
            if (paused is not null && paused.From > m) ends = Instant.Min(ends, paused.From);
            if (open is null)
            {
                if (planned is null || m < planned.From) return (HoldingState.NotYet, null, planned is null ? ends : Instant.Min(ends, planned.From));
                // A grace that is over in time is ended by its own fact, as anywhere.
                return grace is not null && grace.From >= planned.From ? (HoldingState.Grace, grace, ends) : (HoldingState.Active, planned, ends);
            }
            if (open.To is null || m < open.To) return (Kind(open), open, Instant.Min(open.To ?? Instant.MaxValue, ends));
            if (open.Kind == HoldingFactKind.Given) return (HoldingState.Over, open, ends);
            // Past the paid time without an ending: grace where a payment failed since, else a renewal that is just due and still counts as held.
            if (grace is not null && grace.From >= open.From && grace.To > open.To) return (HoldingState.Grace, grace, ends);
            return (Kind(open), open, ends);
        }

        static HoldingState Kind(HoldingFact open) => open.Kind == HoldingFactKind.Trial ? HoldingState.Trial : HoldingState.Active;
    }
}
