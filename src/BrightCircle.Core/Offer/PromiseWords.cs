using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>A promise in sentences that read well on the public page.</summary>
public static class PromiseWords
{
    /// <summary>"Everything from the month you join; what has opened stays yours".</summary>
    /// <param name="plan">The plan it belongs to: what was bought once is never left.</param>
    /// <param name="nameOf">Names what is covered.</param>
    public static string Line(Plan plan, Inclusion inclusion, Func<Coverage, string> nameOf)
    {
        var words = Describe(inclusion, nameOf, plan.IsTier);
        return words.Length == 0 ? words : char.ToUpperInvariant(words[0]) + words[1..];
    }

    /// <summary>The same to stand inside a sentence.</summary>
    /// <param name="canBeLeft">Whether the holding ends when the member leaves.</param>
    public static string Describe(Inclusion inclusion, Func<Coverage, string>? nameOf = null, bool canBeLeft = true)
    {
        var covers = nameOf?.Invoke(inclusion.Covers) ?? Plain(inclusion.Covers);
        var more = Ends(inclusion) + Needs(inclusion);
        if (inclusion.Covers is Coverage.OneTally) return covers + more;
        if (inclusion.Covers is Coverage.OneSpace space) return covers + (space.ReadOnly ? ", to read along" : "") + Paced(inclusion) + more;
        if (inclusion.Covers is Coverage.OneSeries) return covers + Paced(inclusion) + more;
        if (inclusion.Covers is Coverage.WhatAPlanOpens) return covers + ", as a bonus" + more + (canBeLeft ? Keeps(inclusion.Keep) : "");
        return covers + Reach(inclusion) + Paced(inclusion) + more + (canBeLeft ? Keeps(inclusion.Keep) : "");
    }

    static string Paced(Inclusion i) => i.Pace is { IsNone: false } p ? ", " + PaceWords.Describe(p) : "";

    static string Ends(Inclusion i) => i.Ends is { } length ? $", for {length} from joining" : "";

    static string Needs(Inclusion i) => i.Needs is not { Count: > 0 } ? "" : i.Needs.All(n => n is Need.HoldingPlan) ? ", with another plan as well"
        : ", once other parts are done";

    /// <summary>What is covered, where nothing names it.</summary>
    static string Plain(Coverage covers) => covers switch
    {
        Coverage.Everything => "everything",
        Coverage.OnShelf => "the shelf",
        Coverage.OnePiece => "this piece",
        Coverage.OneModule => "this module",
        Coverage.OneLesson => "this lesson",
        Coverage.OneTally => "the tally",
        Coverage.OneSpace => "the space",
        Coverage.OneSeries => "the live sessions",
        Coverage.WhatAPlanOpens => "what another plan opens",
        _ => throw new InvalidOperationException($"No such coverage: {covers}"),
    };

    static string Reach(Inclusion i) => (i.Reach, i.Covers) switch
    {
        (Offer.Reach.EverythingReleased, Coverage.Everything) => " there is, old and new",
        (Offer.Reach.EverythingReleased, Coverage.OnShelf) => ", old and new",
        (Offer.Reach.EverythingReleased, _) => "",
        (Offer.Reach.FromJoining, Coverage.Everything) => " from the month you join",
        (Offer.Reach.FromJoining, _) => ", from the month you join",
        (Offer.Reach.WhilePaid, Coverage.Everything) => " that comes out while you pay",
        (Offer.Reach.WhilePaid, _) => ", what comes out while you pay",
        (Offer.Reach.LastEditions { Count: 1 }, _) => " in the latest edition",
        (Offer.Reach.LastEditions last, _) => $" in the latest {last.Count} editions",
        _ => throw new InvalidOperationException($"No such reach: {i.Reach}"),
    };

    static string Keeps(Keep keep) => keep switch
    {
        Keep.Nothing => ", until you leave",
        Keep.WhatHadOpened => "; what has opened stays yours",
        Keep.ForPeriod kept => $"; what has opened stays for {kept.Length} after you leave",
        _ => throw new InvalidOperationException($"No such keep: {keep}"),
    };

    /// <summary>For the form: how far back.</summary>
    public static string ReachWords(Reach reach) => reach switch
    {
        Offer.Reach.EverythingReleased => "old and new",
        Offer.Reach.FromJoining => "from the month they join",
        Offer.Reach.WhilePaid => "what comes out while they pay",
        Offer.Reach.LastEditions { Count: 1 } => "in the latest edition",
        Offer.Reach.LastEditions last => $"in the latest {last.Count} editions",
        _ => throw new InvalidOperationException($"No such reach: {reach}"),
    };

    /// <summary>For the form: what stays.</summary>
    public static string KeepWords(Keep keep) => keep switch
    {
        Keep.Nothing => "until they leave",
        Keep.WhatHadOpened => "what has opened stays theirs",
        Keep.ForPeriod kept => $"what has opened stays for {kept.Length} after they leave",
        _ => throw new InvalidOperationException($"No such keep: {keep}"),
    };

    /// <summary>How long what is promised goes on from joining: the longest of its lines; null where any of them has no end of its own.</summary>
    public static Period? Lasts(IReadOnlyList<Inclusion> promise) => promise.Count == 0 || promise.Any(i => i.Ends is null) ? null
        : promise.Select(i => i.Ends!.Value).MaxBy(p => p.AddTo(Some, 1));

    /// <summary>How long what is given once stays open: "until 3 December 2026", "for 3 months", "for good".</summary>
    /// <param name="until">The last day; null for none.</param>
    public static string HowLong(Plan plan, LocalDate? until, System.Globalization.CultureInfo culture) =>
        until is { } last ? $"until {last.ToString("d MMMM uuuu", culture)}" : Lasts(plan.Promise) is { } length ? $"for {length}" : "for good";

    /// <summary>A day to measure lengths by.</summary>
    static readonly LocalDate Some = new(2026, 1, 1);

    /// <summary>What stays open after leaving, as a sentence about the whole promise; null where there is nothing to leave.</summary>
    public static string? AfterLeaving(Plan plan)
    {
        if (!plan.IsTier) return null;
        var lines = plan.Promise.Where(i => i.Covers is not (Coverage.OneTally or Coverage.OneSpace or Coverage.OneSeries)).ToArray();
        var keeping = lines.Count(i => i.Keep is not Keep.Nothing);
        if (keeping == lines.Length && keeping > 0 && lines.All(i => i.Keep is Keep.ForPeriod) && lines.Select(i => i.Keep).Distinct().Count() == 1)
            return $"When you leave, everything that had opened for you stays open for {((Keep.ForPeriod)lines[0].Keep).Length}.";
        return keeping == 0 ? "When you leave, what it opened closes."
            : keeping == lines.Length ? "When you leave, everything that had opened for you stays open."
            : "When you leave, part of what had opened for you stays open.";
    }
}
