using System.Net.Http.Json;
using System.Text.Json;
using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Offer;
using BrightCircle.Core;
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

/// <summary>Many lives with money over more than a year: random prices, cards, coupons, changes, pauses, leavings, refunds. In the end every unit is
/// accounted for.</summary>
public class LivesTests
{
    [Fact]
    public Task Whatever_people_do_books_and_till_agree_to_the_unit() => Live(24, 14, 1);

    /// <summary>Two years of five thousand people; run by ./test lives, beside the suite.</summary>
    [Fact, Trait("Category", "Lives")]
    public Task Whatever_very_many_people_do_books_and_till_agree_to_the_unit() =>
        Live(int.Parse(Environment.GetEnvironmentVariable("LIVES_PEOPLE") ?? "5000", System.Globalization.CultureInfo.InvariantCulture), 24, 4);

    static async Task Live(int count, int months, int atOnce)
    {
        await using var house = await House.Open();
        const int Seed = 20261127;
        var random = new Random(Seed);
        // Grace lasts three weeks here, so that some pay within it.
        var site = house.Now.Site!;
        Assert.Equal("RetryDays", (await house.Get<Settings.SetUpSite, Result>(s =>
            s.Change(house.Owner, new(site.Name, "", "", null, null, site.HelpAddress, 5,
            RetryDays: "5, 1"), null, default))).Field);
        Assert.True((await house.Get<Settings.SetUpSite, Result>(s => s.Change(house.Owner, new(site.Name, "", "", null, null, site.HelpAddress, 5,
            RetryDays: "1, 5, 21"), null, default))).Ok);
        async Task<PriceId> Price(PlanId plan, PriceDraft draft) => (await house.Get<AddPrice,
            Result<PriceId>>(s => s.Do(house.Owner, plan, draft, default))).Value;
        static PriceDraft Draft(PriceKind kind, string amount, int count = 1, PeriodUnit unit = PeriodUnit.Months, bool trial = false) =>
            new(null, null, kind, amount, count, unit, trial, 7, PeriodUnit.Days, "1.00");
        async Task<PlanId> Plan(string name, int rank) => (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new(name, rank, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], rank == 0 ? PlanKind.Pass : PlanKind.Tier), default))).Value;
        var (apiary, winter) = (await Plan("Apiary", 3), await Plan("First Winter", 0));
        PriceId[] tiers =
        [
            house.Monthly, await Price(house.Keeper, Draft(PriceKind.Recurring, "180", unit: PeriodUnit.Years)),
            await Price(house.Keeper, Draft(PriceKind.Recurring, "7.77", 13, PeriodUnit.Days)),
            await Price(apiary, Draft(PriceKind.Recurring, "39", trial: true) with { JoiningFee = "5" }),
                await Price(apiary, Draft(PriceKind.Recurring, "100", 3)),
        ];
        PriceId[] passes = [await Price(winter, Draft(PriceKind.Instalments, "26.01") with { Times = 3, Access = AccessKind.For }),
            await Price(winter, Draft(PriceKind.Once, "69") with { Access = AccessKind.For, AccessCount = 3, AccessUnit = PeriodUnit.Months })];
        foreach (var p in tiers)
            await house.Get<EditPrice, Result>(s => s.Words(house.Owner, p, new(null, null, PauseDays: 40, PauseYear: 200), default));
        await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, null, new("THIRD", null, OffKind.Percent, "33", LastsKind.Payments, 2), default));
        Assert.True((await house.Get<Settings.MoneySettings, Result>(s => s.Save(house.Owner, new([new(PayWay.Card, true, "Card", "", 0, false),
            new(PayWay.Transfer, true, "Transfer", "To us", 12, false), new(PayWay.Elsewhere, true, "Cash", "Here", 9, true)], PayWay.Card, 0,
            OwnerLetterWhen.Never, OwnerLetterWhen.Never, OwnerLetterWhen.Never), default))).Ok);
        foreach (var p in tiers)
            Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, p,
                PriceWords.Of(house.Now.PriceById[p]) with { ExtraPrice = passes[1].Value },
                default))).Ok);
        var people = new MemberId[count];
        // Each has their own luck, whatever the others do meanwhile.
        Random[] luck = [.. Enumerable.Range(0, count).Select(i => new Random(Seed + i * 7919))];
        string[] cards = [DemoTill.Approves, DemoTill.Approves, DemoTill.Approves, DemoTill.FailsLater, DemoTill.NeedsCardholder];
        await Each(async i =>
        {
            var random = luck[i];
            var price = i % 4 == 3 ? passes[i % 2] : tiers[i % tiers.Length];
            var start = (JoinStart.Begun)await house.Get<BeginJoin, JoinStart>(s =>
                s.Do(house.Now.PriceById[price], "Mirela Duarte", House.NewAddress(), null, default, coupon: i % 5 == 0 ? "third" : null));
            if (i % 3 == 0 && await house.Get<ReviewJoin, JoinReview?>(s => s.Find(start.Checkout, start.Secret, default)) is { Extra: not null } review)
                await house.Do<ChooseOrder>(s => s.Extra(review, true, default));
            if (i % 4 == 1)
            {
                Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(start.Checkout, i % 8 == 1 ? PayWay.Transfer : PayWay.Elsewhere, default))).Ok);
                people[i] = (await house.Ask(db => db.Checkouts.SingleAsync(c => c.Id == start.Checkout))).MemberId!.Value;
                return;
            }
            if (await house.TillPage(start.Checkout) is { } page) await house.Till.Pay(page, cards[random.Next(cards.Length)]);
            people[i] = (await house.Return(start.Checkout))!.MemberId!.Value;
        });
        var did = new System.Collections.Concurrent.ConcurrentDictionary<string, int>();
        for (var month = 0; month < months; month++)
        {
            for (var half = 0; half < 2; half++)
            {
                await house.Days(random.Next(6, 21));
                await Each(async i =>
                {
                    var random = luck[i];
                    if (random.Next(3) != 0) return;
                    var (member, now) = (people[i], house.Clock.Moment);
                    // Who has something to send sends it, mostly; late too, and a few have it called off.
                    foreach (var waits in await house.Ask(db => db.Checkouts.AsNoTracking().Where(c => c.MemberId == member && c.Reference != null
                        && (c.State == CheckoutState.Placed || c.State == CheckoutState.Expired)).ToListAsync()))
                        if (random.Next(10) < 7) await Note("sent their money", () => house.Get<ReceiveMoney,
                            Result>(s => s.Confirm(house.Owner, waits.Id, null, default)));
                        else if (waits.State == CheckoutState.Placed && waits.PriceId is not null && random.Next(3) == 0)
                            await Note("called off", () => house.Get<ReceiveMoney, Result>(s => s.CallOff(null, waits.Id, member, default)));
                    var held = await house.Holdings(member);
                    if (held.LastOrDefault(h => h.IsHeldAt(now) || h.StateAt(now) is HoldingState.Paused or HoldingState.Closed) is not { } h)
                    {
                        if (random.Next(2) == 0) await Note("came back", async () =>
                            await house.TryJoinAgain(member, tiers[random.Next(tiers.Length)]) is null ? Result.Refused("They hold it.") : Result.Done);
                        return;
                    }
                    switch (h.StateAt(now) is HoldingState.Grace or HoldingState.Closed && random.Next(3) > 0 ? 4 : random.Next(7))
                    {
                        case 0 or 1:
                            var to = tiers[random.Next(tiers.Length)];
                            ChangeWhen? when = random.Next(3) switch { 0 => ChangeWhen.AtOnce, 1 => ChangeWhen.AtPeriodEnd, _ => null };
                            var who = Buyer.Of(await house.Member(member), held);
                            var look = await house.Get<ChangePlan, Result<ChangeLook>>(s => s.Look(member, who, h.Id, to, when, default));
                            if (look is { Ok: true, Value.Change: var c })
                                await Note("changed", () => house.Get<ChangePlan, Result>(s => s.Do(member, h.Id, to, c.When, c.First.Amount.Minor, default)));
                            break;
                        case 2 when held.LastOrDefault(x => x.StateAt(now) == HoldingState.NotYet) is { } planned:
                            await Note("took back", () => house.Get<ChangePlan, Result>(s => s.TakeBack(member, planned.Id, default)));
                            break;
                        case 2 or 3:
                            await Note("paused", () => house.Get<PausePlan,
                                Result>(s => s.Do(member, h.Id, house.Now.Calendar.Date(now).PlusDays(random.Next(1, 45)), null, default)));
                            break;
                        case 4 when h.StateAt(now) == HoldingState.Paused:
                            await Note("went on", () => house.Get<PausePlan, Result>(s => s.Resume(member, h.Id, null, default)));
                            break;
                        case 4 when h.StateAt(now) is HoldingState.Grace or HoldingState.Closed:
                            await Note("paid what was open", async () =>
                            {
                                long checkout = 0;
                                var page = await house.Get<GoToTill, Result<string>>(s =>
                                    s.Card(member, id => "http://site.example/back/" + (checkout = id), default));
                                await house.Till.Pay(page.Value!, DemoTill.Approves);
                                await house.Return(checkout);
                                return Result.Done;
                            });
                            break;
                        case 5:
                            await Note(h.StateAt(now) == HoldingState.Ending ? "stayed" : "left", () => h.StateAt(now) == HoldingState.Ending
                                ? house.Get<StayWithPlan, Result>(s => s.Do(member, h.Id, default)) : house.Get<LeavePlan,
                                    Result>(s => s.Do(member, h.Id, default)));
                            break;
                        case 6 when random.Next(4) == 0 && Obligations.Of(h, now).Next is { Amount.IsZero: false } owed:
                            await Note("paid in cash", () => house.Get<ReceiveMoney, Result>(s => s.Note(house.Owner, member, h.Id, PayWay.Elsewhere, null,
                                owed.Amount.Minor, null, default)));
                            break;
                        case 6 when random.Next(2) == 0 && (await house.Payments(member)).LastOrDefault(p => p.Refundable.Minor > 3) is { } toCredit:
                            await Note("credited", () => house.Get<RefundPayment, Result>(s => s.ToCredit(house.Owner, toCredit.Id,
                                new(random.Next(1, (int)toCredit.Refundable.Minor), toCredit.Amount.Currency), "", default)));
                            break;
                        case 6 when (await house.Payments(member)).LastOrDefault(p => p.Refundable.Minor > 3) is { } paid:
                            await Note("refunded", () => house.Get<RefundPayment, Result>(s => s.Do(house.Owner, paid.Id,
                                new(random.Next(1, (int)paid.Refundable.Minor), paid.Amount.Currency), random.Next(4) == 0, "", default)));
                            break;
                    }
                });
            }
        }

        Task Each(Func<int, Task> act) => Parallel.ForEachAsync(Enumerable.Range(0, count), new ParallelOptions { MaxDegreeOfParallelism = atOnce },
            async (i, _) => await act(i));

        async Task Note(string what, Func<Task<Result>> act)
        {
            var done = await act();
            did.AddOrUpdate(done.Ok ? what : what + ", refused", 1, (_, n) => n + 1);
        }

        var said = string.Join(", ", did.OrderBy(d => d.Key).Select(d => $"{d.Key} {d.Value}"));
        foreach (var act in new[] { "changed", "took back", "paused", "went on", "paid what was open", "left", "refunded", "credited", "came back",
            "sent their money",
            "paid in cash" })
            Assert.True(did.GetValueOrDefault(act) > 0, $"nobody {act}: {said}");

        // The ledger balances, posting by posting, and its cash is what came in less what went back.
        Assert.Equal(0, await house.Ask(db => db.Ledger.GroupBy(l => l.PostingId).Where(g => g.Sum(l => l.Amount.Minor) != 0).CountAsync()));
        var payments = await house.Ask(db => db.Payments.AsNoTracking().ToListAsync());
        var paidUp = payments.Where(p => p.IsPaid).ToArray();
        long Account(LedgerAccount account) => house.Ask(db => db.Ledger.Where(l => l.Account == account).SumAsync(l => l.Amount.Minor)).Result;
        Assert.Equal(paidUp.Where(p => p.Way == PayWay.Card).Sum(p => p.Amount.Minor - p.RefundedMinor), Account(LedgerAccount.Cash));
        Assert.Equal(paidUp.Where(p => p.Way != PayWay.Card).Sum(p => p.Amount.Minor - p.RefundedMinor), Account(LedgerAccount.Bank));
        Assert.Equal(0, Account(LedgerAccount.Member));
        // What members have to their credit is what the books hold for them; nobody's is below nothing.
        var holdings = await house.Ask(db => db.Holdings.AsNoTracking().Include(h => h.Facts.OrderBy(f => f.Seq)).ToListAsync());
        var balances = holdings.Select(h => h.Timeline.Balance?.Minor ?? 0).ToArray();
        Assert.All(balances, b => Assert.True(b >= 0));
        Assert.Equal(-balances.Sum(), Account(LedgerAccount.Credit));
        // One charge for each turn, each charge known to the Till with that very amount, and receipts without a gap.
        Assert.Equal(paidUp.Length, paidUp.Select(p => (p.HoldingId, p.Purpose, p.Turn)).Distinct().Count());
        using var http = new HttpClient();
        var till = (await http.GetFromJsonAsync<JsonElement>(TestServers.Till + "/control/charges")).EnumerateArray()
            .ToDictionary(c => c.GetProperty("id").GetString()!, c => (Amount: c.GetProperty("amount").GetInt64(),
                Refunded: c.GetProperty("refunded").GetInt64()));
        // One charge of an order can stand for several payments.
        Assert.All(paidUp.Where(p => p.Way == PayWay.Card).GroupBy(p => p.ChargeRef),
            g => Assert.Equal((g.Sum(p => p.Amount.Minor), g.Sum(p => p.RefundedMinor)), till[g.Key]));
        Assert.Contains(paidUp.Where(p => p.Way == PayWay.Card).GroupBy(p => p.ChargeRef), g => g.Count() > 1);
        Assert.All(paidUp.Where(p => p.Way != PayWay.Card), p => Assert.False(till.ContainsKey(p.ChargeRef)));
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Tries > 3)));
        for (var month = new YearMonth(2026, 11); month <= house.Now.Calendar.Month(house.Clock.Moment); month = month.PlusMonths(1))
        {
            var compared = (await house.Get<CompareBooks, Comparison?>(s => s.Of(month, default)))!;
            Assert.Empty(compared.Differences);
            Assert.Equal(compared.Service, compared.Books);
        }
        foreach (var year in paidUp.GroupBy(p => p.ReceiptYear))
            Assert.Equal(Enumerable.Range(1, year.Count()), year.Select(p => p.ReceiptNumber!.Value).Order());
        // Each paid stretch begins where the agreement says, and no two of a holding lie over one another but where a pause or a change moved them.
        foreach (var h in holdings)
        {
            var stretches = h.Timeline.Paid.Where(f => f.Kind != HoldingFactKind.Given).ToArray();
            Assert.Equal(stretches.Length, stretches.Select(f => f.From).Distinct().Count());
            Assert.All(stretches.Zip(stretches.Skip(1)), s => Assert.True(s.First.To <= s.Second.From,
                $"{h.Id}: {s.First.From}–{s.First.To}, then {s.Second.From}"));
        }
        // Standing is what the facts say.
        foreach (var m in await house.Ask(db => db.Members.AsNoTracking().ToListAsync()))
            Assert.Equal(Standings.At([.. holdings.Where(h => h.MemberId == m.Id)], house.Now.Book.Plan, house.Clock.Moment),
                new(m.Standing, m.StandingPlanId));
        Assert.Equal(0, await house.Ask(db => db.ChargeAsks.CountAsync()));
    }
}
