using BrightCircle.Core.Offer;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Access;

public sealed partial class AccessBook
{
    enum Covers : byte { Everything, Shelf, Piece, Module, Lesson, Tally, Space, Live }
    enum Reaches : byte { Everything, Joining, Paid, Latest }
    enum Keeps : byte { Nothing, Opened, Period }

    /// <summary>An inclusion made ready for many decisions.</summary>
    /// <param name="Line">Which line of the promise it comes from.</param>
    /// <param name="ReadOnly">It opens a space to read in, and not to write.</param>
    /// <param name="IsBonus">It is a line of another plan's promise, that comes with this one.</param>
    sealed record Rule(Covers Covers, long Id, Reaches Reach, int Latest, Keeps Keep, Period? KeepFor, Pace? Pace, Period? Ends, Need[] Needs,
        short Line, bool IsBonus, bool ReadOnly);

    /// <summary>A version of a promise made ready.</summary>
    sealed record Promised(Rule[] Rules, IReadOnlyDictionary<PriceId, Pace> PaceOf)
    {
        public static Promised Of(IReadOnlyList<Inclusion> promise, IReadOnlyDictionary<PriceId, Pace> paceOf, IReadOnlyDictionary<PlanId, Plan> plans) =>
            new([.. Bonus.Unfold(promise, plans.GetValueOrDefault).Select(Compile)], paceOf);

        static Rule Compile(Unfolded unfolded)
        {
            var i = unfolded.Inclusion;
            var (covers, id) = i.Covers switch
            {
                Coverage.Everything => (Covers.Everything, 0L),
                Coverage.OnShelf s => (Covers.Shelf, s.Shelf.Value),
                Coverage.OnePiece p => (Covers.Piece, p.Piece.Value),
                Coverage.OneModule m => (Covers.Module, m.Module.Value),
                Coverage.OneLesson l => (Covers.Lesson, l.Lesson.Value),
                Coverage.OneTally t => (Covers.Tally, t.Tally.Value),
                Coverage.OneSpace s => (Covers.Space, s.Space.Value),
                Coverage.OneSeries s => (Covers.Live, s.Series.Value),
                _ => throw new InvalidOperationException($"No such coverage: {i.Covers}"),
            };
            var (reach, latest) = i.Reach switch
            {
                Reach.EverythingReleased => (Reaches.Everything, 0),
                Reach.FromJoining => (Reaches.Joining, 0),
                Reach.WhilePaid => (Reaches.Paid, 0),
                Reach.LastEditions last => (Reaches.Latest, last.Count),
                _ => throw new InvalidOperationException($"No such reach: {i.Reach}"),
            };
            var (keep, length) = i.Keep switch
            {
                Keep.Nothing => (Keeps.Nothing, (Period?)null),
                Keep.WhatHadOpened => (Keeps.Opened, null),
                Keep.ForPeriod p => (Keeps.Period, p.Length),
                _ => throw new InvalidOperationException($"No such keep: {i.Keep}"),
            };
            return new(covers, id, reach, latest, keep, length, i.Pace, i.Ends, [.. i.Needs ?? []], unfolded.Line, unfolded.IsBonus,
                i.Covers is Coverage.OneSpace { ReadOnly: true });
        }
    }
}
