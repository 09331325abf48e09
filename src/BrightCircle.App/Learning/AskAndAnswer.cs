using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>Questions under lessons.</summary>
public sealed class AskAndAnswer(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Tell tell, Wake wake)
{
    /// <summary>Said to whoever wants to write under a name others know, and hasn't proved the address.</summary>
    public const string Unproved = "Please confirm your address first: open the link in one of our letters, or have one sent from your account page.";

    /// <summary>A page of questions, the newest first, with what was answered.</summary>
    /// <param name="all">Those that are settled or hidden, too.</param>
    public async Task<(IReadOnlyList<LessonQuestion> Rows, ILookup<long, LessonQuestion> Answers, int Count)> List(
        bool all, int page, int size, CancellationToken ct)
    {
        var q = db.LessonQuestions.AsNoTracking().Where(x => x.AnswersId == null && (all || x.SettledAt == null && x.HiddenAt == null));
        var shown = q.OrderByDescending(x => x.Id).Skip((page - 1) * size).Take(size);
        var trip = new OneTrip(db);
        var (total, rows) = (trip.Count(q), trip.List(shown));
        var answers = trip.List(db.LessonQuestions.AsNoTracking().Where(x => shown.Any(q => q.Id == x.AnswersId)).OrderBy(x => x.Id));
        await trip.Ask(ct);
        return (rows.Value, answers.Value.ToLookup(x => x.AnswersId!.Value), total.Value);
    }

    /// <param name="confirmed">Their address is proved: what is written under a name others know has to be theirs.</param>
    public async Task<Result> Ask(LessonReader by, bool confirmed, string? text, long? answers, CancellationToken ct)
    {
        var (member, lesson) = (by.Member, by.Lesson.Id);
        if (!confirmed) return Result.Refused(Unproved, "Text");
        var words = text?.Trim() ?? "";
        if (words.Length is 0 or > 4000) return Result.Refused(words.Length == 0 ? "Write your question first." : "4,000 letters are the most.", "Text");
        if (!by.Piece.QuestionsOn) return Result.Refused("Questions aren’t taken here.");
        var at = clock.GetCurrentInstant();
        if (await db.LessonQuestions.CountAsync(q => q.AccountId == member.Value && q.At > at - Duration.FromHours(1), ct) >= 20)
            return Result.Refused("That is a lot of questions for an hour. Try again a little later.");
        if (answers is { } to && !await db.LessonQuestions.AnyAsync(q => q.Id == to && q.LessonId == lesson && q.AnswersId == null && q.HiddenAt == null, ct))
            return Result.Refused("This question isn’t here any more.");
        var question =
            db.Add(new LessonQuestion
            {
                Id = ids.Next(),
                LessonId = lesson,
                AnswersId = answers,
                AccountId = member.Value,
                Name = by.Name,
                Text = words,
                At = at
            }).Entity;
        tell.Of(await db.Members.SingleAsync(m => m.Id == member, ct), new Event.Asked(lesson, question.Id, by.Lesson.Title, words), at);
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>The team answers; whoever asked gets a letter.</summary>
    public async Task<Result> Answer(TeamActor by, long question, string? text, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
        var words = text?.Trim() ?? "";
        if (words.Length is 0 or > 4000) return Result.Refused(words.Length == 0 ? "Write the answer first." : "4,000 letters are the most.", "Text");
        if (await db.LessonQuestions.FirstOrDefaultAsync(q => q.Id == question && q.AnswersId == null, ct) is not { } asked)
            return Result.Refused("This question isn’t here any more.");
        var at = clock.GetCurrentInstant();
        var answer =
            db.Add(new LessonQuestion
            {
                Id = ids.Next(),
                LessonId = asked.LessonId,
                AnswersId = asked.Id,
                AccountId = by.AccountId,
                Name = by.Name,
                ByTeam = true,
                Text = words,
                At = at
            }).Entity;
        asked.SettledAt = at;
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == new MemberId(asked.AccountId), ct) is { } member
            && catalogue.Now.LessonById.TryGetValue(asked.LessonId, out var lesson))
            tell.Of(member, new Event.Answered(lesson.Id, answer.Id, lesson.Title, asked.Text, words), at, by);
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
