using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Billing;

/// <summary>When a change takes place.</summary>
public enum ChangeWhen { AtOnce, AtPeriodEnd }

/// <summary>Whether what is changed to is more or less than what is held.</summary>
public enum ChangeKind
{
    /// <summary>A higher tier; or of the same one a longer period, paid ahead.</summary>
    Up,
    /// <summary>A lower tier; or of the same one a shorter period.</summary>
    Down,
    /// <summary>From a pass to a tier that covers it.</summary>
    PassToTier,
}

/// <summary>Why a change isn't possible.</summary>
public enum ChangeRefusal { NotHeld, SomethingOpen, Given, SamePrice, NothingToPay, NotComparable, NoPaidEnd, OtherCurrency, ForAGroup }

/// <summary>
/// A change of price or plan in the middle, worked out: the credit for what isn't used, what is charged, and what is left over. What is shown before is
/// this, and what is charged is this.
/// </summary>
/// <param name="At">When the new one begins, UTC.</param>
/// <param name="Unused">Calendar days that are paid and not used, the day of the change among them.</param>
/// <param name="Days">Calendar days of the paid stretch.</param>
/// <param name="UnusedWorth">The credit for the unused days.</param>
/// <param name="Brought">What was to the credit of the old one already, and goes over.</param>
/// <param name="Agreement">The new agreement.</param>
/// <param name="First">Its first charge, with the credit it uses.</param>
/// <param name="Left">The credit that is left after it, for the next ones.</param>
public sealed record PlanChange(ChangeKind Kind, ChangeWhen When, Instant At, int Unused, int Days, Money UnusedWorth, Money Brought, Agreement Agreement,
    Charge First, Money Left)
{
    /// <summary>All the credit that goes over.</summary>
    public Money Credit => UnusedWorth + Brought;

    /// <summary>
    /// Works a change out. At once: the unused calendar days of the paid stretch, the day of the change among them, are credited (worth × unused ÷ days,
    /// rounded once, half away from zero), and the new one begins now. At the period's end: nothing is credited, and it begins when the paid time ends.
    /// </summary>
    /// <param name="holding">What is held, as it is known.</param>
    /// <param name="terms">What it is changed to.</param>
    /// <param name="when">Null for the usual: up at once, down at the period's end.</param>
    /// <param name="givenBack">What of the payment for the running stretch went back already.</param>
    public static PlanChange Of(Holding holding, Plan plan, Plan to, PriceTerms terms, ChangeWhen? when, Instant moment, Money? givenBack = null)
    {
        var kind = KindOf(holding, plan, to, terms) ?? throw new InvalidOperationException("There is no way from the one to the other.");
        var chosen = when ?? (kind == ChangeKind.Down ? ChangeWhen.AtPeriodEnd : ChangeWhen.AtOnce);
        var t = holding.TimelineAsOf(moment);
        var currency = terms.Headline!.Value.Currency;
        var none = Money.Zero(currency);
        var brought = t.Balance is { Minor: > 0 } has && has.Currency == currency ? has : none;
        var at = chosen == ChangeWhen.AtOnce ? moment : t.PaidThrough ?? moment;
        var (unused, days, worth) = chosen == ChangeWhen.AtOnce ? UnusedOf(holding, t, moment, givenBack) : (0, 0, none);
        var agreement = new Agreement(terms.ForAChange(), false, at, holding.Agreement.ZoneId);
        var first = agreement.First!.Using(worth + brought);
        return new(kind, chosen, at, unused, days, worth, brought, agreement, first, worth + brought - first.CreditUsed);
    }

    /// <summary>Why there is no way to it now; null where there is.</summary>
    public static ChangeRefusal? Refuses(Holding holding, Plan plan, Plan to, Price price, Instant moment)
    {
        if (!holding.IsPaidFor) return ChangeRefusal.Given;
        var owes = Obligations.Of(holding, moment);
        switch (owes.State)
        {
            case HoldingState.Over or HoldingState.NotYet or HoldingState.Paused:
                return ChangeRefusal.NotHeld;
            case HoldingState.Grace or HoldingState.Closed:
                return ChangeRefusal.SomethingOpen;
            case HoldingState.Active or HoldingState.Trial or HoldingState.Ending:
                break;
        }
        if (owes.Open is not null || owes.DueAt(moment) is not null) return ChangeRefusal.SomethingOpen;
        if (holding.PriceId == price.Id) return ChangeRefusal.SamePrice;
        // Its seats hang on it, and would end with it.
        if (holding.Seats is not null) return ChangeRefusal.ForAGroup;
        if (price.Terms.Headline is not { } amount) return ChangeRefusal.NothingToPay;
        if (holding.Agreement.Terms.Headline is { } old && old.Currency != amount.Currency) return ChangeRefusal.OtherCurrency;
        if (KindOf(holding, plan, to, price.Terms) is null) return ChangeRefusal.NotComparable;
        return holding.PaidThrough(moment) is null ? ChangeRefusal.NoPaidEnd : null;
    }

    /// <summary>Up, down or from a pass to a tier; null where the one isn't changed for the other: both simply stand side by side.</summary>
    public static ChangeKind? KindOf(Holding holding, Plan plan, Plan to, PriceTerms terms)
    {
        if (terms is PriceTerms.Free || !to.IsTier) return null;
        // Instalments are owed, whatever is held beside them.
        if (!plan.IsTier) return holding.Agreement.IsInstalments ? null : ChangeKind.PassToTier;
        if (!holding.Agreement.Renews) return null;
        if (to.Id != plan.Id) return to.Rank > plan.Rank ? ChangeKind.Up : ChangeKind.Down;
        return (terms.Interval, holding.Agreement.Terms.Interval) is ({ } @new, { } old) && Length(@new) < Length(old) ? ChangeKind.Down : ChangeKind.Up;
    }

    /// <summary>About how many days a period has, to tell the longer from the shorter.</summary>
    static double Length(Period every) => every.Count * every.Unit switch
    {
        PeriodUnit.Days => 1,
        PeriodUnit.Weeks => 7,
        PeriodUnit.Months => 365.2425 / 12,
        PeriodUnit.Years => 365.2425,
        _ => throw new InvalidOperationException($"No such unit: {every.Unit}"),
    };

    /// <summary>What of the running paid stretch isn't used at a moment.</summary>
    static (int Unused, int Days, Money Worth) UnusedOf(Holding holding, Timeline t, Instant moment, Money? givenBack)
    {
        var calendar = holding.Agreement.Calendar;
        var none = Money.Zero(holding.Agreement.Terms.Headline!.Value.Currency);
        var agreement = Obligations.AgreementAt(holding, moment);
        HoldingFact? running = null;
        foreach (var f in t.Paid)
            if (f.From <= moment) running = f;
        // What has no end is never used up, and nothing of it is left over.
        if (running is not { To: { } end } || end <= moment || running.Kind == HoldingFactKind.Given
            || agreement.At(running.From) is not { } charge) return (0, 0, none);
        // A pause moved the end, not the number of days that were paid for.
        var days = calendar.DaysBetween(running.From, end) - t.Pauses.Where(p => running.From <= p.From && p.From < end)
            .Sum(p => calendar.DaysBetween(p.From, p.To));
        var unused = Math.Min(calendar.DaysBetween(moment, end), days);
        var worth = charge.Worth - (givenBack ?? none);
        return worth.Minor <= 0 || days <= 0 ? (unused, days, none) : (unused, days, worth.Times(unused, days));
    }

    /// <summary>
    /// Puts the change into the facts of both: the old one gives way, the new one takes its credit along. What the first charge pays for is added by
    /// whoever records the charge.
    /// </summary>
    /// <param name="new">The holding that was made for <see cref="Agreement"/>, without facts.</param>
    /// <param name="moment">When it was decided, UTC.</param>
    /// <returns>The facts that were added, of either.</returns>
    public IEnumerable<HoldingFact> Carry(Holding old, Holding @new, Instant moment)
    {
        if (When == ChangeWhen.AtPeriodEnd)
        {
            yield return old.Leaving(moment, At, EndReason.Replaced);
            yield return @new.Planned(moment);
        }
        else yield return old.Ended(moment, EndReason.Replaced);
        if (!Brought.IsZero) yield return old.Credit(moment, -Brought);
        if (!Credit.IsZero) yield return @new.Credit(moment, Credit);
    }
}

public static class ChangeRefusals
{
    /// <summary>As the member reads it.</summary>
    public static string Words(this ChangeRefusal refusal) => refusal switch
    {
        ChangeRefusal.NotHeld => "It isn’t running just now, so it can’t be changed.",
        ChangeRefusal.SomethingOpen => "A payment is open. Once it is paid, you can change.",
        ChangeRefusal.Given => "It wasn’t bought, so there is nothing to change. You can join the other one beside it.",
        ChangeRefusal.SamePrice => "That is what you have.",
        ChangeRefusal.NothingToPay => "A free one is joined, not changed to. Leave this one, and join it then.",
        ChangeRefusal.NotComparable => "The two stand side by side: one isn’t changed for the other.",
        ChangeRefusal.NoPaidEnd => "It is paid for good, so nothing of it is left to credit.",
        ChangeRefusal.OtherCurrency => "It is in another currency.",
        ChangeRefusal.ForAGroup => "It is for a group, whose seats would end with it. Write to us, and we’ll see.",
    };
}
