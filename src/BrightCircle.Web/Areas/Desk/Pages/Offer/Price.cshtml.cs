using BrightCircle.App.Offer;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The price form, with the payments it makes beside it, computed anew at each change.</summary>
public sealed class PriceModel(AddPrice add) : DeskPage
{
    public override string Place => "tiers";
    public Plan Plan { get; private set; } = null!;
    public PriceDraft Draft { get; private set; } = new(null, null, PriceKind.Recurring, null, 1, PeriodUnit.Months, false, 7, PeriodUnit.Days, "0");
    public PriceTerms? Terms { get; private set; }
    public string? Problem { get; private set; }
    public PaymentSchedule? Schedule => Terms is null ? null : PaymentSchedule.For(Terms, Moment, Now.Calendar);
    public IReadOnlyList<Price> Others => [.. Now.PricesOnOffer(Plan)];

    /// <summary>How the new price compares with a recurring one of the same tier over a year.</summary>
    public string? Compare
    {
        get
        {
            if (Schedule?.EffectiveYearly is not { } mine) return null;
            var other = Others.Select(o => PaymentSchedule.For(o.Terms, Moment, Now.Calendar).EffectiveYearly)
                .FirstOrDefault(y => y is not null && y.Value != mine);
            if (other is not { } theirs) return null;
            var difference = mine - theirs;
            var share = Math.Abs((double)difference.Minor) / theirs.Minor;
            return $"Over a year {Money(difference.Minor < 0 ? -difference : difference)} ({share.ToString("P1", Now.Culture)}) "
                + $"{(difference.Minor < 0 ? "less" : "more")} than {Money(theirs)}.";
        }
    }

    public string Ordinal(int n) => n + (n % 100 is 11 or 12 or 13 ? "th" : (n % 10) switch { 1 => "st", 2 => "nd", 3 => "rd", _ => "th" });

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        base.OnPageHandlerExecuting(context);
        if (context.Result is not null) return;
        if (long.TryParse(RouteData.Values["id"] as string, out var id) && Now.PlanById.TryGetValue(new(id), out var plan)) Plan = plan;
        else context.Result = NotFound();
    }

    public void OnGet() => Read();

    public IActionResult OnPostSchedule(PriceDraft draft)
    {
        ModelState.Clear();
        Draft = draft;
        Read();
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_PriceSchedule", this) : Page();
    }

    public async Task<IActionResult> OnPost(PriceDraft draft)
    {
        Draft = draft;
        Read();
        ModelState.Clear();
        var saved = await add.Do(Actor, Plan.Id, draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell("The price is there. Its join link stands in the list.");
        return Redirect("/desk/tiers");
    }

    void Read()
    {
        if (Draft.Kind != PriceKind.Free && string.IsNullOrWhiteSpace(Draft.Amount)) return;
        var terms = Draft.Read(Now);
        (Terms, Problem) = (terms.Value, terms.Refusal);
    }
}
