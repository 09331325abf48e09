using NodaTime;

namespace BrightCircle.Core.Content;

public enum RingState { Empty, Draft, Scheduled, Released }

/// <summary>One cell of the year ring: a month on a shelf.</summary>
/// <param name="Parts">The pieces of that month's edition on that shelf.</param>
/// <param name="State">The furthest that every part has come: one draft among scheduled parts makes the cell a draft.</param>
public sealed record RingCell(YearMonth Month, Shelf Shelf, RingState State, IReadOnlyList<Piece> Parts);

/// <summary>Twelve months × shelves: what each edition holds and where the gaps are.</summary>
public sealed record YearRing(IReadOnlyList<YearMonth> Months, IReadOnlyList<Shelf> Shelves, IReadOnlyList<RingCell> Cells)
{
    /// <summary>A month's cells, in the order of the shelves.</summary>
    public IEnumerable<RingCell> Of(YearMonth month) => Cells.Where(c => c.Month == month);

    /// <param name="first">The first of the twelve months.</param>
    public static YearRing For(YearMonth first, IEnumerable<Shelf> shelves, IEnumerable<Edition> editions, IEnumerable<Piece> pieces)
    {
        var months = Enumerable.Range(0, 12).Select(first.PlusMonths).ToArray();
        var ordered = shelves.OrderBy(s => s.Order).ToArray();
        var byEdition = editions.ToDictionary(e => e.Id);
        var parts = pieces.Where(p => p.EditionId is { } e && byEdition.ContainsKey(e))
            .ToLookup(p => (byEdition[p.EditionId!.Value].Month, p.ShelfId));
        var cells = from month in months
                    from shelf in ordered
                    let here = parts[(month, shelf.Id)].ToArray()
                    select new RingCell(month, shelf, StateOf(here, byEdition), here);
        return new(months, ordered, [.. cells]);
    }

    static RingState StateOf(IReadOnlyList<Piece> parts, Dictionary<EditionId, Edition> editions)
    {
        if (parts.Count == 0) return RingState.Empty;
        return parts.Min(p => p.State switch
        {
            PieceState.Released => RingState.Released,
            PieceState.Ready when editions[p.EditionId!.Value].State != EditionState.Draft => RingState.Scheduled,
            _ => RingState.Draft,
        });
    }

    /// <summary>The twelve months usually shown: ten back, this one, and the one to come.</summary>
    public static YearMonth WindowAround(YearMonth now) => now.PlusMonths(-10);
}
