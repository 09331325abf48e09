using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Members;

/// <summary>How somebody is reached but by their address for letters, as it was typed.</summary>
/// <param name="Reads">The language they would rather be written to in, by its two letters; empty for the site's own.</param>
public sealed record ContactDraft(string? Phone, string? PostalAddress, string? Reads)
{
    public static ContactDraft Of(Member m) => new(m.Phone, m.PostalAddress, m.Reads);
}

/// <summary>More than one way to reach somebody: told by themselves, or put right by the team.</summary>
public sealed class ContactWays(BrightContext db, Deeds deeds)
{
    public Task<Result> Own(MemberId member, ContactDraft draft, CancellationToken ct) => Put(member, draft, null, ct);

    /// <param name="zoneId">Where their days begin and end; empty for the site's own.</param>
    public async Task<Result> PutRight(TeamActor by, MemberId member, ContactDraft draft, string? zoneId, CancellationToken ct)
    {
        by.NeedSupport();
        var zone = zoneId is { Length: > 0 } ? zoneId : null;
        return OwnSettings.WrongWithZone(zone) ?? await Put(member, draft, (by, zone), ct);
    }

    async Task<Result> Put(MemberId id, ContactDraft draft, (TeamActor By, string? Zone)? team, CancellationToken ct)
    {
        if (!PhoneNumber.TryRead(draft.Phone, out var phone))
            return Result.Refused($"A phone number has {PhoneNumber.Fewest} to {PhoneNumber.Most} digits, with spaces, brackets or strokes between.", "Phone");
        if (OwnSettings.WrongWithLines(draft.PostalAddress, "PostalAddress") is { } wrong) return wrong;
        var address = OwnSettings.Lines(draft.PostalAddress);
        var reads = string.IsNullOrEmpty(draft.Reads) ? null : draft.Reads;
        if (reads is not null && Languages.NameOf(reads) is null) return Result.Refused("Choose a language from the list.", "Reads");
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == id, ct) is not { IsForgotten: false } member)
            return Result.Refused("This person isn’t here any more.");
        (member.Phone, member.PostalAddress, member.Reads) = (phone, address, reads);
        if (team is var (by, zone))
        {
            member.ZoneId = zone;
            if (db.Entry(member).State == EntityState.Modified) deeds.Note(by, $"put right how {member.Name} is reached", $"/desk/members/{id.Value}");
        }
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }
}
