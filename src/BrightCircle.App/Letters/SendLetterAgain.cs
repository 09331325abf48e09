using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Writes a letter that couldn’t be delivered once more, to the address its member has now, with a fresh way in where it carried one.</summary>
public sealed class SendLetterAgain(BrightContext db, Ids ids, IClock clock, Wake wake)
{
    static readonly Duration LinkLasts = Duration.FromDays(14);

    public async Task<Result<long>> Do(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedSupport();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var letter = await db.Letters.FromSql($"select * from letters where id = {id} for update").AsTracking().FirstOrDefaultAsync(ct);
        if (letter is null) return Result.Refused("This letter isn’t here any more.");
        if (letter.State != LetterState.Refused) return Result.Refused(
            letter.State switch
            {
                LetterState.Sent => "It was delivered.",
                LetterState.Shown => "A device of theirs has shown it.",
                LetterState.Queued => "It is waiting to be sent already.",
                var state => throw new InvalidOperationException($"No such state: {state}"),
            });
        if (letter.SetAsideAt is not null) return Result.Refused($"{letter.SetAsideBy} has seen to it already.");
        var at = clock.GetCurrentInstant();
        var person = letter.MemberId is { } member ? await db.Members.AsNoTracking().FirstAsync(m => m.Id == member, ct) : null;
        long? link = null;
        if (letter.SignInLinkId is { } old && await db.SignInLinks.AsNoTracking().FirstOrDefaultAsync(l => l.Id == old, ct) is { } before)
        {
            link = ids.Next();
            db.SignInLinks.Add(new()
            {
                Id = link.Value,
                AccountId = before.AccountId,
                CreatedAt = at,
                ExpiresAt = at + LinkLasts,
                ReturnPath = before.ReturnPath
            });
        }
        (letter.SetAsideAt, letter.SetAsideBy) = (at, by.Name);
        var again = new Letter
        {
            Id = ids.Next(),
            Kind = letter.Kind,
            MemberId = letter.MemberId,
            ToAddress = person?.Email ?? letter.ToAddress,
            ToName = person?.Name ?? letter.ToName,
            Fields = letter.Fields,
            EditionId = letter.EditionId,
            PlanId = letter.PlanId,
            MailingId = letter.MailingId,
            SignInLinkId = link,
            Key = $"again-{letter.Id}",
            CreatedAt = at,
        };
        db.Letters.Add(again);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return again.Id;
    }
}
