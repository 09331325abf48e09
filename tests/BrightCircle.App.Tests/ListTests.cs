using System.Globalization;
using System.Text;
using BrightCircle.App.Billing;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Insight;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
using BrightCircle.App.Running;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Lists and the figures above them: what a filter keeps, and that each count is the number of rows behind it.</summary>
public class ListTests
{
    /// <summary>Five people at different points: paying, on trial, free, about to fail, refunded.</summary>
    static async Task<(MemberId Pays, MemberId Trial, MemberId Free, MemberId Fails, MemberId Refunded)> Five(House house)
    {
        var (pays, trial, free, fails, back) = (await house.Join(house.Monthly), await house.Join(house.Trial), await house.Join(house.Free),
            await house.Join(house.Monthly, DemoTill.FailsLater), await house.Join(house.Monthly));
        async Task Name(MemberId id, string name) =>
            await house.Ask(db => db.Members.Where(m => m.Id == id).ExecuteUpdateAsync(u => u.SetProperty(m => m.Name, name)));
        await Name(pays, "Ada 100% Berry");
        await Name(trial, "=Brin_Cove");
        await Name(free, "Cleo Dunn");
        await Name(fails, "Dov Elm");
        await Name(back, "Eda Fern");
        var payment = (await house.Payments(back)).Single();
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, payment.Id, payment.Amount, false, "asked", default))).Ok);
        await house.Services.GetRequiredService<RunDue>().Run();
        return (pays, trial, free, fails, back);
    }

    // One rule, asked of the database for a page and of somebody at a checkout: the same people fit.
    [Fact]
    public async Task Who_stands_in_a_list_is_the_same_in_the_database_and_at_the_checkout()
    {
        await using var house = await House.Open();
        var five = await Five(house);
        // A pass beside a tier, one for later, one that is over.
        var pass = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Candles", 0, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], PlanKind.Pass), default))).Value;
        Task Give(MemberId to, LocalDate? from, LocalDate? until) => house.Do<GivePlan>(async s => Assert.True((await s.Do(house.Owner, to,
            new(pass, HoldingSource.Gift, from, until), default)).Ok));
        var today = house.Now.Calendar.Date(house.Clock.GetCurrentInstant());
        await Give(five.Pays, null, null);
        await Give(five.Trial, today.PlusDays(60), null);
        await Give(five.Free, null, today.PlusDays(20));
        await house.Days(40);
        var late = await house.Join(house.Monthly);
        await house.To(house.Clock.GetCurrentInstant() + Duration.FromDays(1));
        var members = await house.Ask(db => db.Members.AsNoTracking().OrderBy(m => m.Id).ToListAsync());
        var (first, last) = (house.Now.Calendar.Date((await house.Member(five.Pays)).JoinedAt), house.Now.Calendar.Date((await house.Member(late)).JoinedAt));
        var filters = from search in new[] { null, "ada", " EXAMPLE", "100%", "nobody" }
                      from standing in Enum.GetValues<Standing>().Select(s => (Standing?)s).Prepend(null)
                      from plan in new PlanId?[] { null, house.Keeper, pass }
                      from days in new (LocalDate?, LocalDate?)[] { (null, null), (first, first), (last, null), (null, last.PlusDays(-1)),
                          (first.PlusDays(1), last) }
                      select new MemberFilter(search, standing, plan, days.Item1, days.Item2);
        var some = 0;
        foreach (var f in filters)
        {
            var asked = await house.Get<MemberList, int>(s => s.Count(f, default));
            var rows = (await house.Get<MemberList, IReadOnlyList<MemberRow>>(s => s.First(new(f), 100, default))).Select(r => r.Id).OrderBy(i => i.Value)
                .ToArray();
            var fit = new List<MemberId>();
            foreach (var m in members)
                if (Buyer.Of(m, await house.Holdings(m.Id)).Fits(f, house.Now.Calendar, house.Clock.GetCurrentInstant())) fit.Add(m.Id);
            Assert.Equal(fit, rows);
            Assert.Equal(fit.Count, asked);
            if (fit.Count > 0 && fit.Count < members.Count) some++;
        }
        Assert.True(some > 20, $"{some}");
        Assert.Equal([five.Pays], (await house.Get<MemberList, IReadOnlyList<MemberRow>>(s => s.First(new(new(Plan: pass)), 9, default))).Select(r => r.Id));
    }

    [Fact]
    public async Task The_member_list_keeps_what_is_asked_for_in_the_order_asked_for()
    {
        await using var house = await House.Open();
        var five = await Five(house);
        await house.Days(40);
        async Task<string[]> Names(MemberFilter f, string sort = "joined") =>
            [.. (await house.Get<MemberList, (IReadOnlyList<MemberRow> Rows, int Count)>(s => s.Page(new(f, sort, sort == "joined"), 1, default)))
                .Rows.Select(r => r.Name.Split(' ')[0])];
        Assert.Equal(["Ada", "Cleo", "Dov", "Eda", "=Brin_Cove"],
            (await Names(new(), "name")).OrderBy(n => n.TrimStart('='), StringComparer.Ordinal).OrderBy(n => n[0] == '='));
        // What is typed stands for itself, not for a pattern.
        Assert.Equal(["Ada"], await Names(new("100%")));
        Assert.Equal(["=Brin_Cove"], await Names(new("n_c")));
        Assert.Empty(await Names(new("n%c")));
        Assert.Equal(["Cleo"], await Names(new("  cLEO ")));
        foreach (var standing in Enum.GetValues<Standing>())
        {
            var (rows, count) = await house.Get<MemberList, (IReadOnlyList<MemberRow>, int)>(s => s.Page(new(new(Standing: standing)), 1, default));
            Assert.Equal(count, rows.Count);
            Assert.Equal(await house.Ask(db => db.Members.CountAsync(m => m.Standing == standing)), count);
            Assert.All(rows, r => Assert.Equal(standing, r.Standing));
        }
        Assert.Contains("Dov", await Names(new(Standing: Standing.Lapsed)));
        var joined = house.Now.Calendar.Date((await house.Member(five.Pays)).JoinedAt);
        Assert.Equal(5, (await Names(new(From: joined, To: joined))).Length);
        Assert.Empty(await Names(new(From: joined.PlusDays(1))));
        Assert.Empty(await Names(new(To: joined.PlusDays(-1))));
        foreach (var sort in new[] { "name", "standing", "since", "joined" })
        {
            async Task<IReadOnlyList<MemberRow>> Rows(bool down) =>
                (await house.Get<MemberList, (IReadOnlyList<MemberRow>, int)>(s => s.Page(new(new(), sort, down), 1, default))).Item1;
            var (up, down) = (await Rows(false), await Rows(true));
            Assert.Equal(up.Select(r => r.Id.Value).Order(), down.Select(r => r.Id.Value).Order());
            if (sort == "joined") Assert.Equal(up.Select(r => r.JoinedAt).Order(), up.Select(r => r.JoinedAt));
            if (sort == "since") Assert.Equal(down.Select(r => r.StandingSince).OrderDescending(), down.Select(r => r.StandingSince));
        }
        Assert.Empty((await house.Get<MemberList, (IReadOnlyList<MemberRow>, int)>(s => s.Page(new(new()), 2, default))).Item1);

        // The CSV has the same rows, and no cell that a spreadsheet would run.
        using var csv = new MemoryStream();
        await house.Do<MemberList>(s => s.WriteCsv(new(new(), "name", false), csv, default));
        var lines = Encoding.UTF8.GetString(csv.ToArray()).TrimStart('\ufeff').Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(6, lines.Length);
        Assert.DoesNotContain(lines, l => l.StartsWith('=') || l.StartsWith("\"=", StringComparison.Ordinal));
        Assert.Contains(lines, l => l.Contains("'=Brin_Cove", StringComparison.Ordinal));
    }

    [Fact]
    public async Task The_sums_above_the_payments_are_those_of_the_rows_below()
    {
        await using var house = await House.Open();
        await Five(house);
        await house.Days(40);
        var all = await house.Get<PaymentList, PaymentPage>(s => s.Page(new(), 1, default));
        Assert.Equal(all.Count, all.Rows.Count);
        var byState = new Dictionary<PaymentState, PaymentPage>();
        foreach (var state in Enum.GetValues<PaymentState>())
        {
            var page = byState[state] = await house.Get<PaymentList, PaymentPage>(s => s.Page(new(state), 1, default));
            Assert.All(page.Rows, r => Assert.Equal(state, r.Payment.State));
            Assert.Equal(page.Rows.Where(r => r.Payment.Outcome == ChargeOutcome.Approved).Sum(r => r.Payment.Amount.Minor), page.Received.Minor);
            Assert.Equal(page.Rows.Sum(r => r.Payment.RefundedMinor), page.GivenBack.Minor);
        }
        // Every payment is in one state and in one list.
        Assert.Equal(all.Count, byState.Values.Sum(p => p.Count));
        Assert.Equal(all.Received.Minor, byState.Values.Sum(p => p.Received.Minor));
        Assert.NotEmpty(byState[PaymentState.Failed].Rows);
        Assert.Equal(1800, byState[PaymentState.Refunded].GivenBack.Minor);
        Assert.Equal(["Ada 100% Berry"], (await house.Get<PaymentList, PaymentPage>(s => s.Page(new(Search: "100%"), 1, default))).Rows.Select(r => r.Name)
            .Distinct());
        Assert.Empty((await house.Get<PaymentList, PaymentPage>(s => s.Page(new(Search: "a_a"), 1, default))).Rows);
        var today = house.Now.Calendar.Date(house.Clock.Moment);
        Assert.Empty((await house.Get<PaymentList, PaymentPage>(s => s.Page(new(From: today.PlusDays(1)), 1, default))).Rows);
        Assert.Equal(all.Count, (await house.Get<PaymentList, PaymentPage>(s => s.Page(new(To: today), 1, default))).Count);
        var file = await house.Get<PaymentList, PaymentFile?>(s => s.Load(byState[PaymentState.Refunded].Rows[0].Payment.Id, default));
        Assert.Equal(0, file!.Ledger.Sum(l => l.Amount.Minor));
        Assert.Equal(1800, file.Refunds.Sum(r => r.Amount.Minor));
        Assert.Null(await house.Get<PaymentList, PaymentFile?>(s => s.Load(new(1), default)));
    }

    [Fact]
    public async Task Today_says_what_the_lists_say()
    {
        await using var house = await House.Open();
        await Five(house);
        async Task Agrees()
        {
            var today = await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default));
            foreach (var f in today.Standings) Assert.Equal(await house.Ask(db => db.Members.CountAsync(m => m.Standing == f.Standing)), f.Members);
            var first = house.Now.Calendar.Date(house.Clock.Moment) is var d ? new LocalDate(d.Year, d.Month, 1) : default;
            var month = await house.Get<PaymentList, PaymentPage>(s => s.Page(new(From: first), 1, default));
            Assert.Equal((month.Received, month.Rows.Count(r => r.Payment.Outcome == ChargeOutcome.Approved),
                month.Rows.Count(r => r.Payment.Outcome != ChargeOutcome.Approved)), (today.Received, today.PaymentsThisMonth, today.FailedThisMonth));
            Assert.Equal(await house.Ask(db => db.Journal.CountAsync()) is var n && n < 7 ? n : 7, today.JustNow.Count);
            Assert.Equal(today.Coming.Select(c => c.At).Order(), today.Coming.Select(c => c.At));
            Assert.All(today.Coming, c => Assert.True(c.At <= house.Clock.Moment + Duration.FromDays(7)));
        }
        await Agrees();
        var now = await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default));
        Assert.Equal("£18.00", now.GivenBack.Format(house.Now.Culture));
        Assert.Contains(now.Coming, c => c.Kind == "Release" && c.Text == "Edition 12 opens");
        Assert.Empty(now.Steps);
        // A month on the card that fails has been asked again and again; the trial has become paid.
        await house.Days(32);
        await Agrees();
        var later = await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default));
        Assert.Contains(later.Coming, c => c.Kind is "Retry" or "Lapse");
        Assert.Contains(later.Needs, x => x.Title == "No edition is scheduled.");
        await house.Days(8);
        await Agrees();
    }

    [Fact]
    public async Task A_young_site_is_told_its_next_step_one_after_the_other()
    {
        await using var house = await House.Open(empty: true);
        async Task<string> Step() => (await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default))).Steps
            .FirstOrDefault()?.Title ?? "";
        Assert.Equal("Put up a first shelf.", await Step());
        var shelf = (await house.Get<SaveShelf, Result<ShelfId>>(s => s.Do(house.Owner, null, new("Bees", "", 1, ""), default))).Value;
        Assert.Equal("Write a first piece.", await Step());
        await house.Do<SavePiece>(s => s.New(house.Owner, new("First", shelf), default));
        Assert.Equal("Plan the first edition.", await Step());
        await house.Do<Releases.SaveEdition>(s => s.Do(house.Owner, null, Releases.EditionDraft.ForMonth(new(2026, 12), "December", ""), default));
        Assert.Equal("Schedule the first edition.", await Step());
        await house.Do<Releases.SaveEdition>(s => s.Schedule(house.Owner, house.Now.Editions[0].Id, true, default));
        Assert.Equal("Make a first tier.", await Step());
        var plan = (await house.Get<Offer.SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Keeper", 1, "", []), default))).Value;
        Assert.Equal("Say what Keeper gives.", await Step());
        await house.Get<Offer.SavePromise, Result<int>>(s => s.Do(house.Owner, plan,
            new([new(new Coverage.Everything(), new Reach.FromJoining(), new Keep.Nothing())], PromiseVersion.NoPaces, 1), default));
        Assert.Equal("Name a price.", await Step());
    }

    [Fact]
    public async Task The_house_clock_moves_in_the_background_once_at_a_time_and_never_back()
    {
        await using var house = await House.Open();
        var mover = house.Services.GetRequiredService<MoveClock>();
        Assert.Contains("forward", (await mover.Start(house.Clock.Moment - Duration.FromDays(1))).Refusal, StringComparison.Ordinal);
        Assert.Contains("400 days", (await mover.Start(house.Clock.Moment + Duration.FromDays(500))).Refusal, StringComparison.Ordinal);
        var member = await house.Join(house.Monthly);
        var until = house.Now.Calendar.At(new(2026, 12, 2, 12, 0));
        var move = await mover.Start(until);
        Assert.True(move.Ok, move.Refusal);
        var again = await mover.Start(until + Duration.FromDays(1));
        var watch = System.Diagnostics.Stopwatch.StartNew();
        ClockMove state;
        do
        {
            state = await house.Ask(db => db.ClockMoves.AsNoTracking().SingleAsync(m => m.Id == move.Value));
            await Task.Yield();
        }
        while (state.State == ClockMoveState.Running && watch.Elapsed < TimeSpan.FromSeconds(60));
        Assert.Null(state.Error);
        Assert.Equal((ClockMoveState.Done, until), (state.State, state.Reached));
        Assert.Equal(1, state.Counts["editions released"]);
        Assert.True(!again.Ok || again.Value != move.Value);
        Assert.True(house.Clock.Moment >= until);
        Assert.Equal(Standing.Active, (await house.Member(member)).Standing);
    }

    [Fact]
    public async Task Many_lessons_are_changed_at_once_and_those_that_cannot_say_why()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        Task<Result<BulkDone>> All(BulkAction action, int? minutes = null, params string[] titles) =>
            house.Get<ChangeLessons, Result<BulkDone>>(
                s => s.Do(house.Owner, [.. course.Piece.Outline.Lessons.Where(l => titles.Length == 0 || titles.Contains(l.Title)).Select(l => l.Id)],
                action, minutes, default));
        var count = course.Piece.Outline.Lessons.Count;
        Assert.Equal("Minutes", (await All(BulkAction.Minutes, 0)).Field);
        Assert.Equal(count, (await All(BulkAction.Minutes, 15)).Value!.Done);
        Assert.All(course.Piece.Outline.Lessons, l => Assert.Equal(15, l.Minutes));
        var published = (await All(BulkAction.Publish)).Value!;
        Assert.Equal(count, published.Done + published.Left.Count);
        Assert.Equal(published.Done, course.Piece.Outline.Lessons.Count(l => l.Ready));
        await All(BulkAction.TeaserOn);
        Assert.All(course.Piece.Outline.Lessons, l => Assert.True(l.Teaser));
        await All(BulkAction.TeaserOff);
        Assert.DoesNotContain(course.Piece.Outline.Lessons, l => l.Teaser);
        await All(BulkAction.Unpublish);
        Assert.DoesNotContain(course.Piece.Outline.Lessons, l => l.Ready);
        Assert.Equal(1, (await All(BulkAction.Delete, null, "Winter")).Value!.Done);
        Assert.Equal(count - 1, course.Piece.Outline.Lessons.Count);
        Assert.Contains("Select some", (await house.Get<ChangeLessons, Result<BulkDone>>(s => s.Do(house.Owner, [], BulkAction.Publish, null, default)))
            .Refusal, StringComparison.Ordinal);

        // Modules get another name and place; the board moves a piece, and a released one stays.
        var module = (await house.Get<AddModule, Result<ModuleId>>(s => s.Do(house.Owner, course.Id, "Later", default))).Value;
        Assert.Equal("Title", (await house.Get<RenameModule, Result>(s => s.Do(house.Owner, module, " ", default))).Field);
        await house.Get<RenameModule, Result>(s => s.Do(house.Owner, module, "Sooner", default));
        await house.Get<ReorderOutline, Result>(s => s.Module(house.Owner, module, -1, default));
        Assert.Equal(Math.Max(0, course.Piece.Outline.Modules.Count() - 2), course.Piece.Outline.Modules.ToList().FindIndex(m => m.Title == "Sooner"));
        var december = house.Now.Editions.Single(e => e.Month == new YearMonth(2026, 12)).Id;
        Assert.True((await house.Get<SavePiece, Result>(s => s.Place(house.Owner, course.Id, null, december, false, default))).Ok);
        Assert.Equal(december, course.Piece.EditionId);
        Assert.True((await house.Get<SavePiece, Result>(s => s.Place(house.Owner, course.Id, null, null, false, default))).Ok);
        Assert.Null(course.Piece.EditionId);
        var released = house.Now.Pieces.Single(p => p.Title == "Piece 11").Id;
        Assert.Contains("Withdraw", (await house.Get<SavePiece, Result>(s => s.Place(house.Owner, released, null, december, false, default))).Refusal,
            StringComparison.Ordinal);
        Assert.Contains("isn’t here", (await house.Get<SavePiece, Result>(s => s.Place(house.Owner, course.Id, new(5), null, true, default))).Refusal,
            StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(-25 * 60, "yesterday")]
    [InlineData(-90, "1 h ago")]
    [InlineData(-5, "5 min ago")]
    [InlineData(0, "just now")]
    [InlineData(5, "in 5 min")]
    [InlineData(125, "in 2 h")]
    [InlineData(24 * 60, "tomorrow")]
    [InlineData(3 * 24 * 60, "in 3 days")]
    [InlineData(-59 * 24 * 60, "59 days ago")]
    [InlineData(90 * 24 * 60, "in 3 months")]
    [InlineData(-200 * 24 * 60, "6 months ago")]
    public void Moments_are_said_from_now(int minutes, string said)
    {
        var noon = Instant.FromUtc(2026, 6, 10, 11, 0);
        Assert.Equal(said, Say.Relative(noon + Duration.FromMinutes(minutes), noon, SiteCalendar.For("Europe/London")));
    }

    [Fact]
    public void Prices_lengths_and_sizes_are_said_as_people_say_them()
    {
        var gb = CultureInfo.GetCultureInfo("en-GB");
        Money Pounds(long minor) => new(minor, new Currency("GBP"));
        var month = new Core.Time.Period(1, PeriodUnit.Months);
        (PriceTerms Terms, string Said)[] prices =
        [
            (new PriceTerms.Free(), "free"), (new PriceTerms.OnePayment(Pounds(6900)), "£69.00 once"),
                (new PriceTerms.Recurring(Pounds(1800), month, null), "£18.00 a month"),
            (new PriceTerms.Recurring(Pounds(5000), new(3, PeriodUnit.Months), null), "£50.00 every 3 months"),
            (new PriceTerms.Recurring(Pounds(3900), month, new(new(7, PeriodUnit.Days), Pounds(100))), "7 days for £1.00, then £39.00 a month"),
            (new PriceTerms.Recurring(Pounds(3900), month, new(new(1, PeriodUnit.Weeks), Pounds(0))), "1 week free, then £39.00 a month"),
        ];
        Assert.All(prices, p => Assert.Equal(p.Said, Say.FullPrice(p.Terms, gb)));
        Assert.Equal(["1 min", "59 min", "1 h", "2 h 5 min"], new[] { 1, 59, 60, 125 }.Select(Say.Length));
        Assert.Equal(["999 bytes", "1 kB", "3.4 MB", "2.15 GB"], new[] { 999L, 1000, 3_400_000, 2_147_000_000 }.Select(Say.Bytes));
        Assert.Equal(["1 member", "1,200 members", "0 shelves"], [Say.Count(1, "member"), Say.Count(1200, "member"), Say.Count(0, "shelf", "shelves")]);
        Plan Keeping(params Keep[] keeps) => new() { Promise = [.. keeps.Select(k => new Inclusion(new Coverage.Everything(), new Reach.FromJoining(), k))] };
        Assert.Equal(["When you leave, what it opened closes.", "When you leave, everything that had opened for you stays open.",
            "When you leave, part of what had opened for you stays open."],
            new[] { Keeping(new Keep.Nothing()), Keeping(new Keep.WhatHadOpened()), Keeping(new Keep.Nothing(), new Keep.WhatHadOpened()) }.Select(
                PromiseWords.AfterLeaving));
    }
}
