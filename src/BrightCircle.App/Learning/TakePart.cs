using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>What a member does in lessons that are open to them. Whether they are is decided by the page before it comes here, and the lesson is named by it.</summary>
public sealed class TakePart(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, MemberReader reader)
{
    CatalogueSnapshot Now => catalogue.Now;

    async Task<T?> Block<T>(LessonId lesson, BlockId block, CancellationToken ct) where T : Block =>
        (await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == lesson, ct))?.Blocks.FirstOrDefault(b => b.Id == block) as T;

    /// <summary>Marks a lesson as done, or takes the mark back. With the last one its piece is complete.</summary>
    public async Task MarkDone(MemberId member, LessonId lesson, bool done, CancellationToken ct)
    {
        if (!Now.LessonById.TryGetValue(lesson, out var l)) return;
        var piece = Now.PieceOf(l);
        await reader.MarkDone(member, lesson, piece.Id, done, clock.GetCurrentInstant(), piece.IsCourse ? $"finished “{l.Title}” in “{piece.Title}”" : $"finished “{piece.Title}”", ct);
    }

    /// <summary>Keeps answers that aren't handed in yet. What arrives after the sheet was handed in, late from a slow line, changes nothing.</summary>
    public Task<Result> KeepDraft(MemberId member, LessonId lesson, BlockId block, Dictionary<string, Answer> answers, CancellationToken ct) => KeepDraft(member, lesson, block, answers, anew: false, ct);

    async Task<Result> KeepDraft(MemberId member, LessonId lesson, BlockId block, Dictionary<string, Answer> answers, bool anew, CancellationToken ct)
    {
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
        answers.Where(a => sheet.Questions.Any(q => q.Key == a.Key)).ToDictionary(a => a.Key, a => a.Value is Answer.Written { Text.Length: > 8000 } w ? new Answer.Written(w.Text[..8000]) : a.Value);

    /// <summary>Hands a practice sheet in: it is graded at once, as far as a program can.</summary>
    public async Task<Result<SheetResult>> HandIn(MemberId member, LessonId lesson, BlockId block, Dictionary<string, Answer> answers, CancellationToken ct)
    {
        if (await Block<Block.Practice>(lesson, block, ct) is not { } practice) return Result.Refused("This practice sheet isn’t here any more.");
        var at = clock.GetCurrentInstant();
        // Two browsers don't get one try more.
        await using var turn = await OneAtATime(member, ct);
        var before = await db.SheetTries.CountAsync(t => t.MemberId == member && t.BlockId == block, ct);
        if (practice.Sheet.Tries is { } most && before >= most) return Result.Refused(most == 1 ? "You have handed this sheet in already." : $"All {most} tries are used.");
        var kept = Known(practice.Sheet, answers);
        var result = Grading.Grade(practice.Sheet, kept);
        db.Add(new SheetTry { Id = ids.Next(), BlockId = block, LessonId = lesson, MemberId = member, Number = before + 1, At = at, Answers = kept, Result = result, Waiting = result.Waiting, Passed = result.Passed });
        await db.SheetDrafts.Where(d => d.MemberId == member && d.BlockId == block).ExecuteDeleteAsync(ct);
        await db.SaveChangesAsync(ct);
        await turn.CommitAsync(ct);
        if (result.Passed == true) await DoneByItself(member, lesson, ct);
        return result;
    }

    /// <summary>Begins a sheet anew after a try: the old answers stand in it.</summary>
    public async Task TryAgain(MemberId member, LessonId lesson, BlockId block, CancellationToken ct)
    {
        var last = await db.SheetTries.AsNoTracking().Where(t => t.MemberId == member && t.BlockId == block).OrderByDescending(t => t.Number).FirstOrDefaultAsync(ct);
        if (last is not null) await KeepDraft(member, lesson, block, last.Answers, anew: true, ct);
    }

    /// <summary>Where something else than the member says what done is: looks whether it is.</summary>
    internal async Task DoneByItself(MemberId member, LessonId lesson, CancellationToken ct)
    {
        if (!Now.LessonById.TryGetValue(lesson, out var l) || l.DoneWhen is DoneWhen.Marked or DoneWhen.Opened) return;
        var blocks = (await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == lesson, ct)).Blocks;
        var passed = await db.SheetTries.Where(t => t.MemberId == member && t.LessonId == lesson && t.Passed == true).Select(t => t.BlockId).Distinct().ToListAsync(ct);
        var played = await db.Played.Where(p => p.MemberId == member && p.LessonId == lesson && p.Share >= DoneRules.PlayedShare).Select(p => p.BlockId).ToListAsync(ct);
        if (DoneRules.ByItself(l.DoneWhen, blocks, passed.Contains, played.Contains)) await MarkDone(member, lesson, true, ct);
    }

    /// <summary>How far a recording was played.</summary>
    public async Task Play(MemberId member, LessonId lesson, BlockId block, int position, double share, CancellationToken ct)
    {
        if (position < 0 || double.IsNaN(share)) return;
        var now = await reader.NotePlayed(member, lesson, block, position, Math.Clamp(share, 0, 1), 0, clock.GetCurrentInstant(), ct);
        if (now.Share >= DoneRules.PlayedShare) await DoneByItself(member, lesson, ct);
    }

    /// <summary>A follow-along was gone through to its end: the run counts.</summary>
    /// <returns>How often it was done, this time included; 0 where it isn't there any more.</returns>
    public async Task<int> FinishRun(MemberId member, LessonId lesson, BlockId block, CancellationToken ct)
    {
        if (await Block<Block.Follow>(lesson, block, ct) is null) return 0;
        return (await reader.NotePlayed(member, lesson, block, 0, 1, 1, clock.GetCurrentInstant(), ct)).Times;
    }

    /// <summary>The tally a follow-along offers to those who finish it; null where it offers none.</summary>
    public async Task<TallyId?> TallyOf(LessonId lesson, BlockId block, CancellationToken ct) => (await Block<Block.Follow>(lesson, block, ct))?.Run.Tally;

    /// <summary>Answers a form, or changes the answers of this turn.</summary>
    /// <returns>What is wrong by question key; empty where it was kept.</returns>
    public async Task<IReadOnlyDictionary<string, string>> Answer(MemberId member, LessonId lesson, BlockId block, Dictionary<string, string> answers, CancellationToken ct)
    {
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

    public async Task<Result> KeepNote(MemberId member, LessonId lesson, string? text, CancellationToken ct)
    {
        var clean = (text ?? "").Trim();
        if (clean.Length > 20_000) return Result.Refused("A note takes 20,000 letters at most.");
        if (clean.Length == 0) await db.Notes.Where(n => n.MemberId == member && n.LessonId == lesson).ExecuteDeleteAsync(ct);
        else
        {
            var at = clock.GetCurrentInstant();
            await db.Database.ExecuteSqlAsync($"insert into notes (member_id, lesson_id, text, at) values ({member.Value}, {lesson.Value}, {clean}, {at}) on conflict (member_id, lesson_id) do update set text = excluded.text, at = excluded.at", ct);
        }
        return Result.Done;
    }

    public async Task SetBookmark(MemberId member, LessonId lesson, bool on, CancellationToken ct)
    {
        if (!on) await db.Bookmarks.Where(b => b.MemberId == member && b.LessonId == lesson).ExecuteDeleteAsync(ct);
        else
        {
            var at = clock.GetCurrentInstant();
            await db.Database.ExecuteSqlAsync($"insert into bookmarks (member_id, lesson_id, at) values ({member.Value}, {lesson.Value}, {at}) on conflict do nothing", ct);
        }
    }

    /// <summary>The member's bookmarks and notes, the newest first.</summary>
    public async Task<IReadOnlyList<(LessonId Lesson, bool Bookmarked, string Note, Instant At)>> Kept(MemberId member, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var (bookmarks, written) = (trip.List(db.Bookmarks.AsNoTracking().Where(b => b.MemberId == member)), trip.List(db.Notes.AsNoTracking().Where(n => n.MemberId == member)));
        await trip.Ask(ct);
        var (marks, notes) = (bookmarks.Value, written.Value);
        return [.. marks.Select(m => m.LessonId).Concat(notes.Select(n => n.LessonId)).Distinct()
            .Select(id => (id, marks.Any(m => m.LessonId == id), notes.FirstOrDefault(n => n.LessonId == id)?.Text ?? "", new[] { marks.FirstOrDefault(m => m.LessonId == id)?.At, notes.FirstOrDefault(n => n.LessonId == id)?.At }.Max() ?? default))
            .OrderByDescending(x => x.Item4)];
    }
}

/// <summary>Places in a piece that has only so many.</summary>
public sealed class PiecePlaces(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Wake wake)
{
    /// <summary>Takes a place, or one on the waiting list. Two who want the last one at once: one gets it, the other waits.</summary>
    /// <returns>Whether it was a place.</returns>
    public async Task<Result<bool>> Take(MemberId member, PieceId id, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { Places: { } most } piece) return Result.Refused("This piece needs no place.");
        if (await db.PiecePlaces.FirstOrDefaultAsync(p => p.PieceId == id && p.MemberId == member, ct) is { } known) return !known.Waiting;
        var taken = await db.PiecePlaces.CountAsync(p => p.PieceId == id && !p.Waiting, ct);
        var place = db.Add(new PiecePlace { PieceId = id, MemberId = member, At = clock.GetCurrentInstant(), Waiting = taken >= most }).Entity;
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return !place.Waiting;
    }

    async Task<Piece?> Locked(PieceId id, CancellationToken ct) => await db.Pieces.FromSql($"select * from pieces where id = {id.Value} for update").AsNoTracking().FirstOrDefaultAsync(ct);

    /// <summary>Gives a place up: whoever has waited longest gets it, and a letter.</summary>
    public async Task GiveUp(MemberId member, PieceId id, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { } piece) return;
        await db.PiecePlaces.Where(p => p.PieceId == id && p.MemberId == member).ExecuteDeleteAsync(ct);
        await MoveUp(piece, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
    }

    /// <summary>After there are more places than before.</summary>
    public async Task MoveUp(PieceId id, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is { } piece) await MoveUp(piece, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
    }

    async Task MoveUp(Piece piece, CancellationToken ct)
    {
        var free = piece.Places is { } most ? most - await db.PiecePlaces.CountAsync(p => p.PieceId == piece.Id && !p.Waiting, ct) : int.MaxValue;
        if (free <= 0) return;
        var at = clock.GetCurrentInstant();
        foreach (var next in await db.PiecePlaces.Where(p => p.PieceId == piece.Id && p.Waiting).OrderBy(p => p.At).ThenBy(p => p.MemberId).Take(free).ToListAsync(ct))
        {
            next.Waiting = false;
            if (await db.Members.FirstOrDefaultAsync(m => m.Id == next.MemberId, ct) is { } member) new Letterbox(db, ids, catalogue).PlaceFree(member, piece, at);
        }
    }
}

/// <summary>Questions under lessons.</summary>
public sealed class AskAndAnswer(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Wake wake)
{
    public async Task<Result> Ask(MemberId member, string name, LessonId lesson, string? text, long? answers, CancellationToken ct)
    {
        var words = text?.Trim() ?? "";
        if (words.Length is 0 or > 4000) return Result.Refused(words.Length == 0 ? "Write your question first." : "4,000 letters are the most.", "Text");
        if (!catalogue.Now.LessonById.TryGetValue(lesson, out var l) || !catalogue.Now.PieceOf(l).QuestionsOn) return Result.Refused("Questions aren’t taken here.");
        var at = clock.GetCurrentInstant();
        if (await db.LessonQuestions.CountAsync(q => q.AccountId == member.Value && q.At > at - Duration.FromHours(1), ct) >= 20) return Result.Refused("That is a lot of questions for an hour. Try again a little later.");
        if (answers is { } to && !await db.LessonQuestions.AnyAsync(q => q.Id == to && q.LessonId == lesson && q.AnswersId == null && q.HiddenAt == null, ct)) return Result.Refused("This question isn’t here any more.");
        db.Add(new LessonQuestion { Id = ids.Next(), LessonId = lesson, AnswersId = answers, AccountId = member.Value, Name = name, Text = words, At = at });
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>The team answers; whoever asked gets a letter.</summary>
    public async Task<Result> Answer(TeamActor by, long question, string? text, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
        var words = text?.Trim() ?? "";
        if (words.Length is 0 or > 4000) return Result.Refused(words.Length == 0 ? "Write the answer first." : "4,000 letters are the most.", "Text");
        if (await db.LessonQuestions.FirstOrDefaultAsync(q => q.Id == question && q.AnswersId == null, ct) is not { } asked) return Result.Refused("This question isn’t here any more.");
        var at = clock.GetCurrentInstant();
        var answer = db.Add(new LessonQuestion { Id = ids.Next(), LessonId = asked.LessonId, AnswersId = asked.Id, AccountId = by.AccountId, Name = by.Name, ByTeam = true, Text = words, At = at }).Entity;
        asked.SettledAt = at;
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == new MemberId(asked.AccountId), ct) is { } member && catalogue.Now.LessonById.TryGetValue(asked.LessonId, out var lesson))
            new Letterbox(db, ids, catalogue).QuestionAnswered(member, lesson, asked.Text, words, by.Name, answer.Id, at);
        await db.SaveChangesAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Takes a question or an answer away from the page; or puts it back.</summary>
    public async Task Hide(TeamActor by, long id, bool hidden, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
        var at = hidden ? clock.GetCurrentInstant() : (Instant?)null;
        await db.LessonQuestions.Where(q => q.Id == id).ExecuteUpdateAsync(u => u.SetProperty(q => q.HiddenAt, at), ct);
    }

    public async Task Settle(TeamActor by, long id, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
        var at = clock.GetCurrentInstant();
        await db.LessonQuestions.Where(q => q.Id == id).ExecuteUpdateAsync(u => u.SetProperty(q => q.SettledAt, at), ct);
    }
}
