using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Due;

public static class DueRows
{
    /// <summary>Puts something into what falls due.</summary>
    /// <param name="key">The same thing is never queued twice.</param>
    public static void PutDue(this BrightContext db, Ids ids, DueKind kind, long subject, Instant at, string key, string? payload = null) =>
        db.DueWork.Add(new() { Id = ids.Next(), Kind = kind, SubjectId = subject, DueAt = at, ReadyAt = at, Key = key, Payload = payload });
}
