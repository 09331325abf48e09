using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

public sealed record ShelfDraft(string? Name, string? Mark, int Colour, string? Description);

/// <param name="Version">The version the form was made from: somebody else's newer one is not overwritten.</param>
public sealed record PieceDraft(ShelfId Shelf, EditionId? Edition, string? Title, string? Summary, string? Body, string? VideoUrl, int? Minutes, bool Ready, string? PictureAlt, int Version);

public sealed class SaveContent(BrightContext db, Ids ids, Catalogue catalogue, RichText rich, IClock clock, Wake wake)
{
    public async Task<Result<ShelfId>> Shelf(TeamActor by, ShelfId? id, ShelfDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var name = draft.Name?.Trim() ?? "";
        var mark = draft.Mark?.Trim().ToUpperInvariant() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused("A shelf needs a name of 80 letters at most.", "Name");
        if (catalogue.Now.Shelves.Any(s => s.Id != id && string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase))) return Result.Refused($"There is a shelf called {name} already.", "Name");
        if (mark.Length == 0) mark = MarkFor(name);
        if (mark.Length != 2 || !mark.All(char.IsLetterOrDigit)) return Result.Refused("The mark is two letters.", "Mark");
        if (draft.Colour is < 1 or > 8) return Result.Refused("Choose one of the eight colours.", "Colour");
        var shelf = id is { } known ? await db.Shelves.SingleAsync(s => s.Id == known, ct)
            : db.Add(new Shelf { Id = ids.Next<ShelfId>(), Order = catalogue.Now.Shelves.Count == 0 ? 1 : catalogue.Now.Shelves.Max(s => s.Order) + 1 }).Entity;
        (shelf.Name, shelf.Mark, shelf.Colour, shelf.Description) = (name, mark, draft.Colour, draft.Description?.Trim() ?? "");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return shelf.Id;
    }

    /// <summary>The first letters of the first two words, or the first two letters.</summary>
    public static string MarkFor(string name)
    {
        var words = name.Split([' ', '&', '-', ','], StringSplitOptions.RemoveEmptyEntries).Where(w => char.IsLetterOrDigit(w[0])).ToArray();
        return (words.Length > 1 ? $"{words[0][0]}{words[1][0]}" : words.Length == 1 && words[0].Length > 1 ? words[0][..2] : "SH").ToUpperInvariant();
    }

    public async Task<Result<PieceId>> Piece(TeamActor by, PieceId? id, PieceDraft draft, string? newPicture, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        var title = draft.Title?.Trim() ?? "";
        if (title.Length is 0 or > 160) return Result.Refused("A piece needs a title of 160 letters at most.", "Title");
        if (!now.ShelfById.ContainsKey(draft.Shelf)) return Result.Refused("Choose a shelf.", "Shelf");
        if (draft.Summary?.Length > 600) return Result.Refused("The summary is too long; 600 letters are the most.", "Summary");
        if (draft.Minutes is < 1 or > 6000) return Result.Refused("Minutes go from 1 to 6,000.", "Minutes");
        if (draft.Edition is { } e && now.Editions.All(x => x.Id != e)) return Result.Refused("This edition isn’t here any more.", "Edition");
        var video = string.IsNullOrWhiteSpace(draft.VideoUrl) ? null : draft.VideoUrl.Trim();
        if (video is not null && !(Uri.TryCreate(video, UriKind.Absolute, out var uri) && uri.Scheme == Uri.UriSchemeHttps)) return Result.Refused("A video is linked by its full address, beginning with https://.", "VideoUrl");

        Piece piece;
        PieceBody body;
        if (id is { } known)
        {
            piece = await db.Pieces.SingleAsync(p => p.Id == known, ct);
            body = await db.PieceBodies.SingleAsync(b => b.PieceId == known, ct);
            if (piece.Version != draft.Version) return Result.Refused("Somebody saved this piece after you opened it. Copy your text, open it again, and put the two together.");
            if (piece.ReleasedAt is not null && piece.EditionId != draft.Edition) return Result.Refused("A released piece stays in its edition.", "Edition");
        }
        else
        {
            piece = new() { Id = ids.Next<PieceId>() };
            body = new() { PieceId = piece.Id };
            db.Add(piece);
            db.Add(body);
        }
        (piece.ShelfId, piece.EditionId, piece.Title, piece.Summary, piece.VideoUrl, piece.Minutes) = (draft.Shelf, draft.Edition, title, draft.Summary?.Trim() ?? "", video, draft.Minutes);
        piece.Ready = draft.Ready || piece.ReleasedAt is not null;
        piece.PictureAlt = draft.PictureAlt?.Trim();
        if (newPicture is not null) piece.Picture = newPicture;
        piece.Version++;
        piece.ChangedAt = clock.GetCurrentInstant();
        body.Html = rich.Clean(draft.Body ?? "");

        // Ready in an edition that is out already: it opens with the next round of due work, not by hand.
        var late = piece.Ready && piece.ReleasedAt is null && piece.EditionId is { } edition && now.Editions.First(x => x.Id == edition).ReleasedAt is not null;
        if (late)
            db.DueWork.Add(new() { Id = ids.Next(), Kind = DueKind.Release, SubjectId = piece.EditionId!.Value.Value, DueAt = piece.ChangedAt, ReadyAt = piece.ChangedAt, Key = $"release-late-{piece.Id.Value}-{piece.Version}" });
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Result.Refused("Somebody saved this piece at the same moment. Copy your text, open it again, and put the two together.");
        }
        await catalogue.Changed(ct);
        if (late) wake.Up();
        return piece.Id;
    }
}
