using System.Net;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What stays of a live session: a lesson with the recording and what was said of it.</summary>
public sealed class KeepSession(BrightContext db, Ids ids, AddLesson add, RichText rich, Catalogue catalogue, IClock clock)
{
    public const int MostNotes = 20_000;

    /// <param name="piece">Where the lesson goes.</param>
    /// <param name="notes">In the signs people know from letters (Markdown); empty for none.</param>
    /// <param name="withQuestions">The questions that were brought stand in it too, without names.</param>
    public async Task<Result<LessonId>> Do(TeamActor by, LiveSessionId id, PieceId piece, string? recording, string? notes, bool withQuestions,
        CancellationToken ct)
    {
        by.NeedEditor();
        if (!catalogue.Now.Community.SessionById.TryGetValue(id, out var session)) return PlanSessions.Gone;
        if (session.CancelledAt is not null || clock.GetCurrentInstant() < session.StartsAt) return Result.Refused("It hasn’t taken place yet.");
        if (session.LessonId is { } known && catalogue.Now.LessonById.ContainsKey(known)) return Result.Refused("There is a lesson of it already.");
        if (!catalogue.Now.PieceById.ContainsKey(piece)) return Result.Refused("Choose where it goes.", "Piece");
        var url = recording?.Trim() ?? "";
        if (url.Length > 0 && (url.Length > 500 || !Uri.TryCreate(url, UriKind.Absolute, out var uri) || uri.Scheme is not ("https" or "http")))
            return Result.Refused("The recording is an address that begins with https://. A file of yours is put in afterwards, in the lesson.", "Recording");
        if (notes?.Length > MostNotes) return Result.Refused($"{MostNotes:N0} letters are the most.", "Notes");
        var title = session.Titled(catalogue.Now.Community.SeriesById[session.SeriesId]);
        var day = catalogue.Now.Calendar.Date(session.StartsAt).ToString("d MMMM uuuu", catalogue.Now.Culture);
        var blocks = new List<Block>();
        if (url.Length > 0) blocks.Add(new Block.Video(Recording.Empty with { Title = title, Url = url }) { Id = ids.Next<BlockId>() });
        var html = rich.FromMarkdown(notes?.Trim() ?? "");
        if (withQuestions)
        {
            var asked = await db.SessionQuestions.Where(q => q.SessionId == id).OrderBy(q => q.Id).Select(q => q.Text).ToListAsync(ct);
            if (asked.Count > 0)
                html += rich.Clean($"<h2>What was asked</h2><ul>{string.Concat(asked.Select(q => $"<li>{WebUtility.HtmlEncode(q)}</li>"))}</ul>");
        }
        if (html.Length > 0) blocks.Add(new Block.Text(html) { Id = ids.Next<BlockId>() });
        var name = $"{title}, {day}";
        var made = await add.Do(by, piece, null, name.Length > 160 ? title : name, null, ct, blocks);
        if (!made.Ok) return made;
        var lesson = made.Value;
        await db.LiveSessions.Where(s => s.Id == id).ExecuteUpdateAsync(u => u.SetProperty(s => s.LessonId, lesson), ct);
        await catalogue.Changed(ct);
        return lesson;
    }
}
