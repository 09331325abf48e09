using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>One week with its letters, one for each series at most.</summary>
public sealed record SeriesWeek(IsoWeek Week, IReadOnlyDictionary<long, Mailing> Letters);

/// <summary>Letters that come again: their names, their usual day, and the weeks around now.</summary>
public sealed class SeriesOfLetters(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    /// <summary>The weeks around now, and the letters that stand by themselves, the latest first.</summary>
    public async Task<(IReadOnlyList<SeriesWeek> Weeks, IReadOnlyList<Mailing> Letters, int Count)> Board(int page, int size, CancellationToken ct)
    {
        var week = IsoWeek.Of(catalogue.Now.Calendar.Date(clock.GetCurrentInstant()));
        var (from, to) = (week.Plus(-3).Monday, week.Plus(1).Monday);
        var trip = new OneTrip(db);
        var around = trip.List(db.Mailings.AsNoTracking().Where(m => m.SeriesId != null && m.Week >= from && m.Week <= to).OrderBy(m => m.Id));
        var all = db.Mailings.AsNoTracking().Where(m => m.RoutineId == null);
        var count = trip.Count(all);
        var rows = trip.List(all.OrderByDescending(m => m.BegunAt ?? Instant.MaxValue).ThenByDescending(m => m.Id).Skip((page - 1) * size).Take(size));
        await trip.Ask(ct);
        return ([.. Enumerable.Range(-3, 5).Select(i => week.Plus(i)).Select(w => new SeriesWeek(w, around.Value.Where(m => m.Week == w.Monday)
            .GroupBy(m => m.SeriesId!.Value).ToDictionary(g => g.Key, g => g.Last())))], rows.Value, count.Value);
    }

    /// <param name="id">Null for a new one.</param>
    public async Task<Result<long>> Save(TeamActor by, long? id, string? name, int day, LocalTime at, AudienceId? audience, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor);
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > LetterSeries.MostName) return Result.Refused($"A series needs a name of {LetterSeries.MostName} letters at most.", "Name");
        if (day is < 1 or > 7) return Result.Refused("Choose a day of the week.", "Day");
        if (audience is { } a && !catalogue.Now.People.AudienceById.ContainsKey(a)) return Result.Refused("This audience isn’t there any more.", "Audience");
        var now = catalogue.Now.People.Series;
        if (id is null && now.Count >= 6) return Result.Refused("Six series are the most: members would have to choose among more.", "Name");
        var series = id is { } known ? await db.LetterSeries.FirstOrDefaultAsync(s => s.Id == known, ct)
            : db.Add(new LetterSeries { Id = ids.Next(), Order = now.Count == 0 ? 1 : now.Max(s => s.Order) + 1 }).Entity;
        if (series is null) return Result.Refused("This series isn’t here any more.");
        (series.Name, series.Day, series.At, series.AudienceId) = (name, day, at, audience);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a series called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return series.Id;
    }

    /// <summary>Takes away a series no letter belongs to.</summary>
    public async Task<Result> Remove(TeamActor by, long id, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor);
        if (await db.Mailings.AnyAsync(m => m.SeriesId == id, ct)) return Result.Refused("Letters belong to it; it stays.");
        if (await db.LetterSeries.Where(s => s.Id == id).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This series isn’t here any more.");
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>When the letter of a week usually goes.</summary>
    public static LocalDateTime Usual(LetterSeries series, IsoWeek week) => week.Monday.PlusDays(series.Day - 1).At(series.At);

    /// <summary>A member wants a series again, or no more.</summary>
    public async Task Want(MemberId member, long series, bool wants, CancellationToken ct)
    {
        if (wants) await db.SeriesRefusals.Where(r => r.MemberId == member && r.SeriesId == series).ExecuteDeleteAsync(ct);
        else
            await db.Database.ExecuteSqlAsync($"""
                insert into series_refusals (member_id, series_id, at) select {member.Value}, id,
                    {clock.GetCurrentInstant()} from letter_series where id = {series}
                on conflict do nothing
                """, ct);
    }

    /// <summary>The series a member asked to have no more of, and whether they take letters about what is said in spaces.</summary>
    public async Task<(IReadOnlySet<long> Refused, bool WantsTalk)> WishesOf(MemberId member, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var refused = trip.List(db.SeriesRefusals.Where(r => r.MemberId == member).Select(r => r.SeriesId));
        var talk = trip.List(db.Members.Where(m => m.Id == member).Select(m => m.WantsTalk));
        await trip.Ask(ct);
        return (refused.Value.ToHashSet(), talk.Value.FirstOrDefault());
    }
}
