using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class AccountModel(OwnAccount account, StayWithPlan stay, ChangePlan change, OwnSettings own, SignOutEverywhere everywhere) : MemberPage
{
    public override string Place => "account";
    OwnMoney Own { get; set; } = new([], null, [], [], "");
    public IReadOnlyList<Payment> Payments => Own.Payments;
    public string? CardLabel => Own.CardLabel;
    public IReadOnlyList<Checkout> Waiting => Own.Waiting;
    /// <summary>Something they hold will ask their card again.</summary>
    public bool CardIsAsked => Current.Any(h => h.Way == PayWay.Card && Owes(h).Next is not null);
    public string BillingAddress => Own.BillingAddress;
    public IReadOnlyList<KeyLink> Vouchers => Own.Vouchers;
    /// <summary>The request for what a holding asks for, by another way than the card; null for none.</summary>
    public Checkout? RequestFor(Holding h) => Waiting.FirstOrDefault(w => w.HoldingId == h.Id);
    /// <summary>Orders whose things aren't open yet.</summary>
    public IEnumerable<Checkout> Orders => Waiting.Where(w => w.HoldingId is null);
    public string WayName(PayWay way) => Now.WayName(way);
    IReadOnlyList<Holding> Holdings => Visitor.Person!.Holdings;
    /// <summary>What they hold, or will from a later day on.</summary>
    public IReadOnlyList<Holding> Current => [.. Holdings.Where(h => h.StateAt(Moment) != HoldingState.Over)];
    /// <summary>What they held before, the latest first.</summary>
    /// <remarks>What only goes on at another price isn't over.</remarks>
    public IReadOnlyList<Holding> Ended => [.. Holdings.Where(h => h.StateAt(Moment) == HoldingState.Over && h.Ending?.Reason != Core.Events.EndReason.TakenBack
        && !Holdings.Any(x => x.Continues == h.Id && x.StateAt(Moment) != HoldingState.NotYet)).OrderByDescending(EndOf)];

    /// <summary>Since when they have it, at whichever price.</summary>
    public NodaTime.Instant SinceOf(Holding h) => h.Continues is { } before && Holdings.FirstOrDefault(x => x.Id == before) is { } earlier ? SinceOf(earlier)
        : h.StartsAt;
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
        Standing.Paused => "Your membership is paused.",
        Standing.Lapsed => Current.Any(h => h.StateAt(Moment) == HoldingState.Closed) ? "An instalment is open; it is closed until that is paid."
            : "Your membership has ended.",
        Standing.Guest => Current.Count > 0 ? "What you bought is yours; you aren’t a member of any tier." : "You have an account and hold nothing yet.",
    };

    public string Sentence(Holding h)
    {
        var owes = Owes(h);
        switch (owes.State)
        {
            case HoldingState.Grace when RequestFor(h) is { } wanted:
                return $"We wait for your {Money(wanted.Asked!.Value)}, {WayName(h.Way).ToLower(Now.Culture)}, reference "
                    + $"{CreditorReference.Show(wanted.Reference!)}. It stays open until {FullDay(owes.GraceUntil!.Value)}.";
            case HoldingState.Grace:
                return $"The last payment didn’t go through. It stays open until {FullDay(owes.GraceUntil!.Value)}; paying before then keeps everything as "
                    + $"it was.";
            case HoldingState.Ending:
                return $"Open until {FullDay(owes.AccessEnds!.Value)}; nothing more is charged. {PromiseWords.AfterLeaving(Now.PlanById[h.PlanId])}";
        }
        if (owes.State == HoldingState.Paused)
            return $"Paused until {FullDay(owes.PausedUntil!.Value)}. Nothing is charged until then; the next payment is {Money(owes.Next!.Amount)} on "
                + $"{FullDay(owes.Next.DueAt)}.";
        if (owes.State == HoldingState.Closed)
            return $"The instalment of {Money(owes.Next!.Amount)} from {FullDay(owes.Next.DueAt)} didn’t go through, so it is closed. It opens "
                + $"again at once when "
                + $"it is paid{(owes.AccessEnds is { } stays ? $"; its end stays {FullDay(stays)}" : "")}.";
        if (h.IsPaidFor && PlannedAfter(h) is { } planned)
            return $"Open until {FullDay(planned.StartsAt)}; then {Now.PlanName(planned.PlanId)}, "
                + $"{Say.Price(planned.Agreement.Terms, Now.Culture)}, takes its place.";
        if (h.IsPaidFor && owes.State == HoldingState.NotYet)
            return $"It begins on {FullDay(h.StartsAt)}, with a payment of {Money(owes.Next!.Amount)}.";
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
                HoldingSource.Routine => "A gift",
                HoldingSource.Bought => throw new InvalidOperationException("What was bought wasn’t given."),
            };
            return owes.AccessEnds is { } until ? $"{way},{from} open until {LastDayOf(until)}." : $"{way},{from} for good.";
        }
        if (owes.Next is { Purpose: PaymentPurpose.Instalment } part)
            return $"{(owes.State == HoldingState.Trial ? "On trial. " : "")}Payment {part.For(h.Agreement.Terms)} is {Money(part.Amount)} on "
                + $"{FullDay(part.DueAt)}. "
                + (h.Agreement.AccessEnds is { } last ? $"It is open until {FullDay(last)}." : "After the last one it is yours for good.");
        if (owes.Next is { Amount.IsZero: true } covered)
            return $"On {FullDay(covered.DueAt)} there is nothing to pay{(covered.CreditUsed.IsZero ? "" : ": your credit covers it")}; it is "
                + $"{Say.Price(h.Agreement.Terms, Now.Culture)}.";
        if (owes.Next is { } next)
            return (owes.State == HoldingState.Trial ? "On trial. " : "")
                + $"The next payment is {Money(next.Amount)} on {FullDay(next.DueAt)}, and again every {h.Agreement.Terms.Interval!.Value.AfterEvery()}.";
        if (h.Agreement.IsFree) return owes.AccessEnds is { } over ? $"Free, open until {FullDay(over)}." : "Free.";
        if (owes.AccessEnds is { } ends) return $"{(h.Agreement.IsInstalments ? "All paid" : "Paid once")}, open until {FullDay(ends)}.";
        if (h.Agreement.IsInstalments) return "All paid, yours for good.";
        return PromiseWords.Lasts(Now.PlanById[h.PlanId].PromiseOf(h.LivesBy)) is { } length
            ? $"Paid once, open until {FullDay(Now.Calendar.Boundary(h.StartsAt, length, 1))}." : "Paid once, yours for good.";
    }

    /// <summary>What takes the place of something at the end of its paid time; null where nothing is planned.</summary>
    public Holding? PlannedAfter(Holding h) => h.Timeline.Leaving is { Reason: Core.Events.EndReason.Replaced, To: { } to }
        ? Current.FirstOrDefault(x => x.StartsAt == to && x.StateAt(Moment) == HoldingState.NotYet && !x.IsGiven) : null;

    /// <summary>All that is left of instalments, payable at once.</summary>
    public Charge? RestOf(Holding h) => Owes(h).RestOf(Obligations.AgreementAt(h, Moment));

    /// <summary>Why the next payment is what it is: the price, the period, the coupon, the credit.</summary>
    public string WhyNext(Holding h) => Owes(h).Next is not { } next ? "" : string.Join(", ", next.Lines.Select(l =>
        $"{l.Words(Now.PlanName(h.PlanId), h.Agreement)} {Money(l.Amount)}")) + $"; agreed on {FullDay(h.Agreement.Start)}.";

    public bool CanChange(Holding h) => change.WaysFrom(h, Visitor.Buyer, Moment).Any();

    public bool CanPause(Holding h) => Pausing.Refuses(h, Now.Calendar.Date(Moment).PlusDays(1), Now.PriceOf(h)?.Pause, byTeam: false, Moment) is null;

    public async Task<IActionResult> OnPostResume(long holding, [FromServices] PausePlan pause)
    {
        var done = await pause.Resume(Member, new(holding), null, Ct);
        Tell(done.Ok ? "Good. Everything goes on from here." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostTakeBack(long holding)
    {
        var done = await change.TakeBack(Member, new(holding), Ct);
        Tell(done.Ok ? "Everything stays as it was." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostRest(long holding, long shown, [FromServices] PayRest rest)
    {
        var done = await rest.Do(Member, new(holding), shown, Ct);
        Tell(done.Ok ? "All of it is paid. Thank you." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task OnGet()
    {
        if (Visitor.Member is not { } member) return;
        Own = await account.Do(member, 100, Ct);
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

    public async Task<IActionResult> OnPostBilling(string? address)
    {
        var done = await own.SetBillingAddress(Member, address, Ct);
        Tell(done.Ok ? "It stands on your receipts." : done.Refusal!);
        return Redirect("/me/account");
    }

    /// <param name="then">home, where it was asked there.</param>
    public async Task<IActionResult> OnPostZone(string? zone, string? then)
    {
        var done = await own.SetZone(Member, string.IsNullOrEmpty(zone) ? null : zone, Ct);
        Tell(done.Ok ? "Your days begin where you are." : done.Refusal!);
        return Redirect(then == "home" ? "/me" : "/me/account");
    }

    /// <summary>Ends every browser, every link and every feed; whoever pressed it signs in anew.</summary>
    public async Task<IActionResult> OnPostEverywhere([FromServices] SignInManager<Data.Account> signIn)
    {
        await everywhere.Do(Visitor.SignedIn!.AccountId, Ct);
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
