using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Learning;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A card as it is typed.</summary>
/// <param name="NoPicture">The picture that stands on it goes.</param>
public sealed record PersonCardDraft(bool Shown, string? Line, string? Place, bool UnnamedAfter, bool NoPicture = false, bool TakesWords = false,
    bool TellsRead = false)
{
    public static PersonCardDraft Of(PersonCard? card) => card is null ? new(false, "", "", false) : new(card.Shown, card.Line, card.Place, card.UnnamedAfter,
        false,
        card.TakesWords, card.TellsRead);
}

/// <summary>How somebody wants to be seen by other members; and what the team does about it.</summary>
public sealed class SavePersonCard(BrightContext db, Ids ids, Catalogue catalogue, TalkPictures pictures, Deeds deeds, IClock clock)
{
    public Task<PersonCard?> Of(long account, CancellationToken ct) =>
        db.PersonCards.AsNoTracking().FirstOrDefaultAsync(c => c.AccountId == account, ct);

    /// <param name="confirmed">They proved their address: before that nothing is shown under it.</param>
    /// <param name="picture">A new one for the card; null for the one it has.</param>
    public async Task<Result> Do(long account, bool confirmed, PersonCardDraft draft, PictureUpload? picture, CancellationToken ct)
    {
        var (line, place) = (draft.Line?.Trim() ?? "", draft.Place?.Trim() ?? "");
        if (line.Length > PersonCard.MostLine) return Result.Refused($"{PersonCard.MostLine} letters are the most.", "Line");
        if (place.Length > PersonCard.MostPlace) return Result.Refused($"{PersonCard.MostPlace} letters are the most.", "CardPlace");
        if (draft.Shown && !confirmed) return Result.Refused(AskAndAnswer.Unproved, "Shown");
        long? taken = null;
        if (picture is not null)
        {
            var read = await pictures.TakeOne(account, picture, ct);
            if (!read.Ok) return Result.Refused(read.Refusal!, "Picture");
            taken = read.Value;
        }
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // One after the other, whether there is a card already or not.
        await db.Database.ExecuteSqlAsync($"select 1 from accounts where id = {account} for no key update", ct);
        var card = await db.PersonCards.FirstOrDefaultAsync(c => c.AccountId == account, ct) ?? db.Add(new PersonCard { AccountId = account }).Entity;
        var had = card.PictureId;
        var renamed = card.UnnamedAfter != draft.UnnamedAfter;
        (card.Shown, card.Line, card.Place, card.UnnamedAfter, card.At) = (draft.Shown, line, place, draft.UnnamedAfter, at);
        (card.TakesWords, card.TellsRead) = (draft.TakesWords, draft.TellsRead);
        if (taken is not null || draft.NoPicture) card.PictureId = taken;
        if (had is { } old && old != card.PictureId) db.PutDue(ids, DueKind.ForgetPicture, old, at, $"forget-picture-{old}-card");
        await db.SaveChangesAsync(ct);
        if (renamed) await db.Database.ExecuteSqlAsync($"select tell_names({account})", ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes a card down: whoever it is of can put it up again when it is as it should be.</summary>
    public async Task<Result> TakeDown(TeamActor by, long account, CancellationToken ct)
    {
        Keeping.NeedAll(catalogue.Now, by);
        if (await db.PersonCards.FirstOrDefaultAsync(c => c.AccountId == account && c.Shown, ct) is not { } card)
            return Result.Refused("This card isn’t here any more.");
        card.Shown = false;
        var name = await db.Users.Where(a => a.Id == account).Select(a => a.Name).FirstAsync(ct);
        deeds.Note(by, $"took down the card of {name}", $"/desk/members/{account}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Whether members find one another at all.</summary>
    public async Task<Result> Switch(TeamActor by, bool shows, CancellationToken ct)
    {
        by.NeedEditor();
        var site = await db.Sites.SingleAsync(s => s.Id == Site.TheOnly, ct);
        if (site.ShowsPeople == shows) return Result.Done;
        site.ShowsPeople = shows;
        deeds.Note(by, shows ? "let members find one another" : "lets nobody find one another any more", "/desk/spaces");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Whether members who find one another can write to one another too, where both agree.</summary>
    public async Task<Result> SwitchWriting(TeamActor by, bool writes, CancellationToken ct)
    {
        by.NeedEditor();
        var site = await db.Sites.SingleAsync(s => s.Id == Site.TheOnly, ct);
        if (site.MembersWrite == writes) return Result.Done;
        if (writes && !site.ShowsPeople) return Result.Refused("Let members find one another first.");
        site.MembersWrite = writes;
        deeds.Note(by, writes ? "let members write to one another" : "lets no member write to another any more", "/desk/spaces");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
