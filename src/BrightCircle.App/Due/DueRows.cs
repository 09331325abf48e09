using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Due;

public static class DueRows
{
    /// <summary>Puts something into what falls due.</summary>
    /// <param name="key">The same thing is never queued twice.</param>
    public static void PutDue(this BrightContext db, Ids ids, DueKind kind, long subject, Instant at, string key, string? payload = null) =>
        db.DueWork.Add(new() { Id = ids.Next(), Kind = kind, SubjectId = subject, DueAt = at, ReadyAt = at, Key = key, Payload = payload });

    /// <summary>The same at once, and nothing where it is there already.</summary>
    public static Task PutDueOnce(this BrightContext db, Ids ids, DueKind kind, long subject, Instant at, string key, CancellationToken ct) =>
        db.Database.ExecuteSqlAsync($"""
            insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, tries)
            values ({ids.Next()}, {kind.ToString()}, {subject}, 0, 0, {at}, {at}, {key}, 0) on conflict (key) do nothing
            """, ct);
}
