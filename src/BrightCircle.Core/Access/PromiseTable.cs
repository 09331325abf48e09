using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;

namespace BrightCircle.Core.Access;

/// <summary>How far a plan opens a piece to those who join now, from least to most.</summary>
public enum PromisedWay
{
    /// <summary>Not at all.</summary>
    Not,
    /// <summary>Only some of its lessons.</summary>
    Part,
    /// <summary>While it is in the latest editions.</summary>
    Latest,
    /// <summary>If it comes out while they pay.</summary>
    WhilePaid,
    /// <summary>If it comes out from the month they join, or stands outside the months.</summary>
    FromJoining,
    /// <summary>However old it is.</summary>
    Open,
}

/// <param name="Paced">Not all of it at once.</param>
public readonly record struct PromisedCell(PromisedWay Way, bool Paced);

/// <summary>What plans promise of pieces, at a glance.</summary>
public static class PromiseTable
{
    /// <summary>The most generous of the lines of a plan's present promise.</summary>
    public static PromisedCell Of(Plan plan, Piece piece)
    {
        var best = new PromisedCell(PromisedWay.Not, false);
        foreach (var i in plan.Promise)
        {
            var whole = i.Covers switch
            {
                Coverage.Everything => true,
                Coverage.OnShelf s => s.Shelf == piece.ShelfId,
                Coverage.OnePiece p => p.Piece == piece.Id,
                _ => false,
            };
            var part = whole || i.Covers switch
            {
                Coverage.OneModule m => piece.Outline.Modules.Any(x => x.Id == m.Module),
                Coverage.OneLesson l => piece.Outline.Find(l.Lesson) is not null,
                _ => false,
            };
            if (!part) continue;
            var way = !whole ? PromisedWay.Part : i.Reach switch
            {
                Reach.EverythingReleased => PromisedWay.Open,
                Reach.FromJoining => PromisedWay.FromJoining,
                Reach.WhilePaid => PromisedWay.WhilePaid,
                Reach.LastEditions => PromisedWay.Latest,
                _ => throw new InvalidOperationException($"No such reach: {i.Reach}"),
            };
            var paced = i.Pace is { IsNone: false };
            if (way > best.Way || way == best.Way && best.Paced && !paced) best = new(way, paced);
        }
        return best;
    }
}
