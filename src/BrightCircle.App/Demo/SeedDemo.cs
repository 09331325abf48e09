using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.App.Rights;
using BrightCircle.App.Running;
using BrightCircle.App.Settings;
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
public sealed partial class SeedDemo(IServiceProvider services, HouseClock clock, MoveClock mover, Catalogue catalogue, RichText rich, MemberReader reader,
    DeliverLetters letters, Ids ids)
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
        PlanLetters(ct);
        PlanRoutines(ct);

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
        // Whoever reads came in by a letter's link once, and so proved the address.
        var proved = readers.Select(r => r.Value).ToArray();
        await Do<BrightContext>(db => db.Users.Where(a => proved.Contains(a.Id)).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed, true), ct));
        happened.Add(sent);
        await Marks(ct);
        await Cards(ct);
        await till.SetCallbacks("After");
        await mover.LetGo();
        return happened;
    }

    /// <summary>The letters are sent on the other core while the months go by.</summary>
    async Task SendMeanwhile(Happenings sent, CancellationToken lived)
    {
        while (!lived.IsCancellationRequested)
        {
            await letters.Run(CancellationToken.None, sent);
            await Task.Delay(20, lived).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
        await letters.Run(CancellationToken.None, sent);
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
                "A year-round club for people who keep a few hives. Every month there is something to read, something to build and something to write down, "
                + "at the moment when the bees ask for it.",
                "Europe/London", "GBP", "help@tansy-lane.example", 5), demo: true, ct));
            owner = new(account.Id, account.Name, TeamRole.Owner);
        });
        await Do<WelcomeSettings>(async s => MustBe(await s.Save(owner, [FirstStep.Hello, FirstStep.Zone, FirstStep.About],
            "How many hives do you keep, and since when?", true, ct)));
        await Do<ContentSettings>(async s => MustBe(
            await s.Save(owner, new("english", string.Join(' ', Site.DefaultDocumentKinds),
            [new(3, CadenceUnit.Pieces, null), new(1, CadenceUnit.Courses, null)]), ct)));
        foreach (var (name, mark, colour, about) in new[]
        {
            ("Bees & brood", "BB", 1, "What they’re doing, and what you do about it."), ("Kit & workshop", "KW", 2, "Things to make and mend."),
            ("Forage & planting", "FP", 3, "What flowers, and what could."), ("Honey & wax", "HW", 4, "From comb to jar, candle and glass."),
                ("Hive records", "HR", 5, "Short notes that next year’s you will thank you for."),
        })
            await Do<SaveShelf>(async s => MustBe(await s.Do(owner, null, new(name, mark, colour, about), ct)));

        await Do<Tallies>(async s => tally = MustBe(
            await s.Save(owner, null, new("Hive checks", "You stood at a hive and lifted, listened or looked; it counts however short it was.", 2), ct)));
        await MakeSpaces(ct);
        await MakeSeries(ct);
        var records = catalogue.Now.Shelves.Single(s => s.Mark == "HR").Id;
        await AddPlan("Meadow", 1, "The hive records of every month, free. See how we work.",
            [new(new Coverage.OnShelf(records), new Reach.EverythingReleased(), new Keep.Nothing())], ct);
        await AddPlan("Keeper", 2, "Every month’s edition from the day you join, and it stays yours.",
            [new(new Coverage.Everything(), new Reach.FromJoining(), new Keep.WhatHadOpened()), OnTheBench], ct);
        await AddPlan("Apiary", 3, "Everything ever released, for those who want the whole shelf today.",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing()),
            new(new Coverage.OneTally(tally), new Reach.EverythingReleased(), new Keep.Nothing()), OnTheBench, InTheClinic,
            InTheHour], ct);
        await AddPrice("Meadow", "free", new("Free", "Look around", PriceKind.Free, null, 1, PeriodUnit.Months, false, 1, PeriodUnit.Days, null), ct);
        await AddPrice("Keeper", "month", new("Monthly", "Become a keeper", PriceKind.Recurring, "18.00", 1, PeriodUnit.Months, false, 1, PeriodUnit.Days,
            null), ct);
        await AddPrice("Keeper", "year", new("Yearly", "Keep for a year", PriceKind.Recurring, "180.00", 1, PeriodUnit.Years, false, 1, PeriodUnit.Days, null),
            ct);
        await AddPrice("Keeper", "back", new("Welcome back", "Come back", PriceKind.Recurring, "12.00", 1, PeriodUnit.Months, false, 1, PeriodUnit.Days,
            null), ct);
        await Do<EditPrice>(async s => MustBe(await s.Words(owner, prices["Keeper back"], new("Welcome back", "Come back",
            Availability.ByLink, Code: "welcome-back", Buyers: BuyersKind.FormerHolders, BuyerPlans: [plans["Keeper"].Value]), ct)));
        await AddPrice("Apiary", "month", new("Monthly, after a week to look", "Try Apiary", PriceKind.Recurring, "39.00", 1, PeriodUnit.Months, true, 7,
            PeriodUnit.Days, "1.00"), ct);
    }

    Inclusion OnTheBench => new(new Coverage.OneSpace(spaces[Bench]), new Reach.EverythingReleased(), new Keep.Nothing());

    Task AddPlan(string name, int rank, string about, Inclusion[] promise, CancellationToken ct) =>
        Do<SavePlan>(async s => plans[name] = MustBe(await s.Do(owner, null, new(name, rank, about, promise, rank == 0 ? PlanKind.Pass : PlanKind.Tier), ct)));

    Task AddPrice(string plan, string key, PriceDraft draft, CancellationToken ct) =>
        Do<AddPrice>(async s => prices[$"{plan} {key}"] = MustBe(await s.Do(owner, plans[plan], draft, ct)));

    void PlanEditions(CancellationToken ct)
    {
        foreach (var edition in DemoContent.Read().SkipLast(1))
        {
            // Each is written about ten days ahead; what is due on the 1st happens on the 1st.
            var written = edition.Month.OnDayOfMonth(1).PlusDays(-9);
            At(Calendar.At(written.At(new LocalTime(20, 15))), async () =>
            {
                EditionId id = default;
                await Do<SaveEdition>(async s => id =
                    MustBe(await s.Do(owner, null, EditionDraft.ForMonth(edition.Month, edition.Title, edition.Opening), ct)));
                foreach (var piece in edition.Pieces) await Write(piece, id, ct);
                if (edition.Pieces.Any(p => p.Ready)) await Do<SaveEdition>(async s => MustBe(await s.Schedule(owner, id, true, ct)));
            });
            At(Calendar.FirstOf(edition.Month, Edition.DefaultTime) + Duration.FromMinutes(5), () => PlanReading(edition.Month));
        }
        PlanCourse(ct);
        PlanRights(ct);
        PlanMoney(ct);
        PlanTalk(ct);
        PlanSessions(ct);
        PlanTogether(ct);
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

    /// <summary>The course in other ways: a lesson a week for a second price, together with a cohort, and a pass for the latest editions.</summary>
    async Task SellBitByBit(PieceId course, CancellationToken ct)
    {
        PriceDraft Once(string name, string button, string amount) =>
            new(name, button, PriceKind.Once, amount, 1, PeriodUnit.Months, false, 1, PeriodUnit.Days, null);
        var nine = new LocalTime(9, 0);
        await AddPrice("First Winter", "parts", Once("In three parts", "Go through it week by week", "26.00") with
        {
            Kind = PriceKind.Instalments,
            Times = 3,
            Access = AccessKind.For,
            AccessCount = 1
        }, ct);
        await Promise("First Winter", new Dictionary<PriceId, Pace> { [prices["First Winter parts"]] = new Pace.Steps(7, PaceUnit.Days, nine) },
            [new(new Coverage.OnePiece(course), new Reach.EverythingReleased(), new Keep.WhatHadOpened())], ct);
        await AddPlan("Winter together", 0, "The same course, begun together on the first of December, two lessons a week.",
            [new(new Coverage.OnePiece(course), new Reach.EverythingReleased(), new Keep.WhatHadOpened(), new Pace.Steps(3, PaceUnit.Days, nine,
                From: PaceFrom.Cohort))], ct);
        await AddPrice("Winter together", "once", Once("Once", "Begin together", "59.00") with
        {
            HasSale = true,
            SaleAmount = "49.00",
            SaleUntil = "2026-11-30"
        }, ct);
        CohortId cohort = default;
        await Do<Cohorts>(async s => cohort = MustBe(await s.Save(owner, course, null, "December 2026", new(2026, 12, 1, 9, 0), null, ct)));
        await Do<Community.SpacesOfCohorts>(async s => MustBe(await s.Make(owner, cohort, ct)));
        await AddPlan("A look in", 0, "The latest two editions for three months, as a present.",
            [new(new Coverage.Everything(), new Reach.LastEditions(2), new Keep.Nothing(), Ends: Core.Time.Period.Months(3))], ct);
        await AddPrice("A look in", "once", Once("Once", "Give a look in", "24.00"), ct);
    }

    Task Promise(string plan, IReadOnlyDictionary<PriceId, Pace> paces, Inclusion[] lines, CancellationToken ct) =>
        Do<SavePromise>(async s => MustBe(await s.Do(owner, plans[plan], new(lines, paces, catalogue.Now.PlanById[plans[plan]].PromiseNumber), ct)));

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
                if (report.Lines.FirstOrDefault(l => l.Verb == ImportVerb.Refuses) is { } refused)
                    throw new InvalidOperationException($"The demo’s course was refused: {refused.File}:{refused.Line} {refused.Note}");
            });
            // The course is sold by itself, too.
            var course = catalogue.Now.Pieces.Single(p => p.Title == "Three quiet winter checks").Id;
            await AddPlan("First Winter", 0, "One course for the first winter with bees: three checks, step by step. No membership needed.",
                [new(new Coverage.OnePiece(course), new Reach.EverythingReleased(), new Keep.WhatHadOpened())], ct);
            await AddPrice("First Winter", "once",
                new("Once", "Get First Winter", PriceKind.Once, "69.00", 1, PeriodUnit.Months, false, 1, PeriodUnit.Days, null), ct);
            await SellBitByBit(course, ct);
        });
        At(Calendar.At(november.OnDayOfMonth(12).At(new LocalTime(20, 15))),
            () => Join("Anselm Quarrie", "anselm.quarrie@post.example", prices["First Winter parts"], DemoTill.Approves, null, ct));
        At(Calendar.At(november.OnDayOfMonth(20).At(new LocalTime(12, 30))),
            () => Join("Ottoline Brask", "ottoline.brask@post.example", prices["Winter together once"], DemoTill.Approves, null, ct));
        // What Apiary promises changes for those who join from then on; who was there stays with what they were promised.
        At(Calendar.At(november.OnDayOfMonth(15).At(new LocalTime(9, 20))), () => Promise("Apiary", new Dictionary<PriceId, Pace>(),
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.ForPeriod(Core.Time.Period.Days(30))),
            new(new Coverage.OneTally(tally), new Reach.EverythingReleased(), new Keep.Nothing()), OnTheBench, InTheClinic,
            InTheHour], ct));
        // Somebody new buys only that; somebody looking around for free does, and somebody who belongs.
        At(Calendar.At(november.OnDayOfMonth(3).At(new LocalTime(20, 10))),
            () => Join("Tove Halloran", "tove.halloran@post.example", prices["First Winter once"], DemoTill.Approves, null, ct));
        foreach (var (tier, day) in new[] { ("Meadow", 5), ("Keeper", 6) })
            At(Calendar.At(november.OnDayOfMonth(day).At(new LocalTime(18, 40))), async () =>
            {
                MemberId? who = null;
                await Do<BrightContext>(async db =>
                    who = await db.Members.Where(m => m.StandingPlanId == plans[tier] && m.Standing == Standing.Active && m.Email != MemberEmail)
                    .OrderBy(m => m.Id).Select(m => (MemberId?)m.Id).FirstOrDefaultAsync(ct));
                if (who is { } id) await Join("", "", prices["First Winter once"], DemoTill.Approves, id, ct);
            });
        for (var week = 0; week < 3; week++)
        {
            var n = week;
            At(Calendar.At(november.OnDayOfMonth(4).PlusDays(week * 7).At(new LocalTime(19, 30))), () => TakeCourse(n, ct));
        }
    }

    async Task<MemberId?> FindMember(string email)
    {
        await using var scope = services.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<BrightContext>().Members.Where(m => m.Email == email).Select(m => (MemberId?)m.Id)
            .FirstOrDefaultAsync();
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
            if (left <= 4)
            {
                Person(name, email, "Apiary month", DemoTill.Approves, Moment(Calendar.Date(end).PlusDays(-left)), ct,
                refused: left == 4); continue;
            }
            if (left <= 9)
            {
                Person(name, email, "Keeper month", DemoTill.FailsLater, Moment(Calendar.Date(end).PlusMonths(-1).PlusDays(left - 10)), ct);
                continue;
            }
            if (left <= 15)
            {
                Person(name, email, "Keeper month", DemoTill.Approves, Moment(Calendar.Date(end).PlusDays(-40 + left)), ct, leavesAfterDays: 24);
                continue;
            }
            if (left <= 22)
            {
                var by = Moment(Calendar.Date(end).PlusDays(-2 * left));
                At(by, () => Do<AddMember>(async s => MustBe(await s.Do(owner, name, email, ct))));
                continue;
            }
            if (left <= 27)
            {
                var given = Moment(day.PlusDays(-3));
                var until = left == 27 ? Calendar.Date(given).PlusDays(60) : (LocalDate?)null;
                At(given, async () =>
                {
                    MemberId id = default;
                    await Do<AddMember>(async s => id = MustBe(await s.Do(owner, name, email, ct)));
                    await Do<GivePlan>(async s => MustBe(
                        await s.Do(owner, id, new(plans[left % 2 == 0 ? "Apiary" : "Keeper"], HoldingSource.Gift, Until: until,
                            Note: "Helps with the hive clinics"), ct)));
                    readers.Add(id);
                });
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
    void Person(string name, string email, string price, string card, Instant joins, CancellationToken ct, int? leavesAfterDays = null, bool returns = false,
        bool paysInGrace = false, bool refused = false, string? password = null)
    {
        At(joins, async () =>
        {
            if (refused) await till.Refuse(email);
            var member = await Join(name, email, prices[price], card, null, ct);
            if (random.Next(100) < 88) readers.Add(member);
            if (joins > Calendar.At(RoutinesFrom) && !refused) FirstWeeks(member, joins, ct);
            if (password is not null)
                await Do<Microsoft.AspNetCore.Identity.UserManager<Account>>(
                    async users => await users.AddPasswordAsync((await users.FindByEmailAsync(email))!, password));
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

    async Task<MemberId> Join(string name, string email, PriceId price, string card, MemberId? known, CancellationToken ct, string? coupon = null)
    {
        long checkout = 0;
        await Do<BeginJoin>(async begin => checkout = await begin.Do(catalogue.Now.PriceById[price], name, email, known, ct,
            coupon: coupon) is JoinStart.Begun begun
            ? begun.Checkout
            : throw new InvalidOperationException($"The demo’s {name} was refused."));
        return await PayFor(checkout, card, ct);
    }

    async Task<MemberId> PayFor(long checkout, string card, CancellationToken ct)
    {
        await Do<GoToTill>(
            async go => { if (MustBe(await go.Join(checkout, "http://demo.example/join/back", ct)) is { Length: > 0 } page) await till.Pay(page, card); });
        MemberId member = default;
        await Do<CompleteCheckout>(async complete => member = (await complete.ByReturn(checkout, ct))!.MemberId!.Value);
        return member;
    }

    static readonly string?[] Reasons = ["Too little time just now", "Too dear for me", null, "I have what I came for", "Too little time just now", null,
        "No bees this winter"];

    Task Leave(MemberId member, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        var open = holdings.FirstOrDefault(h => h.StateAt(clock.Moment) is HoldingState.Active or HoldingState.Trial && Leaving.Possible(h, clock.Moment));
        if (open is not null) MustBe(await s.GetRequiredService<LeavePlan>().Do(member, open.Id, ct, Reasons[order % Reasons.Length]));
    }, ct);

    Task PayInGrace(MemberId member, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        if (!holdings.Any(h => h.StateAt(clock.Moment) == HoldingState.Grace)) return;
        long checkout = 0;
        var page = MustBe(await s.GetRequiredService<GoToTill>().Card(member, id => "http://demo.example/me/card/back/" + (checkout = id), ct));
        await till.Pay(page, DemoTill.Approves);
        await s.GetRequiredService<CompleteCheckout>().ByReturn(checkout, ct);
    }, ct);

    Task ComeBack(MemberId member, PriceId price, CancellationToken ct) => With(member, async (holdings, _) =>
    {
        if (holdings.All(h => h.StateAt(clock.Moment) == HoldingState.Over || h.PlanId != catalogue.Now.PriceById[price].PlanId)
            && holdings.All(h => h.StateAt(clock.Moment) is HoldingState.Over || h.PlanId == plans["Meadow"]))
            await Join("", "", price, DemoTill.Approves, member, ct);
    }, ct);

    async Task With(MemberId member, Func<List<Holding>, IServiceProvider, Task> use, CancellationToken ct)
    {
        await using var scope = services.CreateAsyncScope();
        var holdings = await scope.ServiceProvider.GetRequiredService<BrightContext>().Holdings.AsNoTracking().Where(h => h.MemberId == member)
            .Include(h => h.Facts).ToListAsync(ct);
        await use(holdings, scope.ServiceProvider);
    }
}
