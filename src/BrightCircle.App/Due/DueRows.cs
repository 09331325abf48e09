using System.Security.Cryptography;
using System.Text;
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

    /// <summary>The same at once, and nothing where it is there already: for what is told of from outside, or put in by anybody. It is about nothing here, so
    /// nothing waits for it.</summary>
    public static Task PutDueOnce(this BrightContext db, Ids ids, DueKind kind, Instant at, string key, string? payload, CancellationToken ct) =>
        db.Database.ExecuteSqlAsync($"""
            insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, payload, tries)
            values ({ids.Next()}, {kind.ToString()}, {ids.Next()}, 0, 0, {at}, {at}, {key}, {payload}::jsonb, 0) on conflict (key) do nothing
            """, ct);

    /// <summary>A key made of a reference from outside, however long that is.</summary>
    public static string KeyOf(string what, string reference) => $"{what}-{reference}" is { Length: <= MostKey } key ? key
        : $"{what}-{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(reference)))[..(MostKey - 20)]}";

    const int MostKey = 80;
}
