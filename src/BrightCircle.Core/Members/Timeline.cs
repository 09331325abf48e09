using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>A stretch of a holding's time in one state.</summary>
/// <param name="From">Its first moment, UTC.</param>
/// <param name="To">Its end, exclusive; <see cref="Instant.MaxValue"/> where nothing known ends it.</param>
/// <param name="Because">The fact that makes it so; null before the holding begins.</param>
public readonly record struct Stretch(Instant From, Instant To, HoldingState State, HoldingFact? Because);

/// <summary>
/// A holding's facts folded in their order: which state it was in when, what was paid, what is owed from a standstill. Everything that asks
/// about a holding over time asks here. At each moment only what was known then counts; after the last fact things go on as they stand.
/// </summary>
public sealed class Timeline
{
    readonly Stretch[] stretches;

    Timeline(Stretch[] stretches, Fold end)
    {
        this.stretches = stretches;
        (Ended, Leaving, Paid, Missed, Promise) = (end.Ended, end.Leaving, [.. end.Opens], [.. end.Missed], end.Moved?.Promise);
        foreach (var f in end.Opens)
        {
            if (f.To is null) (PaidThrough, IsPaidForEver) = (null, true);
            else if (!IsPaidForEver && (PaidThrough is null || f.To > PaidThrough)) PaidThrough = f.To;
        }
    }

    /// <summary>Stretches that follow each other without gap from the holding's start on.</summary>
    public IReadOnlyList<Stretch> Stretches => stretches;
    /// <summary>Paid, trial and given facts, by their start.</summary>
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

    public HoldingState At(Instant moment) => StretchAt(moment)?.State ?? HoldingState.NotYet;

    public Stretch? StretchAt(Instant moment)
    {
        for (var i = stretches.Length - 1; i >= 0; i--)
            if (stretches[i].From <= moment) return stretches[i];
        return null;
    }

    /// <summary>Moments at which the state changes.</summary>
    public IEnumerable<Instant> Changes => stretches.Select(s => s.From);

    public static Timeline Of(Instant startsAt, IEnumerable<HoldingFact> facts)
    {
        var ordered = facts.ToArray();
        Array.Sort(ordered, static (a, b) => a.At != b.At ? a.At.CompareTo(b.At) : a.Seq.CompareTo(b.Seq));
        var fold = new Fold();
        var list = new List<Stretch>(ordered.Length + 2);
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
    sealed class Fold
    {
        public List<HoldingFact> Opens { get; } = [];
        public List<HoldingFact> Missed { get; } = [];
        public HoldingFact? Leaving { get; private set; }
        public HoldingFact? Ended { get; private set; }
        public HoldingFact? Moved { get; private set; }
        HoldingFact? grace;

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
        };

        HoldingFact Open(HoldingFact f)
        {
            var i = Opens.Count;
            while (i > 0 && Opens[i - 1].From > f.From) i--;
            Opens.Insert(i, f);
            return f;
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
            if (Leaving is { To: { } leaves }) return m < leaves ? (HoldingState.Ending, Leaving, leaves) : (HoldingState.Over, Leaving, Instant.MaxValue);
            HoldingFact? open = null;
            var next = Instant.MaxValue;
            foreach (var f in Opens)
                if (f.From <= m) open = f;
                else
                {
                    next = f.From;
                    break;
                }
            if (open is null) return (HoldingState.NotYet, null, next);
            if (open.To is null || m < open.To) return (Running(open), open, Instant.Min(open.To ?? Instant.MaxValue, next));
            if (open.Kind == HoldingFactKind.Given) return (HoldingState.Over, open, next);
            // Past the paid time without an ending: grace where a payment failed since, else a renewal that is just due and still counts as held.
            if (grace is not null && grace.From >= open.From && grace.To > open.To) return (HoldingState.Grace, grace, next);
            return (Running(open), open, next);
        }

        static HoldingState Running(HoldingFact open) => open.Kind == HoldingFactKind.Trial ? HoldingState.Trial : HoldingState.Active;
    }
}
