using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Learning;

/// <summary>An aim, and the week from which it counts.</summary>
/// <param name="From">The Monday of its first week.</param>
/// <param name="AWeek">1 to <see cref="Tally.MostAWeek"/>.</param>
public sealed record TallyAim(LocalDate From, int AWeek);

/// <summary>Something members mark when they did it, with an aim for each week.</summary>
public sealed class Tally
{
    public const int MostAWeek = 100;
    /// <summary>More marks on one day are taken for a mistake.</summary>
    public const int MostADay = 50;

    public TallyId Id { get; init; }
    /// <summary>"Hive checks".</summary>
    public string Name { get; set; } = "";
    /// <summary>What counts as having done it, in a sentence.</summary>
    public string Description { get; set; } = "";
    /// <summary>By their first weeks. A changed aim counts from the week of the change on; weeks before keep theirs.</summary>
    public IReadOnlyList<TallyAim> Aims { get; private set; } = [];
    /// <summary>Closed for new marks, kept for those who made some.</summary>
    public Instant? ArchivedAt { get; set; }

    /// <summary>The aim of a week; before the first one, the first.</summary>
    /// <exception cref="InvalidOperationException">No aim was ever set.</exception>
    public int AimIn(IsoWeek week) => Aims.Count == 0 ? throw new InvalidOperationException("A tally has an aim.")
        : (Aims.LastOrDefault(a => a.From <= week.Monday) ?? Aims[0]).AWeek;

    /// <summary>Sets the aim from a week on. What was set for later weeks gives way.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Not from 1 to <see cref="MostAWeek"/>.</exception>
    public void Aim(int aWeek, IsoWeek from)
    {
        ArgumentOutOfRangeException.ThrowIfNotEqual(aWeek, Math.Clamp(aWeek, 1, MostAWeek));
        if (Aims.Count > 0 && AimIn(from) == aWeek && Aims.All(a => a.From <= from.Monday)) return;
        Aims = [.. Aims.Where(a => a.From < from.Monday), new(from.Monday, aWeek)];
    }
}

/// <summary>One week of a member's tally.</summary>
public readonly record struct TallyWeek(IsoWeek Week, int Done, int Aim)
{
    public bool Met => Done >= Aim;
    /// <summary>Done ÷ aim, 1 where the aim is met or passed.</summary>
    public double Share => Math.Min(1, (double)Done / Aim);
}

/// <summary>How a member's tally stands.</summary>
/// <param name="ThisWeek">The week under way.</param>
/// <param name="Streak">Weeks in a row whose aim was met, up to now. The week under way adds to it once it is met and never breaks it.</param>
/// <param name="Longest">The longest row of such weeks there has been, this one included.</param>
/// <param name="InAll">All marks.</param>
public sealed record TallyStanding(TallyWeek ThisWeek, int Streak, int Longest, int InAll, IReadOnlyDictionary<IsoWeek, int> Done, Tally Tally)
{
    /// <summary>Works out a standing from how often it was done in each week.</summary>
    /// <param name="done">By week, in any order; the days are those of the member's own zone. Weeks after the one under way are left out.</param>
    public static TallyStanding Of(Tally tally, IReadOnlyDictionary<IsoWeek, int> done, IsoWeek under)
    {
        var known = done.Where(d => d.Value > 0 && d.Key <= under).ToDictionary(d => d.Key, d => d.Value);
        bool Met(IsoWeek week) => known.GetValueOrDefault(week) >= tally.AimIn(week);
        var (longest, row) = (0, 0);
        IsoWeek? before = null;
        foreach (var week in known.Keys.Where(Met).Order())
        {
            row = before is { } b && week.Since(b) == 1 ? row + 1 : 1;
            longest = Math.Max(longest, row);
            before = week;
        }
        // The row goes on if it reaches this week or the one before.
        var streak = before is { } last && under.Since(last) <= 1 ? row : 0;
        return new(new(under, known.GetValueOrDefault(under), tally.AimIn(under)), streak, longest, known.Values.Sum(), known, tally);
    }

    /// <summary>The last weeks, the oldest first, the one under way last.</summary>
    public IReadOnlyList<TallyWeek> Last(int weeks) =>
        [.. Enumerable.Range(0, weeks).Select(i => ThisWeek.Week.Plus(i - weeks + 1)).Select(w => new TallyWeek(w, Done.GetValueOrDefault(w), Tally.AimIn(w)))];
}
