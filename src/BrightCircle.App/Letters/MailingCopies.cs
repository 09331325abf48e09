using System.Text.Json;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Puts copies of a letter to many into the outbox. A copy's key names what it is for: written twice, it goes once.</summary>
public sealed class MailingCopies(BrightContext db, MailingReaders readers)
{
    /// <summary>A copy for each, all in one statement.</summary>
    /// <param name="key">Of a member's copy.</param>
    /// <param name="notBefore">When a member's copy may go; null for at once.</param>
    /// <returns>How many were new.</returns>
    public async Task<int> Write(Mailing mailing, IReadOnlyList<Member> those, Func<Member, string> key, Func<Member, Instant?> notBefore, Instant at,
        CancellationToken ct)
    {
        if (those.Count == 0) return 0;
        var fields = await readers.Fields(mailing, those, ct);
        var (members, emails, names) = (those.Select(m => m.Id.Value).ToArray(), those.Select(m => m.Email).ToArray(), those.Select(m => m.Name).ToArray());
        var values = those.Select(m => JsonSerializer.Serialize(fields[m.Id])).ToArray();
        var (keys, later) = (those.Select(key).ToArray(), those.Select(notBefore).ToArray());
        return await db.Database.ExecuteSqlAsync($"""
            insert into letters (id, kind, member_id, to_address, to_name, fields, mailing_id, key, created_at, state, tries, not_before)
            select nextval('ids'), 'Many', m, email, name, fields::jsonb, {mailing.Id}, key, {at}, 'Queued', 0, not_before
            from unnest({members}, {emails}, {names}, {values}, {keys}, {later}) as l(m, email, name, fields, key, not_before)
            on conflict (key) do nothing
            """, ct);
    }
}
