using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

/// <summary>Where a doorway is set: a piece, a shelf, or the whole site where both are null.</summary>
public readonly record struct DoorwayPlace(PieceId? Piece = null, ShelfId? Shelf = null)
{
    /// <summary>What is set there; null where it isn't there any more.</summary>
    public DoorwayWish? In(CatalogueSnapshot now) => this switch
    {
        { Piece: { } p } => now.PieceById.TryGetValue(p, out var piece) ? piece.Doorway ?? new() : null,
        { Shelf: { } s } => now.ShelfById.TryGetValue(s, out var shelf) ? shelf.Doorway ?? new() : null,
        _ => now.Site?.Doorway ?? new(),
    };

    /// <summary>What counts there with another wish.</summary>
    public DoorwayRule With(CatalogueSnapshot now, DoorwayWish? wish) => this switch
    {
        { Piece: { } p } => DoorwayRule.Of(wish, now.ShelfById[now.PieceById[p].ShelfId].Doorway, now.Site?.Doorway),
        { Shelf: not null } => DoorwayRule.Of(wish, now.Site?.Doorway),
        _ => DoorwayRule.Of(wish),
    };
}

/// <summary>Says what those meet who may not open something.</summary>
public sealed class SaveDoorway(BrightContext db, Catalogue catalogue, IndexContent index, FileUsing uses, Deeds deeds)
{
    public async Task<Result> Do(TeamActor by, DoorwayPlace place, DoorwayWish draft, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (place.In(now) is null) return OutlineWork.Gone;
        static string? Text(string? s) => string.IsNullOrWhiteSpace(s) ? null : s.Trim().ReplaceLineEndings("\n");
        var wish = draft with
        {
            Strangers = Text(draft.Strangers),
            Members = Text(draft.Members),
            NotYet = Text(draft.NotYet),
            Button = Text(draft.Button),
            Page = Text(draft.Page)
        };
        if (wish.Wrong(place.With(now, wish)) is { } wrong) return Result.Refused(wrong.Why, wrong.Field);
        var kept = wish.IsEmpty ? null : wish;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        foreach (var (picture, field) in new[] { (wish.NotYetPicture, nameof(DoorwayWish.NotYetPicture)), (wish.ClosedCover, nameof(DoorwayWish.ClosedCover)) })
            if (picture is { } wanted && !await db.Files.AnyAsync(f => f.Id == wanted && f.Kind == FileKind.Picture, ct))
                return Result.Refused("That picture isn’t here any more. Choose another one.", field);
        deeds.Note(by, place switch
        {
            { Piece: { } x } => $"changed the doorway of “{now.PieceById[x].Title}”",
            { Shelf: { } y } => $"changed the doorways of the shelf {now.ShelfById[y].Name}",
            _ => "changed the doorways of the whole site",
        }, place switch
        { { Piece: { } x } => $"/desk/doorway/piece/{x.Value}", { Shelf: { } y } => $"/desk/doorway/shelf/{y.Value}",
            _ => "/desk/doorway/site"
        });
        if (place.Piece is { } p)
        {
            if (await db.Pieces.FirstOrDefaultAsync(x => x.Id == p && x.TrashedAt == null, ct) is not { } piece) return OutlineWork.Gone;
            piece.Doorway = kept;
            piece.Version++;
            await db.SaveChangesAsync(ct);
            await index.Piece(piece, ct);
        }
        else if (place.Shelf is { } s)
        {
            if (await db.Shelves.FirstOrDefaultAsync(x => x.Id == s, ct) is not { } shelf) return Result.Refused("This shelf isn’t here any more.");
            shelf.Doorway = kept;
            await db.SaveChangesAsync(ct);
            await index.Shelf(shelf, ct);
        }
        else
        {
            var site = await db.Sites.SingleAsync(ct);
            site.Doorway = kept;
            await db.SaveChangesAsync(ct);
            await uses.OfSite(site, ct);
        }
        await transaction.CommitAsync(ct);
        await (place.Piece is { } one ? catalogue.Changed([one], ct) : catalogue.Changed(ct));
        return Result.Done;
    }
}
