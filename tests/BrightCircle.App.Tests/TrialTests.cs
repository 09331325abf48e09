using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Learning;
using BrightCircle.App.Offer;
using BrightCircle.App.Running;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>A site that rehearses, moves its clock, and goes live.</summary>
public class TrialTests
{
    /// <summary>The outside world: it is the morning of 20 November 2026 there, whatever the machine says.</summary>
    sealed class StandingWall : IWallClock
    {
        public Instant Moment { get; set; } = Instant.FromUtc(2026, 11, 20, 9, 0);
    }

    static Task<House> Open() => House.Open(s => s.AddSingleton<IWallClock, StandingWall>());

    static async Task Rehearse(House house)
    {
        await house.Ask(db => db.Sites.ExecuteUpdateAsync(u => u.SetProperty(s => s.IsTrial, true).SetProperty(s => s.IsDemo, false)));
        await house.Catalogue.Load();
    }

    [Fact]
    public async Task Going_live_takes_the_rehearsal_out_and_keeps_what_was_made()
    {
        await using var house = await Open();
        await Rehearse(house);
        var paying = await house.Join(house.Monthly);
        await house.Join(house.Monthly, DemoTill.FailsLater);
        var reader = await house.Join(house.Free);
        await house.Do<TakePart>(async s => await s.MarkDone(await house.Reads(reader, house.Now.Pieces[0].Outline.Lessons[0].Id), true, default));
        await house.Do<TakePart>(async s => await s.KeepNote(await house.Reads(reader, house.Now.Pieces[0].Outline.Lessons[0].Id), "mine", default));
        await house.Do<RefundPayment>(s => s.Do(house.Owner, house.Payments(paying).Result[0].Id, new(500, new("GBP")), false, "asked", default));
        // Somebody in a cohort, a promise that was changed, and everybody moved to it.
        var piece = house.Now.Pieces[0].Id;
        var cohort = (await house.Get<Cohorts, Result<CohortId>>(s => s.Save(house.Owner, piece, null, "One", new(2026, 12, 1, 9, 0), null, default))).Value;
        var email = await house.Ask(db => db.Members.Where(m => m.Id == reader).Select(m => m.Email).SingleAsync());
        Assert.True((await house.Get<Cohorts, Result>(s => s.Put(house.Owner, piece, cohort, email, default))).Ok);
        var plan = house.Now.PriceById[house.Monthly].PlanId;
        await house.Get<SavePromise, Result<int>>(s => s.Do(house.Owner, plan, new([], PromiseVersion.NoPaces, 1), default));
        Assert.True((await house.Get<MovePromise, Result>(s => s.Do(house.Owner, plan, 2, default))).Ok);
        // A voucher, and an order whose money is on its way.
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, PriceWords.Of(house.Now.PriceById[house.Monthly]),
            default))).Ok);
        var once = await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, plan,
            new(null, null, PriceKind.Once, "69", 1, Core.Time.PeriodUnit.Months, false,
            7, Core.Time.PeriodUnit.Days, "0"), default));
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, once.Value,
            PriceWords.Of(house.Now.PriceById[once.Value]) with { AsVoucher = true },
            default))).Ok);
        Assert.True((await house.Get<Settings.MoneySettings, Result>(s => s.Save(house.Owner, new([new(PayWay.Card, true, "Card", "", 0, false),
            new(PayWay.Transfer, true, "Transfer", "To us", 12, false)], PayWay.Transfer, 0, OwnerLetterWhen.Daily, OwnerLetterWhen.Never,
                OwnerLetterWhen.Never), default))).Ok);
        foreach (var confirmed in new[] { true, false })
        {
            var begun = (JoinStart.Begun)await house.Get<BeginJoin, JoinStart>(s =>
                s.Do(house.Now.PriceById[once.Value], "Mirela Duarte", House.NewAddress(), null,
                default, voucher: new("", "", null, null)));
            Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(begun.Checkout, PayWay.Transfer, default))).Ok);
            if (confirmed) Assert.True((await house.Get<ReceiveMoney, Result>(s => s.Confirm(house.Owner, begun.Checkout, null, default))).Ok);
        }
        async Task<long> Routine(Core.Routines.Trigger when)
        {
            var id = (await house.Get<Routines.EditRoutine, Result<long>>(s => s.New(house.Owner, null, default))).Value;
            Assert.True((await house.Get<Routines.EditRoutine, Result>(s => s.Change(house.Owner, id, 1, $"Routine {id}", _ => Core.Routines.Script.Of(when,
                new Core.Routines.Step.AddNote(1, "By itself.")), default))).Ok);
            Assert.True((await house.Get<Routines.EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default))).Ok);
            return id;
        }
        // Turned on in a time that hasn't come yet when the site goes live.
        await house.Days(15);
        var (joins, away) = (await Routine(new Core.Routines.Trigger.Joins([])), await Routine(new Core.Routines.Trigger.NotSeen(3)));
        await house.Join(house.Free);
        await house.Days(5);
        Assert.Equal(1, await house.Ask(db => db.RoutineRuns.CountAsync(r => r.RoutineId == joins)));
        var checks = (await house.Get<GoLive, LeavesWithTrial>(s => s.Look(default))).Checks.ToDictionary(c => c.Title, c => c.Done);
        Assert.True(checks["Joined as a stranger"] && checks["Something to buy"] && checks["Left, or gave money back"] && checks["Where people ask"]);
        Assert.False(checks["Who sells"] || checks["Terms of sale"] || checks["Came in by letter"]);
        Assert.True(checks["Read something"]);
        Assert.Equal(EditionState.Released, house.Now.Editions[1].State);
        await house.Services.GetRequiredService<MoveClock>().LetGo();
        var live = house.Services.GetRequiredService<HouseClock>();
        Assert.True(live.Ahead > Duration.FromDays(20));

        var look = await house.Get<GoLive, LeavesWithTrial>(s => s.Look(default));
        Assert.Equal((6, 4), (look.People, look.Holdings));
        Assert.True(look is { Payments: >= 2, Letters: > 3, Done: > 0, Back: >= 2 });
        Assert.Equal("SiteName", (await house.Get<GoLive, Result>(s => s.Do(house.Owner, "Another", default))).Field);
        await Assert.ThrowsAsync<NotAllowedException>(
            () => house.Get<GoLive, Result>(s => s.Do(house.Owner with { Role = TeamRole.Editor }, "Test Lane", default)));
        Assert.Equal(6, await house.Ask(db => db.Members.CountAsync()));

        Assert.True((await house.Get<GoLive, Result>(s => s.Do(house.Owner, " test lane ", default))).Ok);
        // Nothing is left in any table that knows of members, holdings or payments.
        var left = await house.Ask(db => db.Database.SqlQueryRaw<string>("""
            select distinct table_name as "Value" from information_schema.columns where table_schema = 'public' and column_name in ('member_id', 'holding_id',
                'payment_id')
            """).ToListAsync());
        Assert.Contains("holding_facts", left);
#pragma warning disable EF1002 // Names of our own tables.
        foreach (var table in left) Assert.Equal((table, 0),
            (table, await house.Ask(db => db.Database.SqlQueryRaw<int>($"select count(*)::int as \"Value\" from {table}").SingleAsync())));
#pragma warning restore EF1002
        Assert.Equal(1, await house.Ask(db => db.Users.CountAsync()));
        Assert.Equal((2, 2, 5), (house.Now.Editions.Count, house.Now.Pieces.Count, house.Now.Prices.Count + 1));
        Assert.False(house.Now.Site!.IsTrial);
        Assert.Equal(Duration.Zero, live.Ahead);
        // December, released in the rehearsal, is planned again; November, which is past, stays out.
        Assert.Equal([EditionState.Released, EditionState.Scheduled], house.Now.Editions.OrderBy(e => e.FirstDay).Select(e => e.State));
        Assert.Contains("live already", (await house.Get<GoLive, Result>(s => s.Do(house.Owner, "Test Lane", default))).Refusal, StringComparison.Ordinal);
        Assert.False((await house.Services.GetRequiredService<MoveClock>().Start(live.Moment + Duration.FromDays(1))).Ok);

        // The books can't be emptied any more, and the first receipt is number one again.
        var first = await house.Join(house.Monthly);
        Assert.EndsWith("-00001", (await house.Payments(first))[0].Receipt, StringComparison.Ordinal);
        await Assert.ThrowsAsync<Npgsql.PostgresException>(() => house.Ask(db => db.Database.ExecuteSqlAsync($"delete from ledger")));
        live.StandAt(house.Now.Calendar.At(new(2026, 12, 1, 9, 0)));
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal(EditionState.Released, house.Now.Editions.OrderBy(e => e.FirstDay).Last().State);
        Assert.Equal(Standing.Active, (await house.Member(first)).Standing);
        // The owner's mornings go on in real time.
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.OwnerNews)));
        Assert.True(await house.Ask(db => db.DueWork.AnyAsync(d => d.Kind == DueKind.OwnerMorning)));
        // So do routines, with what happens from then on.
        Assert.Equal(first, await house.Ask(db => db.RoutineRuns.Where(r => r.RoutineId == joins).Select(r => r.MemberId).SingleAsync()));
        Assert.True(await house.Ask(db => db.DueWork.AnyAsync(d => d.Kind == DueKind.RoutineDay)));
        Assert.True(house.Now.People.RoutineById[away].IsOn);
    }

    [Fact]
    public async Task A_move_of_the_clock_that_was_cut_short_goes_on_where_it_had_got()
    {
        await using var house = await Open();
        var id = await house.Join(house.Monthly);
        var (from, to) = (house.Clock.Moment, house.Now.Calendar.At(new(2027, 1, 25, 12, 0)));
        // The node went away on the way: the row stands as running, half done.
        var reached = house.Now.Calendar.At(new(2026, 12, 20, 12, 0));
        await house.To(reached);
        await house.Ask(
            db =>
            {
                db.ClockMoves.Add(new() { Id = 77, FromMoment = from, ToMoment = to, Reached = reached, Counts = new() { ["editions released"] = 1 } });
                return db.SaveChangesAsync();
            });

        await using var next = await house.AnotherNode(s => s.AddSingleton<IWallClock, StandingWall>());
        Assert.True(await next.Services.GetRequiredService<MoveClock>().Resume());
        // While one node moves it, no other does.
        await Wait.Until(() => house.Ask(db => db.ClockMoves.AsNoTracking().SingleAsync(m => m.Id == 77)), m => m.State != ClockMoveState.Running);
        var move = await house.Ask(db => db.ClockMoves.AsNoTracking().SingleAsync(m => m.Id == 77));
        Assert.Equal((ClockMoveState.Done, to, 1, 2), (move.State, move.Reached, move.Counts["editions released"], move.Counts["charged"]));
        Assert.Equal(3, (await house.Payments(id)).Count(p => p.IsPaid));
        // The lock is let go after the row is written; then there is nothing left to go on with.
        await Wait.Until(async () => await next.Services.GetRequiredService<MoveClock>().Resume(), again => !again);
        Assert.Equal(0, await house.Ask(db => db.Payments.CountAsync(p => p.At > to)));
    }
}
