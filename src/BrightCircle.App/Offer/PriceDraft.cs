using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using NodaTime.Text;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.App.Offer;

/// <summary>How a price is paid, as the form has it.</summary>
public enum PriceKind { Free, Once, Instalments, Recurring }

/// <summary>How long a price opens, as the form has it.</summary>
public enum AccessKind { ForGood, For, UntilDay }

/// <summary>A price as the form has it: what was typed, not yet understood.</summary>
public sealed record PriceDraft(string? Name, string? Button, PriceKind Kind, string? Amount, int Count, PeriodUnit Unit, bool HasTrial, int TrialCount,
    PeriodUnit TrialUnit, string? TrialAmount)
{
    /// <summary>Of instalments: how many.</summary>
    public int Times { get; init; } = 3;
    /// <summary>What the first payment costs instead; nothing for the same.</summary>
    public string? First { get; init; }
    public string? JoiningFee { get; init; }
    public bool HasSale { get; init; }
    public string? SaleAmount { get; init; }
    /// <summary>The first day of the sale; nothing for at once.</summary>
    public string? SaleFrom { get; init; }
    /// <summary>The last day of it.</summary>
    public string? SaleUntil { get; init; }
    /// <summary>For all payments, and not the first alone.</summary>
    public bool SaleAll { get; init; }
    public AccessKind Access { get; init; }
    public int AccessCount { get; init; } = 1;
    public PeriodUnit AccessUnit { get; init; } = PeriodUnit.Years;
    public string? AccessUntil { get; init; }
    /// <summary>Seats for others; 0 for none.</summary>
    public int Seats { get; init; }
    /// <summary>The price whose place and link it takes; 0 for none.</summary>
    public long Replaces { get; init; }

    /// <summary>Understands what was typed.</summary>
    public Result<PriceTerms> Read(CatalogueSnapshot now, Instant moment)
    {
        var terms = ReadPayments(now);
        if (!terms.Ok) return terms;
        var access = ReadAccess(now, moment);
        if (!access.Ok) return Result.Refused(access.Refusal!, access.Field);
        if (Seats is < 0 or > Billing.Grant.MostSeats) return Result.Refused($"A group has at most {Billing.Grant.MostSeats} seats.", "Seats");
        var read = terms.Value! with { Access = access.Value, Seats = Seats == 0 ? null : Seats };
        if (Kind == PriceKind.Free) return read;
        if (!string.IsNullOrWhiteSpace(JoiningFee))
        {
            var fee = Amounts.Read(JoiningFee, "JoiningFee", now);
            if (!fee.Ok) return Result.Refused(fee.Refusal!, fee.Field);
            read = read with { JoiningFee = fee.Value.IsZero ? null : fee.Value };
        }
        if (HasSale)
        {
            var sale = ReadSale(read.Headline!.Value, now, moment);
            if (!sale.Ok) return Result.Refused(sale.Refusal!, sale.Field);
            read = read with { Sale = sale.Value };
        }
        // Whoever still pays has it open.
        var agreed = new Agreement(read, true, moment, now.Calendar.Zone.Id);
        if (agreed.IsInstalments && agreed.AccessEnds is { } ends && agreed.Charges().Last().DueAt >= ends)
            return Result.Refused("It would be closed before the last payment. Let it be open for longer, or have fewer payments.", "AccessCount");
        return read;
    }

    Result<PriceTerms> ReadPayments(CatalogueSnapshot now)
    {
        if (Kind == PriceKind.Free) return new PriceTerms.Free();
        var amount = Amounts.Read(Amount, "Amount", now);
        if (!amount.Ok) return Result.Refused(amount.Refusal!, amount.Field);
        if (amount.Value.IsZero) return Result.Refused("An amount of nothing is a free price: choose “free”.", "Amount");
        if (Kind == PriceKind.Once) return new PriceTerms.OnePayment(amount.Value);
        if (Count is < 1 or > 60) return Result.Refused("Every 1 to 60 days, weeks, months or years.", "Count");
        if (Kind == PriceKind.Instalments && Times is < 2 or > 60) return Result.Refused("Instalments are 2 to 60 payments.", "Times");
        Trial? trial = null;
        if (HasTrial)
        {
            if (TrialCount is < 1 or > 90) return Result.Refused("A trial lasts 1 to 90 days, weeks or months.", "TrialCount");
            var price = Amounts.Read(string.IsNullOrWhiteSpace(TrialAmount) ? "0" : TrialAmount, "TrialAmount", now);
            if (!price.Ok) return Result.Refused(price.Refusal!, price.Field);
            trial = new(new(TrialCount, TrialUnit), price.Value);
        }
        Money? first = null;
        if (!string.IsNullOrWhiteSpace(First))
        {
            var read = Amounts.Read(First, "First", now);
            if (!read.Ok) return Result.Refused(read.Refusal!, read.Field);
            if (read.Value.IsZero) return Result.Refused("A first payment of nothing is a trial: choose “begin with a trial”.", "First");
            if (read.Value != amount.Value) first = read.Value;
        }
        return Kind == PriceKind.Instalments ? new PriceTerms.Instalments(amount.Value, Times, new(Count, Unit), trial, first)
            : new PriceTerms.Recurring(amount.Value, new(Count, Unit), trial, first);
    }

    Result<AccessLength?> ReadAccess(CatalogueSnapshot now, Instant moment)
    {
        AccessLength? none = null;
        if (Kind == PriceKind.Recurring || Access == AccessKind.ForGood) return none;
        if (Access == AccessKind.For)
            return AccessCount is < 1 or > 120 ? Result.Refused("Open for 1 to 120 days, weeks, months or years.", "AccessCount")
                : new AccessLength.For(new(AccessCount, AccessUnit));
        if (LocalDatePattern.Iso.Parse(AccessUntil ?? "") is not { Success: true } day) return Result.Refused("Until which day is it open?", "AccessUntil");
        return day.Value <= now.Calendar.Date(moment) || day.Value.Year > 2200 ? Result.Refused("Choose a day that is still to come.", "AccessUntil")
            : new AccessLength.UntilDay(day.Value);
    }

    Result<Sale> ReadSale(Money usual, CatalogueSnapshot now, Instant moment)
    {
        var amount = Amounts.Read(SaleAmount, "SaleAmount", now);
        if (!amount.Ok) return Result.Refused(amount.Refusal!, amount.Field);
        if (amount.Value.IsZero || amount.Value >= usual) return Result.Refused("A sale costs less than usual, and more than nothing.", "SaleAmount");
        var from = moment;
        if (!string.IsNullOrWhiteSpace(SaleFrom))
        {
            if (LocalDatePattern.Iso.Parse(SaleFrom) is not { Success: true } first) return Result.Refused("From which day?", "SaleFrom");
            if (first.Value != now.Calendar.Date(moment)) from = now.Calendar.At(first.Value.AtMidnight());
        }
        if (LocalDatePattern.Iso.Parse(SaleUntil ?? "") is not { Success: true, Value: { Year: < 2200 } last })
            return Result.Refused("A sale has a last day.", "SaleUntil");
        var until = now.Calendar.At(last.PlusDays(1).AtMidnight());
        return until <= from || until <= moment ? Result.Refused("The last day is before the first, or past.", "SaleUntil")
            : new Sale(amount.Value, from, until, SaleAll || Kind == PriceKind.Once);
    }
}

/// <summary>Amounts as people type them.</summary>
public static class Amounts
{
    /// <summary>Reads an amount by the site's culture. What can be read in two ways is asked about, never guessed.</summary>
    public static Result<Money> Read(string? typed, string field, CatalogueSnapshot now)
    {
        string Show(Money m) => m.Major.ToString("N" + m.Currency.Decimals, now.Culture);
        return Money.Read(typed, now.Currency, now.Culture) switch
        {
            AmountRead.Amount a => a.Money,
            AmountRead.Ambiguous two => Result.Refused($"Is that {Show(two.One)} or {Show(two.Other)}? Please write it so.", field),
            AmountRead.TooFine => Result.Refused(now.Currency.Decimals == 0 ? $"{now.Currency} has no decimals."
                : $"{now.Currency} has {now.Currency.Decimals} decimals at most.", field),
            AmountRead.OutOfRange => Result.Refused("Amounts go from 0 to a hundred million.", field),
            AmountRead.NotANumber => Result.Refused($"The amount is a number like {Show(new(18 * now.Currency.MinorPerMajor, now.Currency))}.", field),
            _ => throw new InvalidOperationException("No such reading."),
        };
    }
}
