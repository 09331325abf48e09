using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Learning;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>An hour as the team sees it.</summary>
public sealed record HourForTeam(HourBooking Hour, string Name);

/// <summary>Hours with a host alone: what is free, booked, moved, given back. That nobody is promised to two at once holds in the database, whoever is
/// quicker.</summary>
public sealed class BookHours(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, Tell tell, Wake wake, IClock clock)
{
    static void Need(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);

    /// <summary>When an hour can begin, the soonest first; and the member’s own that are ahead or going on.</summary>
    public async Task<(IReadOnlyList<Instant> Free, IReadOnlyList<HourBooking> Own)> Look(HourReader by, CancellationToken ct)
    {
        var (at, host, member) = (clock.GetCurrentInstant(), by.Series.HostId, by.Member);
        var trip = new OneTrip(db);
        var taken = trip.List(Taken(host, at).Select(h => new { h.Id, h.StartsAt, h.FreeAt }));
        var id = by.Series.Id;
        var own = trip.List(db.HourBookings.AsNoTracking().Where(h => h.SeriesId == id && h.MemberId == member && h.CancelledAt == null && h.EndsAt > at)
            .OrderBy(h => h.StartsAt));
        await trip.Ask(ct);
        return ([.. by.Times.Starts(by.Series.Minutes, catalogue.Now.Calendar, at, [.. taken.Value.Select(t => new Interval(t.StartsAt, t.FreeAt))])],
            own.Value);
    }

    /// <summary>All of a member’s own that are ahead or going on, whatever they are about.</summary>
    public async Task<IReadOnlyList<HourBooking>> OwnAhead(MemberId member, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        return await db.HourBookings.AsNoTracking().Where(h => h.MemberId == member && h.CancelledAt == null && h.EndsAt > at).OrderBy(h => h.StartsAt)
            .ToListAsync(ct);
    }

    /// <summary>Theirs as they stand in a calendar: what was called off lately too, so that it is seen to be.</summary>
    public async Task<IReadOnlyList<CalendarHour>> InCalendar(MemberId member, CancellationToken ct)
    {
        var since = clock.GetCurrentInstant() - Duration.FromDays(60);
        var hours = await db.HourBookings.AsNoTracking().Where(h => h.MemberId == member && h.EndsAt > since).OrderBy(h => h.StartsAt).ToListAsync(ct);
        return hours.ConvertAll(h =>
        {
            var news = News(h, HourNewsKind.Booked);
            return new CalendarHour(h.Id, news.Title, h.StartsAt, h.Minutes, h.Sequence, news.Place, $"/sessions/hours/{h.SeriesId.Value}",
                h.CancelledAt is not null);
        });
    }

    IQueryable<HourBooking> Taken(long? host, Instant at) =>
        db.HourBookings.AsNoTracking().Where(h => h.HostId == host && h.CancelledAt == null && h.FreeAt > at);

    /// <summary>Books an hour.</summary>
    /// <param name="about">What they want to talk about.</param>
    public async Task<Result<long>> Book(HourReader by, Instant start, string? about, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        if (!by.Confirmed) return Result.Refused(AskAndAnswer.Unproved);
        var words = about?.Trim() ?? "";
        if (words.Length > HourBooking.MostAbout) return Result.Refused($"{HourBooking.MostAbout} letters are the most.", "About");
        var (at, id) = (clock.GetCurrentInstant(), by.Series.Id);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await InTurn(by, member, ct);
        if (await db.Members.SingleOrDefaultAsync(m => m.Id == member, ct) is not { } person) return NotYours;
        if (await db.HourBookings.CountAsync(h => h.SeriesId == id && h.MemberId == member && h.CancelledAt == null && h.EndsAt > at, ct) >= by.Times.MostEach)
            return Result.Refused(by.Times.MostEach == 1 ? "You have one already. Move it, or give it back first."
                : $"You have {by.Times.MostEach} already. Give one back first.");
        if (!await Offers(by, start, null, at, ct)) return Result.Refused(NotFree);
        var hour = db.Add(new HourBooking
        {
            Id = ids.Next(),
            SeriesId = id,
            HostId = by.Series.HostId,
            MemberId = member,
            At = at,
            Place = by.Series.Place,
            About = words,
        }).Entity;
        Set(hour, by, start);
        Near(hour, at);
        tell.Of(person, News(hour, HourNewsKind.Booked), at);
        if (await Save(ct) is { } refused) return refused;
        await transaction.CommitAsync(ct);
        wake.Up();
        return hour.Id;
    }

    /// <summary>Takes another time, as long as it hasn’t begun.</summary>
    public async Task<Result> Move(HourReader by, long hour, Instant start, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await InTurn(by, member, ct);
        if (await Own(by, hour, ct) is not { } own) return Gone;
        if (!own.IsAhead(at)) return Over;
        if (own.StartsAt == start) return Result.Done;
        if (!await Offers(by, start, own.Id, at, ct)) return Result.Refused(NotFree);
        Set(own, by, start);
        own.Sequence++;
        Near(own, at);
        tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), News(own, HourNewsKind.Moved), at);
        if (await Save(ct) is { } refused) return refused;
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Gives an hour back, as long as it hasn’t begun.</summary>
    public async Task<Result> GiveBack(HourReader by, long hour, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Own(by, hour, ct) is not { } own) return Gone;
        if (!own.IsAhead(at)) return Over;
        (own.CancelledAt, own.Sequence) = (at, own.Sequence + 1);
        tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), News(own, HourNewsKind.GaveBack), at);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Goes in: it is noted that they came.</summary>
    /// <returns>The room’s address.</returns>
    public async Task<Result<Uri>> Arrive(HourReader by, long hour, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        if (by.Member is null) return NotYours;
        if (await Own(by, hour, ct) is not { } own) return Gone;
        if (!own.DoorIsOpen(at)) return Result.Refused("The way in isn’t open now.");
        if (LiveSession.RoomOf(own.Place) is not { } room) return Result.Refused("It takes place elsewhere: there is no room to go into here.");
        own.CameAt ??= at;
        await db.SaveChangesAsync(ct);
        return room;
    }

    /// <summary>The hours of a series for the team: those ahead, the soonest first; the latest of those that were; and who of the team can be the
    /// host.</summary>
    public async Task<(IReadOnlyList<HourForTeam> Ahead, IReadOnlyList<HourForTeam> Were, IReadOnlyList<(long Id, string Name)> Team)> ForTeam(LiveSeriesId
        id, int most, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var all = db.HourBookings.AsNoTracking().Where(h => h.SeriesId == id);
        var trip = new OneTrip(db);
        var ahead = trip.List(all.Where(h => h.CancelledAt == null && h.EndsAt > at).OrderBy(h => h.StartsAt).Take(most)
            .Join(db.Members, h => h.MemberId, m => m.Id, (h, m) => new { Hour = h, m.Name }));
        var were = trip.List(all.Where(h => h.CancelledAt == null && h.EndsAt <= at).OrderByDescending(h => h.StartsAt).Take(most)
            .Join(db.Members, h => h.MemberId, m => m.Id, (h, m) => new { Hour = h, m.Name }));
        var team = trip.List(db.Users.Where(a => a.Role != null).OrderBy(a => a.Name).Select(a => new { a.Id, a.Name }));
        await trip.Ask(ct);
        return ([.. ahead.Value.OrderBy(x => x.Hour.StartsAt).Select(x => new HourForTeam(x.Hour, x.Name))],
            [.. were.Value.OrderByDescending(x => x.Hour.StartsAt).Select(x => new HourForTeam(x.Hour, x.Name))],
            team.Value.ConvertAll(a => (a.Id, a.Name)));
    }

    /// <summary>The team can’t: whoever has the hour is told, with its words.</summary>
    public async Task<Result> Cancel(TeamActor by, long hour, string? why, CancellationToken ct)
    {
        Need(by);
        var words = why?.Trim() ?? "";
        if (words.Length > LiveSession.MostWhy) return Result.Refused($"{LiveSession.MostWhy} letters are the most.");
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(hour, ct) is not { } found) return Gone;
        if (!found.IsAhead(at)) return Over;
        (found.CancelledAt, found.Sequence) = (at, found.Sequence + 1);
        var member = await db.Members.SingleAsync(m => m.Id == found.MemberId, ct);
        tell.Of(member, News(found, HourNewsKind.Cancelled, words), at, by);
        deeds.Note(by, $"cancelled an hour of {member.Name}", $"/desk/sessions/series/{found.SeriesId.Value}/hours");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Marks that somebody was there, or wasn’t.</summary>
    public async Task<Result> Mark(TeamActor by, long hour, bool came, CancellationToken ct)
    {
        Need(by);
        var at = clock.GetCurrentInstant();
        var when = came ? at : (Instant?)null;
        return await db.HourBookings.Where(h => h.Id == hour && h.CancelledAt == null && h.StartsAt <= at)
            .ExecuteUpdateAsync(u => u.SetProperty(h => h.CameAt, when), ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>One after the other for a member, and for a host. The rules of the database that nobody is in two hours at once would each wait for the
    /// other’s row where two came at the very same moment, and one of them would be stopped as a deadlock.</summary>
    async Task InTurn(HourReader by, MemberId member, CancellationToken ct)
    {
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        if (by.Series.HostId is { } host) await db.Database.ExecuteSqlAsync($"select 1 from accounts where id = {host} for no key update", ct);
    }

    async Task<bool> Offers(HourReader by, Instant start, long? beside, Instant at, CancellationToken ct)
    {
        var taken = await Taken(by.Series.HostId, at).Where(h => h.Id != beside).Select(h => new { h.StartsAt, h.FreeAt }).ToListAsync(ct);
        return by.Times.Offers(start, by.Series.Minutes, catalogue.Now.Calendar, at, taken.ConvertAll(t => new Interval(t.StartsAt, t.FreeAt)));
    }

    static void Set(HourBooking hour, HourReader by, Instant start)
    {
        var ends = start + Duration.FromMinutes(by.Series.Minutes);
        (hour.StartsAt, hour.EndsAt, hour.FreeAt) = (start, ends, ends + Duration.FromMinutes(by.Times.BufferMinutes));
    }

    void Near(HourBooking hour, Instant at) => HourNear.Put(db, ids, hour, at);

    async Task<HourBooking?> Own(HourReader by, long hour, CancellationToken ct) =>
        await Locked(hour, ct) is { } found && found.SeriesId == by.Series.Id && found.MemberId == by.Member && found.CancelledAt is null ? found : null;

    async Task<HourBooking?> Locked(long hour, CancellationToken ct) =>
        (await db.HourBookings.FromSql($"select * from hour_bookings where id = {hour} for update").AsTracking().ToListAsync(ct)).FirstOrDefault();

    Event.HourNews News(HourBooking hour, HourNewsKind what, string words = "") => HourNear.News(catalogue.Now, hour, what, words);

    async Task<Result?> Save(CancellationToken ct)
    {
        try
        {
            await db.SaveChangesAsync(ct);
            return null;
        }
        catch (DbUpdateException e) when (Unique.Overlaps(e) is { } rule)
        {
            return Result.Refused(rule == "ex_hour_bookings_member" ? "You are in another hour at that time." : NotFree);
        }
    }

    const string NotFree = "That time isn’t free any more. Choose another.";
    static Result NotYours => Result.Refused("Only members have hours.");
    static Result Gone => Result.Refused("This hour isn’t here any more.");
    static Result Over => Result.Refused("It has begun already.");
}

/// <summary>Reminds whoever has an hour with a host: a day before, and some minutes before.</summary>
public sealed class HourNear(BrightContext db, Tell tell, Catalogue catalogue) : IDueHandler
{
    sealed record What(int Sequence, HourNewsKind News);

    public DueKind Kind => DueKind.HourNear;

    internal static void Put(BrightContext db, Ids ids, HourBooking hour, Instant at)
    {
        foreach (var (news, before) in new[] { (HourNewsKind.Tomorrow, LiveSession.DayBefore), (HourNewsKind.Soon, LiveSession.SoonBefore) })
            if (hour.StartsAt - before > at)
                db.PutDue(ids, DueKind.HourNear, hour.Id, hour.StartsAt - before, $"hour-{news.ToString().ToLowerInvariant()}-{hour.Id}-{hour.Sequence}",
                    JsonSerializer.Serialize(new What(hour.Sequence, news), CoreJson.Options));
    }

    internal static Event.HourNews News(CatalogueSnapshot now, HourBooking hour, HourNewsKind what, string words = "")
    {
        var series = now.Community.SeriesById[hour.SeriesId];
        return new(hour.Id, hour.SeriesId, series.Host.Length > 0 ? $"{series.Name} with {series.Host}" : series.Name, hour.StartsAt, hour.Minutes,
            hour.Sequence,
            what, LiveSession.RoomOf(hour.Place) is null ? hour.Place : "", words);
    }

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var (what, id) = (JsonSerializer.Deserialize<What>(item.Row.Payload!, CoreJson.Options)!, item.Row.SubjectId);
            var hour = await db.HourBookings.AsNoTracking().FirstOrDefaultAsync(h => h.Id == id, ct);
            // It was moved or called off meanwhile; or the reminder comes too late to be one.
            if (hour is null || hour.CancelledAt is not null || hour.Sequence != what.Sequence
                || item.Moment >= (what.News == HourNewsKind.Tomorrow ? hour.StartsAt - LiveSession.SoonBefore : hour.StartsAt)) continue;
            tell.Of(await db.Members.SingleAsync(m => m.Id == hour.MemberId, ct), News(catalogue.Now, hour, what.News), item.Moment);
            happened.Add("reminded of an hour");
        }
    }
}
