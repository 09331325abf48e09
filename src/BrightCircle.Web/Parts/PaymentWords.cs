using BrightCircle.App.Catalogues;
using BrightCircle.Core.Offer;

namespace BrightCircle.Web.Parts;

/// <summary>What a payment is for, as a table of payments says it.</summary>
public static class PaymentWords
{
    /// <summary>"trial, 7 days", "2 of 3", "1st payment".</summary>
    public static string For(this Charge charge, PriceTerms terms)
    {
        var what = charge.Purpose switch
        {
            PaymentPurpose.Trial => $"trial, {terms.TrialOrNull!.Length}",
            PaymentPurpose.Once => "once",
            PaymentPurpose.Recurring => $"{Ordinal(charge.Number)} payment",
            PaymentPurpose.Instalment => $"{charge.Number} of {terms.Times}",
            PaymentPurpose.Rest => "all that is left",
        };
        return what + (charge.Of(ChargeLineKind.JoiningFee).IsZero ? "" : ", with the fee for joining")
            + (charge.Of(ChargeLineKind.Coupon).IsZero ? "" : ", less the coupon") + (charge.CreditUsed.IsZero ? "" : ", less your credit");
    }

    /// <summary>A line of a charge in words.</summary>
    public static string Words(this ChargeLine line, string plan, Agreement? agreement = null) => line.Kind switch
    {
        ChargeLineKind.Plan => plan,
        ChargeLineKind.Trial => $"{plan}, on trial",
        ChargeLineKind.JoiningFee => "For joining",
        ChargeLineKind.Coupon => agreement?.Coupon is { } coupon ? $"Coupon {coupon.Code}" : "Coupon",
        ChargeLineKind.Credit => "Paid with credit",
    };

    static string Ordinal(int n) => n + (n % 100 is 11 or 12 or 13 ? "th" : (n % 10) switch { 1 => "st", 2 => "nd", 3 => "rd", _ => "th" });

    /// <summary>Until when it is open, below a schedule that ends.</summary>
    public static string Ends(this PaymentSchedule s, Plan plan, CatalogueSnapshot now) =>
        s.AccessEnds is { } ends ? $"open until {now.Calendar.Date(ends).ToString("d MMMM uuuu", now.Culture)}"
        : PromiseWords.Lasts(plan.Promise) is { } length ? $"open for {length}" : "open for good";
}
