using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>A sheet with open answers that wait to be read.</summary>
public sealed record ToMark(SheetTry Try, string Name, PracticeSheet Sheet);

/// <summary>One sheet's figures: its first tries, question by question.</summary>
public sealed record SheetView(LessonId Lesson, Block.Practice Block, int Tries, int Members, int Passed, IReadOnlyList<QuestionFigures> Questions);

/// <summary>A form's answers as a table.</summary>
public sealed record FormView(LessonId Lesson, Block.CheckIn Block, IReadOnlyList<(FormEntry Entry, string Name)> Rows, int Total, IReadOnlyList<string> Turns);

/// <summary>The team's side of practice sheets and forms.</summary>
public sealed class MarkSheets(BrightContext db, Catalogue catalogue, IClock clock, Tell tell, Wake wake, TakePart takePart)
{
    public const int PageSize = 50;

    /// <summary>The sheets that wait, the oldest first, and how many there are.</summary>
    public async Task<(IReadOnlyList<ToMark> Oldest, int Waiting)> List(CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var all = db.SheetTries.AsNoTracking().Where(t => t.Waiting > 0);
        var oldest = all.OrderBy(t => t.At).Take(PageSize);
        var waiting = trip.Count(all);
        var found = trip.List(oldest.Join(db.Members, t => t.MemberId, m => m.Id, (t, m) => new { Try = t, m.Name }).OrderBy(x => x.Try.At));
        var contents = trip.List(db.LessonContents.AsNoTracking().Where(c => oldest.Any(t => t.LessonId == c.LessonId)));
        await trip.Ask(ct);
        var (tries, sheets) = (found.Value, contents.Value.SelectMany(c => c.Blocks).OfType<Block.Practice>().ToDictionary(b => b.Id, b => b.Sheet));
        return ([.. tries.Where(t => sheets.ContainsKey(t.Try.BlockId)).Select(t => new ToMark(t.Try, t.Name, sheets[t.Try.BlockId]))], waiting.Value);
    }

    /// <summary>Gives points and comments to open answers; the member gets a letter when all of a sheet are read.</summary>
    public async Task<Result> Mark(TeamActor by, long id, IReadOnlyDictionary<string, Mark> marks, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.SheetTries.FirstOrDefaultAsync(t => t.Id == id, ct) is not { } t) return Result.Refused("This sheet isn’t here any more.");
        var content = await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == t.LessonId, ct);
        if (content?.Blocks.OfType<Block.Practice>().FirstOrDefault(b => b.Id == t.BlockId) is not { } practice)
            return Result.Refused("The practice sheet isn’t in its lesson any more.");
        foreach (var (key, mark) in marks)
        {
            if (practice.Sheet.Questions.FirstOrDefault(q => q.Key == key) is not Question.Open open) continue;
            if (mark.Earned < 0 || mark.Earned > open.Points) return Result.Refused($"Points go from 0 to {open.Points} here.", key);
            if (mark.Comment.Length > 2000) return Result.Refused("A comment takes 2,000 letters at most.", key);
        }
        t.Marks = t.Marks.Concat(marks.Where(m => !t.Marks.ContainsKey(m.Key))).ToDictionary(m => m.Key, m => marks.GetValueOrDefault(m.Key, m.Value));
        t.Result = Grading.Grade(practice.Sheet, t.Answers, t.Marks);
        var before = t.Waiting;
        (t.Waiting, t.Passed, t.MarkedBy, t.MarkedAt) = (t.Result.Waiting, t.Result.Passed, by.Name, clock.GetCurrentInstant());
        if (before > 0 && t.Waiting == 0 && await db.Members.FirstOrDefaultAsync(m => m.Id == t.MemberId, ct) is { } member
            && catalogue.Now.LessonById.TryGetValue(t.LessonId, out var lesson))
            tell.Of(member, new Event.Marked(lesson.Id, t.Id, practice.Sheet.Title.Length > 0 ? practice.Sheet.Title : lesson.Title, t.Result.Earned,
                t.Result.Points, t.Passed == true), t.MarkedAt.Value, by);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        if (t.Passed == true) await takePart.DoneByItself(t.MemberId, t.LessonId, ct);
        wake.Up();
        return Result.Done;
    }

    public async Task<SheetView?> Figures(LessonId lesson, BlockId block, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var content = trip.First(db.LessonContents.AsNoTracking().Where(c => c.LessonId == lesson));
        var first = trip.List(db.SheetTries.AsNoTracking().Where(t => t.BlockId == block && t.Number == 1).OrderByDescending(t => t.Id).Take(5000)
            .Select(t => t.Result));
        var counts = trip.First(db.SheetTries.Where(t => t.BlockId == block).GroupBy(_ => 1)
            .Select(g => new
            {
                Tries = g.Count(),
                Members = g.Select(t => t.MemberId).Distinct().Count(),
                Passed = g.Where(t => t.Passed == true).Select(t => t.MemberId).Distinct().Count()
            }));
        await trip.Ask(ct);
        if (content.Value?.Blocks.OfType<Block.Practice>().FirstOrDefault(b => b.Id == block) is not { } practice) return null;
        var c = counts.Value;
        return new(lesson, practice, c?.Tries ?? 0, c?.Members ?? 0, c?.Passed ?? 0, SheetFigures.Of(practice.Sheet, first.Value));
    }

    /// <summary>A form's answers, newest first; of one week where it is asked every week.</summary>
    public async Task<FormView?> Answers(LessonId lesson, BlockId block, string? turn, int page, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var content = trip.First(db.LessonContents.AsNoTracking().Where(c => c.LessonId == lesson));
        var q = db.FormEntries.AsNoTracking().Where(e => e.BlockId == block && (turn == null || e.Turn == turn));
        var total = trip.Count(q);
        var rows = trip.List(q.OrderByDescending(e => e.At).Skip((page - 1) * PageSize).Take(PageSize)
            .Join(db.Members, e => e.MemberId, m => m.Id, (e, m) => new { Entry = e, m.Name }));
        var turns = trip.List(db.FormEntries.Where(e => e.BlockId == block && e.Turn != "").Select(e => e.Turn).Distinct().OrderByDescending(t => t).Take(60));
        await trip.Ask(ct);
        if (content.Value?.Blocks.OfType<Block.CheckIn>().FirstOrDefault(b => b.Id == block) is not { } form) return null;
        return new(lesson, form, [.. rows.Value.OrderByDescending(r => r.Entry.At).Select(r => (r.Entry, r.Name))], total.Value, turns.Value);
    }

    /// <summary>All answers as CSV (RFC 4180), a row each, protected against formulas.</summary>
    public async Task WriteCsv(FormView view, Stream to, CancellationToken ct)
    {
        var entries = await db.FormEntries.AsNoTracking().Where(e => e.BlockId == view.Block.Id).OrderBy(e => e.At)
            .Join(db.Members, e => e.MemberId, m => m.Id, (e, m) => new { Entry = e, m.Name, m.Email }).ToListAsync(ct);
        await using var writer = new StreamWriter(to, new System.Text.UTF8Encoding(true), leaveOpen: true);
        await using var csv = Csv.Writer(writer);
        var questions = view.Block.Form.Questions;
        csv.WriteRecord(["name", "email", "week", "answered", .. questions.Select(q => q.Text)]);
        foreach (var e in entries)
            csv.WriteRecord([e.Name, e.Email, e.Entry.Turn, catalogue.Now.Calendar.Local(e.Entry.At).ToString("uuuu-MM-dd HH:mm", null),
                .. questions.Select(q => e.Entry.Answers.GetValueOrDefault(q.Key, "").Replace("\n", "; ", StringComparison.Ordinal))]);
        await csv.FlushAsync(ct);
    }
}
