using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

/// <summary>
/// Keeps what is worked out from content in step with it, in the transaction of whoever changed it: what the search finds, and where files are used.
/// </summary>
public sealed class IndexContent(BrightContext db, Ids ids, Catalogue catalogue, FileUsing uses)
{
    string Language => catalogue.Now.Site?.Language ?? "english";

    public async Task Lesson(Lesson lesson, IReadOnlyList<Block> blocks, CancellationToken ct)
    {
        await Words(lesson.PieceId, lesson.Id, lesson.Title, string.Join('\n', blocks.Select(b => b.PlainText()).Where(t => t.Length > 0)),
            string.Join('\n', blocks.Select(b => b.Transcript()).Where(t => t.Length > 0)), ct);
        await uses.Set(FileUser.Lesson, lesson.Id.Value, blocks.SelectMany(b => b.UsedFiles()), ct);
    }

    public async Task Piece(Piece piece, CancellationToken ct)
    {
        await Words(piece.Id, null, piece.Title, string.Join(
            '\n', new[] { piece.Subtitle, piece.Summary, piece.Learn, piece.ForWhom, string.Join(' ', piece.Tags) }.Where(t => t.Length > 0)), "", ct);
        await uses.Set(FileUser.Piece, piece.Id.Value, FileUsing.Some([piece.Cover], piece.Doorway), ct);
    }

    public Task Shelf(Shelf shelf, CancellationToken ct) => uses.Set(FileUser.Shelf, shelf.Id.Value, FileUsing.Some([shelf.Cover], shelf.Doorway), ct);

    public Task Page(SitePage page, CancellationToken ct) =>
        uses.Set(FileUser.Page, page.Id, page.Sections.SelectMany(s => s.UsedFiles()).Concat(FileUsing.Some([page.Picture])), ct);

    /// <summary>Titles weigh more than text, text more than transcripts.</summary>
    async Task Words(PieceId piece, LessonId? lesson, string title, string body, string transcript, CancellationToken ct)
    {
        var (p, l) = (piece.Value, lesson?.Value);
        await db.Database.ExecuteSqlAsync(
            $"delete from search_texts where piece_id = {p} and lesson_id is not distinct from {l}::bigint or lesson_id = {l}::bigint", ct);
        await db.Database.ExecuteSqlAsync($"""
            insert into search_texts (id, piece_id, lesson_id, title, body, transcript, tsv) values ({ids.Next()}, {p}, {l}, {title}, {body}, {transcript},
              setweight(to_tsvector({Language}::regconfig, {title}), 'A') || setweight(to_tsvector({Language}::regconfig, {Short(body)}), 'B') ||
                  setweight(to_tsvector({Language}::regconfig, {Short(transcript)}), 'C'))
            """, ct);
    }

    // A tsvector holds a megabyte at most; far below that nobody finds anything by its end.
    static string Short(string text) => text.Length <= 200_000 ? text : text[..200_000];
}

/// <summary>After the content's language was changed: all words are taken apart anew, away from any page.</summary>
public sealed class Reindex(BrightContext db) : IDueHandler
{
    public DueKind Kind => DueKind.Reindex;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct) =>
        await db.Database.ExecuteSqlAsync($"""
            update search_texts t set tsv = setweight(to_tsvector(s.language::regconfig, t.title), 'A') || setweight(to_tsvector(s.language::regconfig,
                left(t.body, 200000)), 'B') || setweight(to_tsvector(s.language::regconfig, left(t.transcript, 200000)), 'C')
            from site s
            """, ct);
}
