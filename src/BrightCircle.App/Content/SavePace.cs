using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>For whom a piece's own pace is: one plan, one price, one cohort; everybody where all are null.</summary>
public sealed record PaceScope(PlanId? Plan = null, PriceId? Price = null, CohortId? Cohort = null)
{
    public bool IsOf(PieceTimeline t) => t.Plan == Plan && t.Price == Price && t.Cohort == Cohort;
}

/// <summary>Gives a piece a pace of its own, or takes it away.</summary>
public sealed class SavePace(BrightContext db, Ids ids, Catalogue catalogue)
{
    /// <summary>The timelines as they would be.</summary>
    public static IReadOnlyList<PieceTimeline> With(CatalogueSnapshot now, PieceId piece, PaceScope scope, Pace? pace, IReadOnlyDictionary<LessonId, int> moves)
    {
        var others = now.Paces.Timelines.Where(t => t.Piece != piece || !scope.IsOf(t));
        return pace is null ? [.. others] : [.. others, new(piece, scope.Plan, scope.Price, scope.Cohort, pace, moves)];
    }

    /// <param name="pace">Null for none of its own.</param>
    /// <param name="moves">Days from the anchor, of the parts moved by hand.</param>
    /// <param name="anew">All parts take their present places in the pattern; else what stood earlier once keeps its turn.</param>
    public async Task<Result> Do(TeamActor by, PieceId id, PaceScope scope, Pace? pace, IReadOnlyDictionary<LessonId, int> moves, bool anew,
        CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (!now.PieceById.TryGetValue(id, out var piece)) return OutlineWork.Gone;
        if (pace is not null && PaceLimits.Wrong(pace) is { } wrong) return Result.Refused(wrong, "Pace");
        if (moves.Values.Any(d => d is < 0 or > Pace.Most)) return Result.Refused($"A part opens 0 to {Pace.Most} days after the start.", "Moves");
        if (scope.Plan is { } plan && !now.PlanById.ContainsKey(plan) || scope.Price is { } price && !now.PriceById.ContainsKey(price)
            || scope.Cohort is { } cohort && now.Paces.CohortsOf[id].All(c => c.Id != cohort)) return Result.Refused("That isn’t here any more. Choose again.");
        var there = piece.Outline.Lessons.Select(l => l.Id).ToHashSet();
        var own = moves.Where(m => there.Contains(m.Key)).ToDictionary(m => m.Key, m => m.Value);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from pieces where id = {id.Value} for update", ct);
        var row = (await db.PiecePaces.Where(p => p.PieceId == id).ToListAsync(ct)).FirstOrDefault(p => scope.IsOf(p.Timeline));
        if (pace is null)
        {
            if (row is not null) db.Remove(row);
        }
        else if (row is not null) (row.Pace, row.Moves) = (pace, own);
        else db.Add(new PiecePace
        {
            Id = ids.Next(),
            PieceId = id,
            PlanId = scope.Plan,
            PriceId = scope.Price,
            CohortId = scope.Cohort,
            Pace = pace,
            Moves = own,
        });
        await db.SaveChangesAsync(ct);
        if (anew)
        {
            await db.Lessons.Where(l => l.PieceId == id && l.Step >= 0).ExecuteUpdateAsync(u => u.SetProperty(l => l.Step, -1), ct);
            await db.Modules.Where(m => m.PieceId == id && m.Step >= 0).ExecuteUpdateAsync(u => u.SetProperty(m => m.Step, -1), ct);
        }
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}

/// <summary>Where those who are on their way through a piece stand today.</summary>
public sealed class OnTheirWay(MemberReader reader, Catalogue catalogue, IClock clock)
{
    /// <summary>By days since they began, how many; of those to whom a part of it is still to open.</summary>
    public async Task<IReadOnlyList<(int Day, int People)>> Of(AccessBook book, Piece piece, PaceScope scope, CancellationToken ct)
    {
        var (now, at) = (catalogue.Now, clock.GetCurrentInstant());
        Core.Access.Thing[] lessons = [.. piece.Outline.Lessons.Select(l => (Core.Access.Thing)l.Id)];
        var plans = now.Book.PlansThatCover(piece.Id).Select(p => p.Id).ToArray();
        var days = new SortedDictionary<int, int>();
        if (plans.Length == 0 || lessons.Length == 0) return [];
        await foreach (var holder in reader.Holders(plans, ct))
        {
            var facts = holder.FactsAt(at);
            foreach (var l in lessons.AsEnumerable().Reverse())
            {
                var d = book.Decide(facts, l, at);
                if (d.Rule != AccessRule.Paced || book.TurnOf(facts, d, l) is not { } turn) continue;
                var held = facts.At(d.Holding);
                if (scope.Plan is { } p && held.PlanId != p || scope.Price is { } r && held.PriceId != r) break;
                var day = NodaTime.Period.DaysBetween(now.Calendar.Date(turn.Anchor), now.Calendar.Date(at));
                days[day] = days.GetValueOrDefault(day) + 1;
                break;
            }
        }
        return [.. days.Select(d => (d.Key, d.Value))];
    }
}
