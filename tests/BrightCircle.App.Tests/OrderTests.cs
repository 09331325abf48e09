using BrightCircle.App.Billing;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
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
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Orders: several things at once, other ways to pay than the card, vouchers, terms that are agreed to. No penny is lost on the way.</summary>
public class OrderTests
{
    static PriceDraft Draft(PriceKind kind, string amount) => new(null, null, kind, amount, 1, PeriodUnit.Months, false, 7, PeriodUnit.Days, "0");

    static async Task<(PlanId Plan, PriceId Price)> Pass(House house, string name, string amount, AccessKind access = AccessKind.ForGood)
    {
        var plan = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new(name, 0, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], PlanKind.Pass), default))).Value;
        var price = await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, plan,
            Draft(PriceKind.Once, amount) with { Access = access, AccessCount = 1 }, default));
        Assert.True(price.Ok, price.Refusal);
        return (plan, price.Value);
    }

    static async Task Words(House house, PriceId price, Func<PriceWords, PriceWords> change)
    {
        var done = await house.Get<EditPrice, Result>(s => s.Words(house.Owner, price, change(PriceWords.Of(house.Now.PriceById[price])), default));
        Assert.True(done.Ok, done.Refusal);
    }

    static async Task Ways(House house, bool atOnce = false, OwnerLetterWhen sale = OwnerLetterWhen.Never)
    {
        var done = await house.Get<MoneySettings, Result>(s => s.Save(house.Owner, new([new(PayWay.Card, true, "Card", "", 0, false),
            new(PayWay.Transfer, true, "Bank transfer", "Account 12345678, Sort code 00-00-00", 14, atOnce),
            new(PayWay.Elsewhere, true, "In cash", "At the stall on Saturdays", 10, atOnce)], PayWay.Card, 0, sale, OwnerLetterWhen.Never,
                OwnerLetterWhen.AtOnce),
            default));
        Assert.True(done.Ok, done.Refusal);
    }

    static async Task<(long Checkout, string Secret, string Email)> Begin(House house, PriceId price, MemberId? member = null, string? email = null,
        VoucherWish? voucher = null, string? coupon = null)
    {
        email ??= House.NewAddress();
        var start = await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[price], "Mirela Duarte", email, member, default, null, coupon,
            voucher));
        var begun = Assert.IsType<JoinStart.Begun>(start);
        return (begun.Checkout, begun.Secret, email);
    }

    static async Task<JoinReview> Review(House house, long checkout, string secret) =>
        (await house.Get<ReviewJoin, JoinReview?>(s => s.Find(checkout, secret, default)))!;

    static async Task Tick(House house, long checkout, string secret, bool on)
    {
        var review = await Review(house, checkout, secret);
        await house.Do<ChooseOrder>(s => s.Extra(review, on, default));
    }

    /// <summary>Orders by transfer, and gives the order as it stands then.</summary>
    static async Task<Checkout> Place(House house, PriceId price, PayWay way = PayWay.Transfer, MemberId? member = null, string? email = null,
        VoucherWish? voucher = null)
    {
        var (checkout, _, _) = await Begin(house, price, member, email, voucher);
        var done = await house.Get<PlaceOrder, Result>(s => s.Do(checkout, way, default));
        Assert.True(done.Ok, done.Refusal);
        return await Order(house, checkout);
    }

    static Task<Checkout> Order(House house, long id) => house.Ask(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Id == id));

    static Task<Result> Confirm(House house, long order, LocalDate? day = null) =>
        house.Get<ReceiveMoney, Result>(s => s.Confirm(house.Owner, order, day, default));

    /// <summary>The books balance; what is in the bank and at the payment service is what was paid less what went back; and both sides agree.</summary>
    static async Task Balances(House house)
    {
        Assert.Equal(0, await house.LedgerSum());
        Assert.Equal(0, await house.Ask(db => db.Ledger.GroupBy(l => l.PostingId).Where(g => g.Sum(l => l.Amount.Minor) != 0).CountAsync()));
        foreach (var (account, cards) in new[] { (LedgerAccount.Cash, true), (LedgerAccount.Bank, false) })
            Assert.Equal(await house.Ask(db => db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved && (p.Way == PayWay.Card) == cards)
                .SumAsync(p => p.Amount.Minor - p.RefundedMinor)), await house.Ask(db =>
                    db.Ledger.Where(l => l.Account == account).SumAsync(l => l.Amount.Minor)));
        var compared = await house.Get<CompareBooks, Comparison?>(s => s.Of(house.Now.Calendar.Date(house.Clock.Moment).ToYearMonth(), default));
        Assert.Empty(compared!.Differences);
        var receipts = await house.Ask(db => db.Payments.Where(p => p.ReceiptNumber != null).OrderBy(p => p.ReceiptNumber)
            .Select(p => new { p.ReceiptYear, p.ReceiptNumber }).ToListAsync());
        foreach (var year in receipts.GroupBy(r => r.ReceiptYear)) Assert.Equal(Enumerable.Range(1, year.Count()), year.Select(r => r.ReceiptNumber!.Value));
    }

    // 18.00 for the first month of Keeper and 9.00 for the pass: one charge of 27.00, two receipts.
    [Fact]
    public async Task An_extra_is_paid_with_one_charge_and_is_a_thing_of_its_own()
    {
        await using var house = await House.Open();
        var (pass, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value, ExtraWords = "For the cold months" });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        Assert.False((await Review(house, checkout, secret)).Extra!.IsTicked);
        Assert.Equal(1800, (await Review(house, checkout, secret)).Order.Due!.Value.Minor);
        await Tick(house, checkout, secret, true);
        Assert.Equal(2700, (await Review(house, checkout, secret)).Order.Due!.Value.Minor);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var done = (await house.Return(checkout))!;
        var id = done.MemberId!.Value;
        var payments = await house.Payments(id);
        Assert.Equal([1800, 900], payments.Select(p => p.Amount.Minor));
        Assert.Single(payments.Select(p => p.ChargeRef).Distinct());
        Assert.All(payments, p => Assert.Equal(checkout, p.OrderId));
        Assert.All(payments, p => Assert.False(p.TakenDiffers));
        var holdings = await house.Holdings(id);
        Assert.Equal([house.Keeper, pass], holdings.Select(h => h.PlanId));
        Assert.Equal(holdings.Select(h => (HoldingId?)h.Id), payments.Select(p => p.HoldingId));
        Assert.Equal(done.HoldingId, holdings[0].Id);
        await Balances(house);
        // A part of it goes back by itself, and what it paid for ends with it; the other stays.
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, payments[1].Id, payments[1].Amount, true, "", default))).Ok);
        holdings = await house.Holdings(id);
        Assert.Equal(HoldingState.Active, holdings[0].StateAt(house.Clock.Moment));
        Assert.Equal(HoldingState.Over, holdings[1].StateAt(house.Clock.Moment));
        await Balances(house);
    }

    [Fact]
    public async Task An_extra_beside_a_free_trial_is_paid_at_once()
    {
        await using var house = await House.Open();
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Trial, w => w with { ExtraPrice = extra.Value });
        await Words(house, house.Free, w => w with { ExtraPrice = extra.Value });
        foreach (var price in new[] { house.Trial, house.Free })
        {
            var (checkout, secret, _) = await Begin(house, price);
            await Tick(house, checkout, secret, true);
            await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
            var id = (await house.Return(checkout))!.MemberId!.Value;
            Assert.Equal([900], (await house.Payments(id)).Select(p => p.Amount.Minor));
            Assert.Equal([price == house.Trial ? HoldingState.Trial : HoldingState.Active, HoldingState.Active],
                (await house.Holdings(id)).Select(h => h.StateAt(house.Clock.Moment)));
        }
        await Balances(house);
    }

    // Bought in another window meanwhile, or by somebody who signed out: its money goes back, and the rest goes on.
    [Fact]
    public async Task An_extra_that_is_held_already_goes_back()
    {
        await using var house = await House.Open();
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var email = House.NewAddress();
        var (checkout, secret, _) = await Begin(house, house.Monthly, email: email);
        await Tick(house, checkout, secret, true);
        var page = (await house.TillPage(checkout))!;
        var id = await house.Join(extra, email: email);
        await house.Till.Pay(page, DemoTill.Approves);
        await house.Return(checkout);
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal(2, (await house.Holdings(id)).Count(h => h.StateAt(house.Clock.Moment) == HoldingState.Active));
        var payments = await house.Payments(id);
        Assert.Equal([900, 1800, 900], payments.Select(p => p.Amount.Minor));
        Assert.Equal(900, payments.Sum(p => p.RefundedMinor));
        await Balances(house);
        // Where it is known who they are, it isn't even offered.
        var (again, key, _) = await Begin(house, house.Monthly, await house.Join(extra));
        Assert.Null((await Review(house, again, key)).Extra);
    }

    [Fact]
    public async Task Of_two_pages_the_one_that_is_paid_counts_and_the_other_goes_back()
    {
        await using var house = await House.Open();
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        await Tick(house, checkout, secret, true);
        var with = (await house.TillPage(checkout))!;
        await Tick(house, checkout, secret, false);
        var without = (await house.TillPage(checkout))!;
        Assert.NotEqual(with, without);
        // The first page is paid: it asked for both, so both are had.
        await house.Till.Pay(with, DemoTill.Approves);
        var id = (await house.Return(checkout))!.MemberId!.Value;
        Assert.Equal([1800, 900], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal(2, (await house.Holdings(id)).Count);
        // The second as well: that money goes back by itself, once, however often it is told of.
        await house.Till.Pay(without, DemoTill.Approves);
        var session = without.Split('/')[^1];
        var result = await house.Get<IPaymentGateway, SessionResult?>(s => s.Result(session, default));
        for (var i = 0; i < 3; i++) Assert.True(await house.Get<CompleteCheckout, bool>(s => s.ByCallback(result!, default)));
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal([1800, 900, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal(1800, (await house.Payments(id)).Sum(p => p.RefundedMinor));
        await Balances(house);
    }

    /// <summary>A page of the payment service is paid whose order doesn't wait for it any more, and told of twice.</summary>
    static async Task PayLate(House house, string page)
    {
        await house.Till.Pay(page, DemoTill.Approves);
        var result = await house.Get<IPaymentGateway, SessionResult?>(s => s.Result(page.Split('/')[^1], default));
        for (var i = 0; i < 2; i++) Assert.True(await house.Get<CompleteCheckout, bool>(s => s.ByCallback(result!, default)));
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
    }

    // The card's page stood open in another window while the transfer was on its way; once the order is of a tier, once of a voucher, whose buyer holds
    // nothing.
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task What_a_card_pays_after_the_transfer_was_noted_goes_back(bool voucher)
    {
        await using var house = await House.Open();
        await Ways(house);
        var (_, pass) = await Pass(house, "First Winter", "18.00");
        await Words(house, pass, w => w with { AsVoucher = true });
        var (checkout, _, _) = await Begin(house, voucher ? pass : house.Monthly, voucher: voucher ? new("", "", null, null) : null);
        var page = (await house.TillPage(checkout))!;
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        Assert.True((await Confirm(house, checkout)).Ok);
        await PayLate(house, page);
        var order = await Order(house, checkout);
        var payments = await house.Payments(order.MemberId!.Value);
        Assert.Equal([(PayWay.Transfer, 1800L, 0L), (PayWay.Card, 1800L, 1800L)], payments.Select(p => (p.Way, p.Amount.Minor, p.RefundedMinor)));
        Assert.Equal(order.HoldingId, payments[1].HoldingId);
        // What the transfer paid for stays.
        if (!voucher) Assert.Equal(HoldingState.Active, Assert.Single(await house.Holdings(order.MemberId.Value)).StateAt(house.Clock.Moment));
        else Assert.False(Assert.Single(await house.Get<Vouchers, IReadOnlyList<Voucher>>(s => s.Of(order.MemberId.Value, null, default))).IsOver);
        Assert.NotNull(await house.Get<PaymentList, PaymentFile?>(s => s.Load(payments[1].Id, default)));
        Assert.NotNull(await house.Get<FindReceipt, Receipt?>(s => s.Do(payments[1].Id, default)));
        Assert.Empty(await house.Ask(db => db.PaymentsToLookAt.ToListAsync()));
        await Balances(house);
    }

    // Signed out, nobody told them that they have it as a gift: what they paid goes back by itself.
    [Fact]
    public async Task What_is_paid_for_a_gift_goes_back()
    {
        await using var house = await House.Open();
        var id = (await house.Get<AddMember, Result<MemberId>>(s => s.Do(house.Owner, "Otto Sand", House.NewAddress(), default))).Value;
        Assert.True((await house.Get<GivePlan, Result>(s => s.Do(house.Owner, id, new(house.Keeper, HoldingSource.Gift), default))).Ok);
        var (checkout, _, _) = await Begin(house, house.Monthly, email: (await house.Member(id)).Email);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        Assert.NotNull((await house.Return(checkout))!.RefusedBecause);
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal((1800L, 1800L), (await house.Payments(id)).Select(p => (p.Amount.Minor, p.RefundedMinor)).Single());
        Assert.Empty(await house.Ask(db => db.PaymentsToLookAt.ToListAsync()));
        await Balances(house);
    }

    // Open at once, its extra is noted in cash, and then the card's page is paid: 27.00, of which 9.00 goes back.
    [Fact]
    public async Task Of_an_open_order_a_part_of_which_was_noted_only_the_rest_is_kept()
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: true);
        var (pass, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        await Tick(house, checkout, secret, true);
        var page = (await house.TillPage(checkout))!;
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Elsewhere, default))).Ok);
        var id = (await Order(house, checkout)).MemberId!.Value;
        var noted = (await house.Holdings(id)).Single(h => h.PlanId == pass).Id;
        Assert.True((await house.Get<ReceiveMoney, Result>(s => s.Note(house.Owner, id, noted, PayWay.Elsewhere, null, 900, null, default))).Ok);
        var refused = await Confirm(house, checkout);
        Assert.Contains("A part of it was paid otherwise", refused.Refusal, StringComparison.Ordinal);
        await PayLate(house, page);
        Assert.Equal([(900L, 0L), (1800L, 0L), (900L, 900L)], (await house.Payments(id)).Select(p => (p.Amount.Minor, p.RefundedMinor)));
        Assert.All(await house.Holdings(id), h => Assert.Equal(HoldingState.Active, h.StateAt(house.Clock.Moment)));
        await Balances(house);
    }

    [Fact]
    public async Task A_bank_that_takes_an_order_back_takes_each_part_of_it()
    {
        await using var house = await House.Open();
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        await Tick(house, checkout, secret, true);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var id = (await house.Return(checkout))!.MemberId!.Value;
        var charge = (await house.Payments(id))[0].ChargeRef;
        await house.Do<NoteChargeback>(s => s.Do(charge, new(2700, new("GBP")), default));
        await house.Do<NoteChargeback>(s => s.Do(charge, new(2700, new("GBP")), default));
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.All(await house.Payments(id), p => Assert.Equal(PaymentState.ChargedBack, p.State));
        Assert.All(await house.Holdings(id), h => Assert.Equal(HoldingState.Over, h.StateAt(house.Clock.Moment)));
        Assert.Equal(2, await house.Ask(db => db.PaymentsToLookAt.CountAsync(p => p.Concern == PaymentConcern.Dispute)));
        Assert.Equal(0, await house.LedgerSum());
    }

    [Fact]
    public async Task Terms_are_agreed_to_in_the_version_that_was_read()
    {
        await using var house = await House.Open();
        var page = (await house.Get<SitePages, Result<long>>(s => s.Make(house.Owner, SitePageKind.Free, null, null, default))).Value;
        Block[] Text(string words) => [new Block.Text($"<p>{words}</p>") { Id = house.Services.GetRequiredService<Ids>().Next<BlockId>() }];
        Assert.Equal(2, (await house.Get<SitePages, Result<int>>(s => s.Save(house.Owner, page,
            new("Terms of sale", "terms", "", null, Text("First words"), true, 1),
            default))).Value);
        var set = await house.Get<MoneySettings, MoneyDraft>(s => Task.FromResult(s.AsSet));
        Assert.True((await house.Get<MoneySettings, Result>(s => s.Save(house.Owner, set with { Terms = page }, default))).Ok);
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        Assert.Equal(2, (await Review(house, checkout, secret)).Terms!.Version);
        Assert.False((await house.Get<ChooseOrder, Result>(s => s.Agree(checkout, false, 2, default))).Ok);
        Assert.False((await house.Get<ChooseOrder, Result>(s => s.Agree(checkout, true, 1, default))).Ok);
        Assert.Null((await Order(house, checkout)).TermsVersion);
        Assert.True((await house.Get<ChooseOrder, Result>(s => s.Agree(checkout, true, 2, default))).Ok);
        // Changed afterwards, what was agreed to stays as it was.
        await house.Get<SitePages, Result<int>>(s => s.Save(house.Owner, page, new("Terms of sale", "terms", "", null, Text("Other words"), true, 2), default));
        Assert.False((await house.Get<ChooseOrder, Result>(s => s.Agree(checkout, true, 2, default))).Ok);
        var file = (await house.Get<FindOrder, OrderFile?>(s => s.Do(checkout, null, default)))!;
        Assert.Contains("First words", ((Block.Text)file.Terms!.Sections[0]).Html, StringComparison.Ordinal);
        Assert.Equal(2, file.Terms.Version);
        // A page that isn't public any more is nothing to agree to.
        await house.Get<SitePages, Result<int>>(s => s.Save(house.Owner, page, new("Terms of sale", "terms", "", null, Text("Other words"), false, 3),
            default));
        Assert.True((await house.Get<ChooseOrder, Result>(s => s.Agree(checkout, false, null, default))).Ok);
    }

    [Fact]
    public async Task What_is_ordered_by_transfer_opens_when_its_money_is_noted()
    {
        await using var house = await House.Open();
        await Ways(house);
        var email = House.NewAddress();
        var order = await Place(house, house.Monthly, email: email);
        Assert.Equal(CheckoutState.Placed, order.State);
        Assert.Equal(CreditorReference.For(order.Id), order.Reference);
        Assert.Equal(new LocalDate(2026, 12, 8), house.Now.Calendar.Date(order.OpenUntil!.Value));
        var id = order.MemberId!.Value;
        Assert.Empty(await house.Holdings(id));
        Assert.Equal(Standing.Guest, (await house.Member(id)).Standing);
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("How to pay", StringComparison.Ordinal));
        await house.Days(3);
        Assert.False((await Confirm(house, order.Id, new LocalDate(2026, 11, 28))).Ok);
        Assert.True((await Confirm(house, order.Id, new LocalDate(2026, 11, 26))).Ok);
        Assert.False((await Confirm(house, order.Id)).Ok);
        var holding = Assert.Single(await house.Holdings(id));
        Assert.Equal(house.Clock.Moment, holding.StartsAt);
        Assert.Equal(PayWay.Transfer, holding.Way);
        Assert.Equal(HoldingState.Active, holding.StateAt(house.Clock.Moment));
        var paid = Assert.Single(await house.Payments(id));
        Assert.Equal((PayWay.Transfer, 1800L, "transfer, 26 Nov 2026"), (paid.Way, paid.Amount.Minor, paid.CardLabel));
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("Receipt", StringComparison.Ordinal));
        await Balances(house);
        // It is in no list of what waits, and nothing is reminded of any more.
        Assert.Empty((await house.Get<OrderList, OrderPage>(s => s.Page(OrderShown.Waiting, null, 1, default))).Rows);
        await house.Days(15);
        Assert.DoesNotContain(await House.Post(email), s => s.Contains("Not here yet", StringComparison.Ordinal));
    }

    [Fact]
    public async Task An_order_is_reminded_of_half_way_and_given_up_at_its_end_and_late_money_is_not_lost()
    {
        await using var house = await House.Open();
        await Ways(house);
        var email = House.NewAddress();
        var order = await Place(house, house.Monthly, email: email);
        await house.To(order.PlacedAt!.Value + (order.OpenUntil!.Value - order.PlacedAt.Value) / 2 - Duration.FromMinutes(1));
        Assert.Null((await Order(house, order.Id)).RemindedAt);
        await house.To(house.Clock.Moment + Duration.FromMinutes(2));
        Assert.NotNull((await Order(house, order.Id)).RemindedAt);
        await house.To(order.OpenUntil.Value - Duration.FromMinutes(1));
        Assert.Equal(CheckoutState.Placed, (await Order(house, order.Id)).State);
        await house.To(order.OpenUntil.Value);
        Assert.Equal(CheckoutState.Expired, (await Order(house, order.Id)).State);
        await house.Deliver();
        var post = await House.Post(email);
        Assert.Equal(1, post.Count(s => s.Contains("Not here yet", StringComparison.Ordinal)));
        Assert.Equal(1, post.Count(s => s.Contains("given up", StringComparison.Ordinal)));
        await house.Days(3);
        Assert.True((await Confirm(house, order.Id)).Ok);
        Assert.Equal(house.Clock.Moment, Assert.Single(await house.Holdings(order.MemberId!.Value)).StartsAt);
        await Balances(house);
    }

    [Fact]
    public async Task Open_at_once_it_is_in_grace_until_the_money_is_there()
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: true);
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        await Tick(house, checkout, secret, true);
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Elsewhere, default))).Ok);
        var order = await Order(house, checkout);
        var id = order.MemberId!.Value;
        Assert.All(await house.Holdings(id), h => Assert.Equal(HoldingState.Grace, h.StateAt(house.Clock.Moment)));
        Assert.Equal(2, (await house.Holdings(id)).Count);
        Assert.True((await house.FactsOf(id)).HoldsAnything);
        var began = house.Clock.Moment;
        await house.Days(5);
        Assert.True((await Confirm(house, order.Id)).Ok);
        Assert.All(await house.Holdings(id), h => Assert.Equal(HoldingState.Active, h.StateAt(house.Clock.Moment)));
        // Paid is what was ordered: from the first day on.
        Assert.All(await house.Payments(id), p => Assert.Equal(began, p.PeriodFrom));
        Assert.Equal([1800, 900], (await house.Payments(id)).Select(p => p.Amount.Minor));
        await Balances(house);
        // Another's doesn't come: it lapses with the order.
        var other = await Place(house, house.Monthly);
        await house.To(other.OpenUntil!.Value + Duration.FromMinutes(5));
        Assert.Equal(HoldingState.Over, Assert.Single(await house.Holdings(other.MemberId!.Value)).StateAt(house.Clock.Moment));
        Assert.Equal(CheckoutState.Expired, (await Order(house, other.Id)).State);
        // And comes after all: it begins anew.
        Assert.True((await Confirm(house, other.Id)).Ok);
        Assert.Equal(HoldingState.Active, (await house.Holdings(other.MemberId!.Value))[^1].StateAt(house.Clock.Moment));
        await Balances(house);
    }

    [Fact]
    public async Task What_is_called_off_ends_and_its_coupon_is_free_again()
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: true);
        await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, null, new("ONE", null, OffKind.Percent, "10", LastsKind.Once, Limit: 1), default));
        var (checkout, _, _) = await Begin(house, house.Monthly, coupon: "one");
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        var order = await Order(house, checkout);
        Assert.Equal(1620, order.AskedMinor);
        // Kept as long as the order waits, so longer than a day.
        await house.Days(3);
        var (second, _, _) = await Begin(house, house.Monthly);
        Assert.False((await house.Get<UseCoupon, Result>(s => s.Type(second, "ONE", default))).Ok);
        Assert.False((await house.Get<ReceiveMoney, Result>(s => s.CallOff(null, order.Id, new MemberId(7), default))).Ok);
        Assert.True((await house.Get<ReceiveMoney, Result>(s => s.CallOff(null, order.Id, order.MemberId, default))).Ok);
        Assert.False((await house.Get<ReceiveMoney, Result>(s => s.CallOff(null, order.Id, order.MemberId, default))).Ok);
        Assert.Equal(Core.Events.EndReason.CalledOff, Assert.Single(await house.Holdings(order.MemberId!.Value)).Ending!.Reason);
        Assert.True((await house.Get<UseCoupon, Result>(s => s.Type(second, "ONE", default))).Ok);
        Assert.Empty(await house.Payments(order.MemberId!.Value));
        await house.Days(20);
        Assert.Equal(CheckoutState.CalledOff, (await Order(house, order.Id)).State);
    }

    // Joined on 24 November by transfer: the next month is asked for on 14 December, ten days before, and is paid on the 20th.
    [Fact]
    public async Task A_renewal_by_transfer_is_asked_for_ahead_and_goes_on_when_it_is_paid()
    {
        await using var house = await House.Open();
        await Ways(house);
        var email = House.NewAddress();
        var order = await Place(house, house.Monthly, email: email);
        await Confirm(house, order.Id);
        var id = order.MemberId!.Value;
        Task<Checkout?> Wanted() => house.Ask(db => db.Checkouts.AsNoTracking().OrderBy(c => c.Id)
            .LastOrDefaultAsync(c => c.MemberId == id && c.PriceId == null));
        await house.To(house.Now.Calendar.At(new(2026, 12, 14, 10, 41)));
        Assert.Null(await Wanted());
        await house.To(house.Now.Calendar.At(new(2026, 12, 14, 10, 43)));
        var wanted = (await Wanted())!;
        Assert.Equal((CheckoutState.Placed, 1800L, 1), (wanted.State, wanted.AskedMinor!.Value, wanted.Turn));
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("£18.00 by 24 December 2026", StringComparison.Ordinal));
        await house.To(house.Now.Calendar.At(new(2026, 12, 20, 12, 0)));
        Assert.True((await Confirm(house, wanted.Id)).Ok);
        Assert.False((await Confirm(house, wanted.Id)).Ok);
        var holding = (await house.Holdings(id))[0];
        Assert.Equal(new LocalDate(2027, 1, 24), house.Now.Calendar.Date(holding.PaidThrough(house.Clock.Moment)!.Value));
        await house.To(house.Now.Calendar.At(new(2026, 12, 26, 12, 0)));
        Assert.Equal(HoldingState.Active, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        // The one after it isn't paid: grace from the 24th on, for as long as money may take, then it lapses.
        await house.To(house.Now.Calendar.At(new(2027, 1, 25, 12, 0)));
        Assert.Equal(HoldingState.Grace, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        await house.To(house.Now.Calendar.At(new(2027, 2, 8, 12, 0)));
        Assert.Equal(HoldingState.Over, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        Assert.Equal(2, (await house.Payments(id)).Count);
        Assert.Equal(CheckoutState.Expired, (await Wanted())!.State);
        Assert.Equal(0, await house.LedgerSum());
    }

    [Fact]
    public async Task A_card_that_is_put_in_takes_the_place_of_a_transfer_that_is_asked_for()
    {
        await using var house = await House.Open();
        await Ways(house);
        var order = await Place(house, house.Monthly);
        await Confirm(house, order.Id);
        var id = order.MemberId!.Value;
        await house.To(house.Now.Calendar.At(new(2026, 12, 15, 12, 0)));
        var wanted = await house.Ask(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.MemberId == id && c.PriceId == null));
        long checkout = 0;
        var page = await house.Get<GoToTill, Result<string>>(s => s.Card(id, c => "http://site.example/back/" + (checkout = c), default));
        await house.Till.Pay(page.Value!, DemoTill.Approves);
        await house.Return(checkout);
        Assert.Equal(CheckoutState.CalledOff, (await Order(house, wanted.Id)).State);
        await house.To(house.Now.Calendar.At(new(2026, 12, 25, 12, 0)));
        Assert.Equal([PayWay.Transfer, PayWay.Card], (await house.Payments(id)).Select(p => p.Way));
        Assert.False((await Confirm(house, wanted.Id)).Ok);
        await Balances(house);
    }

    [Fact]
    public async Task Cash_is_noted_for_what_is_asked_next()
    {
        await using var house = await House.Open();
        await Ways(house);
        var id = await house.Join(house.Monthly);
        var holding = (await house.Holdings(id))[0];
        Task<Result> Note(long minor, PayWay way = PayWay.Elsewhere, LocalDate? day = null) =>
            house.Get<ReceiveMoney, Result>(s => s.Note(house.Owner, id, holding.Id, way, day, minor, "cash at the fair", default));
        Assert.False((await Note(1700)).Ok);
        Assert.False((await Note(1800, PayWay.Card)).Ok);
        Assert.False((await Note(1800, day: new LocalDate(2026, 11, 25))).Ok);
        Assert.True((await Note(1800)).Ok);
        var noted = (await house.Payments(id))[1];
        Assert.Equal(("cash at the fair, 24 Nov", PayWay.Elsewhere, 1), (noted.CardLabel, noted.Way, noted.Turn));
        // The card isn't asked for what was paid in cash, and is for the next.
        await house.To(house.Now.Calendar.At(new(2026, 12, 25, 12, 0)));
        Assert.Equal(2, (await house.Payments(id)).Count);
        await house.To(house.Now.Calendar.At(new(2027, 1, 25, 12, 0)));
        Assert.Equal([PayWay.Card, PayWay.Elsewhere, PayWay.Card], (await house.Payments(id)).Select(p => p.Way));
        // It goes back by hand: written down without asking the payment service.
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, noted.Id, noted.Amount, false, "", default))).Ok);
        Assert.Equal(1800, (await house.Payments(id))[1].RefundedMinor);
        await Balances(house);
    }

    [Fact]
    public async Task The_bank_s_list_pays_what_fits_by_reference_and_amount_and_guesses_nothing()
    {
        await using var house = await House.Open();
        await Ways(house);
        var (a, b, c) = (await Place(house, house.Monthly), await Place(house, house.Monthly), await Place(house, house.Monthly));
        await Confirm(house, c.Id);
        var csv = $"""
            Date;Text;Amount
            2026-11-25;"Transfer {CreditorReference.Show(a.Reference!)} M. Duarte";18.00
            2026-11-25;{b.Reference};17.50
            2026-11-25;{c.Reference};18.00
            2026-11-25;Rent;-400.00
            2026-11-25;Hello there;18.00
            2026-11-26;{a.Reference} again;18.00
            2026-11-26;{a.Reference} {b.Reference};36.00
            """;
        var lines = (await house.Get<BankLines, Result<IReadOnlyList<BankLine>>>(s => s.Read(csv, default))).Value!;
        Assert.Equal([BankMatch.Fits, BankMatch.OtherAmount, BankMatch.NotWaiting, BankMatch.None, BankMatch.NotWaiting, BankMatch.Several],
            lines.Select(l => l.Match));
        Assert.Equal([2, 3, 4, 6, 7, 8], lines.Select(l => l.Number));
        Assert.Equal((a.Id, new LocalDate(2026, 11, 25), 1800L), (lines[0].Order!.Id, lines[0].Day, lines[0].Amount!.Value.Minor));
        // A balance is no money that came; without a heading which is which can't be told. What went out is said in a column of its own, or by its sign.
        async Task<BankLine[]> Lines(params string[] list) => [.. (await house.Get<BankLines, Result<IReadOnlyList<BankLine>>>(s =>
            s.Read(string.Join('\n', list), default))).Value!];
        Assert.Equal(BankMatch.Fits, (await Lines("Date,Text,Amount,Balance", $"2026-11-25,{a.Reference},18.00,118.00")).Single().Match);
        Assert.Equal(BankMatch.OtherAmount, (await Lines("Date,Text,Amount,Balance", $"2026-11-25,{a.Reference},17.00,18.00")).Single().Match);
        Assert.Equal(BankMatch.OtherAmount, (await Lines("Datum;Text;Betrag;Saldo", $"2026-11-25;{a.Reference};17.00;18.00")).Single().Match);
        Assert.Equal(BankMatch.Fits, (await Lines("Date,Text,Debit amount,Credit amount", $"2026-11-25,{a.Reference},,18.00")).Single().Match);
        Assert.Equal(BankMatch.Unclear, (await Lines("Date,Text,Debit amount,Credit amount", $"2026-11-25,{a.Reference},18.00,")).Single().Match);
        Assert.Equal(BankMatch.Unclear, (await Lines($"2026-11-25,{a.Reference},18.00,118.00")).Single().Match);
        Assert.Equal(BankMatch.Unclear, (await Lines("Date,Text,Amount", $"2026-11-25,{a.Reference},-18.00")).Single().Match);
        Assert.Equal(BankMatch.Fits, (await Lines("Day,Words,Sum,Left", $"2026-11-25,{a.Reference},18.00,18.00")).Single().Match);
        Assert.Empty(await Lines("2026-11-25,Jars,-86.20,1098.90", "2026-11-26,Nothing,0.00"));
        foreach (var bad in new[] { null, "", "   ", "\uFEFF", new string('x', BankLines.MostLetters + 1) })
            Assert.False((await house.Get<BankLines, Result<IReadOnlyList<BankLine>>>(s => s.Read(bad, default))).Ok);
        Assert.Empty((await house.Get<BankLines, Result<IReadOnlyList<BankLine>>>(s => s.Read("Date,Text\n2026-11-25,Nothing", default))).Value!);
    }

    [Fact]
    public async Task Twenty_who_note_the_same_money_at_once_note_it_once()
    {
        await using var house = await House.Open();
        await Ways(house);
        var order = await Place(house, house.Monthly);
        var done = await Task.WhenAll(Enumerable.Range(0, 20).Select(_ => Confirm(house, order.Id)));
        Assert.Equal(1, done.Count(d => d.Ok));
        Assert.Single(await house.Payments(order.MemberId!.Value));
        Assert.Single(await house.Holdings(order.MemberId!.Value));
        await Balances(house);
    }

    [Fact]
    public async Task Twenty_windows_that_order_at_once_order_it_once()
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: true);
        var (checkout, _, _) = await Begin(house, house.Monthly);
        var done = await Task.WhenAll(Enumerable.Range(0, 20).Select(_ => house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))));
        Assert.All(done, d => Assert.True(d.Ok, d.Refusal));
        var order = await Order(house, checkout);
        Assert.Single(await house.Holdings(order.MemberId!.Value));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.Kind == "order-placed")));
    }

    // Open at once and paid by card after all: the order waits for nothing more, and isn't paid a second time.
    [Fact]
    public async Task An_order_that_is_paid_otherwise_is_done()
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: true);
        foreach (var byCard in new[] { true, false })
        {
            var order = await Place(house, house.Monthly);
            var id = order.MemberId!.Value;
            if (byCard)
            {
                long checkout = 0;
                var page = await house.Get<GoToTill, Result<string>>(s => s.Card(id, c => "http://site.example/back/" + (checkout = c), default));
                await house.Till.Pay(page.Value!, DemoTill.Approves);
                await house.Return(checkout);
            }
            else
                Assert.True((await house.Get<ReceiveMoney, Result>(s => s.Note(house.Owner, id, order.HoldingId!.Value, PayWay.Elsewhere, null, 1800, null,
                    default))).Ok);
            Assert.Equal(CheckoutState.Completed, (await Order(house, order.Id)).State);
            Assert.False((await Confirm(house, order.Id)).Ok);
            Assert.Single(await house.Payments(id));
            Assert.Equal(HoldingState.Active, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        }
        await Balances(house);
    }

    [Fact]
    public async Task What_they_hold_already_can_not_be_paid_by_a_transfer_a_second_time()
    {
        await using var house = await House.Open();
        await Ways(house);
        var email = House.NewAddress();
        var order = await Place(house, house.Monthly, email: email);
        var id = await house.Join(house.Monthly, email: email);
        var refused = await Confirm(house, order.Id);
        Assert.False(refused.Ok);
        Assert.Contains("holds Keeper already", refused.Refusal, StringComparison.Ordinal);
        Assert.Single(await house.Payments(id));
        Assert.Equal(CheckoutState.Placed, (await Order(house, order.Id)).State);
        Assert.True((await house.Get<ReceiveMoney, Result>(s => s.CallOff(house.Owner, order.Id, null, default))).Ok);
        Assert.Equal(HoldingState.Active, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
    }

    // Signed out they ordered both by transfer, and bought the pass meanwhile: 9.00 would be paid for nothing.
    [Fact]
    public async Task An_order_by_transfer_of_which_they_hold_a_part_is_not_carried_out()
    {
        await using var house = await House.Open();
        await Ways(house);
        var (_, extra) = await Pass(house, "First Winter", "9.00");
        await Words(house, house.Monthly, w => w with { ExtraPrice = extra.Value });
        var (checkout, secret, email) = await Begin(house, house.Monthly);
        await Tick(house, checkout, secret, true);
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        var id = await house.Join(extra, email: email);
        var refused = await Confirm(house, checkout);
        Assert.Contains("holds First Winter already, which is a part of it", refused.Refusal, StringComparison.Ordinal);
        Assert.Equal([900], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal(CheckoutState.Placed, (await Order(house, checkout)).State);
    }

    [Fact]
    public async Task A_price_can_do_without_a_way_and_a_way_that_is_gone_is_refused()
    {
        await using var house = await House.Open();
        await Ways(house);
        await Words(house, house.Monthly, w => w with { NotBy = [PayWay.Transfer] });
        var (checkout, secret, _) = await Begin(house, house.Monthly);
        Assert.Equal([PayWay.Card, PayWay.Elsewhere], (await Review(house, checkout, secret)).Ways.Select(w => w.Way));
        Assert.False((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        Assert.False((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Card, default))).Ok);
        var all = PriceWords.Of(house.Now.PriceById[house.Monthly]) with { NotBy = [PayWay.Card, PayWay.Transfer, PayWay.Elsewhere] };
        Assert.False((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, all, default))).Ok);
        // What is free asks for no way at all.
        var (free, key, _) = await Begin(house, house.Free);
        Assert.Empty((await Review(house, free, key)).Ways);
        // A free trial by transfer begins at once; its first payment is asked for like any other.
        var (trial, _, _) = await Begin(house, house.Trial);
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(trial, PayWay.Transfer, default))).Ok);
        var began = await Order(house, trial);
        Assert.Equal(CheckoutState.Completed, began.State);
        Assert.Equal(HoldingState.Trial, (await house.Holdings(began.MemberId!.Value))[0].StateAt(house.Clock.Moment));
        await house.Days(8);
        Assert.Equal(HoldingState.Grace, (await house.Holdings(began.MemberId!.Value))[0].StateAt(house.Clock.Moment));
        Assert.Single(await house.Ask(db => db.Checkouts.Where(c => c.MemberId == began.MemberId && c.PriceId == null).ToListAsync()));
    }

    [Fact]
    public async Task A_way_can_be_of_some_countries()
    {
        await using var house = await House.Open();
        Task<Result> Save(string card, string transfer) => house.Get<MoneySettings, Result>(s => s.Save(house.Owner, new([
            new(PayWay.Card, true, "Card", "", 0, false, card), new(PayWay.Transfer, true, "Bank transfer", "Account 12345678", 14, false, transfer)],
            PayWay.Card, 0, OwnerLetterWhen.Never, OwnerLetterWhen.Never, OwnerLetterWhen.Never), default));
        Assert.Equal("CountriesTransfer", (await Save("", "Ireland, Atlantis")).Field);
        Assert.True((await Save("", "")).Ok);
        var (everywhere, open, _) = await Begin(house, house.Monthly);
        Assert.False((await Review(house, everywhere, open)).AsksCountry);
        Assert.True((await Save("", "Ireland, gb")).Ok);
        Assert.Equal("Ireland, United Kingdom", (await house.Get<MoneySettings, MoneyDraft>(s => Task.FromResult(s.AsSet))).Ways[1].Countries);

        var (checkout, secret, email) = await Begin(house, house.Monthly);
        async Task<PayWay[]> Where(string? country)
        {
            await house.Do<ChooseOrder>(async s => await s.Country(await Review(house, checkout, secret), country, default));
            var review = await Review(house, checkout, secret);
            Assert.True(review.AsksCountry);
            return [.. review.Ways.Select(w => w.Way)];
        }
        Assert.Equal([PayWay.Card], await Where(null));
        Assert.Equal([PayWay.Card], await Where("FR"));
        Assert.False((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        Assert.Equal([PayWay.Card, PayWay.Transfer], await Where("ie"));
        Assert.Equal([PayWay.Card], await Where("Atlantis"));
        Assert.True((await Save("France", "Ireland")).Ok);
        Assert.Empty(await Where("DE"));
        Assert.Equal([PayWay.Transfer], await Where("IE"));
        Assert.Equal("Way", (await house.Get<GoToTill, Result<string>>(s => s.Join(checkout, "http://site.example/back", default))).Field);
        Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, PayWay.Transfer, default))).Ok);
        Assert.Equal("IE", (await Order(house, checkout)).Country);
        // Who is known isn't asked a second time; what is free asks nobody.
        var member = (await Order(house, checkout)).MemberId;
        var (second, key, _) = await Begin(house, (await Pass(house, "First Winter", "9.00")).Price, member);
        Assert.Equal("IE", (await Review(house, second, key)).Checkout.Country);
        var (free, freeKey, _) = await Begin(house, house.Free);
        Assert.False((await Review(house, free, freeKey)).AsksCountry);
    }

    // Everybody has a way through, by card, by transfer and open at once: who is new, known but signed out, signed in, holding another tier, lapsed; and who
    // holds it is told so before paying where they are known, and gets their money back (or isn't charged) where they weren't.
    [Theory]
    [InlineData(PayWay.Card)]
    [InlineData(PayWay.Transfer)]
    [InlineData(PayWay.Elsewhere)]
    public async Task Everybody_has_a_way_through(PayWay way)
    {
        await using var house = await House.Open();
        await Ways(house, atOnce: way == PayWay.Elsewhere);
        var apiary = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Apiary", 3, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())]), default))).Value;
        var other = (await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, apiary, Draft(PriceKind.Recurring, "39"), default))).Value;

        async Task<Checkout> Buy(string email, MemberId? member)
        {
            var (checkout, _, _) = await Begin(house, house.Monthly, member, email);
            if (way == PayWay.Card)
            {
                await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
                await house.Return(checkout);
            }
            else
            {
                Assert.True((await house.Get<PlaceOrder, Result>(s => s.Do(checkout, way, default))).Ok);
                if ((await Order(house, checkout)).State == CheckoutState.Placed) Assert.True((await Confirm(house, checkout)).Ok);
            }
            return await Order(house, checkout);
        }
        async Task<string> EmailOf(MemberId id) => (await house.Member(id)).Email;
        async Task Holds(Checkout order, int ended = 0)
        {
            Assert.Null(order.RefusedBecause);
            var holdings = await house.Holdings(order.MemberId!.Value);
            Assert.Equal((house.Keeper, way), (holdings.Single(h => h.Id == order.HoldingId).PlanId, holdings.Single(h => h.Id == order.HoldingId).Way));
            Assert.Equal(HoldingState.Active, holdings.Single(h => h.Id == order.HoldingId).StateAt(house.Clock.Moment));
            Assert.Equal(ended, holdings.Count(h => h.Id != order.HoldingId));
        }
        async Task<MemberId> Lapsed()
        {
            var id = await house.Join(house.Monthly);
            var held = (await house.Holdings(id))[0];
            Assert.True((await house.Get<EndPlan, Result>(s => s.Do(house.Owner, id, held.Id, default))).Ok);
            return id;
        }

        await Holds(await Buy(House.NewAddress(), null));
        var lapsed = await Lapsed();
        await Holds(await Buy(await EmailOf(lapsed), null), ended: 1);
        var again = await Lapsed();
        await Holds(await Buy(await EmailOf(again), again), ended: 1);
        foreach (var signedIn in new[] { true, false })
        {
            var holder = await house.Join(other);
            await Holds(await Buy(await EmailOf(holder), signedIn ? holder : null), ended: 1);
        }
        // Who holds it: signed in they hear it at once; signed out nothing tells the address, and nothing is kept of their money.
        var has = await house.Join(house.Monthly);
        Assert.IsType<JoinStart.Refused>(await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[house.Monthly], null, null, has, default)));
        var refused = await Buy(await EmailOf(has), null);
        Assert.NotNull(refused.RefusedBecause);
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal(1800, (await house.Payments(has)).Sum(p => p.Amount.Minor - p.RefundedMinor));
        Assert.Single(await house.Holdings(has));
        await Balances(house);
    }

    [Fact]
    public async Task A_price_that_is_closed_meanwhile_is_still_had_by_whoever_was_on_the_way()
    {
        await using var house = await House.Open();
        await Ways(house);
        var (byCard, _, _) = await Begin(house, house.Monthly);
        var page = (await house.TillPage(byCard))!;
        var placed = await Place(house, house.Monthly);
        await Words(house, house.Monthly, w => w with { Availability = Availability.Closed });
        await house.Till.Pay(page, DemoTill.Approves);
        Assert.Equal(HoldingState.Active, (await house.Holdings((await house.Return(byCard))!.MemberId!.Value))[0].StateAt(house.Clock.Moment));
        Assert.True((await Confirm(house, placed.Id)).Ok);
        Assert.IsType<JoinStart.Refused>(await house.Get<BeginJoin, JoinStart>(s =>
            s.Do(house.Now.PriceById[house.Monthly], "Mirela Duarte", House.NewAddress(), null,
            default)));
        Assert.Equal([(PayWay.Card, 1), (PayWay.Transfer, 1)], (await house.Get<PaymentList, PaymentPage>(s => s.Page(new(), 1, default))).Rows
            .GroupBy(r => r.Payment.Way).OrderBy(g => g.Key).Select(g => (g.Key, g.Count())));
        Assert.Single((await house.Get<PaymentList, PaymentPage>(s => s.Page(new(Way: PayWay.Transfer), 1, default))).Rows);
        var day = house.Now.Calendar.Date(house.Clock.Moment);
        Assert.Equal(["Bank transfer", "Card"], (await house.Get<Insight.Sales, Insight.SalesView>(s => s.Of(day, day, default))).ByWay.Select(l => l.Name)
            .Order(StringComparer.Ordinal));
        await Balances(house);
    }

    // 69.00 for a year of First Winter, given on 24 November, sent on 1 December and used on the 5th: open until 5 December 2027.
    [Fact]
    public async Task A_voucher_goes_to_whom_it_is_for_and_counts_from_when_it_is_used()
    {
        await using var house = await House.Open();
        var (pass, price) = await Pass(house, "First Winter", "69.00", AccessKind.For);
        var wish = new VoucherWish("Odo Quill", "For the long nights", $"{Guid.NewGuid():N}@post.example", new LocalDate(2026, 12, 1));
        Assert.IsType<JoinStart.Refused>(await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[price], "Mirela Duarte", House.NewAddress(), null,
            default, voucher: wish)));
        await Words(house, price, w => w with { AsVoucher = true });
        foreach (var bad in new[] { wish with { Email = "no address" }, wish with { Name = "" }, wish with { On = new LocalDate(2026, 11, 23) },
            wish with { On = new LocalDate(2027, 11, 25) }, wish with { Words = new string('x', 601) }, wish with { Name = new string('x', 121) } })
            Assert.IsType<JoinStart.Refused>(await house.Get<BeginJoin,
                JoinStart>(s => s.Do(house.Now.PriceById[price], "Mirela Duarte", House.NewAddress(), null,
                default, voucher: bad)));
        var (checkout, _, email) = await Begin(house, price, voucher: wish);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var buyer = (await house.Return(checkout))!.MemberId!.Value;
        Assert.Empty(await house.Holdings(buyer));
        Assert.Equal(Standing.Guest, (await house.Member(buyer)).Standing);
        var paid = Assert.Single(await house.Payments(buyer));
        Assert.Null(paid.HoldingId);
        Assert.Equal(6900, paid.Amount.Minor);
        Assert.NotNull(await house.Get<FindReceipt, Receipt?>(s => s.Do(paid.Id, default)));
        Assert.NotNull(await house.Get<PaymentList, PaymentFile?>(s => s.Load(paid.Id, default)));
        var voucher = Assert.Single(await house.Get<Vouchers, IReadOnlyList<Voucher>>(s => s.Of(buyer, null, default)));
        Assert.Empty(await house.Get<Vouchers, IReadOnlyList<Voucher>>(s => s.Of(new MemberId(7), null, default)));
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("Your voucher", StringComparison.Ordinal));
        Assert.Empty(await House.Post(wish.Email!));
        await house.To(house.Now.Calendar.At(new(2026, 12, 1, 8, 1)));
        await house.Deliver();
        Assert.Contains("/key/" + voucher.Key.Code, (await House.Letter(wish.Email!, "gives you First Winter")).GetProperty("text").GetString(),
            StringComparison.Ordinal);
        await house.To(house.Now.Calendar.At(new(2026, 12, 5, 12, 0)));
        var friend = await house.Join(house.Free);
        Assert.True((await house.Get<KeyLinks, Result>(s => s.Use(voucher.Key, friend, default))).Ok);
        var got = (await house.Holdings(friend)).Single(h => h.PlanId == pass);
        Assert.Equal(new LocalDate(2027, 12, 6), house.Now.Calendar.Date(got.Timeline.PaidThrough!.Value));
        Assert.False((await house.Get<KeyLinks, Result>(s => s.Use(voucher.Key, buyer, default))).Ok);
        // Used, its money can go back all the same; what it opened is the team's to end.
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, paid.Id, paid.Amount, true, "", default))).Ok);
        Assert.Equal(HoldingState.Active, (await house.Holdings(friend)).Single(h => h.PlanId == pass).StateAt(house.Clock.Moment));
        await Balances(house);
    }

    [Fact]
    public async Task A_voucher_whose_money_went_back_is_not_good_any_more()
    {
        await using var house = await House.Open();
        await Ways(house);
        var (_, price) = await Pass(house, "First Winter", "69.00");
        await Words(house, price, w => w with { AsVoucher = true });
        // By transfer it is made when the money is there.
        var order = await Place(house, price, voucher: new("", "", null, null));
        var buyer = order.MemberId!.Value;
        Assert.Empty(await house.Get<Vouchers, IReadOnlyList<Voucher>>(s => s.Of(buyer, null, default)));
        Assert.True((await Confirm(house, order.Id)).Ok);
        var voucher = Assert.Single(await house.Get<Vouchers, IReadOnlyList<Voucher>>(s => s.Of(buyer, null, default)));
        // Whoever has it may buy others, and hold it too.
        Assert.NotEqual(0, (await Place(house, price, member: buyer, voucher: new("", "", null, null))).Id);
        var paid = Assert.Single(await house.Payments(buyer));
        Assert.False((await house.Get<RefundPayment, Result>(s => s.ToCredit(house.Owner, paid.Id, paid.Amount, "", default))).Ok);
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, paid.Id, paid.Amount, true, "", default))).Ok);
        var friend = await house.Join(house.Free);
        var key = (await house.Get<KeyLinks, KeyLink?>(s => s.ByCode(voucher.Key.Code, default)))!;
        Assert.NotNull(key.RevokedAt);
        Assert.False((await house.Get<KeyLinks, Result>(s => s.Use(key, friend, default))).Ok);
    }

    [Fact]
    public async Task Who_went_away_finds_their_choice_for_thirty_days_and_nobody_else_does()
    {
        await using var house = await House.Open();
        var (checkout, secret, email) = await Begin(house, house.Monthly);
        Task<HalfWay?> Before(string? s) => house.Get<RememberedOrder, HalfWay?>(r => r.Find(s, default));
        Assert.Equal(checkout, (await Before(secret))!.Checkout.Id);
        Assert.Null(await Before(null));
        Assert.Null(await Before(new string('a', 64)));
        async Task<int> HalfWay() => (await house.Get<OrderList, OrderPage>(s => s.Page(OrderShown.HalfWay, null, 1, default))).Count;
        Assert.Equal(1, await HalfWay());
        await house.To(house.Clock.Moment + CheckoutSecret.Lasts - Duration.FromMinutes(1));
        Assert.NotNull(await Before(secret));
        await house.To(house.Clock.Moment + Duration.FromMinutes(1));
        Assert.Null(await Before(secret));
        await house.Days(2);
        Assert.Empty(await house.Ask(db => db.Checkouts.ToListAsync()));
        // Forgotten on purpose, it is gone at once; gone through with, it isn't half-way.
        var (second, key, _) = await Begin(house, house.Monthly, email: email);
        await house.Do<RememberedOrder>(r => r.Forget(key, default));
        Assert.False(await house.Ask(db => db.Checkouts.AnyAsync(c => c.Id == second)));
        var (third, _, _) = await Begin(house, house.Free, email: email);
        await Begin(house, house.Free, email: email);
        Assert.Equal(1, await HalfWay());
        await house.Get<CompleteCheckout, Result>(s => s.Free(third, default));
        Assert.Equal(0, await HalfWay());
        await Begin(house, house.Monthly);
        await house.Join(house.Monthly);
        Assert.Equal(1, await HalfWay());
    }

    [Fact]
    public async Task The_owner_is_told_at_once_or_in_the_morning_or_not_at_all()
    {
        await using var house = await House.Open();
        var owner = await house.Ask(db => db.Users.Where(u => u.Role == TeamRole.Owner).Select(u => u.Email!).SingleAsync());
        async Task<string[]> Told()
        {
            await house.Services.GetRequiredService<RunDue>().Run();
            await house.Deliver();
            return [.. await House.Post(owner)];
        }
        await house.Join(house.Monthly);
        Assert.Empty(await Told());
        await Ways(house, sale: OwnerLetterWhen.AtOnce);
        await house.Join(house.Monthly);
        Assert.Equal(1, (await Told()).Count(s => s.Contains("joined Keeper", StringComparison.Ordinal)));
        await Ways(house, sale: OwnerLetterWhen.Daily);
        await house.Join(house.Monthly);
        await house.Join(house.Free);
        Assert.Single(await Told());
        await house.To(house.Now.Calendar.At(new(2026, 11, 25, 8, 1)));
        Assert.Equal(1, (await Told()).Count(s => s.Contains("24 November: 3 things", StringComparison.Ordinal)));
        // A morning after a day without anything brings nothing.
        await house.To(house.Now.Calendar.At(new(2026, 11, 27, 8, 1)));
        Assert.Equal(2, (await Told()).Length);
        await house.Join(house.Monthly);
        await house.To(house.Now.Calendar.At(new(2026, 11, 28, 8, 1)));
        Assert.Equal(3, (await Told()).Length);
    }
}
