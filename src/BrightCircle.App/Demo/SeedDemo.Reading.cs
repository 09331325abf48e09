using BrightCircle.App.Access;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>What the people of the demo do with what they can open.</summary>
public sealed partial class SeedDemo
{
    /// <summary>Some go out to their hives, and say so; fewer the longer ago it is, and Mirela hardly ever misses.</summary>
    async Task MarkHives(int weeksAgo, CancellationToken ct)
    {
        var mirela = await FindMember(MemberEmail);
        foreach (var id in readers.OrderBy(r => r.Value).Where((_, i) => (i * 7 + weeksAgo) % 10 < 5 - weeksAgo / 4).Append(mirela ?? default)
            .Where(r => r != default).Distinct())
            if (await reader.Load(id.Value, ct) is { } person && TallyReader.For(catalogue.Now, id, null, Facts(person), tally, clock.Moment) is { } may)
                for (var times = id == mirela ? weeksAgo is 0 or 9 ? 1 : 2 : random.Next(1, 4); times > 0; times--) await Do<Tallies>(
                    async s => MustBe(await s.Mark(may, null, ct)));
    }

    int newcomers;

    /// <summary>Newcomers come in within hours, open what is open for them, and come back; now and then one doesn't.</summary>
    void FirstWeeks(MemberId member, Instant joined, CancellationToken ct)
    {
        var n = ++newcomers;
        if (n % 14 == 5) return;
        At(joined + Duration.FromHours(2 + n % 5 * 3), () => n % 17 == 8
            ? Do<BrightContext>(async db =>
            {
                // Was here, and opened nothing.
                db.Add(new LastSeen { MemberId = member, At = clock.Moment });
                await db.SaveChangesAsync(ct);
            })
            : OpenSomething(member, 1 + n % 3, ct));
        if (n % 17 != 8 && n % 9 != 4) At(joined + Duration.FromDays(8) + Duration.FromHours(n % 7), () => OpenSomething(member, 3 + n % 4, ct));
    }

    async Task OpenSomething(MemberId member, int things, CancellationToken ct)
    {
        if (await reader.Load(member.Value, ct) is not { } person) return;
        var open = catalogue.Now.Releases.ByRelease.Where(r => r.At <= clock.Moment).SelectMany(r => r.Piece.Outline.Lessons).DistinctBy(l => l.Id)
            .Select(l => Reads(person, l.Id)).OfType<LessonReader>().Take(things).Select(by => by.Lesson).ToArray();
        if (open.Length > 0) await reader.NoteOpened(member, open, [], clock.Moment, ct);
    }

    Core.Access.MemberFacts Facts(SignedIn person) => person.FactsAt(clock.Moment);

    LessonReader? Reads(SignedIn person, LessonId lesson) => LessonReader.For(catalogue.Now, person.MemberId, person.Name, Facts(person), lesson, clock.Moment);

    async Task TakeCourse(int week, CancellationToken ct)
    {
        if (catalogue.Now.Pieces.FirstOrDefault(p => p.Title == "Three quiet winter checks") is not { } piece) return;
        var contents = new Dictionary<LessonId, IReadOnlyList<Block>>();
        await Do<BrightContext>(async db =>
        {
            foreach (var c in await db.LessonContents.AsNoTracking().Where(c => piece.Outline.Lessons.Select(l => l.Id).Contains(c.LessonId)).ToListAsync(ct))
                contents[c.LessonId] = c.Blocks;
        });
        var (at, lessons) = (clock.Moment, piece.Outline.Lessons);
        var picks = readers.OrderBy(r => r.Value).Where((_, i) => i % 6 == week || i % 19 == 0)
            .Select(id => (Id: id, UpTo: random.Next(1, lessons.Count + 1), Skill: random.Next(100), Sure: random.Next(1, 6), Worried: random.Next(100) < 20))
                .ToArray();
        await Parallel.ForEachAsync(picks, new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (pick, _) =>
        {
            if (await reader.Load(pick.Id.Value, ct) is not { } person) return;
            await Do<TakePart>(async part =>
            {
                var opened = lessons.Take(pick.UpTo).Select(l => Reads(person, l.Id)).OfType<LessonReader>().ToArray();
                await reader.NoteOpened(pick.Id, [.. opened.Select(l => l.Lesson)], [], at, ct);
                foreach (var by in opened)
                {
                    var lesson = by.Lesson;
                    foreach (var block in contents[lesson.Id])
                        switch (block)
                        {
                            case Block.Practice p: await part.HandIn(by, block.Id, DemoAnswers(p.Sheet, pick.Skill), ct); break;
                            case Block.CheckIn: await part.Answer(by, block.Id, DemoCheckIn(pick.Skill, pick.Sure, pick.Worried), ct); break;
                            case Block.Video { Recording.File: not null } or Block.Audio:
                                await part.Play(by, block.Id, 8, pick.Skill < 70 ? 1 : 0.4, ct);
                                break;
                            case Block.Follow when pick.Skill % 2 == 0: await part.FinishRun(by, block.Id, ct); break;
                        }
                    if (lesson.DoneWhen == DoneWhen.Marked) await part.MarkDone(by, true, ct);
                }
            });
        });
        if (week == 1) await AskSome(lessons, [.. picks.Where(p => p.UpTo > 4).Select(p => p.Id)], ct);
        if (week == 1 && catalogue.Now.Pieces.FirstOrDefault(p => p.Title == "Three quiet winter checks")?.Outline.Lessons[4] is { } fondant
            && await FindMember(MemberEmail) is { } mirela
            && await reader.Load(mirela.Value, ct) is { } her && Reads(her, fondant.Id) is { } by)
            await Do<TakePart>(async s =>
            {
                MustBe(await s.KeepNote(by, "The big pan, not the small one. And open the window.", ct));
                await s.SetBookmark(by, true, ct);
            });
    }

    static Dictionary<string, string> DemoCheckIn(int skill, int sure, bool worried) => new()
    {
        ["q1"] = (1 + skill % 6).ToString(System.Globalization.CultureInfo.InvariantCulture),
        ["q2"] = skill % 3 == 0 ? "weight\nnoise" : "weight",
        ["q3"] = worried ? "yes" : "no",
        ["q4"] = worried ? "A spoonful of dead bees on the step after the frost." : "",
        ["q5"] = sure.ToString(System.Globalization.CultureInfo.InvariantCulture),
    };

    /// <summary>Two questions under lessons, one of them answered.</summary>
    async Task AskSome(IReadOnlyList<Lesson> lessons, IReadOnlyList<MemberId> members, CancellationToken ct)
    {
        if (members.Count < 2) return;
        (MemberId Who, Lesson Where, string Text)[] asked =
        [
            (members[0], lessons[1], "My scale shows 14 kg on one side and 9 on the other. Do I feed, or turn the box round?"),
            (members[1], lessons[6], "Can I do the hose test in the evening, or are they too quiet then?"),
        ];
        foreach (var (who, where, text) in asked)
            if (await reader.Load(who.Value, ct) is { } person && Reads(person, where.Id) is { } by)
                await Do<AskAndAnswer>(async s => MustBe(await s.Ask(by, confirmed: true, text, null, ct)));
        long first = 0;
        await Do<BrightContext>(async db => first = await db.LessonQuestions.OrderBy(q => q.Id).Select(q => q.Id).FirstAsync(ct));
        await Do<AskAndAnswer>(
            async s =>
            MustBe(await s.Answer(owner, first, "Feed, and leave the box as it is. They eat towards the warm side; turning it makes them start again.", ct)));
    }

    static readonly string[] Hefted =
    [
        "Both sides feel heavy, the left a little less. I’ll look again before the solstice.",
        "It hardly moves when I lift it from the back. There is plenty, I think.",
        "The right side came up like an empty suitcase. I gave it a block of fondant the same afternoon.",
        "Eighteen kilos on the luggage scale, one side at a time. Not enough for here, so I feed in two weeks.",
    ];

    /// <summary>Answers as good as somebody is, from 0 to 99.</summary>
    static Dictionary<string, Core.Learning.Answer> DemoAnswers(Core.Content.PracticeSheet sheet, int skill)
    {
        var answers = new Dictionary<string, Core.Learning.Answer>();
        foreach (var (q, i) in sheet.Questions.Select((q, i) => (q, i)))
        {
            // Whoever knows more answers more of it rightly, and later questions are harder.
            var knows = (skill * 37 + i * 53 + skill * i * 11) % 100 < 20 + skill * 3 / 4 - i * 3;
            answers[q.Key] = q switch
            {
                Core.Content.Question.Single s => new Core.Learning.Answer.Chosen([knows ? s.Options.ToList().FindIndex(o => o.Right) : 0]),
                Core.Content.Question.Multiple m =>
                    new Core.Learning.Answer.Chosen([.. Enumerable.Range(0, m.Options.Count).Where(n => m.Options[n].Right == knows || n == 0)]),
                Core.Content.Question.FillNumber n =>
                    new Core.Learning.Answer.Written(knows ? n.Value.ToString(System.Globalization.CultureInfo.InvariantCulture) : "9"),
                Core.Content.Question.FillText f => new Core.Learning.Answer.Written(knows ? f.Accepted[0] : "honey water"),
                Core.Content.Question.Ordering o =>
                    new Core.Learning.Answer.Arranged([.. knows ? Enumerable.Range(0, o.Items.Count) : Enumerable.Range(0, o.Items.Count).Reverse()]),
                Core.Content.Question.Match m => new Core.Learning.Answer.Arranged(
                    [.. knows ? Enumerable.Range(0, m.Pairs.Count) : Enumerable.Range(0, m.Pairs.Count).Reverse()]),
                // Not everybody writes something; those who do wait for the team.
                _ when skill % 5 == 0 => new Core.Learning.Answer.Written(Hefted[skill / 5 % Hefted.Length]),
                _ => new Core.Learning.Answer.Written(""),
            };
        }
        return answers;
    }

    /// <summary>After an edition opened: most readers open a part or two in the weeks that follow, and finish some.</summary>
    Task PlanReading(YearMonth month)
    {
        var edition = catalogue.Now.Editions.FirstOrDefault(e => e.Month == month);
        if (edition?.ReleasedAt is not { } released) return Task.CompletedTask;
        var parts = catalogue.Now.PartsOf[edition.Id].Where(p => p.ReleasedAt is not null && !p.IsCourse).ToArray();
        for (var week = 0; week < 4; week++)
        {
            var share = week == 0 ? 48 : 9;
            At(released + Duration.FromDays(week * 7 + 2) + Duration.FromHours(10), () => ReadSome(parts, share));
        }
        return Task.CompletedTask;
    }

    async Task ReadSome(Piece[] parts, int share)
    {
        var picks = readers.OrderBy(r => r.Value).SelectMany(
            r => parts.Where(_ => random.Next(100) < share).Select(p => (Member: r, Piece: p, Done: random.Next(100) < 45))).ToArray();
        var at = clock.Moment;
        await Parallel.ForEachAsync(picks.GroupBy(p => p.Member), new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (mine, ct) =>
        {
            var person = await reader.Load(mine.Key.Value, ct);
            if (person is null) return;
            var read = mine.Select(m => (By: Reads(person, m.Piece.Outline.Lessons[0].Id), m.Done)).Where(m => m.By is not null).ToArray();
            if (read.Length == 0) return;
            await reader.NoteOpened(mine.Key, [.. read.Select(r => r.By!.Lesson)], [], at, ct);
            foreach (var (by, _) in read.Where(r => r.Done)) await Do<TakePart>(s => s.MarkDone(by!, true, ct));
        });
    }
}
