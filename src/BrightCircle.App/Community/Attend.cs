using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Coming to live sessions.</summary>
public sealed class Attend(BrightContext db, Ids ids, Tell tell, Wake wake, IClock clock)
{
    /// <summary>So many questions each of them brings to a session.</summary>
    public const int MostQuestions = 10;

    /// <summary>Says that they come: with a seat, or waiting for one. Two who want the last seat at once: one gets it, the other waits.</summary>
    /// <returns>Whether there is a seat for them.</returns>
    public async Task<Result<bool>> Come(SessionReader by, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        if (!by.Confirmed) return Result.Refused(AskAndAnswer.Unproved);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await PlanSessions.Locked(db, by.Session.Id, ct) is not { } session) return PlanSessions.Gone;
        var at = clock.GetCurrentInstant();
        if (!session.IsAhead(at)) return PlanSessions.Over;
        var seat = await Seat(session, by, member, at, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return !seat.Waiting;
    }

    async Task<SessionPerson> Seat(LiveSession session, SessionReader by, MemberId member, Instant at, CancellationToken ct)
    {
        var known = await db.SessionPeople.FirstOrDefaultAsync(p => p.SessionId == session.Id && p.MemberId == member, ct);
        if (known is { WithdrawnAt: null }) return known;
        var waits = session.Seats is { } seats
            && await db.SessionPeople.CountAsync(p => p.SessionId == session.Id && p.WithdrawnAt == null && !p.Waiting, ct) >= seats;
        // Who comes back stands last again.
        if (known is not null) await db.SessionPeople.Where(p => p.SessionId == session.Id && p.MemberId == member).ExecuteDeleteAsync(ct);
        if (known is not null) db.Entry(known).State = EntityState.Detached;
        var person = db.Add(new SessionPerson { SessionId = session.Id, MemberId = member, At = at, Waiting = waits }).Entity;
        tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), new Event.SaidComing(session.Id, by.Title, session.StartsAt, waits), at);
        return person;
    }

    /// <summary>Says that they don’t come after all: whoever has waited longest gets the seat.</summary>
    public async Task<Result> StayAway(SessionReader by, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await PlanSessions.Locked(db, by.Session.Id, ct) is not { } session) return PlanSessions.Gone;
        var at = clock.GetCurrentInstant();
        if (!session.IsAhead(at)) return PlanSessions.Over;
        if (await db.SessionPeople.FirstOrDefaultAsync(p => p.SessionId == session.Id && p.MemberId == member && p.WithdrawnAt == null, ct) is not { } person)
            return Result.Done;
        person.WithdrawnAt = at;
        await db.SaveChangesAsync(ct);
        await PlanSessions.MoveUp(db, tell, session, by.Series, at, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Goes in: it is noted that they came, and they are led to the room.</summary>
    /// <returns>The room’s address.</returns>
    public async Task<Result<Uri>> Arrive(SessionReader by, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        if (by.IsOnlyLooking) return NotYours;
        if (!by.Session.DoorIsOpen(at) && !(by.IsTeam && by.Session.IsAhead(at))) return Result.Refused("The way in isn’t open now.");
        if (by.Session.Room is not { } room) return Result.Refused("It takes place elsewhere: there is no room to go into here.");
        if (by.Member is not { } member) return room;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await PlanSessions.Locked(db, by.Session.Id, ct) is not { } session) return PlanSessions.Gone;
        var person = await Seat(session, by, member, at, ct);
        if (person.Waiting) return Result.Refused("All seats are taken, and you are on the waiting list.");
        if (person.CameAt is null)
        {
            person.CameAt = at;
            tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), new Event.CameLive(session.Id, by.Title), at);
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return room;
    }

    /// <summary>Marks that somebody was there, or wasn’t.</summary>
    public async Task<Result> Mark(TeamActor by, LiveSessionId id, MemberId member, bool came, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await PlanSessions.Locked(db, id, ct) is not { } session) return PlanSessions.Gone;
        var at = clock.GetCurrentInstant();
        if (session.CancelledAt is not null || at < session.StartsAt - LiveSession.DoorBefore) return Result.Refused("It hasn’t begun yet.");
        if (await db.SessionPeople.FirstOrDefaultAsync(p => p.SessionId == id && p.MemberId == member, ct) is not { } person)
            return Result.Refused("They didn’t say that they come.");
        if (person.CameAt is not null == came) return Result.Done;
        person.CameAt = came ? at : null;
        person.MarkedBy = came ? by.Name : null;
        if (came)
        {
            (person.WithdrawnAt, person.Waiting) = (null, false);
            var series = await db.LiveSeries.AsNoTracking().SingleAsync(s => s.Id == session.SeriesId, ct);
            tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), new Event.CameLive(id, session.Titled(series)), at, by);
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Brings a question.</summary>
    public async Task<Result> Ask(SessionReader by, string? text, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        if (!by.Confirmed) return Result.Refused(AskAndAnswer.Unproved, "Text");
        if (!by.Session.IsAhead(clock.GetCurrentInstant())) return PlanSessions.Over;
        var words = text?.Trim() ?? "";
        if (words.Length is 0 or > SessionQuestion.MostText)
            return Result.Refused(words.Length == 0 ? "Write your question first." : $"{SessionQuestion.MostText:N0} letters are the most.", "Text");
        if (await db.SessionQuestions.CountAsync(q => q.SessionId == by.Session.Id && q.MemberId == member, ct) >= MostQuestions)
            return Result.Refused($"{MostQuestions} questions are the most for one session.", "Text");
        db.Add(new SessionQuestion { Id = ids.Next(), SessionId = by.Session.Id, MemberId = member, Text = words, At = clock.GetCurrentInstant() });
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes one’s own question back.</summary>
    public async Task<Result> TakeBack(SessionReader by, long question, CancellationToken ct)
    {
        if (by.Member is not { } member) return NotYours;
        return await db.SessionQuestions.Where(q => q.Id == question && q.SessionId == by.Session.Id && q.MemberId == member).ExecuteDeleteAsync(ct) > 0
            ? Result.Done : Result.Refused("That isn’t here any more.");
    }

    static Result NotYours => Result.Refused("Only members come to sessions; the team is there anyway.");
}
