using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class AccountModel(OwnAccount account, StayWithPlan stay, OwnSettings own, SignOutEverywhere everywhere) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<Payment> Payments { get; private set; } = [];
    public string? CardLabel { get; private set; }
    IReadOnlyList<Holding> Holdings => Visitor.Person!.Holdings;
    /// <summary>What they hold, or will from a later day on.</summary>
    public IReadOnlyList<Holding> Current => [.. Holdings.Where(h => h.StateAt(Moment) != HoldingState.Over)];
    /// <summary>What they held before, the latest first.</summary>
    public IReadOnlyList<Holding> Ended => [.. Holdings.Where(h => h.StateAt(Moment) == HoldingState.Over).OrderByDescending(EndOf)];
    public NodaTime.Instant EndOf(Holding h) => h.Timeline.Stretches.First(s => s.State == HoldingState.Over).From;
    /// <summary>What comes along with what they hold.</summary>
    public IReadOnlyList<(Plan Plan, Plan With)> Bonuses => [.. Holdings.Where(h => h.IsHeldAt(Moment)).SelectMany(h => Now.PlanById[h.PlanId]
        .PromiseOf(h.LivesBy).Select(i => i.Covers).OfType<Coverage.WhatAPlanOpens>().Where(c => Now.PlanById.ContainsKey(c.Plan))
        .Select(c => (Now.PlanById[c.Plan], Now.PlanById[h.PlanId]))).Distinct()];
    /// <summary>The tier they held last, where they hold none now.</summary>
    public Holding? Past => Current.Any(h => Now.PlanById[h.PlanId].IsTier) ? null
        : Holdings.LastOrDefault(h => h.StateAt(Moment) == HoldingState.Over && Now.PlanById[h.PlanId].IsTier);
    public Standing Standing => Standings.At(Holdings, Now.Book.Plan, Moment).Standing;

    public Price? ComeBackPrice
    {
        get
        {
            if (Past is not { } past) return null;
            var plan = Now.PlanById[past.PlanId];
            var before = Now.PriceOf(past);
            return before?.Within(plan) == Availability.OnOffer ? before : Now.PricesOnOffer(plan).FirstOrDefault();
        }
    }

    public string PlanOf(Payment p) => Now.PriceById.TryGetValue(p.PriceId, out var price) ? Now.PlanName(price.PlanId) : "";
    public Obligations Owes(Holding h) => Obligations.Of(h, Moment);

    public string StandingSentence => Standing switch
    {
        Standing.Active => "You’re an active member.",
        Standing.Trial => "You’re on trial.",
        Standing.Grace => "A payment is open; everything stays open for now.",
        Standing.Ending => "You’ve left; your paid time still runs.",
        Standing.Lapsed => "Your membership has ended.",
        Standing.Guest => Current.Count > 0 ? "What you bought is yours; you aren’t a member of any tier." : "You have an account and hold nothing yet.",
    };

    public string Sentence(Holding h)
    {
        var owes = Owes(h);
        switch (owes.State)
        {
            case HoldingState.Grace:
                return $"The last payment didn’t go through. It stays open until {FullDay(owes.GraceUntil!.Value)}; paying before then keeps everything as "
                    + $"it was.";
            case HoldingState.Ending:
                return $"Open until {FullDay(owes.AccessEnds!.Value)}; nothing more is charged. {PromiseWords.AfterLeaving(Now.PlanById[h.PlanId])}";
        }
        if (h.IsGiven)
        {
            var from = h.StateAt(Moment) == HoldingState.NotYet ? $" from {FullDay(h.StartsAt)}" : "";
            var way = h.Source switch
            {
                HoldingSource.Gift => "A gift",
                HoldingSource.Key => "Taken with a key link",
                HoldingSource.MovedIn => "Brought along",
                HoldingSource.Arrival => "For everybody here",
                HoldingSource.Seat => "A seat in a group",
                HoldingSource.Bought => throw new InvalidOperationException("What was bought wasn’t given."),
            };
            return owes.AccessEnds is { } until ? $"{way},{from} open until {FullDay(until)}." : $"{way},{from} for good.";
        }
        if (owes.Next is { } next)
            return (owes.State == HoldingState.Trial ? "On trial. " : "")
                + $"The next payment is {Money(next.Amount)} on {FullDay(next.DueAt)}, and again every {h.Agreement.Terms.Interval!.Value.AfterEvery()}.";
        if (h.Agreement.IsFree) return "Free.";
        return PromiseWords.Lasts(Now.PlanById[h.PlanId].PromiseOf(h.LivesBy)) is { } length
            ? $"Paid once, open until {FullDay(Now.Calendar.Boundary(h.StartsAt, length, 1))}." : "Paid once, yours for good.";
    }

    public async Task OnGet()
    {
        if (Visitor.Member is not { } member) return;
        (Payments, CardLabel) = await account.Do(member, 100, Ct);
    }

    public async Task<IActionResult> OnPostStay(long holding)
    {
        var done = await stay.Do(Member, new(holding), Ct);
        Tell(done.Ok ? "Good that you stay. Everything goes on as before." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostConfirm([FromServices] SignInByLink links)
    {
        await links.Request(Visitor.SignedIn!.Email, "/me/account", Ct);
        Tell($"A letter is on its way to {Visitor.SignedIn.Email}. Open the link in it.");
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostNews(bool wants)
    {
        await own.SetWantsNews(Member, wants, Ct);
        Tell(wants ? "We’ll write to you when an edition opens." : "No more edition letters.");
        return Redirect("/me/account");
    }

    /// <summary>The zones of the tz database that are named for a place.</summary>
    public IEnumerable<string> Zones => NodaTime.TimeZones.TzdbDateTimeZoneSource.Default.ZoneLocations!.Select(l => l.ZoneId).Append("UTC").Distinct()
        .Order(StringComparer.Ordinal);

    public async Task<IActionResult> OnPostZone(string? zone)
    {
        var done = await own.SetZone(Member, string.IsNullOrEmpty(zone) ? null : zone, Ct);
        Tell(done.Ok ? "Your days begin where you are." : done.Refusal!);
        return Redirect("/me/account");
    }

    /// <summary>Ends every browser, every link and every feed; whoever pressed it signs in anew.</summary>
    public async Task<IActionResult> OnPostEverywhere([FromServices] SignInManager<Data.Account> signIn)
    {
        await everywhere.Do(Visitor.SignedIn!.AccountId, Ct);
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
