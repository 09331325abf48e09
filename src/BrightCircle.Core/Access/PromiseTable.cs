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

public enum PieceCovering { Not, Part, Whole }

/// <param name="Paced">Not all of it at once.</param>
public readonly record struct PromisedCell(PromisedWay Way, bool Paced);

/// <summary>What plans promise of pieces, at a glance.</summary>
public static class PromiseTable
{
    /// <summary>Whether a line is about a whole piece, about something in it, or about neither.</summary>
    public static PieceCovering Covering(Coverage covers, Piece piece) => covers switch
    {
        Coverage.Everything => PieceCovering.Whole,
        Coverage.OnShelf s => s.Shelf == piece.ShelfId ? PieceCovering.Whole : PieceCovering.Not,
        Coverage.OnePiece p => p.Piece == piece.Id ? PieceCovering.Whole : PieceCovering.Not,
        Coverage.OneModule m => piece.Outline.Modules.Any(x => x.Id == m.Module) ? PieceCovering.Part : PieceCovering.Not,
        Coverage.OneLesson l => piece.Outline.Find(l.Lesson) is not null ? PieceCovering.Part : PieceCovering.Not,
        Coverage.OneTally or Coverage.OneSpace or Coverage.OneSeries or Coverage.WhatAPlanOpens => PieceCovering.Not,
        _ => throw new InvalidOperationException($"No such coverage: {covers}"),
    };

    /// <summary>Whether a line is about all of a piece, of a module or of a lesson.</summary>
    /// <param name="module">The lesson's module, or the module itself.</param>
    public static bool CoversAll(Coverage covers, Piece piece, ModuleId? module, LessonId? lesson) => Covering(covers, piece) == PieceCovering.Whole
        || covers is Coverage.OneModule m && module == m.Module || covers is Coverage.OneLesson l && lesson == l.Lesson;

    /// <summary>The most generous of the lines of a plan's present promise.</summary>
    public static PromisedCell Of(Plan plan, Piece piece, Func<PlanId, Plan?> planOf)
    {
        var best = new PromisedCell(PromisedWay.Not, false);
        foreach (var (i, _, _) in Bonus.Unfold(plan.Promise, planOf))
        {
            var covering = Covering(i.Covers, piece);
            if (covering == PieceCovering.Not) continue;
            var way = covering == PieceCovering.Part ? PromisedWay.Part : i.Reach switch
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
