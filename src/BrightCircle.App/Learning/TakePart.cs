using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>What a member does in a lesson that is open to them.</summary>
public sealed class TakePart(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, MemberReader reader, Tell tell)
{
    /// <summary>No recording is longer than two days.</summary>
    const int MostSeconds = 172_800;

    CatalogueSnapshot Now => catalogue.Now;

    async Task<T?> Block<T>(LessonId lesson, BlockId block, CancellationToken ct) where T : Block =>
        (await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == lesson, ct))?.Blocks.FirstOrDefault(b => b.Id == block) as T;

    /// <summary>
    /// Marks a lesson as done by hand, or takes the mark back: only where its own rule leaves that to the member. A sheet that has to be passed or a
    /// recording that has to be played can't be skipped by saying so.
    /// </summary>
    public async Task<Result> MarkDone(LessonReader by, bool done, CancellationToken ct)
    {
        var content = await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == by.Lesson.Id, ct);
        if (!DoneRules.MarkedByHand(by.Lesson.DoneWhen, content?.Blocks ?? [])) return Result.Refused(NotByHand(by.Lesson.DoneWhen));
        await SetDone(by.Member, by.Lesson, done, ct);
        return Result.Done;
    }

    static string NotByHand(DoneWhen when) => when switch
    {
        DoneWhen.SheetPassed => "This lesson is done when its practice sheet is passed.",
        DoneWhen.Watched => "This lesson is done when its recording was played to the end.",
        DoneWhen.Opened => "Opening this lesson is enough: it is done already.",
        DoneWhen.Marked => throw new InvalidOperationException("It is marked by hand."),
    };

    Task SetDone(MemberId member, Lesson lesson, bool done, CancellationToken ct)
    {
        var piece = Now.PieceOf(lesson);
        return reader.MarkDone(member, lesson.Id, done, clock.GetCurrentInstant(),
            new(lesson.Id, piece.Id, piece.IsCourse ? lesson.Title : piece.Title, piece.IsCourse ? piece.Title : null), ct);
    }

    /// <summary>Keeps answers that aren't handed in yet. What arrives after the sheet was handed in, late from a slow line, changes nothing.</summary>
    public Task<Result> KeepDraft(LessonReader by, BlockId block, Dictionary<string, Answer> answers, CancellationToken ct) =>
        KeepDraft(by, block, answers, anew: false, ct);

    async Task<Result> KeepDraft(LessonReader by, BlockId block, Dictionary<string, Answer> answers, bool anew, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (await Block<Block.Practice>(lesson, block, ct) is not { } practice) return Result.Refused("This practice sheet isn’t here any more.");
        await using var turn = await OneAtATime(member, ct);
        var draft = await db.SheetDrafts.FirstOrDefaultAsync(d => d.MemberId == member && d.BlockId == block, ct);
        if (draft is null)
        {
            if (!anew && await db.SheetTries.AnyAsync(t => t.MemberId == member && t.BlockId == block, ct)) return Result.Done;
            draft = db.Add(new SheetDraft { MemberId = member, BlockId = block }).Entity;
        }
        (draft.Answers, draft.At) = (Known(practice.Sheet, answers), clock.GetCurrentInstant());
        await db.SaveChangesAsync(ct);
        await turn.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>A transaction in which a member's answers are kept one after the other, from however many windows they come.</summary>
    async Task<IDbContextTransaction> OneAtATime(MemberId member, CancellationToken ct)
    {
        var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        return transaction;
    }

    static Dictionary<string, Answer> Known(PracticeSheet sheet, Dictionary<string, Answer> answers) =>
        answers.Where(a => sheet.Questions.Any(q => q.Key == a.Key))
            .ToDictionary(a => a.Key, a => a.Value is Answer.Written { Text.Length: > 8000 } w ? new Answer.Written(w.Text[..8000]) : a.Value);

    /// <summary>Hands a practice sheet in: it is graded at once, as far as a program can.</summary>
    public async Task<Result<SheetResult>> HandIn(LessonReader by, BlockId block, Dictionary<string, Answer> answers, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (await Block<Block.Practice>(lesson, block, ct) is not { } practice) return Result.Refused("This practice sheet isn’t here any more.");
        var at = clock.GetCurrentInstant();
        // Two browsers don't get one try more.
        await using var turn = await OneAtATime(member, ct);
        var before = await db.SheetTries.CountAsync(t => t.MemberId == member && t.BlockId == block, ct);
        if (practice.Sheet.Tries is { } most && before >= most)
            return Result.Refused(most == 1 ? "You have handed this sheet in already." : $"All {most} tries are used.");
        var kept = Known(practice.Sheet, answers);
        var result = Grading.Grade(practice.Sheet, kept);
        db.Add(new SheetTry
        {
            Id = ids.Next(),
            BlockId = block,
            LessonId = lesson,
            MemberId = member,
            Number = before + 1,
            At = at,
            Answers = kept,
            Result = result,
            Waiting = result.Waiting,
            Passed = result.Passed
        });
        await db.SheetDrafts.Where(d => d.MemberId == member && d.BlockId == block).ExecuteDeleteAsync(ct);
        var title = practice.Sheet.Title.Length > 0 ? practice.Sheet.Title : by.Lesson.Title;
        tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), new Event.HandedIn(lesson, block, title, result.Earned, result.Points, result.Passed),
            at);
        await db.SaveChangesAsync(ct);
        await turn.CommitAsync(ct);
        if (result.Passed == true) await DoneByItself(member, lesson, ct);
        return result;
    }

    /// <summary>Begins a sheet anew after a try: the old answers stand in it.</summary>
    public async Task TryAgain(LessonReader by, BlockId block, CancellationToken ct)
    {
        var member = by.Member;
        var last = await db.SheetTries.AsNoTracking().Where(t => t.MemberId == member && t.BlockId == block).OrderByDescending(t => t.Number)
            .FirstOrDefaultAsync(ct);
        if (last is not null) await KeepDraft(by, block, last.Answers, anew: true, ct);
    }

    /// <summary>Where something else than the member says what done is: looks whether it is.</summary>
    internal async Task DoneByItself(MemberId member, LessonId lesson, CancellationToken ct)
    {
        if (!Now.LessonById.TryGetValue(lesson, out var l) || l.DoneWhen is DoneWhen.Marked or DoneWhen.Opened) return;
        var blocks = (await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == lesson, ct)).Blocks;
        var passed = await db.SheetTries.Where(t => t.MemberId == member && t.LessonId == lesson && t.Passed == true).Select(t => t.BlockId).Distinct()
            .ToListAsync(ct);
        var played = await db.Played.Where(p => p.MemberId == member && p.LessonId == lesson && p.Share >= DoneRules.PlayedShare).Select(p => p.BlockId)
            .ToListAsync(ct);
        if (DoneRules.ByItself(l.DoneWhen, blocks, passed.Contains, played.Contains)) await SetDone(member, l, true, ct);
    }

    /// <summary>How far a recording of the lesson was played.</summary>
    /// <param name="position">In seconds.</param>
    public async Task Play(LessonReader by, BlockId block, int position, double share, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (position is < 0 or > MostSeconds || double.IsNaN(share)) return;
        var content = await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == lesson, ct);
        if (content is null || !content.Blocks.Any(b => b.Id == block && (b is Core.Content.Block.Video or Core.Content.Block.Audio))) return;
        var now = await reader.NotePlayed(member, lesson, block, position, Math.Clamp(share, 0, 1), 0, clock.GetCurrentInstant(), ct);
        if (now.Share >= DoneRules.PlayedShare) await DoneByItself(member, lesson, ct);
    }

    /// <summary>A follow-along was gone through to its end: the run counts.</summary>
    /// <returns>How often it was done, this time included; 0 where it isn't there any more.</returns>
    public async Task<int> FinishRun(LessonReader by, BlockId block, CancellationToken ct)
    {
        if (await Block<Block.Follow>(by.Lesson.Id, block, ct) is null) return 0;
        return (await reader.NotePlayed(by.Member, by.Lesson.Id, block, 0, 1, 1, clock.GetCurrentInstant(), ct)).Times;
    }

    /// <summary>The tally a follow-along offers to those who finish it; null where it offers none.</summary>
    public async Task<TallyId?> TallyOf(LessonReader by, BlockId block, CancellationToken ct) =>
        (await Block<Block.Follow>(by.Lesson.Id, block, ct))?.Run.Tally;

    /// <summary>Answers a form, or changes the answers of this turn.</summary>
    /// <returns>What is wrong by question key; empty where it was kept.</returns>
    public async Task<IReadOnlyDictionary<string, string>> Answer(LessonReader by, BlockId block, Dictionary<string, string> answers, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (await Block<Block.CheckIn>(lesson, block, ct) is not { } form) return new Dictionary<string, string> { [""] = "This form isn’t here any more." };
        if (FormRules.Wrong(form.Form, answers) is { Count: > 0 } wrong) return wrong;
        var at = clock.GetCurrentInstant();
        var turn = FormRules.Turn(form.Form, Now.Calendar.Date(at));
        var kept = FormRules.Kept(form.Form, answers);
        await using var one = await OneAtATime(member, ct);
        var entry = await db.FormEntries.FirstOrDefaultAsync(e => e.BlockId == block && e.MemberId == member && e.Turn == turn, ct)
            ?? db.Add(new FormEntry { Id = ids.Next(), BlockId = block, LessonId = lesson, MemberId = member, Turn = turn }).Entity;
        (entry.Answers, entry.At) = (kept, at);
        await db.SaveChangesAsync(ct);
        await one.CommitAsync(ct);
        return new Dictionary<string, string>();
    }

    public async Task<Result> KeepNote(LessonReader by, string? text, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        var clean = (text ?? "").Trim();
        if (clean.Length > 20_000) return Result.Refused("A note takes 20,000 letters at most.");
        if (clean.Length == 0) await db.Notes.Where(n => n.MemberId == member && n.LessonId == lesson).ExecuteDeleteAsync(ct);
        else
        {
            var at = clock.GetCurrentInstant();
            await db.Database.ExecuteSqlAsync($"""
                insert into notes (member_id, lesson_id, text, at) values ({member.Value}, {lesson.Value}, {clean}, {at}) on conflict (member_id,
                    lesson_id) do update set text = excluded.text, at = excluded.at
                """, ct);
        }
        return Result.Done;
    }

    public async Task SetBookmark(LessonReader by, bool on, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (!on) await db.Bookmarks.Where(b => b.MemberId == member && b.LessonId == lesson).ExecuteDeleteAsync(ct);
        else
        {
            var at = clock.GetCurrentInstant();
            await db.Database.ExecuteSqlAsync(
                $"insert into bookmarks (member_id, lesson_id, at) values ({member.Value}, {lesson.Value}, {at}) on conflict do nothing", ct);
        }
    }

    /// <summary>The member's bookmarks and notes, the newest first.</summary>
    public async Task<IReadOnlyList<(LessonId Lesson, bool Bookmarked, string Note, Instant At)>> Kept(MemberId member, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var (bookmarks, written) = (trip.List(db.Bookmarks.AsNoTracking().Where(b => b.MemberId == member)),
            trip.List(db.Notes.AsNoTracking().Where(n => n.MemberId == member)));
        await trip.Ask(ct);
        var (marks, notes) = (bookmarks.Value, written.Value);
        return [.. marks.Select(m => m.LessonId).Concat(notes.Select(n => n.LessonId)).Distinct()
            .Select(id => (id, marks.Any(m => m.LessonId == id), notes.FirstOrDefault(n => n.LessonId == id)?.Text ?? "",
                new[] { marks.FirstOrDefault(m => m.LessonId == id)?.At, notes.FirstOrDefault(n => n.LessonId == id)?.At }.Max() ?? default))
            .OrderByDescending(x => x.Item4)];
    }
}
