using BrightCircle.App.Billing;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>Money in the demo: a coupon in autumn, prices that can be paused, and members who change, pause and pay in parts.</summary>
public sealed partial class SeedDemo
{
    void PlanMoney(CancellationToken ct)
    {
        At(Calendar.At(new(2026, 9, 14, 9, 30)), async () =>
        {
            await Do<Coupons>(async s => MustBe(await s.Save(owner, null,
                new("HEATHER", "For the stall at the autumn show", OffKind.Percent, "10", LastsKind.Payments, 3,
                [plans["Keeper"].Value], Until: new(2026, 12, 31), LimitEach: 1, OnlyNewcomers: true), ct)));
            await Do<Coupons>(async s => MustBe(await s.Save(owner, null,
                new("BACK-AGAIN", "For those who left in summer", OffKind.Amount, "9.00", LastsKind.Once,
                Limit: 20, Until: new(2026, 10, 31)), ct)));
            foreach (var (key, name, button, text, pause, lit) in new[]
            {
                ("Keeper month", "Monthly", "Become a keeper", "", 60, false),
                ("Keeper year", "Yearly", "Keep for a year", "Twelve months for the price of ten.", 60, true),
                ("Apiary month", "Monthly, after a week to look", "Try Apiary", "", 30, false),
            })
                await Do<EditPrice>(async s => MustBe(await s.Words(owner, prices[key], new(name, button, Text: text, IsHighlighted: lit, PauseDays: pause,
                    PauseYear: 90), ct)));
        });
        At(Calendar.At(new(2026, 9, 14, 9, 40)), () => Do<Settings.SetUpSite>(async s =>
        {
            var site = catalogue.Now.Site!;
            MustBe(await s.Change(owner, new(site.Name, site.Tagline, site.About, null, null, site.HelpAddress, site.Colour, OffersOnLeaving: true), null, ct));
        }));
        var joined = new Dictionary<string, MemberId>();
        void Joins(string name, string email, string price, LocalDateTime when, string? coupon = null, string card = DemoTill.Approves) =>
            At(Calendar.At(when), async () => joined[name] = await Join(name, email, prices[price], card, null, ct, coupon));
        Joins("Odile Farnham", "odile.farnham@post.example", "Keeper month", new(2026, 9, 19, 11, 5), "HEATHER");
        Joins("Bram Tollen", "bram.tollen@post.example", "Keeper month", new(2026, 10, 3, 18, 20), "HEATHER");
        Joins("Sunniva Craik", "sunniva.craik@post.example", "Keeper month", new(2026, 10, 8, 20, 45));
        Joins("Jory Pellam", "jory.pellam@post.example", "Apiary month", new(2026, 9, 28, 19, 10));
        Joins("Lorcan Heddle", "lorcan.heddle@post.example", "Keeper year", new(2026, 3, 12, 9, 15));
        Joins("Maud Ashdene", "maud.ashdene@post.example", "Keeper month", new(2026, 10, 20, 12, 0));
        // From month to year, with what wasn't used credited; from year to month at once, with a balance; down at the end; a pause.
        At(Calendar.At(new(2026, 11, 2, 19, 30)), () => Changes(joined["Sunniva Craik"], "Keeper year", null, ct));
        At(Calendar.At(new(2026, 11, 9, 8, 40)), () => Changes(joined["Lorcan Heddle"], "Keeper month", ChangeWhen.AtOnce, ct));
        At(Calendar.At(new(2026, 11, 16, 21, 15)), () => Changes(joined["Jory Pellam"], "Keeper month", null, ct));
        At(Calendar.At(new(2026, 11, 12, 17, 50)), () => With(joined["Maud Ashdene"], async (holdings, s) =>
            MustBe(await s.GetRequiredService<PausePlan>().Do(joined["Maud Ashdene"], holdings.First(h => h.IsPaidFor).Id, new(2026, 12, 20), null, ct)), ct));
        // Other ways to pay, what buyers agree to, something offered beside, vouchers.
        At(Calendar.At(new(2026, 11, 23, 20, 40)), () => Do<Settings.MoneySettings>(async s =>
            MustBe(await s.Save(owner, s.AsSet with { Terms = catalogue.Now.Pages.First(p => p.Slug == "terms").Id }, ct))));
        At(Calendar.At(new(2026, 11, 1, 10, 5)), async () =>
        {
            await Do<Settings.MoneySettings>(async s => MustBe(await s.Save(owner, new([new(PayWay.Card, true, "Card", "", 0, false),
                new(PayWay.Transfer, true, "Bank transfer", "To Tansy Lane, account 00000000, sort code 00-00-00.", 14, false),
                new(PayWay.Elsewhere, true, "At the stall, in cash", "At the Saturday market, by the honey. Say the reference or your name.", 10, true)],
                PayWay.Card, 0, OwnerLetterWhen.Daily, OwnerLetterWhen.Never, OwnerLetterWhen.AtOnce), ct)));
            async Task Words(string key, Func<PriceWords, PriceWords> change) => await Do<EditPrice>(async s =>
                MustBe(await s.Words(owner, prices[key], change(PriceWords.Of(catalogue.Now.PriceById[prices[key]])), ct)));
            await Words("Keeper month", w => w with
            {
                ExtraPrice = prices["First Winter once"].Value,
                ExtraWords = "A course for the first winter, yours for good. Keepers who begin in autumn like it beside the editions."
            });
            await Words("First Winter once", w => w with { AsVoucher = true });
        });
        void Orders(string name, string email, string price, PayWay way, LocalDateTime when, int confirmedAfterDays = 0, VoucherWish? voucher = null)
        {
            long checkout = 0;
            At(Calendar.At(when), async () =>
            {
                await Do<BeginJoin>(async s => checkout = await s.Do(catalogue.Now.PriceById[prices[price]], name, email, null, ct, voucher: voucher)
                    is JoinStart.Begun begun ? begun.Checkout : throw new InvalidOperationException($"The demo’s {name} was refused."));
                if (ReviewJoin.TermsOf(catalogue.Now) is { } terms) await Do<ChooseOrder>(async s => MustBe(await s.Agree(checkout, true, terms.Version, ct)));
                if (way != PayWay.Card) await Do<PlaceOrder>(async s => MustBe(await s.Do(checkout, way, ct)));
                else await PayFor(checkout, DemoTill.Approves, ct);
            });
            if (confirmedAfterDays > 0) At(Calendar.PlusDays(Calendar.At(when), confirmedAfterDays),
                () => Do<ReceiveMoney>(async s => MustBe(await s.Confirm(owner, checkout, null, ct))));
        }
        Orders("Perpetua Wick", "perpetua.wick@post.example", "Keeper year", PayWay.Transfer, new(2026, 11, 6, 9, 40), 4);
        Orders("Caspian Rudd", "caspian.rudd@post.example", "Keeper month", PayWay.Transfer, new(2026, 11, 8, 20, 5), 1);
        Orders("Isaura Flint", "isaura.flint@post.example", "Keeper year", PayWay.Transfer, new(2026, 11, 15, 14, 12));
        Orders("Benedict Loam", "benedict.loam@post.example", "First Winter once", PayWay.Elsewhere, new(2026, 11, 24, 8, 30));
        Orders("Georgina Pell", "georgina.pell@post.example", "First Winter once", PayWay.Card, new(2026, 11, 18, 19, 25),
            voucher: new("Uncle Piers", "For the two hives behind the shed. Happy birthday!", "piers.pell@post.example", new LocalDate(2026, 12, 6)));
        At(Calendar.At(new(2026, 11, 22, 21, 50)), () => Do<BeginJoin>(async s => await s.Do(catalogue.Now.PriceById[prices["Keeper month"]], "Rosalind Tarn",
            "rosalind.tarn@post.example", null, ct, mayRemind: true)));
        // A bank takes a payment back, and can be answered.
        Joins("Ambrose Teal", "ambrose.teal@post.example", "Keeper month", new(2026, 11, 5, 8, 15));
        At(Calendar.At(new(2026, 11, 19, 13, 20)), () => With(joined["Ambrose Teal"], async (_, s) =>
        {
            var db = s.GetRequiredService<BrightContext>();
            var payment = db.Payments.First(p => p.MemberId == joined["Ambrose Teal"]);
            var dispute = await till.TakeBack(payment.ChargeRef);
            await s.GetRequiredService<NoteChargeback>().Do(payment.ChargeRef, payment.Amount, ct, new(dispute, "the cardholder doesn’t know this charge", 10));
        }, ct));
        // An instalment that fails, and waits to be paid.
        At(Calendar.At(new(2026, 10, 25, 10, 30)), async () =>
            joined["Wilf Sarrow"] = await Join("Wilf Sarrow", "wilf.sarrow@post.example", prices["First Winter parts"], DemoTill.FailsLater, null, ct));
    }

    Task Changes(MemberId member, string price, ChangeWhen? when, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        var change = s.GetRequiredService<ChangePlan>();
        var held = holdings.Last(h => h.IsPaidFor && catalogue.Now.PlanById[h.PlanId].IsTier
            && h.StateAt(clock.Moment) is HoldingState.Active or HoldingState.Trial);
        var look = MustBe(await change.Look(member,
            Buyer.Of(await s.GetRequiredService<BrightContext>().Members.FindAsync([member], ct)
                ?? throw new InvalidOperationException("Nobody of that number."), holdings), held.Id, prices[price], when, ct));
        MustBe(await change.Do(member, held.Id, prices[price], look.Change.When, look.Change.First.Amount.Minor, ct));
    }, ct);
}
