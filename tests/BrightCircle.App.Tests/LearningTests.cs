using BrightCircle.App.Content;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.App.Tests;

public class LearningTests
{
    static async Task<(Course Course, Lesson Lesson, Block.Practice Sheet, MemberId Member, string Email)> Sheet(House house)
    {
        var course = await Course.On(house);
        var lesson = course.Lesson("Winter");
        var blocks = await course.Blocks(lesson.Id);
        await house.Do<SaveLesson>(s => s.Do(house.Owner, lesson.Id, new("Winter", 5, false, DoneWhen.SheetPassed, null, true, blocks, lesson.Version),
            default));
        await house.Release(course.Id);
        var email = House.NewAddress();
        return (course, course.Lesson("Winter"), blocks.OfType<Block.Practice>().Single(), await house.Join(house.Free, email: email), email);
    }

    [Fact]
    public async Task A_sheet_is_graded_at_once_read_by_a_person_and_then_done()
    {
        await using var house = await House.Open();
        var (course, lesson, sheet, member, email) = await Sheet(house);
        await house.Do<TakePart>(async s => await s.KeepDraft(
            await house.Reads(member, lesson.Id), sheet.Id, new() { ["q1"] = new Answer.Written("Sugar"), ["gone"] = new Answer.Written("x") }, default));
        Assert.Equal(["q1"], await house.Ask(async db => (await db.SheetDrafts.SingleAsync()).Answers.Keys.ToArray()));
        var result = await house.Get<TakePart, Result<SheetResult>>(
            async s => await s.HandIn(await house.Reads(member, lesson.Id), sheet.Id,
            new() { ["q1"] = new Answer.Written("syrup"), ["q2"] = new Answer.Written("Because it is cold.") }, default));
        Assert.Null(result.Value!.Passed);
        Assert.Equal(0, await house.Ask(db => db.SheetDrafts.CountAsync()));
        var toMark = Assert.Single((await house.Get<MarkSheets, (IReadOnlyList<ToMark> Oldest, int)>(s => s.List(default))).Oldest);
        Assert.Equal("q2", (await house.Get<MarkSheets,
            Result>(s => s.Mark(house.Owner, toMark.Try.Id, new Dictionary<string, Mark> { ["q2"] = new(9, "") }, default))).Field);
        Assert.True(
            (await house.Get<MarkSheets, Result>(s =>
            s.Mark(house.Owner, toMark.Try.Id, new Dictionary<string, Mark> { ["q2"] = new(2, "Just so.") }, default))).Ok);
        Assert.NotNull(await house.Ask(db => db.Openings.Where(o => o.MemberId == member && o.LessonId == lesson.Id).Select(o => o.DoneAt).SingleAsync()));
        await house.Deliver();
        Assert.Contains("2 of 4 points", (await House.Letter(email, "has read your answers")).GetProperty("text").GetString(), StringComparison.Ordinal);
        // Two tries and no more, even from two browsers at once.
        var tries = await Task.WhenAll(Enumerable.Range(0, 4)
            .Select(_ => house.Get<TakePart, Result<SheetResult>>(
            async s => await s.HandIn(await house.Reads(member, lesson.Id), sheet.Id, new() { ["q1"] = new Answer.Written("fondant") }, default))));
        Assert.Single(tries, t => t.Ok);
        Assert.Equal(2, await house.Ask(db => db.SheetTries.CountAsync()));
        var view = await house.Get<MarkSheets, SheetView?>(s => s.Figures(lesson.Id, sheet.Id, default));
        Assert.Equal((2, 1, 1), (view!.Tries, view.Members, view.Passed));
    }

    [Fact]
    public async Task A_form_is_answered_once_a_week_and_comes_out_as_a_table()
    {
        await using var house = await House.Open();
        var form =
            new Block.CheckIn(
            new("Hives", [new("q1", FormQuestionKind.Number, "How many?", true, [], null),
            new("q2", FormQuestionKind.Several, "Which?", false, ["a", "b"], null)], FormRepeat.EveryWeek, ""))
            { Id = house.NextBlock() };
        var piece = (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("Check-in", Blocks: [form], Ready: true), default))).Value;
        await house.Release(piece);
        var lesson = house.Now.PieceById[piece].Outline.Lessons[0].Id;
        var member = await house.Join(house.Free);
        Task<IReadOnlyDictionary<string, string>> Answer(string n, string which) => house.Get<TakePart, IReadOnlyDictionary<string,
            string>>(async s => await s.Answer(await house.Reads(member, lesson), form.Id, new() { ["q1"] = n, ["q2"] = which }, default));
        Assert.Equal(["q1"], (await Answer("some", "a")).Keys);
        Assert.Empty(await Answer("3", "a\nb"));
        Assert.Empty(await Answer("4", "=1+1\n"[..0]));
        await house.Days(7);
        Assert.Empty(await Answer("5", "b"));
        var view = await house.Get<MarkSheets, FormView?>(s => s.Answers(lesson, form.Id, null, 1, default));
        Assert.Equal(["5", "4"], view!.Rows.Select(r => r.Entry.Answers["q1"]));
        Assert.Equal(["2026-W49", "2026-W48"], view.Turns);
        using var csv = new MemoryStream();
        await house.Do<MarkSheets>(s => s.WriteCsv(view, csv, default));
        var lines = System.Text.Encoding.UTF8.GetString(csv.ToArray()).TrimStart('\ufeff').Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal("name,email,week,answered,How many?,Which?", lines[0]);
        Assert.Equal(3, lines.Length);
    }

    [Fact]
    public async Task Playing_to_nine_tenths_counts_once_both_recordings_are_played()
    {
        await using var house = await House.Open();
        Block[] blocks = [new Block.Video(Recording.Empty with { File = new FileId(1) }) { Id = house.NextBlock() },
            new Block.Audio(Recording.Empty with { File = new FileId(2) }) { Id = house.NextBlock() }];
        var piece = (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("Film", Blocks: blocks, Ready: true), default))).Value;
        var lesson = house.Now.PieceById[piece].Outline.Lessons[0];
        await house.Do<SaveLesson>(s => s.Do(house.Owner, lesson.Id, new("Film", 5, false, DoneWhen.Watched, null, true, blocks, lesson.Version), default));
        await house.Release(piece);
        var member = await house.Join(house.Free);
        Task Play(int block, double share) => house.Do<TakePart>(
            async s => await s.Play(await house.Reads(member, lesson.Id), blocks[block].Id, 60, share, default));
        async Task<bool> Done() => await house.Ask(db => db.Openings.AnyAsync(o => o.MemberId == member && o.DoneAt != null));
        await Play(0, 0.95);
        await Play(1, 0.89);
        Assert.False(await Done());
        // Going back doesn't take away what was played.
        await Play(0, 0.1);
        await Play(1, 0.9);
        Assert.True(await Done());
    }

    [Fact]
    public async Task Two_who_want_the_last_place_get_one_and_the_next_moves_up_with_a_letter()
    {
        await using var house = await House.Open();
        var piece =
            (await house.Get<SavePiece, Result<PieceId>>(
            s => s.New(house.Owner, new("Clinic", Blocks: [Course.Text(house, "<p>Come</p>")], Ready: true), default))).Value;
        await house.Release(piece);
        await house.Do<SavePiece>(s => s.Facts(house.Owner, piece, PieceFacts.Of(house.Now.PieceById[piece]) with { Places = 1 }, default));
        var emails = Enumerable.Range(0, 3).Select(_ => House.NewAddress()).ToArray();
        var members = new List<MemberId>();
        foreach (var e in emails) members.Add(await house.Join(house.Free, email: e));
        var got = await Task.WhenAll(members.Select(m => house.Get<PiecePlaces, Result<bool>>(async s => await s.Take(await house.Place(m, piece), default))));
        Assert.Single(got, g => g.Value);
        var lucky = members[Array.FindIndex(got, g => g.Value)];
        var waiting = await house.Ask(db => db.PiecePlaces.Where(p => p.Waiting).OrderBy(p => p.At).ThenBy(p => p.MemberId).Select(p => p.MemberId)
            .ToListAsync());
        await house.Do<PiecePlaces>(s => s.GiveUp(lucky, piece, default));
        Assert.Equal(waiting[0], await house.Ask(db => db.PiecePlaces.Where(p => !p.Waiting).Select(p => p.MemberId).SingleAsync()));
        await house.Deliver();
        Assert.Contains("it is yours now", (await House.Letter(emails[members.IndexOf(waiting[0])], "Your place in Clinic")).GetProperty("text").GetString(),
            StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_question_is_answered_and_whoever_asked_is_told()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        await house.Release(course.Id);
        var lesson = course.Lesson("Winter").Id;
        var email = House.NewAddress();
        var member = await house.Join(house.Free, email: email);
        Assert.Contains("aren’t taken", (await house.Get<AskAndAnswer,
            Result>(async s => await s.Ask(await house.Reads(member, lesson), true, "Why?", null, default))).Refusal, StringComparison.Ordinal);
        await house.Do<SavePiece>(s => s.Facts(house.Owner, course.Id, PieceFacts.Of(course.Piece) with { QuestionsOn = true }, default));
        Assert.True(
            (await house.Get<AskAndAnswer, Result>(async s => await s.Ask(await house.Reads(member, lesson), true, "Why *so* [cold](x)?", null, default))).Ok);
        var asked = await house.Ask(db => db.LessonQuestions.SingleAsync());
        Assert.True((await house.Get<AskAndAnswer, Result>(s => s.Answer(house.Owner, asked.Id, "Because.", default))).Ok);
        await house.Deliver();
        var letter = await House.Letter(email, "An answer to your question");
        Assert.Contains("Why *so* [cold](x)?", letter.GetProperty("text").GetString(), StringComparison.Ordinal);
        Assert.DoesNotContain("href=\"x\"", letter.GetProperty("html").GetString(), StringComparison.Ordinal);
        Assert.Equal(0, await house.Ask(db => db.LessonQuestions.CountAsync(q => q.AnswersId == null && q.SettledAt == null)));
    }
}
