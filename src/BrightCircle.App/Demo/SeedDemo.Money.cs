using BrightCircle.App.Billing;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
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
        // An instalment that fails, and waits to be paid.
        At(Calendar.At(new(2026, 10, 25, 10, 30)), async () =>
            joined["Wilf Sarrow"] = await Join("Wilf Sarrow", "wilf.sarrow@post.example", prices["First Winter parts"], DemoTill.FailsLater, null, ct));
    }

    Task Changes(MemberId member, string price, ChangeWhen? when, CancellationToken ct) => With(member, async (holdings, s) =>
    {
        var change = s.GetRequiredService<ChangePlan>();
        var held = holdings.Last(h => h.IsPaidFor && catalogue.Now.PlanById[h.PlanId].IsTier
            && h.StateAt(clock.Now) is HoldingState.Active or HoldingState.Trial);
        var look = MustBe(await change.Look(member, holdings, held.Id, prices[price], when, ct));
        MustBe(await change.Do(member, held.Id, prices[price], look.Change.When, look.Change.First.Amount.Minor, ct));
    }, ct);
}
