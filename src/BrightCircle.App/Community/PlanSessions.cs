using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Sessions as they are typed, one or many in one act.</summary>
/// <param name="StartsAt">In the site’s time.</param>
/// <param name="Count">How many in all.</param>
public sealed record SessionsDraft(string? Title, string? StartsAt, SessionRepeat Repeat, string? Count);

/// <summary>One session as it is changed.</summary>
public sealed record SessionDraft(string? Title, string? StartsAt, string? Minutes, string? Place, string? Seats);

/// <summary>Live sessions: planned, moved, cancelled. Whoever comes is told.</summary>
public sealed class PlanSessions(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, Tell tell, Wake wake, IClock clock)
{
    static void Need(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);

    /// <summary>Plans sessions of a series; each takes over where and how long the series’ are.</summary>
    /// <returns>How many.</returns>
    public async Task<Result<int>> Make(TeamActor by, LiveSeriesId id, SessionsDraft draft, CancellationToken ct)
    {
        Need(by);
        if (await db.LiveSeries.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, ct) is not { } series)
            return Result.Refused("These sessions aren’t here any more.");
        if (series.ClosedAt is not null) return Result.Refused("Nothing more is planned here. Open it again first.");
        var title = draft.Title?.Trim() ?? "";
        if (title.Length > LiveSeries.MostName) return Result.Refused($"{LiveSeries.MostName} letters are the most.", "Title");
        if (!Enum.IsDefined(draft.Repeat)) return Result.Refused("Choose how they follow each other.", "Repeat");
        var count = 1;
        if (draft.Repeat != SessionRepeat.Once && (!int.TryParse(draft.Count, System.Globalization.CultureInfo.InvariantCulture, out count)
            || count is < 1 or > SessionDays.Most)) return Result.Refused($"From 1 to {SessionDays.Most} are made at once.", "Count");
        var at = clock.GetCurrentInstant();
        var begins = Begins(draft.StartsAt, at);
        if (!begins.Ok) return Result.Refused(begins.Refusal!, begins.Field);
        Instant[] moments = [.. SessionDays.From(begins.Value, draft.Repeat, count).Select(catalogue.Now.Calendar.At)];
        var there = catalogue.Now.Community.Sessions.Where(s => s.SeriesId == id && s.CancelledAt is null).Select(s => s.StartsAt).ToHashSet();
        if (moments.Any(there.Contains))
            return Result.Refused($"One begins at {catalogue.Now.Calendar.Local(moments.First(there.Contains)).ToString("HH:mm 'on' d MMMM uuuu",
                catalogue.Now.Culture)} already.", "StartsAt");
        foreach (var moment in moments)
        {
            var session = db.Add(new LiveSession
            {
                Id = ids.Next<LiveSessionId>(),
                SeriesId = id,
                Title = title,
                StartsAt = moment,
                Minutes = series.Minutes,
                Place = series.Place,
                Seats = series.Seats,
            }).Entity;
            SessionNear.Put(db, ids, session, at);
        }
        deeds.Note(by, $"planned {(moments.Length == 1 ? "a session" : $"{moments.Length} sessions")} of {series.Name}", $"/desk/sessions/series/{id.Value}");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return moments.Length;
    }

    Result<LocalDateTime> Begins(string? typed, Instant at) =>
        !LocalInput.TryReadMoment(typed, out var local) ? Result.Refused("Say on which day and when it begins.", "StartsAt")
            : local.Year > 9000 || catalogue.Now.Calendar.At(local) <= at ? Result.Refused("That is over already.", "StartsAt") : local;

    /// <summary>Changes a session that is ahead. Whoever comes is told where its time, its length or its place changed.</summary>
    public async Task<Result> Change(TeamActor by, LiveSessionId id, SessionDraft draft, CancellationToken ct)
    {
        Need(by);
        var title = draft.Title?.Trim() ?? "";
        if (title.Length > LiveSeries.MostName) return Result.Refused($"{LiveSeries.MostName} letters are the most.", "Title");
        var where = SessionFields.Read(draft.Place, draft.Minutes, draft.Seats);
        if (!where.Ok) return Result.Refused(where.Refusal!, where.Field);
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(db, id, ct) is not { } session) return Gone;
        if (!session.IsAhead(at)) return Over;
        var starts = session.StartsAt;
        // What wasn’t touched stays, also while it is going on.
        if (!LocalInput.TryReadMoment(draft.StartsAt, out var typed) || typed != Minute(catalogue.Now.Calendar.Local(session.StartsAt)))
        {
            var begins = Begins(draft.StartsAt, at);
            if (!begins.Ok) return Result.Refused(begins.Refusal!, begins.Field);
            starts = catalogue.Now.Calendar.At(begins.Value);
        }
        var (place, minutes, seats) = (where.Value!.Place, where.Value.Minutes, where.Value.Seats);
        var moved = starts != session.StartsAt || minutes != session.Minutes || place != session.Place;
        (session.Title, session.StartsAt, session.Minutes, session.Place, session.Seats) = (title, starts, minutes, place, seats);
        if (moved)
        {
            session.Sequence++;
            SessionNear.Put(db, ids, session, at);
            await TellAll(session, SessionNewsKind.Moved, "", at, ct);
        }
        var series = await db.LiveSeries.AsNoTracking().SingleAsync(s => s.Id == session.SeriesId, ct);
        await MoveUp(db, tell, session, series, at, ct);
        deeds.Note(by, $"changed the session {session.Titled(series)}", $"/desk/sessions/{id.Value}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        wake.Up();
        return Result.Done;
    }

    static LocalDateTime Minute(LocalDateTime t) => t.Date + new LocalTime(t.Hour, t.Minute);

    /// <summary>It doesn’t take place. Whoever comes is told, with the words of the team.</summary>
    public async Task<Result> Cancel(TeamActor by, LiveSessionId id, string? why, CancellationToken ct)
    {
        Need(by);
        var words = why?.Trim() ?? "";
        if (words.Length > LiveSession.MostWhy) return Result.Refused($"{LiveSession.MostWhy} letters are the most.", "Why");
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(db, id, ct) is not { } session) return Gone;
        if (!session.IsAhead(at)) return Over;
        (session.CancelledAt, session.Why, session.Sequence) = (at, words, session.Sequence + 1);
        await TellAll(session, SessionNewsKind.Cancelled, words, at, ct);
        deeds.Note(by, "cancelled a session", $"/desk/sessions/{id.Value}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Takes away a session to which nobody said anything.</summary>
    public async Task<Result> Remove(TeamActor by, LiveSessionId id, CancellationToken ct)
    {
        Need(by);
        if (await db.SessionPeople.AnyAsync(p => p.SessionId == id, ct) || await db.SessionQuestions.AnyAsync(q => q.SessionId == id, ct))
            return Result.Refused("People have said something to it. Cancel it, so that they are told.");
        if (await db.LiveSessions.Where(s => s.Id == id).ExecuteDeleteAsync(ct) == 0) return Gone;
        await catalogue.Changed(ct);
        return Result.Done;
    }

    async Task TellAll(LiveSession session, SessionNewsKind what, string words, Instant at, CancellationToken ct)
    {
        var series = await db.LiveSeries.AsNoTracking().SingleAsync(s => s.Id == session.SeriesId, ct);
        foreach (var member in await db.SessionPeople.Where(p => p.SessionId == session.Id && p.WithdrawnAt == null)
            .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => m).OrderBy(m => m.Id).ToListAsync(ct))
            tell.Of(member, new Event.SessionNews(session.Id, session.Titled(series), session.StartsAt, session.Minutes, what, words), at);
    }

    /// <summary>Who comes and who waits is a session’s own: one after the other.</summary>
    internal static async Task<LiveSession?> Locked(BrightContext db, LiveSessionId id, CancellationToken ct) =>
        (await db.LiveSessions.FromSql($"select * from live_sessions where id = {id.Value} for update").AsTracking().ToListAsync(ct)).FirstOrDefault();

    /// <summary>Whoever has waited longest gets what is free, and is told.</summary>
    internal static async Task MoveUp(BrightContext db, Tell tell, LiveSession session, LiveSeries series, Instant at, CancellationToken ct)
    {
        var taken = await db.SessionPeople.CountAsync(p => p.SessionId == session.Id && p.WithdrawnAt == null && !p.Waiting, ct);
        var free = session.Seats is { } seats ? seats - taken : int.MaxValue;
        if (free <= 0) return;
        foreach (var next in await db.SessionPeople.Where(p => p.SessionId == session.Id && p.WithdrawnAt == null && p.Waiting).OrderBy(p => p.At)
            .ThenBy(p => p.MemberId).Take(free).ToListAsync(ct))
        {
            next.Waiting = false;
            if (await db.Members.FirstOrDefaultAsync(m => m.Id == next.MemberId, ct) is { } member)
                tell.Of(member, new Event.SessionNews(session.Id, session.Titled(series), session.StartsAt, session.Minutes, SessionNewsKind.GotSeat), at);
        }
    }

    internal static Result Gone => Result.Refused("This session isn’t here any more.");
    internal static Result Over => Result.Refused("It is over, or doesn’t take place.");
}

/// <summary>Reminds whoever comes to a live session: a day before, and some minutes before.</summary>
public sealed class SessionNear(BrightContext db, Tell tell, Catalogue catalogue, MemberReader reader) : IDueHandler
{
    sealed record What(int Sequence, SessionNewsKind News);

    public DueKind Kind => DueKind.SessionNear;

    /// <summary>Puts in the reminders that are still ahead, for the session as it stands now.</summary>
    public static void Put(BrightContext db, Ids ids, LiveSession session, Instant at)
    {
        foreach (var (news, before) in new[] { (SessionNewsKind.Tomorrow, LiveSession.DayBefore), (SessionNewsKind.Soon, LiveSession.SoonBefore) })
            if (session.StartsAt - before > at)
                db.PutDue(ids, DueKind.SessionNear, session.Id.Value, session.StartsAt - before,
                    $"session-{news.ToString().ToLowerInvariant()}-{session.Id.Value}-{session.Sequence}",
                    JsonSerializer.Serialize(new What(session.Sequence, news), CoreJson.Options));
    }

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var what = JsonSerializer.Deserialize<What>(item.Row.Payload!, CoreJson.Options)!;
            var id = new LiveSessionId(item.Row.SubjectId);
            var session = await db.LiveSessions.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, ct);
            // It was moved or called off meanwhile; or the reminder comes too late to be one.
            if (session is null || session.CancelledAt is not null || session.Sequence != what.Sequence
                || item.Moment >= (what.News == SessionNewsKind.Tomorrow ? session.StartsAt - LiveSession.SoonBefore : session.StartsAt)) continue;
            var series = await db.LiveSeries.AsNoTracking().SingleAsync(s => s.Id == session.SeriesId, ct);
            foreach (var member in await db.SessionPeople.Where(p => p.SessionId == id && p.WithdrawnAt == null && !p.Waiting)
                .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => m).OrderBy(m => m.Id).ToListAsync(ct))
            {
                // Who holds it no longer isn't reminded of what is closed to them.
                if (await reader.Load(member.Id.Value, ct) is not { } who || !catalogue.Now.Book.Decide(who.FactsAt(item.Moment), series.Id,
                    item.Moment).IsOpen)
                    continue;
                tell.Of(member, new Event.SessionNews(id, session.Titled(series), session.StartsAt, session.Minutes, what.News), item.Moment);
                happened.Add("reminded of a session");
            }
        }
    }
}
