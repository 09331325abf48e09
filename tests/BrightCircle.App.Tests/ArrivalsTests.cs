using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Insight;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Newcomers on their way and those who go, as the database has them.</summary>
public class ArrivalsTests
{
    static Task<ArrivalsView> Look(House house) => house.Get<Arrivals, ArrivalsView>(s => s.Load(house.Clock.Moment, default));

    [Fact]
    public async Task Newcomers_stand_where_they_are_and_six_are_stuck_in_six_ways()
    {
        await using var house = await House.Open();
        // Joined long before: no longer new.
        var old = await house.Join(house.Free);
        await house.Days(20);
        await house.Begin(house.Monthly);
        var (refused, waits, never, nothing, notBack, well) = (await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(house.Free),
            await house.Join(house.Free), await house.Join(house.Free), await house.Join(house.Free));
        var joined = house.Clock.Moment;
        await house.Ask(async db =>
        {
            await db.Letters.Where(l => l.Kind == LetterKind.Welcome && l.MemberId != waits && l.MemberId != refused)
                .ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Sent).SetProperty(l => l.SentAt, joined));
            await db.Letters.Where(l => l.Kind == LetterKind.Welcome && l.MemberId == refused)
                .ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Refused).SetProperty(l => l.LastError, "no such mailbox"));
            db.Add(new LastSeen { MemberId = nothing, At = joined });
            return await db.SaveChangesAsync();
        });
        var lesson = house.Now.Pieces.First(p => p.ReleasedAt is not null).Outline.Lessons[0];
        async Task Opens(MemberId who, Instant at) => await house.Ask(async db =>
        {
            if (await db.Openings.AnyAsync(o => o.MemberId == who)) await db.LastSeen.Where(s => s.MemberId == who)
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.At, at));
            else
            {
                db.Add(new Opening { MemberId = who, LessonId = lesson.Id, FirstAt = at, LastAt = at });
                db.Add(new LastSeen { MemberId = who, At = at });
            }
            return await db.SaveChangesAsync();
        });
        await Opens(notBack, joined + Duration.FromHours(2));
        await Opens(well, joined + Duration.FromHours(4));
        await house.Days(10);
        await Opens(well, house.Clock.Moment);
        // The mail server was away all the time, for one of them.
        await house.Ask(db => db.Letters.Where(l => l.MemberId == waits)
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Queued).SetProperty(l => l.SentAt, (Instant?)null)));
        var view = await Look(house);
        Stuck? Why(MemberId m) => view.People.Single(p => p.Member == m).Facts.StuckAt(house.Clock.Moment);
        Assert.DoesNotContain(view.People, p => p.Member == old);
        Assert.Equal(Stuck.LeftHalfWay, Assert.Single(view.People, p => p.Order is not null).Facts.StuckAt(house.Clock.Moment));
        Assert.Equal((Stuck.LetterRefused, "no such mailbox"), (Why(refused), view.People.Single(p => p.Member == refused).Refusal));
        Assert.Equal((Stuck.LetterWaits, Stuck.NeverCame, Stuck.OpenedNothing, Stuck.NotBack), (Why(waits), Why(never), Why(nothing), Why(notBack)));
        Assert.Null(Why(well));
        Assert.Equal(ArrivalStep.BackAgain, view.People.Single(p => p.Member == well).Facts.Step);
        Assert.Equal(house.Keeper, view.People.Single(p => p.Member == well).Plan);
        Assert.Equal((Duration.FromHours(3), 2), (Duration.FromMinutes(Math.Round(view.Median!.Value.TotalMinutes)), view.HaveOpened));
        Assert.Equal((0, 1), (view.HadOpened, view.JoinedBefore));
        // Today counts the same people.
        var today = await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default));
        Assert.Contains(today.Needs, n => n.Title == "5 newcomers are stuck on the way in." && n.Link == "/desk/arrivals");
        // With the address put right and a letter that is taken they are stuck no more.
        await house.Get<CorrectMember, Result>(s => s.Do(house.Owner, refused, "Somebody Else", House.NewAddress(), default));
        await house.Deliver();
        view = await Look(house);
        Assert.Null(Why(refused));
    }

    [Fact]
    public async Task A_paid_order_that_lacks_something_is_an_alarm()
    {
        await using var house = await House.Open();
        var (whole, unwritten, shut) = (await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(house.Monthly));
        await house.Begin(house.Monthly);
        Assert.Equal((3, 0), (await Look(house)) is var v ? (v.Orders, v.Broken.Count) : default);
        await house.Ask(db => db.Letters.Where(l => l.MemberId == unwritten && l.Kind == LetterKind.Welcome).ExecuteDeleteAsync());
        await house.Ask(db => db.Checkouts.Where(c => c.MemberId == shut).ExecuteUpdateAsync(u => u.SetProperty(c => c.HoldingId, (HoldingId?)null)));
        var broken = (await Look(house)).Broken;
        var orders = await house.Ask(db => db.Checkouts.AsNoTracking().Where(c => c.MemberId != null).ToDictionaryAsync(c => c.MemberId!.Value, c => c.Id));
        Assert.Equal(2, broken.Count);
        Assert.Equal((false, true, false), broken.Single(b => b.Order == orders[unwritten]) is var a ? (a.Holding, a.Letter, a.Account) : default);
        Assert.True(broken.Single(b => b.Order == orders[shut]).Holding);
        var today = await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default));
        Assert.Equal("Something is missing for 2 paid orders.", today.Needs[0].Title);
        Assert.NotEqual(default, whole);
    }

    [Fact]
    public async Task The_median_is_the_middle()
    {
        await Task.CompletedTask;
        Duration H(double h) => Duration.FromHours(h);
        Assert.Null(Arrivals.Median([]));
        Assert.Equal(H(2), Arrivals.Median([H(5), H(1), H(2)]));
        Assert.Equal(H(3.5), Arrivals.Median([H(9), H(1), H(2), H(5)]));
    }

    [Fact]
    public async Task Those_who_go_stand_with_what_they_said_and_the_month_adds_up()
    {
        await using var house = await House.Open();
        // It is 24 November; these were here before December begins.
        var (stays, fails, leaves, gone) = (await house.Join(house.Monthly), await house.Join(house.Monthly, DemoTill.FailsLater),
            await house.Join(house.Monthly),
            await house.Join(house.Monthly));
        foreach (var (who, why) in new[] { (leaves, "too little time"), (gone, "too dear") })
        {
            var holding = (await house.Holdings(who))[0].Id;
            if (who == gone) Assert.True((await house.Get<LeavePlan, Result>(s => s.Do(who, holding, default, why))).Ok);
        }
        await house.Days(27);
        // A few days before the next payment one more decides to leave, and one is seen no more.
        var going = (await house.Holdings(leaves))[0].Id;
        await house.Days(4);
        Assert.True((await house.Get<LeavePlan, Result>(s => s.Do(leaves, going, default, "too little time"))).Ok);
        await house.Ask(async db =>
        {
            db.Add(new LastSeen { MemberId = stays, At = house.Clock.Moment - Duration.FromDays(31) });
            return await db.SaveChangesAsync();
        });
        var view = await house.Get<Departures, DeparturesView>(s => s.Load(house.Clock.Moment, default));
        var grace = Assert.Single(view.Grace);
        Assert.Equal((fails, house.Keeper), (grace.Member, grace.Plan));
        Assert.NotNull(grace.Next);
        Assert.True(grace.OpenUntil > grace.Next);
        Assert.Equal((leaves, "too little time"), Assert.Single(view.Ending) is var e ? (e.Member, e.Why) : default);
        var left = Assert.Single(view.Left);
        Assert.Equal((gone, "too dear", (EndReason?)EndReason.Left), (left.Member, left.Why, left.Ended));
        var risk = Assert.Single(view.Risk);
        Assert.Equal((stays, RiskSign.NotSeen), (risk.Member, Assert.Single(risk.Signs)));
        Assert.Equal([("too dear", 1), ("too little time", 1)], view.Reasons);
        // December: four at its beginning, one left.
        Assert.Equal((4, 3, new Movement(null, 0, 0, 1)), (view.Opening, view.Closing, view.All));
        Assert.Equal(view.Closing, view.Opening + view.All.Joined + view.All.Returned - view.All.Left);
        var back = await house.JoinAgain(gone, house.Monthly);
        Assert.NotNull(back);
        await house.Join(house.Monthly);
        await house.Get<TeamNotes, Result>(s => s.Add(house.Owner, fails, "Rang her up.", default));
        view = await house.Get<Departures, DeparturesView>(s => s.Load(house.Clock.Moment, default));
        Assert.Equal((4, 5, new Movement(null, 1, 1, 1)), (view.Opening, view.Closing, view.All));
        Assert.Equal((1, 1), (view.ByTier.Sum(t => t.Joined), view.Tried[fails]));
        // Each figure is a list of people, for all and for the tier they stood by.
        async Task<MemberId[]> Moved(Move move, PlanId? tier = null, int page = 1)
        {
            var (rows, count) = await house.Get<MovedMembers, (IReadOnlyList<MovedMember>, int)>(s => s.Load(move, tier, house.Clock.Moment, page, default));
            Assert.Equal(page == 1 ? rows.Count : 0, page == 1 ? count : rows.Count);
            return [.. rows.Select(r => r.Member)];
        }
        Assert.Equal([gone], await Moved(Move.Left));
        Assert.Equal([gone], await Moved(Move.Returned));
        Assert.Single(await Moved(Move.Joined));
        Assert.Empty(await Moved(Move.Joined, page: 2));
        foreach (var move in Enum.GetValues<Move>().Where(m => m is not (Move.CameOver or Move.WentOver)))
        {
            var of = view.ByTier.SingleOrDefault(t => t.Tier == house.Keeper);
            Assert.Equal(of?.Of(move) ?? 0, (await Moved(move, house.Keeper)).Length);
        }
        Assert.Empty(await Moved(Move.Joined, new(1)));
        Assert.Empty(view.Left);
    }

    /// <summary>A tier's line adds up to who stands by it, also where somebody goes from one to another, comes back by another, or is made one with
    /// somebody else.</summary>
    [Fact]
    public async Task A_tiers_line_adds_up_to_whoever_stands_by_it()
    {
        await using var house = await House.Open();
        var other = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Queen", 3, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())]), default))).Value;
        var second = (await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, other,
            new(null, null, PriceKind.Recurring, "30.00", 1, PeriodUnit.Months, false, 7, PeriodUnit.Days, "0"), default))).Value;
        var people = new List<MemberId>();
        for (var i = 0; i < 6; i++) people.Add(await house.Join(i < 4 ? house.Monthly : second));
        await house.To(house.Now.Calendar.At(new NodaTime.LocalDate(2026, 12, 3).AtMidnight()));
        var at = house.Clock.Moment;
        async Task<DeparturesView> Look() => await house.Get<Departures, DeparturesView>(s => s.Load(house.Clock.Moment, default));
        var view = await Look();
        Assert.True(view.MustCount);
        Assert.All(view.ByTier, t => Assert.Null(t.Opening));
        // Two who look at once have it counted once.
        await house.Do<Departures>(s => s.Count(at, default));
        await house.Do<Departures>(s => s.Count(at, default));
        Assert.Equal(1, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.CountMonth)));
        await house.Services.GetRequiredService<RunDue>().Run();
        view = await Look();
        Assert.False(view.MustCount);
        Assert.Equal([(house.Keeper, 4), (other, 2)], view.ByTier.Select(t => (t.Tier!.Value, t.Opening!.Value)));
        // One goes over, one leaves for good and comes back by the other tier, one joins and one only has a look.
        var who = Buyer.Of(await house.Member(people[0]), await house.Holdings(people[0]));
        var change = (await house.Get<ChangePlan, Result<ChangeLook>>(async s => await s.Look(people[0], who, await Held(people[0]), second,
            ChangeWhen.AtOnce, default))).Value!.Change;
        Assert.True((await house.Get<ChangePlan, Result>(async s => await s.Do(people[0], await Held(people[0]), second, ChangeWhen.AtOnce,
            change.First.Amount.Minor, default))).Ok);
        Assert.True((await house.Get<EndPlan, Result>(async s => await s.Do(house.Owner, people[1], await Held(people[1]), default))).Ok);
        Assert.NotNull(await house.JoinAgain(people[1], second));
        Assert.True((await house.Get<EndPlan, Result>(async s => await s.Do(house.Owner, people[4], await Held(people[4]), default))).Ok);
        await house.Join(house.Monthly);
        view = await Look();
        var (keeper, seconds) = (view.ByTier.Single(t => t.Tier == house.Keeper), view.ByTier.Single(t => t.Tier == other));
        Assert.Equal(new Movement(house.Keeper, 1, 0, 1, 0, 1, 4), keeper);
        Assert.Equal(new Movement(other, 0, 1, 1, 1, 0, 2), seconds);
        foreach (var t in view.ByTier)
            Assert.Equal(await house.Ask(db => db.Members.CountAsync(m => m.StandingPlanId == t.Tier && m.Standing == Standing.Active)), t.Closing);
        Assert.Equal((view.Opening, view.Closing), (view.ByTier.Sum(t => t.Opening), view.ByTier.Sum(t => t.Closing)));
        // Every figure has its people.
        foreach (var t in view.ByTier)
            foreach (var move in Enum.GetValues<Move>())
                Assert.Equal(t.Of(move), (await house.Get<MovedMembers, (IReadOnlyList<MovedMember> Rows, int Count)>(
                    s => s.Load(move, t.Tier, house.Clock.Moment, 1, default))).Count);
        // Two made one: the beginning is counted anew, and it adds up again.
        Assert.True((await house.Get<MergeMembers, Result>(async s => await s.Do(house.Owner, people[2], people[4],
            (await house.Member(people[4])).Email, default))).Ok);
        view = await Look();
        Assert.True(view.MustCount);
        await house.Do<Departures>(s => s.Count(at, default));
        await house.Services.GetRequiredService<RunDue>().Run();
        view = await Look();
        Assert.Equal((view.Opening, view.Closing), (view.ByTier.Sum(t => t.Opening), view.ByTier.Sum(t => t.Closing)));

        async Task<HoldingId> Held(MemberId member) => (await house.Holdings(member)).Single(h => !h.IsOver).Id;
    }

    [Fact]
    public async Task A_way_in_signs_in_once_it_is_noted_who_made_it_and_only_some_may()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        var made = await house.Get<WayIn, Result<string>>(s => s.Make(house.Owner, member, default));
        Assert.StartsWith("/in/", made.Value, StringComparison.Ordinal);
        var link = await house.Ask(db => db.SignInLinks.AsNoTracking().OrderByDescending(l => l.Id).FirstAsync());
        Assert.Equal((member.Value, house.Clock.Moment + WayIn.Lasts > link.ExpiresAt - Duration.FromMinutes(5)), (link.AccountId, true));
        Assert.Contains(await house.Ask(db => db.Deeds.AsNoTracking().Select(d => d.What).ToListAsync()), d =>
            d.StartsWith("made a way in for", StringComparison.Ordinal));
        foreach (var role in new[] { TeamRole.Host, TeamRole.Editor })
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<WayIn,
                Result<string>>(s => s.Make(house.Owner with { Role = role }, member, default)));
        Assert.False((await house.Get<WayIn, Result<string>>(s => s.Make(house.Owner, new(1), default))).Ok);
    }

    /// <summary>Whoever goes away half-way gets one letter a day later: only where the owner wants it, only who said so, and nobody who came back by
    /// then.</summary>
    [Fact]
    public async Task Whoever_goes_away_half_way_is_reminded_once_if_they_said_so()
    {
        await using var house = await House.Open();
        async Task<long> Begins(string email, bool may = true, PriceId? price = null) => ((JoinStart.Begun)await house.Get<BeginJoin, JoinStart>(s =>
            s.Do(house.Now.PriceById[price ?? house.Monthly], "Orla Pym", email, null, default, coupon: "spring", mayRemind: may))).Checkout;
        Task<List<Letter>> Letters(string email) => house.Ask(db => db.Letters.AsNoTracking().Where(l => l.ToAddress == email && l.Kind == LetterKind.HalfWay)
            .ToListAsync());
        Task Wants(bool wants) => house.Get<App.Settings.WelcomeSettings, Result>(s => s.Save(house.Owner, [], "", wants, default));
        var early = House.NewAddress();
        await Begins(early);
        Assert.False(await house.Ask(db => db.Checkouts.Where(c => c.Email == early).Select(c => c.MayRemind).SingleAsync()));
        await Wants(true);
        await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, null, new("SPRING", null, OffKind.Percent, "10", LastsKind.Once), default));
        var (willing, unwilling, twice, back, holder) = (House.NewAddress(), House.NewAddress(), House.NewAddress(), House.NewAddress(), House.NewAddress());
        var order = await Begins(willing);
        await Begins(unwilling, may: false);
        await Begins(twice);
        await Begins(twice);
        await Begins(back);
        await house.Join(house.Monthly, email: back);
        await Begins(holder.ToUpperInvariant());
        await house.Join(house.Monthly, email: holder);
        await house.To(house.Clock.Moment + ArrivalFacts.HalfWayFor - NodaTime.Duration.FromSeconds(1));
        Assert.Empty(await Letters(willing));
        await house.To(house.Clock.Moment + NodaTime.Duration.FromSeconds(1));
        var letter = Assert.Single(await Letters(willing));
        Assert.Null(letter.MemberId);
        Assert.Equal($"/join/{house.Now.PriceById[house.Monthly].Code}?coupon=SPRING", letter.Fields["join_path"]);
        Assert.Single(await Letters(twice));
        foreach (var none in new[] { early, unwilling, back, holder, holder.ToUpperInvariant() }) Assert.Empty(await Letters(none));
        var view = await house.Get<Arrivals, ArrivalsView>(s => s.Load(house.Clock.Moment, default));
        Assert.NotNull(view.People.Single(p => p.Order == order).Reminded);
        await house.Deliver();
        Assert.Contains("/join/", await House.Raw((await House.Letter(willing, "on your way")).GetProperty("id").GetInt64()), StringComparison.Ordinal);
        // In other letters it is the same address: not once more.
        await Begins(willing.ToUpperInvariant());
        await house.Days(2);
        Assert.Empty(await Letters(willing.ToUpperInvariant()));
        // Begun anew within thirty days: not once more. Then all of it is forgotten.
        await Begins(willing);
        await house.Days(2);
        Assert.Single(await Letters(willing));
        await house.Days(30);
        Assert.Empty(await Letters(willing));
        // Who was deleted meanwhile isn't, and who buys for somebody else isn't asked.
        var asked = House.NewAddress();
        var member = (await house.Get<App.Rights.AddMember, Result<MemberId>>(s => s.Do(house.Owner, "Orla Pym", asked, default))).Value;
        await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[house.Monthly], null, null, member, default, mayRemind: true));
        Assert.True(await house.Ask(db => db.Checkouts.Where(c => c.MemberId == member).Select(c => c.MayRemind).SingleAsync()));
        Assert.True((await house.Get<ForgetMember, Result>(s => s.Do(house.Owner, member, asked, default))).Ok);
        await house.Days(2);
        Assert.False(await house.Ask(db => db.Letters.AnyAsync(l => l.Kind == LetterKind.HalfWay && l.CreatedAt > house.Clock.Moment - Duration.FromDays(2))));
        // Where the owner doesn't want it any more, nobody is.
        var late = House.NewAddress();
        await Begins(late);
        await Wants(false);
        await house.Days(2);
        Assert.Empty(await Letters(late));
    }
}
