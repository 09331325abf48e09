using System.Text.Json;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>What came of what another program told.</summary>
public enum ProgramHeard { Done, NotReadable, Nobody }

/// <summary>Another program tells of a member. It stands in their journal, and routines that listen for its name hear it.</summary>
public sealed class HearProgram(BrightContext db, Tell tell, IClock clock)
{
    sealed record Said(string? Name, string? Email, string? Reference);
    const int MostReference = 80;

    /// <param name="body">JSON: a name as it was agreed, the member’s address, and a reference by which the same is known again; without one it counts each
    /// time.</param>
    public async Task<ProgramHeard> Take(ReadOnlyMemory<byte> body, CancellationToken ct)
    {
        Said? said;
        try
        {
            said = JsonSerializer.Deserialize<Said>(body.Span, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return ProgramHeard.NotReadable;
        }
        var (name, reference) = (said?.Name?.Trim() ?? "", said?.Reference?.Trim() ?? "");
        if (name.Length is 0 or > Trigger.Reported.MostName || reference.Length > MostReference || !EmailAddress.TryRead(said?.Email, out var address)
            || (name + reference).Any(char.IsControl)) return ProgramHeard.NotReadable;
        var normal = EmailAddress.Normalise(address);
        var id = await db.Users.Where(a => a.NormalizedEmail == normal && a.Role == null).Select(a => a.Id).FirstOrDefaultAsync(ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {id} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == new MemberId(id), ct) is not { } member) return ProgramHeard.Nobody;
        var kind = Event.KindOf<Event.Reported>();
        if (reference.Length > 0 && await db.Journal.FromSql($"""
            select * from journal where member_id = {id} and kind = {kind} and event ->> 'reference' = {reference} and lower(event ->> 'name') = lower({name})
            """).AnyAsync(ct)) return ProgramHeard.Done;
        tell.Of(member, new Event.Reported(name, reference), clock.GetCurrentInstant());
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return ProgramHeard.Done;
    }
}
