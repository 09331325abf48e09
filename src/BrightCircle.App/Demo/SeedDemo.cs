using BrightCircle.App.Billing;
using BrightCircle.App.Content;
using BrightCircle.App.House;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>
/// Makes the demo site Tansy Lane by living its fourteen months: people join, pay, read, leave and come back through the same use cases
/// as real ones, while the house clock moves past them. The same seed makes the same site.
/// </summary>
public sealed class SeedDemo(IServiceProvider services, HouseClock clock, MoveClock mover, Catalogue catalogue, RichText rich, MemberReader reader, DeliverLetters letters, Ids ids)
{
    public const string OwnerName = "Ines Maren", OwnerEmail = "ines@tansy-lane.example", OwnerPassword = "hive-tool-and-tea";
    /// <summary>A member who reads often, for the tour.</summary>
    public const string MemberName = "Mirela Duarte", MemberEmail = "mirela.duarte@meadowmail.example", MemberPassword = "smoke-and-honey";
    public const int People = 320;

    static readonly LocalDateTime Opened = new(2025, 9, 22, 9, 0);
    public static LocalDateTime EndsAt { get; } = new(2026, 11, 24, 10, 42);

    readonly PriorityQueue<Func<Task>, (Instant, int)> plan = new();
    readonly Random random = new(19_05_2025);
    int order;
    TeamActor owner = null!;
    TallyId tally;
    DemoTill till = null!;
    Instant end;
    readonly Dictionary<string, PriceId> prices = [];
    readonly Dictionary<string, PlanId> plans = [];
    readonly HashSet<MemberId> readers = [];
    SiteCalendar Calendar => catalogue.Now.Calendar;

    public async Task<Happenings> Run(DemoTill stands, int people = People, LocalDateTime? until = null, CancellationToken ct = default)
    {
        till = stands;
        var london = SiteCalendar.For("Europe/London");
        end = london.At(until ?? EndsAt);
        clock.StandAt(london.At(Opened));
        await till.SetCallbacks("Never");
        await SetUp(ct);
        PlanEditions(ct);
        PlanPeople(people, ct);

        var happened = new Happenings();
        var sent = new Happenings();
        using var lived = new CancellationTokenSource();
        var sending = SendMeanwhile(sent, lived.Token);
        while (plan.TryDequeue(out var action, out var when))
        {
            if (when.Item1 > end) break;
            await mover.Through(when.Item1, happened, withLetters: false, ct: ct);
            await action();
        }
        await mover.Through(end, happened, withLetters: false, ct: ct);
        await lived.CancelAsync();
        await sending;
        happened.Add(sent);
        await till.SetCallbacks("After");
        await mover.LetGo();
        return happened;
    }

    /// <summary>The letters are sent on the other core while the months go by.</summary>
    async Task SendMeanwhile(Happenings sent, CancellationToken lived)
    {
        while (!lived.IsCancellationRequested)
        {
            await letters.Now(CancellationToken.None, sent);
            await Task.Delay(20, lived).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
        await letters.Now(CancellationToken.None, sent);
    }

    void At(Instant when, Func<Task> action) => plan.Enqueue(action, (when, order++));
    Instant Moment(LocalDate day, int fromHour = 17, int toHour = 22) => Calendar.At(day.At(new LocalTime(random.Next(fromHour, toHour), random.Next(60))));

    async Task Do<T>(Func<T, Task> use) where T : notnull
    {
        await using var scope = services.CreateAsyncScope();
        await use(scope.ServiceProvider.GetRequiredService<T>());
    }

    static void MustBe(Result r)
    {
        if (!r.Ok) throw new InvalidOperationException("The demo was refused: " + r.Refusal);
    }

    static T MustBe<T>(Result<T> r) => r.Ok ? r.Value! : throw new InvalidOperationException("The demo was refused: " + r.Refusal);

    async Task SetUp(CancellationToken ct)
    {
        await Do<SetUpSite>(async s =>
        {
            var account = MustBe(await s.Do(OwnerName, OwnerEmail, OwnerPassword, new("Tansy Lane", "A year with bees, one month at a time",
                "A year-round club for people who keep a few hives. Every month there is something to read, something to build and something to write down, at the moment when the bees ask for it.",
                "Europe/London", "GBP", "help@tansy-lane.example", 5), demo: true, ct));
            owner = new(account.Id, account.Name, TeamRole.Owner);
        });
        await Do<ContentSettings>(async s => MustBe(await s.Save(owner, new("english", string.Join(' ', Site.DefaultDocumentKinds), [new(3, CadenceUnit.Pieces, null), new(1, CadenceUnit.Courses, null)]), ct)));
        foreach (var (name, mark, colour, about) in new[]
        {
            ("Bees & brood", "BB", 1, "What they’re doing, and what you do about it."), ("Kit & workshop", "KW", 2, "Things to make and mend."),
            ("Forage & planting", "FP", 3, "What flowers, and what could."), ("Honey & wax", "HW", 4, "From comb to jar, candle and glass."), ("Hive records", "HR", 5, "Short notes that next year’s you will thank you for."),
        })
            await Do<SaveShelf>(async s => MustBe(await s.Do(owner, null, new(name, mark, colour, about), ct)));

        await Do<Tallies>(async s => tally = MustBe(await s.Save(owner, null, new("Hive checks", "You stood at a hive and lifted, listened or looked; it counts however short it was.", 2), ct)));
        var records = catalogue.Now.Shelves.Single(s => s.Mark == "HR").Id;
        await AddPlan("Meadow", 1, "The hive records of every month, free. See how we work.", [new(new Coverage.OnShelf(records), new Reach.EverythingReleased(), new Keep.Nothing())], ct);
        await AddPlan("Keeper", 2, "Every month’s edition from the day you join, and it stays yours.", [new(new Coverage.Everything(), new Reach.FromJoining(), new Keep.WhatHadOpened())], ct);
        await AddPlan("Apiary", 3, "Everything ever released, for those who want the whole shelf today.", [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing()), new(new Coverage.OneTally(tally), new Reach.EverythingReleased(), new Keep.Nothing())], ct);
        await AddPrice("Meadow", "free", new("Free", "Look around", PriceKind.Free, null, 1, PeriodUnit.Months, false, 1, PeriodUnit.Days, null), ct);
        await AddPrice("Keeper", "month", new("Monthly", "Become a keeper", PriceKind.Recurring, "18.00", 1, PeriodUnit.Months, false, 1, PeriodUnit.Days, null), ct);
        await AddPrice("Keeper", "year", new("Yearly", "Keep for a year", PriceKind.Recurring, "180.00", 1, PeriodUnit.Years, false, 1, PeriodUnit.Days, null), ct);
        await AddPrice("Apiary", "month", new("Monthly, after a week to look", "Try Apiary", PriceKind.Recurring, "39.00", 1, PeriodUnit.Months, true, 7, PeriodUnit.Days, "1.00"), ct);
    }

    Task AddPlan(string name, int rank, string about, Inclusion[] promise, CancellationToken ct) =>
        Do<SaveOffer>(async s => plans[name] = MustBe(await s.Plan(owner, null, new(name, rank, about, promise), ct)));

    Task AddPrice(string plan, string key, PriceDraft draft, CancellationToken ct) =>
        Do<SaveOffer>(async s => prices[$"{plan} {key}"] = MustBe(await s.AddPrice(owner, plans[plan], draft, ct)));

    void PlanEditions(CancellationToken ct)
    {
        foreach (var edition in DemoContent.Read().SkipLast(1))
        {
            // Each is written about ten days ahead; what is due on the 1st happens on the 1st.
            var written = edition.Month.OnDayOfMonth(1).PlusDays(-9);
            At(Calendar.At(written.At(new LocalTime(20, 15))), async () =>
            {
                EditionId id = default;
                await Do<SaveEdition>(async s => id = MustBe(await s.Do(owner, null, EditionDraft.ForMonth(edition.Month, edition.Title, edition.Opening), ct)));
                foreach (var piece in edition.Pieces) await Write(piece, id, ct);
                if (edition.Pieces.Any(p => p.Ready)) await Do<SaveEdition>(async s => MustBe(await s.Schedule(owner, id, true, ct)));
            });
            At(Calendar.FirstOf(edition.Month, Edition.DefaultTime) + Duration.FromMinutes(5), () => PlanReading(edition.Month));
        }
        PlanCourse(ct);
        for (var week = 0; week <= 14; week++)
        {
            var n = week;
            At(week == 0 ? end - Duration.FromHours(19) : end - Duration.FromDays(7 * week - 4), () => MarkHives(n, ct));
        }
        // The coming year is begun: January has a draft on the board.
        var january = DemoContent.Read()[^1];
        At(end - Duration.FromDays(3), async () =>
        {
            EditionId id = default;
            await Do<SaveEdition>(async s => id = MustBe(await s.Do(owner, null, EditionDraft.ForMonth(january.Month, january.Title, january.Opening), ct)));
            foreach (var piece in january.Pieces) await Write(piece, id, ct);
        });
    }

    /// <summary>A whole course, brought in as a folder of Markdown files with its media, in time for November; and what members do in it.</summary>
    void PlanCourse(CancellationToken ct)
    {
        var november = new YearMonth(2026, 11);
        At(Calendar.At(november.OnDayOfMonth(1).PlusDays(-8).At(new LocalTime(21, 5))), async () =>
        {
            var read = new ReadImport(rich);
            var source = DemoMedia.Course();
            read.Markdown(source);
            await Do<ImportContent>(async s =>
            {
                var report = await s.Run(owner, read, source, dry: false, null, ct);
                if (report.Lines.FirstOrDefault(l => l.Verb == ImportVerb.Refuses) is { } refused) throw new InvalidOperationException($"The demo’s course was refused: {refused.File}:{refused.Line} {refused.Note}");
            });
        });
        for (var week = 0; week < 3; week++)
        {
            var n = week;
            At(Calendar.At(november.OnDayOfMonth(4).PlusDays(week * 7).At(new LocalTime(19, 30))), () => TakeCourse(n, ct));
        }
    }

    /// <summary>Some go out to their hives, and say so; fewer the longer ago it is, and Mirela hardly ever misses.</summary>
    async Task MarkHives(int weeksAgo, CancellationToken ct)
    {
        var mirela = await FindMember(MemberEmail);
        foreach (var id in readers.OrderBy(r => r.Value).Where((_, i) => (i * 7 + weeksAgo) % 10 < 5 - weeksAgo / 4).Append(mirela ?? default).Where(r => r != default).Distinct())
            if (await reader.Load(id.Value, ct) is { } person && catalogue.Now.Book.Decide(Core.Access.MemberFacts.From(person.Holdings, clock.Now), tally).IsOpen)
                for (var times = id == mirela ? weeksAgo is 0 or 9 ? 1 : 2 : random.Next(1, 4); times > 0; times--) await Do<Tallies>(async s => MustBe(await s.Mark(id, null, tally, null, ct)));
    }

    async Task TakeCourse(int week, CancellationToken ct)
    {
        if (catalogue.Now.Pieces.FirstOrDefault(p => p.Title == "Three quiet winter checks") is not { } piece) return;
        var contents = new Dictionary<LessonId, IReadOnlyList<Block>>();
        await Do<BrightContext>(async db =>
        {
            foreach (var c in await db.LessonContents.AsNoTracking().Where(c => piece.Outline.Lessons.Select(l => l.Id).Contains(c.LessonId)).ToListAsync(ct)) contents[c.LessonId] = c.Blocks;
        });
        var (at, lessons) = (clock.Now, piece.Outline.Lessons);
        var picks = readers.OrderBy(r => r.Value).Where((_, i) => i % 6 == week || i % 19 == 0)
            .Select(id => (Id: id, UpTo: random.Next(1, lessons.Count + 1), Skill: random.Next(100), Sure: random.Next(1, 6), Worried: random.Next(100) < 20)).ToArray();
        await Parallel.ForEachAsync(picks, new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (pick, _) =>
        {
            if (await reader.Load(pick.Id.Value, ct) is not { } person || !catalogue.Now.Book.Decide(Core.Access.MemberFacts.From(person.Holdings, at), piece.Id, at).IsOpen) return;
            await Do<TakePart>(async part =>
            {
                var opened = lessons.Take(pick.UpTo).ToArray();
                await reader.NoteOpened(pick.Id, [.. opened.Select(l => l.Id)], [], at, ct);
                foreach (var lesson in opened)
                {
                    foreach (var block in contents[lesson.Id])
                        switch (block)
                        {
                            case Block.Practice p: await part.HandIn(pick.Id, lesson.Id, block.Id, DemoAnswers(p.Sheet, pick.Skill), ct); break;
                            case Block.CheckIn: await part.Answer(pick.Id, lesson.Id, block.Id, DemoCheckIn(pick.Skill, pick.Sure, pick.Worried), ct); break;
                            case Block.Video { Recording.File: not null } or Block.Audio: await part.Play(pick.Id, lesson.Id, block.Id, 8, pick.Skill < 70 ? 1 : 0.4, ct); break;
                            case Block.Follow when pick.Skill % 2 == 0: await part.FinishRun(pick.Id, lesson.Id, block.Id, ct); break;
                        }
                    if (lesson.DoneWhen == DoneWhen.Marked) await part.MarkDone(pick.Id, lesson.Id, true, ct);
                }
            });
        });
        if (week == 1) await AskSome(lessons, [.. picks.Where(p => p.UpTo > 4).Select(p => p.Id)], ct);
        if (week == 1 && catalogue.Now.Pieces.FirstOrDefault(p => p.Title == "Three quiet winter checks")?.Outline.Lessons[4] is { } fondant && await FindMember(MemberEmail) is { } mirela)
            await Do<TakePart>(async s =>
            {
                MustBe(await s.KeepNote(mirela, fondant.Id, "The big pan, not the small one. And open the window.", ct));
                await s.SetBookmark(mirela, fondant.Id, true, ct);
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
            if (await reader.Load(who.Value, ct) is { } person) await Do<AskAndAnswer>(async s => MustBe(await s.Ask(who, person.Name, where.Id, text, null, ct)));
        long first = 0;
        await Do<BrightContext>(async db => first = await db.LessonQuestions.OrderBy(q => q.Id).Select(q => q.Id).FirstAsync(ct));
        await Do<AskAndAnswer>(async s => MustBe(await s.Answer(owner, first, "Feed, and leave the box as it is. They eat towards the warm side; turning it makes them start again.", ct)));
    }

    async Task<MemberId?> FindMember(string email)
    {
        await using var scope = services.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<BrightContext>().Members.Where(m => m.Email == email).Select(m => (MemberId?)m.Id).FirstOrDefaultAsync();
    }

    static readonly string[] Hefted =
    [
        "Both sides feel heavy, the left a little less. I’ll look again before the solstice.",
        "It hardly moves when I lift it from the back. There is plenty, I think.",
        "The right side came up like an empty suitcase. I gave it a block of fondant the same afternoon.",
        "Eighteen kilos on the luggage scale, one side at a time. Not enough for here, so I feed in two weeks.",
    ];

    /// <summary>Answers as good as somebody is, from 0 to 99.</summary>
    static Dictionary<string, Core.Learning.Answer> DemoAnswers(Core.Learning.PracticeSheet sheet, int skill)
    {
        var answers = new Dictionary<string, Core.Learning.Answer>();
        foreach (var (q, i) in sheet.Questions.Select((q, i) => (q, i)))
        {
            // Whoever knows more answers more of it rightly, and later questions are harder.
            var knows = (skill * 37 + i * 53 + skill * i * 11) % 100 < 20 + skill * 3 / 4 - i * 3;
            answers[q.Key] = q switch
            {
                Core.Learning.Question.Single s => new Core.Learning.Answer.Chosen([knows ? s.Options.ToList().FindIndex(o => o.Right) : 0]),
                Core.Learning.Question.Multiple m => new Core.Learning.Answer.Chosen([.. Enumerable.Range(0, m.Options.Count).Where(n => m.Options[n].Right == knows || n == 0)]),
                Core.Learning.Question.FillNumber n => new Core.Learning.Answer.Written(knows ? n.Value.ToString(System.Globalization.CultureInfo.InvariantCulture) : "9"),
                Core.Learning.Question.FillText f => new Core.Learning.Answer.Written(knows ? f.Accepted[0] : "honey water"),
                Core.Learning.Question.Ordering o => new Core.Learning.Answer.Arranged([.. knows ? Enumerable.Range(0, o.Items.Count) : Enumerable.Range(0, o.Items.Count).Reverse()]),
                Core.Learning.Question.Match m => new Core.Learning.Answer.Arranged([.. knows ? Enumerable.Range(0, m.Pairs.Count) : Enumerable.Range(0, m.Pairs.Count).Reverse()]),
                // Not everybody writes something; those who do wait for the team.
                _ when skill % 5 == 0 => new Core.Learning.Answer.Written(Hefted[skill / 5 % Hefted.Length]),
                _ => new Core.Learning.Answer.Written(""),
            };
        }
        return answers;
    }

    Task Write(DemoPiece piece, EditionId edition, CancellationToken ct) =>
        Do<SavePiece>(async s => MustBe(await s.New(owner, new(piece.Title, catalogue.Now.Shelves.Single(x => x.Mark == piece.Shelf).Id, edition, piece.Summary,
            [new Block.Text(rich.FromMarkdown(piece.Markdown)) { Id = ids.Next<BlockId>() }], piece.Minutes, piece.Ready), ct)));

    void PlanPeople(int people, CancellationToken ct)
    {
        var names = new DemoPeople(random);
        var first = new LocalDate(2025, 9, 25);
        var days = NodaTime.Period.DaysBetween(first, Calendar.Date(end)) - 1;

        Person(MemberName, MemberEmail, "Keeper month", DemoTill.Approves, Calendar.At(new LocalDateTime(2025, 10, 3, 19, 12)), ct, password: MemberPassword);
        for (var i = 1; i < people; i++)
        {
            var (name, email) = names.Next();
            // Joining slows in summer and rises each spring and autumn; the last ones are placed so that every standing has somebody in it.
            // They join on every fourth day, so that their renewals fall together and the months go by in fewer, fuller batches.
            var day = first.PlusDays((int)(days * Math.Sqrt(random.NextDouble())) / 4 * 4);
            var roll = random.Next(100);
            var left = people - i;
            if (left <= 4) { Person(name, email, "Apiary month", DemoTill.Approves, Moment(Calendar.Date(end).PlusDays(-left)), ct); continue; }
            if (left <= 9) { Person(name, email, "Keeper month", DemoTill.FailsLater, Moment(Calendar.Date(end).PlusMonths(-1).PlusDays(left - 10)), ct); continue; }
            if (left <= 15) { Person(name, email, "Keeper month", DemoTill.Approves, Moment(Calendar.Date(end).PlusDays(-40 + left)), ct, leavesAfterDays: 24); continue; }
            if (left <= 22)
            {
                var by = Moment(Calendar.Date(end).PlusDays(-2 * left));
                At(by, () => Do<CareForMember>(async s => MustBe(await s.Add(owner, name, email, ct))));
                continue;
            }
            if (left <= 27)
            {
                var given = Moment(day.PlusDays(-3));
                var until = left == 27 ? Calendar.Date(given).PlusDays(60) : (LocalDate?)null;
                At(given, () => Do<CareForMember>(async s =>
                {
                    var id = MustBe(await s.Add(owner, name, email, ct));
                    MustBe(await s.Give(owner, id, plans[left % 2 == 0 ? "Apiary" : "Keeper"], until, "Helps with the hive clinics", ct));
                    readers.Add(id);
                }));
                continue;
            }
            var price = roll < 22 ? "Meadow free" : roll < 68 ? "Keeper month" : roll < 80 ? "Keeper year" : "Apiary month";
            var card = random.Next(100) switch { < 9 => DemoTill.FailsLater, < 11 => DemoTill.NeedsCardholder, _ => DemoTill.Approves };
            Person(name, email, price, card, Moment(day), ct,
                leavesAfterDays: random.Next(100) < 30 ? random.Next(5, 65) * 4 : null,
                returns: random.Next(100) < 22, paysInGrace: random.Next(100) < 45, refused: left is 40 or 41);
        }
    }

    /// <summary>One person's way: joins, perhaps leaves, perhaps pays in grace, perhaps comes back.</summary>
    void Person(string name, string email, string price, string card, Instant joins, CancellationToken ct, int? leavesAfterDays = null, bool returns = false, bool paysInGrace = false, bool refused = false, string? password = null)
    {
        At(joins, async () =>
        {
            if (refused) await till.Refuse(email);
            var member = await Join(name, email, prices[price], card, null, ct);
            if (random.Next(100) < 88) readers.Add(member);
            if (password is not null)
                await Do<Microsoft.AspNetCore.Identity.UserManager<Account>>(async users => await users.AddPasswordAsync((await users.FindByEmailAsync(email))!, password));
            if (leavesAfterDays is { } d)
                At(joins + Duration.FromDays(d), () => Leave(member, ct));
            if (paysInGrace && card is DemoTill.FailsLater or DemoTill.NeedsCardholder)
                At(Calendar.Boundary(joins, Core.Time.Period.Months(1), 1) + Duration.FromDays(random.Next(8, 12)), () => PayInGrace(member, ct));
            if (returns)
                At(joins + Duration.FromDays((leavesAfterDays ?? 40) + random.Next(10, 30) * 4), async () =>
                {
                    var back = price == "Meadow free" ? prices["Keeper month"] : prices[price];
                    await ComeBack(member, back, ct);
                });
        });
    }

    async Task<MemberId> Join(string name, string email, PriceId price, string card, MemberId? known, CancellationToken ct)
    {
        MemberId member = default;
        await Do<JoinPlan>(async join =>
        {
            var start = await join.Start(catalogue.Now.PriceById[price], name, email, known, ct);
            if (start is not JoinStart.Begun begun) throw new InvalidOperationException($"The demo’s {name} was refused: {start}");
            if (await join.GoOn(begun.Checkout, join.Absolute($"/join/back"), ct) is { } page) await till.Pay(page, card);
            member = (await join.CompleteOnReturn(begun.Checkout, ct))!.MemberId!.Value;
        });
        return member;
    }

    Task Leave(MemberId member, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        var open = holdings.FirstOrDefault(h => h.StateAt(clock.Now) is HoldingState.Active or HoldingState.Trial);
        if (open is not null) MustBe(await s.GetRequiredService<OwnMembership>().Leave(member, open.Id, ct));
    }, ct);

    Task PayInGrace(MemberId member, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        if (!holdings.Any(h => h.StateAt(clock.Now) == HoldingState.Grace)) return;
        var join = s.GetRequiredService<JoinPlan>();
        long checkout = 0;
        var page = await join.OpenCardPage(member, id => join.Absolute("/me/card/back/" + (checkout = id)), ct);
        await till.Pay(page, DemoTill.Approves);
        await join.CompleteOnReturn(checkout, ct);
    }, ct);

    Task ComeBack(MemberId member, PriceId price, CancellationToken ct) => With(member, async (holdings, _) =>
    {
        if (holdings.All(h => h.StateAt(clock.Now) == HoldingState.Over || h.PlanId != catalogue.Now.PriceById[price].PlanId)
            && holdings.All(h => h.StateAt(clock.Now) is HoldingState.Over || h.PlanId == plans["Meadow"]))
            await Join("", "", price, DemoTill.Approves, member, ct);
    }, ct);

    async Task With(MemberId member, Func<List<Holding>, IServiceProvider, Task> use, CancellationToken ct)
    {
        await using var scope = services.CreateAsyncScope();
        var holdings = await scope.ServiceProvider.GetRequiredService<BrightContext>().Holdings.AsNoTracking().Where(h => h.MemberId == member).Include(h => h.Facts).ToListAsync(ct);
        await use(holdings, scope.ServiceProvider);
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
        var picks = readers.OrderBy(r => r.Value).SelectMany(r => parts.Where(_ => random.Next(100) < share).Select(p => (Member: r, Piece: p, Done: random.Next(100) < 45))).ToArray();
        var at = clock.Now;
        await Parallel.ForEachAsync(picks.GroupBy(p => p.Member), new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (mine, ct) =>
        {
            var person = await reader.Load(mine.Key.Value, ct);
            if (person is null) return;
            var facts = Core.Access.MemberFacts.From(person.Holdings, at);
            var read = mine.Where(m => catalogue.Now.Book.Decide(facts, m.Piece.Id, at).IsOpen).Select(m => (m.Piece.Outline.Lessons[0].Id, m.Done)).ToArray();
            if (read.Length == 0) return;
            await reader.NoteOpened(mine.Key, [.. read.Select(r => r.Id)], [], at, ct);
            foreach (var (lesson, _) in read.Where(r => r.Done)) await Do<TakePart>(s => s.MarkDone(mine.Key, lesson, true, ct));
        });
    }
}
