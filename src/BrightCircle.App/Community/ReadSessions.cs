using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>How many come to a session, and whether one does oneself.</summary>
/// <param name="Coming">With a seat.</param>
/// <param name="Own">Null where they said nothing, or took it back.</param>
public sealed record SessionFigures(int Coming, int Waiting, int Came, int Questions, OwnComing? Own)
{
    public static SessionFigures None { get; } = new(0, 0, 0, 0, null);
    /// <summary>How many more can come; null for as many as like.</summary>
    public int? Free(int? seats) => seats is { } most ? Math.Max(0, most - Coming) : null;
}

public sealed record OwnComing(bool Waiting, Instant? CameAt);

/// <summary>Somebody at a session, as the team sees them.</summary>
public sealed record SessionGuest(MemberId Id, string Name, bool Waiting, bool Withdrawn, Instant? CameAt, string? MarkedBy);

public sealed record AskedAtSession(long Id, MemberId Member, string Name, string Text, Instant At);

/// <summary>What is known of live sessions beside the catalogue: who comes, and what they ask.</summary>
public sealed class ReadSessions(BrightContext db)
{
    /// <summary>So many people of a session are listed.</summary>
    public const int MostPeople = 500;

    sealed record Row(long Id, int Coming, int Waiting, int Came, int Questions, bool? OwnWaits, Instant? OwnCame);

    /// <param name="sessions">Only those that are open to whoever asks.</param>
    /// <param name="member">Null for the team.</param>
    public async Task<IReadOnlyDictionary<LiveSessionId, SessionFigures>> Of(IReadOnlyCollection<LiveSessionId> sessions, MemberId? member,
        CancellationToken ct)
    {
        if (sessions.Count == 0) return new Dictionary<LiveSessionId, SessionFigures>();
        var (those, me) = (sessions.Select(s => s.Value).ToArray(), member?.Value ?? 0);
        var rows = await db.Database.SqlQuery<Row>($"""
            select s.id, coalesce(p.coming, 0)::int as coming, coalesce(p.waiting, 0)::int as waiting, coalesce(p.came, 0)::int as came,
                (select count(*) from session_questions q where q.session_id = s.id)::int as questions, o.waiting as own_waits, o.came_at as own_came
            from unnest({those}) as s(id)
            left join lateral (select count(*) filter (where withdrawn_at is null and not waiting) as coming,
                count(*) filter (where withdrawn_at is null and waiting) as waiting, count(came_at) as came
                from session_people where session_id = s.id) p on true
            left join session_people o on o.session_id = s.id and o.member_id = {me} and o.withdrawn_at is null
            """).ToListAsync(ct);
        return rows.ToDictionary(r => new LiveSessionId(r.Id),
            r => new SessionFigures(r.Coming, r.Waiting, r.Came, r.Questions, r.OwnWaits is { } waits ? new(waits, r.OwnCame) : null));
    }

    /// <summary>One session, with one’s own questions.</summary>
    public async Task<(SessionFigures Figures, IReadOnlyList<SessionQuestion> Questions)> One(SessionReader by, CancellationToken ct)
    {
        var (id, me) = (by.Session.Id, by.Member);
        var trip = new OneTrip(db);
        var people = trip.List(db.SessionPeople.AsNoTracking().Where(p => p.SessionId == id && p.WithdrawnAt == null).GroupBy(p => p.Waiting)
            .Select(g => new { Waiting = g.Key, Count = g.Count() }));
        var own = trip.List(db.SessionPeople.AsNoTracking().Where(p => p.SessionId == id && p.MemberId == me && p.WithdrawnAt == null));
        var questions = trip.List(db.SessionQuestions.AsNoTracking().Where(q => q.SessionId == id && q.MemberId == me).OrderBy(q => q.Id));
        var asked = trip.Count(db.SessionQuestions.Where(q => q.SessionId == id));
        await trip.Ask(ct);
        int Of(bool waiting) => people.Value.Where(p => p.Waiting == waiting).Sum(p => p.Count);
        return (new(Of(false), Of(true), 0, asked.Value, own.Value.FirstOrDefault() is { } o ? new(o.Waiting, o.CameAt) : null), questions.Value);
    }

    /// <summary>For the team: who comes, who waits, who was there, and what they ask.</summary>
    public async Task<(IReadOnlyList<SessionGuest> People, int Count, IReadOnlyList<AskedAtSession> Questions)> ForTeam(LiveSessionId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var all = db.SessionPeople.AsNoTracking().Where(p => p.SessionId == id);
        var people = trip.List(all.OrderBy(p => p.WithdrawnAt != null).ThenBy(p => p.Waiting).ThenBy(p => p.At).ThenBy(p => p.MemberId).Take(MostPeople)
            .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Person = p, m.Name }));
        var count = trip.Count(all);
        var questions = trip.List(db.SessionQuestions.AsNoTracking().Where(q => q.SessionId == id).OrderBy(q => q.Id).Take(MostPeople)
            .Join(db.Members, q => q.MemberId, m => m.Id, (q, m) => new { Question = q, m.Name }));
        await trip.Ask(ct);
        return ([.. people.Value.OrderBy(x => x.Person.WithdrawnAt != null).ThenBy(x => x.Person.Waiting).ThenBy(x => x.Person.At)
            .Select(x => new SessionGuest(x.Person.MemberId, x.Name, x.Person.Waiting, x.Person.WithdrawnAt is not null, x.Person.CameAt, x.Person.MarkedBy))],
            count.Value,
            [.. questions.Value.OrderBy(x => x.Question.Id).Select(x => new AskedAtSession(x.Question.Id, x.Question.MemberId, x.Name, x.Question.Text,
                x.Question.At))]);
    }
}
