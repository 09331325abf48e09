using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Learning;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>A course on a house: Week 1 with lessons 1 and 2, Week 2 with lesson 3.</summary>
sealed record Course(House House, PieceId Id)
{
    public Piece Piece => House.Now.PieceById[Id];
    public Lesson Lesson(string title) => Piece.Outline.Lessons.Single(l => l.Title == title);
    public string Shape =>
        string.Join(" | ", Piece.Outline.Parts.Select(p => $"{p.Module?.Title ?? "-"}: {string.Join(", ", p.Lessons.Select(l => l.Title))}"));
    public Task<IReadOnlyList<Block>> Blocks(LessonId id) =>
        House.Ask(async db => (await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == id)).Blocks);

    public static async Task<Course> On(House house)
    {
        var course = new Course(house, await house.Get<SavePiece, PieceId>(
            async s =>
            (await s.New(house.Owner, new("Winter", Minutes: 5, Blocks: [Text(house, "<p>One</p>"), house.Practice(), Text(house, "<p>Two</p>")]), default))
            .Value));
        var week1 = (await house.Get<AddModule, Result<ModuleId>>(s => s.Do(house.Owner, course.Id, "Week 1", default))).Value;
        Assert.True((await house.Get<MoveLessons, Result>(s => s.Do(house.Owner, [course.Piece.Outline.Lessons[0].Id], course.Id, week1, default))).Ok);
        await house.Do<AddLesson>(s => s.Do(house.Owner, course.Id, week1, "Lesson 2", null, default, [Text(house, "<p>Three</p>")]));
        var next = (await house.Get<AddModule, Result<ModuleId>>(s => s.Do(house.Owner, course.Id, null, default))).Value;
        await house.Do<AddLesson>(s => s.Do(house.Owner, course.Id, next, "Lesson 3", null, default, [Text(house, "<p>Four</p>")]));
        return course;
    }

    public static Block.Text Text(House house, string html) => new(html) { Id = house.NextBlock() };
}

static class ContentSteps
{
    public static BlockId NextBlock(this House house) => house.Services.GetRequiredService<Ids>().Next<BlockId>();
    public static Block.Practice Practice(this House house) =>
        new(new("Sheet", "", [new Question.FillText("q1", "What?", 2, "", ["fondant"]), new Question.Open("q2", "Why?", 2, "")], 2, 50))
        {
            Id =
        house.NextBlock()
        };
    public static async Task<TResult> Get<T, TResult>(this House house, Func<T, Task<TResult>> ask) where T : notnull
    {
        TResult result = default!;
        await house.Do<T>(async t => result = await ask(t));
        return result;
    }
}

public class ContentTests
{
    [Fact]
    public async Task A_bare_piece_needs_only_a_title_and_names_count_on()
    {
        await using var house = await House.Open();
        Assert.Equal("Title", (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("  "), default))).Field);
        var course = await Course.On(house);
        Assert.Equal("Week 1: Winter, Lesson 2 | Week 2: Lesson 3", course.Shape);
        await house.Do<DuplicateModule>(s => s.Do(house.Owner, course.Piece.Outline.Modules.First().Id, default));
        Assert.Equal("Week 1: Winter, Lesson 2 | Week 3: Winter, Lesson 2 | Week 2: Lesson 3", course.Shape);
        await house.Do<DuplicateLesson>(s => s.Do(house.Owner, course.Lesson("Lesson 3").Id, default));
        Assert.Equal("Week 1: Winter, Lesson 2 | Week 3: Winter, Lesson 2 | Week 2: Lesson 3, Lesson 4", course.Shape);
        // A copy's blocks are its own.
        Assert.Empty((await course.Blocks(course.Lesson("Lesson 3").Id)).Select(b => b.Id)
            .Intersect((await course.Blocks(course.Lesson("Lesson 4").Id)).Select(b => b.Id)));
        var copy = await house.Get<DuplicatePiece, Result<PieceId>>(s => s.Do(house.Owner, course.Id, default));
        var whole = new Course(house, copy.Value);
        Assert.Equal(course.Shape.Replace("Winter", whole.Piece.Title, StringComparison.Ordinal), whole.Shape);
        Assert.All(whole.Piece.Outline.Lessons, l => Assert.Equal(PieceState.Draft, l.State));
    }

    [Fact]
    public async Task The_order_is_one_fact_and_nobody_overwrites_it_unseen()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var order = course.Piece.Outline.Order;
        var moved = order.MoveLessons([course.Lesson("Lesson 3").Id], new(order.Groups[0].Module, 0));
        Assert.True((await house.Get<ReorderOutline, Result>(s => s.Do(house.Owner, course.Id, moved, default))).Ok);
        Assert.Equal("Week 1: Lesson 3, Winter, Lesson 2 | Week 2: ", course.Shape);
        await house.Do<AddLesson>(s => s.Do(house.Owner, course.Id, null, "Lesson 9", null, default));
        var refused = await house.Get<ReorderOutline, Result>(s => s.Do(house.Owner, course.Id, moved, default));
        Assert.Contains("changed this outline meanwhile", refused.Refusal, StringComparison.Ordinal);
        Assert.Equal("-: Lesson 9 | Week 1: Lesson 3, Winter, Lesson 2 | Week 2: ", course.Shape);
    }

    [Fact]
    public async Task What_a_member_did_goes_along_with_splitting_merging_and_moving()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var first = course.Lesson("Winter");
        await house.Do<SavePiece>(s => s.Publish(house.Owner, course.Id, true, default));
        await house.Do<ReleaseContent>(s => s.Open(house.Owner, course.Id, null, false, default));
        await house.Services.GetRequiredService<RunDue>().Run();
        var member = await house.Join(house.Free);
        var sheet = (await course.Blocks(first.Id)).OfType<Block.Practice>().Single();
        await house.Do<TakePart>(async s => await s.HandIn(
            await house.Reads(member, first.Id), sheet.Id, new() { ["q1"] = new Answer.Written("Fondant") }, default));
        await house.Do<TakePart>(async s => await s.MarkDone(await house.Reads(member, first.Id), true, default));
        await house.Do<TakePart>(async s => await s.KeepNote(await house.Reads(member, first.Id), "mine", default));

        var second = await house.Get<SplitLesson, Result<LessonId>>(s => s.Do(house.Owner, first.Id, sheet.Id, null, default));
        Assert.Equal("Week 1: Winter, Winter (continued), Lesson 2 | Week 2: Lesson 3", course.Shape);
        Assert.Equal(2, (await course.Blocks(second.Value)).Count);
        Assert.Equal(second.Value, await house.Ask(db => db.SheetTries.Select(t => t.LessonId).SingleAsync()));
        Assert.Equal(2, await house.Ask(db => db.Openings.CountAsync(o => o.MemberId == member && o.DoneAt != null)));
        Assert.Equal(PieceState.Released, course.Lesson("Winter (continued)").State);

        Assert.True((await house.Get<MergeLesson, Result>(s => s.Do(house.Owner, second.Value, default))).Ok);
        Assert.Equal("Week 1: Winter, Lesson 2 | Week 2: Lesson 3", course.Shape);
        Assert.Equal(3, (await course.Blocks(first.Id)).Count);
        Assert.Equal(first.Id, await house.Ask(db => db.SheetTries.Select(t => t.LessonId).SingleAsync()));
        Assert.NotNull(await house.Ask(db => db.Openings.Where(o => o.LessonId == first.Id).Select(o => o.DoneAt).SingleAsync()));

        var other = (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("Elsewhere"), default))).Value;
        await house.Do<MoveLessons>(s => s.Do(house.Owner, [first.Id], other, null, default));
        Assert.Equal("-: Elsewhere, Winter", new Course(house, other).Shape);
        Assert.Equal("mine", await house.Ask(db => db.Notes.Where(n => n.LessonId == first.Id).Select(n => n.Text).SingleAsync()));
    }

    [Fact]
    public async Task Deleted_things_come_back_within_thirty_days_and_go_after()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var module = course.Piece.Outline.Modules.First().Id;
        await house.Do<Trash>(s => s.PutModule(house.Owner, module, default));
        Assert.Equal("Week 2: Lesson 3", course.Shape);
        await house.Do<Trash>(s => s.Restore(house.Owner, "module", module.Value, default));
        Assert.Equal("Week 1: Winter, Lesson 2 | Week 2: Lesson 3", course.Shape);
        await house.Do<Trash>(s => s.PutLesson(house.Owner, course.Lesson("Lesson 2").Id, default));
        await house.Do<Trash>(s => s.PutPiece(house.Owner, course.Id, default));
        Assert.False(house.Now.PieceById.ContainsKey(course.Id));
        Assert.Equal(2, (await house.Get<Trash, IReadOnlyList<Trashed>>(async s => (await s.List(default)).Rows)).Count);
        await house.To(house.Clock.Moment + Duration.FromDays(29));
        await house.Do<Trash>(s => s.Restore(house.Owner, "piece", course.Id.Value, default));
        Assert.Equal("Week 1: Winter | Week 2: Lesson 3", course.Shape);
        await house.To(house.Clock.Moment + Duration.FromDays(3));
        Assert.Empty(await house.Get<Trash, IReadOnlyList<Trashed>>(async s => (await s.List(default)).Rows));
        Assert.Equal(2, await house.Ask(db => db.Lessons.CountAsync(l => l.PieceId == course.Id)));
    }

    [Fact]
    public async Task Two_editors_of_a_lesson_never_overwrite_each_other_and_every_version_comes_back()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var lesson = course.Lesson("Winter");
        LessonDraft Draft(string html, int version, bool ready = false) =>
            new("Winter", 5, false, DoneWhen.Marked, null, ready, [Course.Text(house, html)], version);
        var tom = house.Owner with { AccountId = 42, Name = "Tom" };
        await house.Ask(db => { db.Users.Add(PeopleData.NewAccount(42, "Tom", House.NewAddress(), TeamRole.Editor)); return db.SaveChangesAsync(); });
        Assert.IsType<LessonSaved.Done>
            (await house.Get<SaveLesson, LessonSaved>(s => s.Do(house.Owner, lesson.Id, Draft("<p>Ines</p>", lesson.Version), default)));
        var late = Assert.IsType<LessonSaved.Overtaken>(
            await house.Get<SaveLesson, LessonSaved>(s => s.Do(tom, lesson.Id, Draft("<p>Tom</p>", lesson.Version), default)));
        Assert.Equal("Ines Maren", late.By);
        Assert.IsType<LessonSaved.Done>(await house.Get<SaveLesson, LessonSaved>(s => s.Do(tom, lesson.Id, Draft("<p>Tom</p>", late.Version), default)));
        Assert.Equal(["<p>One</p>", "<p>Ines</p>", "<p>Tom</p>"],
            await house.Ask(async db => (await db.LessonVersions.Where(v => v.LessonId == lesson.Id).OrderBy(v => v.Version).ToListAsync())
            .Select(v => ((Block.Text)v.Blocks[0]).Html)));
        var ines = await house.Ask(db => db.LessonVersions.Where(v => v.LessonId == lesson.Id && v.By == "Ines Maren").MaxAsync(v => v.Version));
        Assert.True((await house.Get<SaveLesson, Result>(s => s.Restore(tom, lesson.Id, ines, default))).Ok);
        Assert.Equal("<p>Ines</p>", ((Block.Text)(await course.Blocks(lesson.Id))[0]).Html);

        Assert.Empty(await house.Get<EditingNow, IReadOnlyList<string>>(s => s.Beat(house.Owner, lesson.Id, default)));
        Assert.Equal(["Ines Maren"], await house.Get<EditingNow, IReadOnlyList<string>>(s => s.Beat(tom, lesson.Id, default)));
        // Unfinished blocks are kept; only being ready waits for them.
        var unfinished = new LessonDraft("Winter", null, false, DoneWhen.Marked, null, true, [new Block.Video(Recording.Empty) { Id = house.NextBlock() }],
            house.Now.LessonById[lesson.Id].Version);
        Assert.StartsWith("It can’t be ready yet. The video is missing",
            Assert.IsType<LessonSaved.Refused>(await house.Get<SaveLesson, LessonSaved>(s => s.Do(house.Owner, lesson.Id, unfinished, default))).Why,
            StringComparison.Ordinal);
        Assert.Single(Assert.IsType<LessonSaved.Done>(
            await house.Get<SaveLesson, LessonSaved>(s => s.Do(house.Owner, lesson.Id, unfinished with { Ready = false }, default))).Problems);
    }

    [Fact]
    public async Task Publishing_says_what_stays_a_draft_and_lessons_open_with_their_own_edition()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var december = house.Now.Editions.Single(e => e.State == EditionState.Scheduled);
        await house.Do<AddLesson>(s => s.Do(house.Owner, course.Id, null, "Empty", null, default));
        var stays = await house.Get<SavePiece, Result<StaysDraft>>(s => s.Publish(house.Owner, course.Id, true, default));
        Assert.Equal(["Empty"], stays.Value!.Drafts.Select(l => l.Title));
        Assert.True((await house.Get<SavePiece, Result>(s => s.PlaceLesson(house.Owner, course.Lesson("Lesson 3").Id, december.Id, false, default))).Ok);
        var effect = await house.Get<ReleaseContent, ReleaseEffect>(s => s.Effect([course.Id], false, default));
        var member = await house.Join(house.Free);
        Assert.Equal(effect.Opens + 1, (await house.Get<ReleaseContent, ReleaseEffect>(s => s.Effect([course.Id], false, default))).Opens);
        await house.Do<ReleaseContent>(s => s.Open(house.Owner, course.Id, null, false, default));
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal([PieceState.Draft, PieceState.Released, PieceState.Released, PieceState.Ready], course.Piece.Outline.Lessons.Select(l => l.State));
        var facts = MemberFacts.From(await house.Ask(db => db.Holdings.Where(h => h.MemberId == member).Include(h => h.Facts).AsNoTracking().ToListAsync()),
            house.Clock.Moment);
        var waiting = house.Now.Book.Decide(facts, course.Lesson("Lesson 3").Id, house.Clock.Moment);
        Assert.Equal((AccessState.OpensAt, december.ReleaseAt), (waiting.State, waiting.OpensAt));
        Assert.Equal(AccessState.Hidden, house.Now.Book.Decide(facts, course.Lesson("Empty").Id, house.Clock.Moment).State);
        await house.To(december.ReleaseAt + Duration.FromHours(1));
        Assert.Equal(PieceState.Released, course.Lesson("Lesson 3").State);
        // Withdrawing says for whom it closes, and closes it.
        await house.Do<TakePart>(async s => await s.MarkDone(await house.Reads(member, course.Lesson("Winter").Id), true, default));
        var back = await house.Get<ReleaseContent, ReleaseEffect>(s => s.Effect([course.Id], true, default));
        Assert.Equal((1, 1), (back.Closes, back.Begun));
        Assert.True((await house.Get<ReleaseContent, Result>(s => s.Withdraw(house.Owner, course.Id, default))).Ok);
        Assert.Equal(PieceState.Draft, course.Piece.State);
        Assert.False(
            house.Now.Book.Decide(MemberFacts.From(
            await house.Ask(db => db.Holdings.Where(h => h.MemberId == member).Include(h => h.Facts).AsNoTracking().ToListAsync()), house.Clock.Moment),
            course.Id, house.Clock.Moment).IsOpen);
    }

    [Fact]
    public async Task Editions_are_weekly_too_announced_later_withdrawn_and_copied_into_another_year()
    {
        await using var house = await House.Open();
        var week = await house.Get<SaveEdition, Result<EditionId>>(
            s => s.Do(house.Owner, null, new(EditionSpan.Week, new(2026, 12, 10), null, "", null, false), default));
        Assert.Equal(("Week 50, 2026", new LocalDate(2026, 12, 7)), (house.Now.EditionById[week.Value].Title, house.Now.EditionById[week.Value].FirstDay));
        Assert.Equal("Day", (await house.Get<SaveEdition,
            Result<EditionId>>(s => s.Do(house.Owner, null, new(EditionSpan.Week, new(2026, 12, 13), null, "", null, false), default))).Field);
        await house.Do<SavePiece>(s => s.New(house.Owner, new("Weekly", null, week.Value, "", [Course.Text(house, "<p>x</p>")], 5, true), default));
        await house.Do<SaveEdition>(s => s.Schedule(house.Owner, week.Value, true, default));
        Assert.True((await house.Get<SaveEdition, Result>(s => s.Reschedule(house.Owner, week.Value, new(2026, 12, 8, 7, 0), default))).Ok);
        await house.Join(house.Free);
        await house.To(house.Now.Calendar.At(new(2026, 12, 8, 7, 1)));
        Assert.Equal(EditionState.Released, house.Now.EditionById[week.Value].State);
        Assert.Equal(0, await house.Ask(db => db.Letters.CountAsync(l => l.EditionId == week.Value)));
        Assert.True((await house.Get<SaveEdition, Result>(s => s.AnnounceLater(house.Owner, week.Value, new(2026, 12, 9, 9, 0), default))).Ok);
        await house.To(house.Now.Calendar.At(new(2026, 12, 9, 9, 1)));
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.EditionId == week.Value)));
        Assert.Contains("already", (await house.Get<SaveEdition, Result>(s => s.AnnounceLater(house.Owner, week.Value, null, default))).Refusal,
            StringComparison.Ordinal);
        Assert.True((await house.Get<SaveEdition, Result>(s => s.Withdraw(house.Owner, week.Value, default))).Ok);
        Assert.Equal(PieceState.Ready, house.Now.Pieces.Single(p => p.Title == "Weekly").State);

        var november = house.Now.Editions.First(e => e.Month == new YearMonth(2026, 11));
        var copy = await house.Get<SaveEdition, Result<EditionId>>(
            async s => await s.CopyInto(house.Owner, november.Id, new(2027, 11),
                house.Services.CreateScope().ServiceProvider.GetRequiredService<DuplicatePiece>(),
            default));
        Assert.True(copy.Ok, copy.Refusal);
        Assert.Equal((house.Now.PartsOf[november.Id].Count(), PieceState.Draft),
            (house.Now.PartsOf[copy.Value].Count(), house.Now.PartsOf[copy.Value].First().State));
    }

    [Fact]
    public async Task Searching_finds_titles_before_text_before_transcripts_and_tells_nothing_of_what_is_locked()
    {
        await using var house = await House.Open();
        Task<Result<PieceId>> New(string title, string html, string transcript = "") => house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner,
            new(title, null, house.Now.Editions[0].Id, "",
            [Course.Text(house, html), new Block.Video(new("", "https://v.example/1", null, null, "", transcript)) { Id = house.NextBlock() }], 5, true),
            default));
        await New("Spoken", "<p>nothing</p>", "0:10 the swarming season");
        await New("Written", "<p>About swarms & <b>queens</b></p>");
        await New("Swarms", "<p>nothing either</p>");
        await house.Services.GetRequiredService<RunDue>().Run();
        var search = house.Services.GetRequiredService<SearchContent>();
        var hits = await search.ForTeam("swarm", default);
        Assert.Equal(["Swarms", "Written", "Spoken"], hits.Select(h => h.Piece.Title));
        Assert.Contains("<mark>swarms</mark>", hits[1].Snippet, StringComparison.Ordinal);
        var locked = await search.ForVisitor("swarm", MemberFacts.Nobody, house.Clock.Moment, default);
        // What is locked is found by its title only: its text would tell what stands in it.
        Assert.Equal(["Swarms"], locked.Select(h => h.Piece.Title));
        Assert.True(locked[0] is { Open: false, Snippet: null });
        var member = await house.Join(house.Free);
        Assert.Equal(3, (await search.ForVisitor("swarm", await house.FactsOf(member), house.Clock.Moment, default))
            .Count(h => h is { Open: true, Snippet: not null }));
        await house.Do<Trash>(s => s.PutPiece(house.Owner, hits[0].Piece.Id, default));
        Assert.Equal(2, (await search.ForTeam("swarm", default)).Count);
        Assert.Empty(await search.ForTeam("'); drop table pieces; --", default));
        // Another language takes words apart by its own endings, in the background.
        await house.Do<ContentSettings>(s => s.Save(house.Owner, new("simple", "pdf", []), default));
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal(["Written"], (await search.ForTeam("swarms", default)).Select(h => h.Piece.Title));
    }

    [Fact]
    public async Task Drafts_take_no_places_of_what_a_visitor_may_find()
    {
        await using var house = await House.Open();
        var seen =
            (await house.Get<SavePiece, Result<PieceId>>(
            s => s.New(house.Owner, new("Released words", null, house.Now.Editions[0].Id, "", [Course.Text(house, "<p>One willow.</p>")], 5, true), default)))
            .Value;
        var course = await Course.On(house);
        await house.Services.GetRequiredService<RunDue>().Run();
        // Two hundred drafts that say it better.
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            insert into search_texts (id, piece_id, lesson_id, title, body, transcript, tsv) select 900000 + n, {course.Id.Value}, null, 'Willow',
                '', '', setweight(to_tsvector('english', 'Willow'), 'A') from generate_series(1, 200) n
            """));
        var search = house.Services.GetRequiredService<SearchContent>();
        Assert.Null(house.Now.PieceById[course.Id].ReleasedAt);
        var member = await house.Join(house.Free);
        Assert.Equal([seen], (await search.ForVisitor("willow", await house.FactsOf(member), house.Clock.Moment, default)).Select(h => h.Piece.Id));
        Assert.DoesNotContain(await search.ForTeam("willow", default), h => h.Piece.Id == seen);
    }

    [Fact]
    public async Task Every_small_list_of_the_desk_keeps_what_is_typed_and_says_what_is_wrong()
    {
        await using var house = await House.Open();
        // Shelves: names are one of a kind, marks two letters, colours eight; they change places and go when they are empty.
        Task<Result<ShelfId>> Shelf(string name, string mark = "", int colour = 2, ShelfId? id = null) =>
            house.Get<SaveShelf, Result<ShelfId>>(s => s.Do(house.Owner, id, new(name, mark, colour, ""), default));
        Assert.Equal(["Name", "Mark", "Colour", "Name"],
            new[] { await Shelf(" "), await Shelf("Wax", "W"), await Shelf("Wax", "WX", 9), await Shelf("bees") }.Select(r => r.Field));
        var wax = (await Shelf("Honey & wax")).Value;
        Assert.Equal("HW", house.Now.ShelfById[wax].Mark);
        await house.Get<SaveShelf, Result>(s => s.Step(house.Owner, wax, -1, default));
        Assert.Equal(["Honey & wax", "Bees"], house.Now.Shelves.Select(s => s.Name));
        await house.Get<SaveShelf, Result>(s => s.Step(house.Owner, wax, -1, default));
        Assert.Equal("Honey & wax", house.Now.Shelves[0].Name);
        Assert.Contains("stand on it", (await house.Get<SaveShelf, Result>(s => s.Remove(house.Owner, house.Now.Shelves[1].Id, default))).Refusal,
            StringComparison.Ordinal);
        Assert.True((await house.Get<SaveShelf, Result>(s => s.Remove(house.Owner, wax, default))).Ok);

        // Content settings: languages the database knows, kinds of files, aims.
        Task<Result> Settings(string language, string kinds, params CadenceTarget[] aims) =>
            house.Get<ContentSettings, Result>(s => s.Save(house.Owner, new(language, kinds, aims), default));
        Assert.False((await Settings("klingon", "pdf")).Ok);
        Assert.False((await Settings("english", "exe")).Ok);
        Assert.Equal("Cadence", (await Settings("english", "pdf", new CadenceTarget(0, CadenceUnit.Pieces, null))).Field);
        Assert.True((await Settings("german", "pdf epub", new CadenceTarget(2, CadenceUnit.Courses, null))).Ok);
        Assert.Equal(("german", 1), (house.Now.Site!.Language, house.Now.Site.Cadence.Count));

        // Places: more of them let those in who wait, in their order.
        var piece =
            (await house.Get<SavePiece, Result<PieceId>>(
            s => s.New(house.Owner, new("Clinic", Blocks: [Course.Text(house, "<p>Come</p>")], Ready: true), default))).Value;
        await house.Release(piece);
        Task Places(int n) => house.Do<SavePiece>(s => s.Facts(house.Owner, piece, PieceFacts.Of(house.Now.PieceById[piece]) with { Places = n }, default));
        await Places(1);
        var members = new List<MemberId>();
        for (var i = 0; i < 4; i++)
        {
            members.Add(await house.Join(house.Free));
            await house.Get<App.Learning.PiecePlaces, Result<bool>>(async s => await s.Take(await house.Place(members[i], piece), default));
        }
        await Places(3);
        await house.Do<App.Learning.PiecePlaces>(s => s.MoveUp(piece, default));
        Assert.Equal([.. members.Take(3)], await house.Ask(
            db => db.PiecePlaces.Where(p => p.PieceId == piece && !p.Waiting).OrderBy(p => p.MemberId).Select(p => p.MemberId).ToListAsync()));
    }

    [Fact]
    public async Task Facts_that_are_wrong_are_told_at_their_field_and_change_nothing()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var now = PieceFacts.Of(course.Piece);
        Task<Result<PieceId>> Save(PieceFacts facts) => house.Get<SavePiece, Result<PieceId>>(s => s.Facts(house.Owner, course.Id, facts, default));
        (string Field, PieceFacts Facts)[] wrong =
        [
            ("Title", now with { Title = " " }), ("Title", now with { Title = new('x', 161) }), ("Subtitle", now with { Subtitle = new('x', 201) }),
                ("Summary", now with { Summary = new('x', 601) }), ("Shelf", now with { Shelf = new(1) }),
            ("Edition", now with { Edition = new EditionId(1) }), ("Places", now with { Places = 0 }), ("Places", now with { Places = 100_001 }),
                ("ModuleWord", now with { ModuleWord = "" }), ("TrailerUrl", now with { TrailerUrl = "javascript:alert(1)" }),
            ("EndLink", now with { EndLink = "/relative" }), ("SupportAddress", now with { SupportAddress = "somebody" }),
                ("Tags", now with { Tags = new('x', 41) }),
        ];
        foreach (var (field, facts) in wrong)
        {
            var refused = await Save(facts);
            Assert.Equal((false, field), (refused.Ok, refused.Field));
        }
        Assert.Equal(now, PieceFacts.Of(course.Piece) with { Resources = now.Resources });
        Assert.True((await Save(now with { Tags = "Winter, #feeding; winter", Places = 12, ModuleWord = "Step" })).Ok);
        Assert.Equal(["feeding", "winter"], course.Piece.Tags);
        Assert.Equal((12, "Step", now.Version + 1), (course.Piece.Places, course.Piece.ModuleWord, course.Piece.Version));
        // Whoever opened it before is told, and nothing is overwritten.
        Assert.False((await Save(now with { Title = "Mine" })).Ok);
        Assert.Equal("Winter", course.Piece.Title);
        // Kinds that can't be told by their content aren't taken; aims have bounds.
        async Task<string?> Settings(string language, string kinds, int aim) =>
            (await house.Get<ContentSettings, Result>(s => s.Save(house.Owner, new(language, kinds, [new(aim, CadenceUnit.Pieces, null)]), default))).Field;
        Assert.Equal(("Language", "DocumentKinds", "Cadence", null),
            (await Settings("martian", "pdf", 1), await Settings("english", "pdf exe", 1), await Settings("english", "pdf", 0),
            await Settings("english", ".PDF, pdf", 2)));
        Assert.Equal(["pdf"], house.Now.Site!.DocumentKinds);
        await Assert.ThrowsAsync<NotAllowedException>(
            () => house.Do<ContentSettings>(s => s.Save(house.Owner with { Role = TeamRole.Support }, new("english", "pdf", []), default)));
    }

    [Fact]
    public async Task Rich_text_keeps_tables_and_pictures_and_loses_what_could_run()
    {
        await using var house = await House.Open();
        var rich = house.Services.GetRequiredService<RichText>();
        var stored = rich.Clean("""
            <div>a<script>x()</script><img src="https://evil.example/x.png" onerror="x()"></div>
            <figure data-trix-attachment="{&quot;contentType&quot;:&quot;text/html&quot;,
            &quot;content&quot;:&quot;<table onclick='x()'><tr><td>1</td></tr></table>&quot;}"></figure>
            <figure data-trix-attachment="{&quot;file&quot;:&quot;12&quot;,&quot;url&quot;:&quot;/x&quot;,&quot;alt&quot;:&quot;A hive&quot;}"
            data-trix-attributes="{&quot;caption&quot;:&quot;Ours&quot;}"></figure><a href="javascript:x()">l</a>
            """.ReplaceLineEndings(""));
        Assert.Equal(
            """<div>a</div><table><tbody><tr><td>1</td></tr></tbody></table><figure><img data-file="12" alt="A hive"><figcaption>Ours</figcaption></figure>"""
                + "<a>l</a>", stored);
        // Through the editor and back it stays the same.
        Assert.Equal(stored, rich.Clean(RichText.ForEditor(stored, id => $"/desk/files/{id}/raw")));
    }

    [Fact]
    public async Task A_catalogue_change_of_one_piece_is_heard_on_another_node()
    {
        await using var house = await House.Open();
        await using var second = await House.On(house.Database);
        var course = await Course.On(house);
        await second.Catalogue.Heard([$"{course.Id.Value}"], default);
        Assert.Equal(course.Shape, (course with { House = second }).Shape);
        await house.Do<Trash>(s => s.PutPiece(house.Owner, course.Id, default));
        await second.Catalogue.Heard([$"{course.Id.Value}"], default);
        Assert.False(second.Now.PieceById.ContainsKey(course.Id));
    }
}
