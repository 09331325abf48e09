using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <param name="Kind">Only letters of this kind.</param>
/// <param name="Mailing">Only the copies of this letter to many.</param>
/// <param name="Waiting">Only what couldn’t be delivered and nobody has seen to.</param>
public sealed record LetterFilter(LetterState? State = null, string? Search = null, bool Waiting = false, long? Mailing = null,
    LetterKind? Kind = null)
{
    public bool IsNarrow => State is not null || Search is not null || Waiting || Mailing is not null || Kind is not null;
}

public sealed record LetterRows(IReadOnlyList<Letter> Rows, int Count);

/// <summary>The letters that went out or wait, the last first.</summary>
public sealed class LetterList(BrightContext db)
{
    public const int PageSize = 50;

    public async Task<LetterRows> Page(LetterFilter f, int page, CancellationToken ct)
    {
        var query = db.Letters.AsNoTracking();
        if (f.Waiting) query = query.Where(l => l.State == LetterState.Refused && l.SetAsideAt == null);
        if (f.State is { } s) query = query.Where(l => l.State == s);
        if (f.Search is { } q) query = query.Where(l => EF.Functions.ILike(l.ToName + " " + l.ToAddress, Like.Containing(q), Like.Escape));
        if (f.Mailing is { } many) query = query.Where(l => l.MailingId == many);
        if (f.Kind is { } kind) query = query.Where(l => l.Kind == kind);
        var trip = new OneTrip(db);
        var count = trip.Count(query);
        var rows = trip.List(query.OrderByDescending(l => l.Id).Skip((page - 1) * PageSize).Take(PageSize));
        await trip.Ask(ct);
        return new(rows.Value, count.Value);
    }

    /// <returns>The letter, and the address its member has now where it is another; null where there is no such letter.</returns>
    public async Task<(Letter Letter, string? OtherAddress)?> Find(long id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var letter = trip.First(db.Letters.AsNoTracking().Where(l => l.Id == id));
        var address = trip.First(db.Members.Where(m => db.Letters.Any(l => l.Id == id && l.MemberId == m.Id)).Select(m => new { m.Email }));
        await trip.Ask(ct);
        return letter.Value is { } found ? (found, address.Value is { } a && a.Email != found.ToAddress ? a.Email : null) : null;
    }
}
