using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A piece again, with all that is in it.</summary>
public sealed class DuplicatePiece(BrightContext db, Ids ids, OutlineWork work, Catalogue catalogue, IndexContent index, IClock clock)
{
    /// <summary>A whole piece again, with modules, lessons and facts, as a draft in no edition (or in a given one).</summary>
    public async Task<Result<PieceId>> Do(TeamActor by, PieceId id, CancellationToken ct, EditionId? intoEdition = null, string? title = null)
    {
        by.NeedEditor();
        var piece = await db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return OutlineWork.Gone;
        var outline = await work.Outline(id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var name = title ?? NextName.After(piece.Title, [.. catalogue.Now.Pieces.Select(p => p.Title)]);
        var copy = db.Add(new Piece
        {
            Id = ids.Next<PieceId>(),
            ShelfId = piece.ShelfId,
            EditionId = intoEdition,
            Title = name,
            Subtitle = piece.Subtitle,
            Summary = piece.Summary,
            Cover = piece.Cover,
            ModuleWord = piece.ModuleWord,
            Difficulty = piece.Difficulty,
            Learn = piece.Learn,
            ForWhom = piece.ForWhom,
            SupportAddress = piece.SupportAddress,
            Terms = piece.Terms,
            Places = piece.Places,
            QuestionsOn = piece.QuestionsOn,
            TrailerUrl = piece.TrailerUrl,
            EndNote = piece.EndNote,
            EndLink = piece.EndLink,
            EndLinkText = piece.EndLinkText,
            Certificate = piece.Certificate,
            CopyGuard = piece.CopyGuard,
            Doorway = piece.Doorway,
            PatternId = piece.PatternId,
            Resources = piece.Resources,
            Tags = piece.Tags,
            Version = 1,
            ChangedAt = clock.GetCurrentInstant(),
        }).Entity;
        var modules = outline.Modules.ToDictionary(
            m => m.Id, m => db.Add(new Module { Id = ids.Next<ModuleId>(), PieceId = copy.Id, Title = m.Title, Position = m.Position }).Entity.Id);
        await db.SaveChangesAsync(ct);
        foreach (var part in outline.Parts)
            foreach (var l in part.Lessons)
                await work.Copy(l, copy, part.Module is { } m ? modules[m.Id] : null, l.Position, l.Title == piece.Title ? name : l.Title, by, ct);
        await db.SaveChangesAsync(ct);
        await index.Piece(copy, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([copy.Id], ct);
        return copy.Id;
    }
}
