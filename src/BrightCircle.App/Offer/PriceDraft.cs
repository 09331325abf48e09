using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;

namespace BrightCircle.App.Offer;

/// <summary>How a price is paid, as the form has it.</summary>
public enum PriceKind { Free, Once, Recurring }

/// <summary>A price as the form has it: what was typed, not yet understood.</summary>
public sealed record PriceDraft(string? Name, string? Button, PriceKind Kind, string? Amount, int Count, PeriodUnit Unit, bool HasTrial, int TrialCount,
    PeriodUnit TrialUnit, string? TrialAmount)
{
    /// <summary>Understands what was typed.</summary>
    public Result<PriceTerms> Read(CatalogueSnapshot now)
    {
        if (Kind == PriceKind.Free) return new PriceTerms.Free();
        var amount = Amounts.Read(Amount, "Amount", now);
        if (!amount.Ok) return Result.Refused(amount.Refusal!, amount.Field);
        if (amount.Value.IsZero) return Result.Refused("An amount of nothing is a free price: choose “free”.", "Amount");
        if (Kind == PriceKind.Once) return new PriceTerms.OnePayment(amount.Value);
        if (Count is < 1 or > 60) return Result.Refused("Every 1 to 60 days, weeks, months or years.", "Count");
        Trial? trial = null;
        if (HasTrial)
        {
            if (TrialCount is < 1 or > 90) return Result.Refused("A trial lasts 1 to 90 days, weeks or months.", "TrialCount");
            var price = Amounts.Read(string.IsNullOrWhiteSpace(TrialAmount) ? "0" : TrialAmount, "TrialAmount", now);
            if (!price.Ok) return Result.Refused(price.Refusal!, price.Field);
            trial = new(new(TrialCount, TrialUnit), price.Value);
        }
        return new PriceTerms.Recurring(amount.Value, new(Count, Unit), trial);
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
