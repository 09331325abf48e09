using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A new piece: a title is enough. It begins with one lesson, which may be given along.</summary>
public sealed record NewPiece(string? Title, ShelfId? Shelf = null, EditionId? Edition = null, string? Summary = null, IReadOnlyList<Block>? Blocks = null,
    int? Minutes = null, bool Ready = false, long? Pattern = null);

/// <param name="Version">The version the form was made from: somebody else's newer one is not overwritten.</param>
public sealed record PieceFacts(string? Title, string? Subtitle, string? Summary, ShelfId Shelf, EditionId? Edition, FileId? Cover, string? ModuleWord,
    Difficulty Difficulty, string? Learn, string? ForWhom,
    string? SupportAddress, string? Terms, int? Places, bool QuestionsOn, string? TrailerUrl, string? EndNote, string? EndLink, string? EndLinkText,
        bool Certificate, bool CopyGuard, ResourcesPlace Resources, string? Tags, string? WorkedOnBy, int Version, long? Pattern = null)
{
    public static PieceFacts Of(Piece p) => new(p.Title, p.Subtitle, p.Summary, p.ShelfId, p.EditionId, p.Cover, p.ModuleWord, p.Difficulty, p.Learn,
        p.ForWhom, p.SupportAddress, p.Terms, p.Places, p.QuestionsOn, p.TrailerUrl,
        p.EndNote, p.EndLink, p.EndLinkText, p.Certificate, p.CopyGuard, p.Resources, string.Join(", ", p.Tags), p.WorkedOnBy, p.Version, p.PatternId);
}

/// <summary>What publishing a piece leaves closed.</summary>
public sealed record StaysDraft(IReadOnlyList<Lesson> Drafts);

public sealed class SavePiece(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, IndexContent index, ReleaseContent release)
{
    CatalogueSnapshot Now => catalogue.Now;

    public async Task<Result<PieceId>> New(TeamActor by, NewPiece draft, CancellationToken ct)
    {
        by.NeedEditor();
        var title = draft.Title?.Trim() ?? "";
        if (title.Length is 0 or > 160) return Result.Refused("A piece needs a title of 160 letters at most.", "Title");
        if (Now.Shelves.Count == 0) return Result.Refused("A piece stands on a shelf, and there is none yet.", "Shelf");
        var shelf = draft.Shelf ?? Now.Shelves[0].Id;
        if (!Now.ShelfById.ContainsKey(shelf)) return Result.Refused("Choose a shelf.", "Shelf");
        if (draft.Edition is { } e && !Now.EditionById.ContainsKey(e)) return Result.Refused("This edition isn’t here any more.", "Edition");
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var piece =
            db.Add(new Piece
            {
                Id = ids.Next<PieceId>(),
                ShelfId = shelf,
                EditionId = draft.Edition,
                Title = title,
                Summary = draft.Summary?.Trim() ?? "",
                Ready = draft.Ready,
                Version = 1,
                ChangedAt = at
            }).Entity;
        var pattern = draft.Pattern is { } p ? await db.LessonPatterns.AsNoTracking().FirstOrDefaultAsync(x => x.Id == p, ct) : null;
        var blocks = draft.Blocks ?? (pattern is null ? [] : Blocks.Copy(pattern.Blocks, ids.Next<BlockId>));
        var lesson = db.Add(new Lesson
        {
            Id = ids.Next<LessonId>(),
            PieceId = piece.Id,
            Position = 1,
            Title = title,
            Minutes = draft.Minutes ?? pattern?.Minutes,
            DoneWhen = pattern?.DoneWhen ?? DoneWhen.Marked,
            Ready = draft.Ready,
            Version = 1,
            ChangedAt = at,
            ChangedBy = by.Name,
            Kinds = Blocks.Kinds(blocks),
        }).Entity;
        db.Add(new LessonContent { LessonId = lesson.Id, Blocks = blocks });
        db.Add(new LessonVersion { Id = ids.Next(), LessonId = lesson.Id, Version = 1, At = at, By = by.Name, Title = title, Blocks = blocks });
        if (draft.Ready) release.WhenLate(piece, at);
        await db.SaveChangesAsync(ct);
        await index.Piece(piece, ct);
        await index.Lesson(lesson, blocks, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([piece.Id], ct);
        release.Wake();
        return piece.Id;
    }

    public async Task<Result<PieceId>> Facts(TeamActor by, PieceId id, PieceFacts draft, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        string T(string? s) => s?.Trim() ?? "";
        var title = T(draft.Title);
        if (title.Length is 0 or > 160) return Result.Refused("A piece needs a title of 160 letters at most.", "Title");
        if (T(draft.Subtitle).Length > 200) return Result.Refused("The subtitle is too long; 200 letters are the most.", "Subtitle");
        if (T(draft.Summary).Length > 600) return Result.Refused("The summary is too long; 600 letters are the most.", "Summary");
        if (!Now.ShelfById.ContainsKey(draft.Shelf)) return Result.Refused("Choose a shelf.", "Shelf");
        if (draft.Edition is { } e && !Now.EditionById.ContainsKey(e)) return Result.Refused("This edition isn’t here any more.", "Edition");
        if (piece.ReleasedAt is not null && piece.EditionId != draft.Edition)
            return Result.Refused("A released piece stays in its edition. Withdraw it first.", "Edition");
        if (draft.Places is < 1 or > 100_000) return Result.Refused("Places go from 1 to 100,000; leave them empty for as many as like.", "Places");
        if (T(draft.ModuleWord).Length is 0 or > 20) return Result.Refused("What a module is called here takes 20 letters at most.", "ModuleWord");
        if (T(draft.TrailerUrl) is { Length: > 0 } trailer && !BlockRules.IsWebAddress(trailer))
            return Result.Refused("The trailer is linked by its full address, beginning with https://.", "TrailerUrl");
        if (T(draft.EndLink) is { Length: > 0 } end && !BlockRules.IsWebAddress(end))
            return Result.Refused("The link is a full address, beginning with https://.", "EndLink");
        if (T(draft.SupportAddress) is { Length: > 0 } mail && !EmailAddress.TryRead(mail, out _))
            return Result.Refused("That doesn’t look like an email address.", "SupportAddress");
        if (!TryReadTags(draft.Tags, out var tags))
            return Result.Refused("Tags are words of 40 letters at most, with commas between; twenty are enough.", "Tags");
        if (draft.Pattern is { } pattern && !await db.LessonPatterns.AnyAsync(p => p.Id == pattern, ct))
            return Result.Refused("This pattern isn’t here any more.", "Pattern");
        if (piece.Version != draft.Version) return Result.Refused(
            "Somebody saved this piece after you opened it. Open it again in another window, and put the two together.");

        var renamed = piece.Title;
        (piece.Title, piece.Subtitle, piece.Summary, piece.ShelfId, piece.EditionId, piece.Cover) =
            (title, T(draft.Subtitle), T(draft.Summary), draft.Shelf, draft.Edition, draft.Cover);
        (piece.ModuleWord, piece.Difficulty, piece.Learn, piece.ForWhom, piece.SupportAddress, piece.Terms, piece.Places) =
            (T(draft.ModuleWord), draft.Difficulty, T(draft.Learn), T(draft.ForWhom), T(draft.SupportAddress), T(draft.Terms), draft.Places);
        (piece.QuestionsOn, piece.TrailerUrl, piece.EndNote, piece.EndLink, piece.EndLinkText, piece.Certificate, piece.CopyGuard) =
            (draft.QuestionsOn, Null(draft.TrailerUrl), T(draft.EndNote), Null(draft.EndLink), T(draft.EndLinkText), draft.Certificate, draft.CopyGuard);
        (piece.Resources, piece.Tags, piece.WorkedOnBy, piece.PatternId) = (draft.Resources, tags, T(draft.WorkedOnBy), draft.Pattern);
        piece.Version++;
        piece.ChangedAt = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // A single lesson is called as its piece is, until somebody calls it otherwise.
        var lessons = await db.Lessons.Where(l => l.PieceId == id && l.TrashedAt == null).ToListAsync(ct);
        if (lessons is [{ } only] && only.Title == renamed) (only.Title, only.Version) = (title, only.Version + 1);
        if (piece.Ready) release.WhenLate(piece, piece.ChangedAt);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Result.Refused("Somebody saved this piece at the same moment. Open it again in another window, and put the two together.");
        }
        await index.Piece(piece, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([id], ct);
        release.Wake();
        return id;
    }

    static string? Null(string? s) => string.IsNullOrWhiteSpace(s) ? null : s.Trim();

    public static bool TryReadTags(string? text, out string[] tags)
    {
        tags = [.. (text ?? "").Split([',', ';', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(t => t.TrimStart('#').ToLowerInvariant()).Where(t => t.Length > 0).Distinct().Order(StringComparer.Ordinal)];
        return tags.Length <= 20 && tags.All(t => t.Length <= 40);
    }

    /// <summary>Puts a piece on another shelf or into another edition (or into none: to come), as on the board.</summary>
    public async Task<Result> Place(TeamActor by, PieceId id, ShelfId? shelf, EditionId? edition, bool keepEdition, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (shelf is { } s && !Now.ShelfById.ContainsKey(s)) return Result.Refused("This shelf isn’t here any more.");
        if (edition is { } e && !Now.EditionById.ContainsKey(e)) return Result.Refused("This edition isn’t here any more.");
        var target = keepEdition ? piece.EditionId : edition;
        if (piece.ReleasedAt is not null && target != piece.EditionId)
            return Result.Refused($"“{piece.Title}” has been released and stays in its edition. Withdraw it first, if it must go.");
        (piece.ShelfId, piece.EditionId, piece.ChangedAt) = (shelf ?? piece.ShelfId, target, clock.GetCurrentInstant());
        piece.Version++;
        if (piece.Ready) release.WhenLate(piece, piece.ChangedAt);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([id], ct);
        release.Wake();
        return Result.Done;
    }

    /// <summary>Gives a lesson an edition of its own, or lets it open with its piece again.</summary>
    public async Task<Result> PlaceLesson(TeamActor by, LessonId id, EditionId? edition, bool keep, CancellationToken ct)
    {
        by.NeedEditor();
        if (keep) return Result.Done;
        var lesson = await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct);
        if (lesson is null) return Result.Refused("This lesson isn’t here any more.");
        if (lesson.ReleasedAt is not null) return Result.Refused($"“{lesson.Title}” has been released and stays where it is.");
        if (edition is { } e && !Now.EditionById.ContainsKey(e)) return Result.Refused("This edition isn’t here any more.");
        var piece = await db.Pieces.SingleAsync(p => p.Id == lesson.PieceId, ct);
        (lesson.EditionId, lesson.ChangedAt) = (edition, clock.GetCurrentInstant());
        lesson.Version++;
        release.WhenLate(lesson, piece, lesson.ChangedAt);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([lesson.PieceId], ct);
        release.Wake();
        return Result.Done;
    }

    /// <summary>Holds a piece finished: it may be released. Says what in it stays a draft.</summary>
    /// <param name="inside">Its lessons too, as far as nothing is missing in them.</param>
    public async Task<Result<StaysDraft>> Publish(TeamActor by, PieceId id, bool inside, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        var lessons = await db.Lessons.Where(l => l.PieceId == id && l.TrashedAt == null).OrderBy(l => l.Position).ToListAsync(ct);
        var at = clock.GetCurrentInstant();
        piece.Ready = true;
        piece.Version++;
        piece.ChangedAt = at;
        if (inside)
        {
            var open = lessons.Where(l => !l.Ready).Select(l => l.Id).ToArray();
            var contents = await db.LessonContents.AsNoTracking().Where(c => open.Contains(c.LessonId)).ToDictionaryAsync(c => c.LessonId, c => c.Blocks, ct);
            foreach (var l in lessons.Where(l => !l.Ready && contents.TryGetValue(l.Id, out var blocks) && blocks.Count > 0
                && BlockRules.Problems(blocks).Count == 0)) (l.Ready, l.Version) = (true, l.Version + 1);
        }
        release.WhenLate(piece, at);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([id], ct);
        release.Wake();
        return new StaysDraft([.. lessons.Where(l => !l.Ready)]);
    }

    /// <summary>Takes a piece that isn't released back to a draft.</summary>
    public async Task<Result> Unpublish(TeamActor by, PieceId id, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (piece.ReleasedAt is not null) return Result.Refused("It is released; withdraw it instead.");
        piece.Ready = false;
        piece.Version++;
        piece.ChangedAt = clock.GetCurrentInstant();
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([id], ct);
        return Result.Done;
    }
}
