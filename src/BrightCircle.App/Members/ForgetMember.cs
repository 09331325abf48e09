using System.Text.Json;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>
/// Deletes a person on their request (the GDPR’s article 17). What the books rest on keeps its numbers, days and amounts under “a former member”; everything
/// else that is kept about them goes, and the account with it. It can’t be taken back.
/// </summary>
public sealed class ForgetMember(BrightContext db, Ids ids, Deeds deeds, IClock clock, Wake wake)
{
    public const string Name = "A former member";

    /// <summary>One for each.</summary>
    static string AddressOf(MemberId id) => $"former-{id.Value}{Member.NobodysDomain}";

    /// <param name="typed">Their address, typed by whoever deletes them.</param>
    public async Task<Result> Do(TeamActor by, MemberId id, string? typed, CancellationToken ct)
    {
        by.NeedOwner();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // As every change to what somebody holds does: nothing is bought or charged meanwhile.
        var member = (await db.Members.FromSql($"select * from members where id = {id.Value} for update").ToListAsync(ct)).FirstOrDefault();
        if (member is null) return Result.Refused("They aren’t here any more.");
        if (member.IsForgotten) return Result.Refused("They are deleted already.");
        if (!string.Equals(typed?.Trim(), member.Email, StringComparison.OrdinalIgnoreCase))
            return Result.Refused($"Type their address, {member.Email}, so that nobody goes by mistake.", "Typed");
        if (await db.Holdings.AnyAsync(h => h.MemberId == id && !h.IsOver, ct))
            return Result.Refused("They still hold something. End it first, and give back what is to be given back.");
        if (await db.Checkouts.AnyAsync(c => c.MemberId == id && c.State == CheckoutState.Placed, ct))
            return Result.Refused("An order of theirs waits for its money. Call it off first.");
        // The payment service forgets their cards too, as soon as it answers.
        var at = clock.GetCurrentInstant();
        foreach (var card in await db.Cards.AsNoTracking().Where(c => c.MemberId == id).ToListAsync(ct))
            db.PutDue(ids, DueKind.ForgetCard, card.Id, at, $"forget-card-{card.Id}",
                JsonSerializer.Serialize(card.Token));
        foreach (var picture in await db.TalkPictures.Where(p => p.AccountId == id.Value
            || db.Messages.Any(m => m.Id == p.MessageId && m.MemberId == id)).Select(p => p.Id).ToListAsync(ct))
            db.PutDue(ids, DueKind.ForgetPicture, picture, at, $"forget-picture-{picture}-gone");
        await db.Database.ExecuteSqlAsync($"set local bright.forgetting = 'yes'", ct);
        // What the team did to them stays in the house's journal, and not to whom.
        await db.Database.ExecuteSqlAsync($"""
            update deeds set what = replace(what, {member.Name}, {Name}) where strpos(what, {member.Name}) > 0 and (path = {"/desk/members/" + id.Value}
              or path like {"/desk/members/" + id.Value + "/%"} or path in (select '/desk/mailings/' || m.id from mailings m where m.member_id = {id.Value}))
            """, ct);
#pragma warning disable EF1002, EF1003 // The names and conditions stand in MemberTables.
        foreach (var t in MemberTables.All)
            if (t.When == WhenForgotten.Goes) await db.Database.ExecuteSqlRawAsync($"delete from {t.Table} where {t.Of.Replace("$1", "{0}")}", [id.Value], ct);
            else if (t.Scrub is { } scrub)
                await db.Database.ExecuteSqlRawAsync($"update {t.Table} set {scrub.Replace("$1", "{0}")} where {t.Of.Replace("$1", "{0}")}", [id.Value], ct);
#pragma warning restore EF1002, EF1003
        await db.DueWork.Where(d => d.Kind == DueKind.RoutineHears && d.SubjectId == id.Value).ExecuteDeleteAsync(ct);
        await db.Database.ExecuteSqlAsync($"""
            update members set name = {Name}, email = {AddressOf(id)}, billing_address = '', postal_address = '',
                phone = '', reads = null, zone_id = null, wants_news = false where id = {id.Value}
            """, ct);
        await db.Users.Where(a => a.Id == id.Value).ExecuteDeleteAsync(ct);
        deeds.Note(by, "deleted a person on request", $"/desk/members/{id.Value}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }
}
