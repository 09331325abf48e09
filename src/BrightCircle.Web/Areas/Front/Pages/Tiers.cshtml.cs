using BrightCircle.App.House;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A page that shows the tiers with their prices on offer.</summary>
public abstract class TiersPage : BrightPage
{
    public IReadOnlyList<(Plan Plan, IReadOnlyList<Price> Prices)> Tiers =>
        [.. Now.Plans.Select(p => (p, (IReadOnlyList<Price>)[.. Now.PricesOf(p.Id).Where(x => x.OnOffer)])).Where(t => t.Item2.Count > 0)];

    public PaymentSchedule ScheduleOf(Price price) => PaymentSchedule.For(price.Terms, Moment, Now.Calendar);

    /// <summary>The price as it comes to over a month or a year, so that tiers can be compared.</summary>
    public string Effective(Price price)
    {
        var schedule = ScheduleOf(price);
        return price.Terms switch
        {
            PriceTerms.Free => "No card needed.",
            PriceTerms.OnePayment => "Once, for good.",
            PriceTerms.Recurring { Every: { Unit: Core.Time.PeriodUnit.Months, Count: 1 } } => $"{Money(schedule.EffectiveYearly!.Value)} over a year.",
            PriceTerms.Recurring => $"That is {Money(schedule.EffectiveMonthly!.Value)} a month.",
            _ => throw new InvalidOperationException($"No such terms: {price.Terms}"),
        };
    }

    /// <summary>What a promise gives, a line for each inclusion.</summary>
    public IEnumerable<string> Gives(Plan plan) => plan.Promise.Select(i => Capital(Core.Access.Why.Describe(i, Now.NameOf)));

    static string Capital(string s) => s.Length == 0 ? s : char.ToUpper(s[0], System.Globalization.CultureInfo.InvariantCulture) + s[1..];
}

public sealed class TiersModel : TiersPage
{
    public void OnGet() { }
}
