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

    /// <summary>The price whose place it takes; null for one more.</summary>
    public Price? Old => Now.PriceById.GetValueOrDefault(new(Draft.Replaces)) is { } p && p.PlanId == Plan.Id ? p : null;

    /// <summary>Something stands in the part that is folded away.</summary>
    public bool HasMore => Draft.HasTrial || Draft.HasSale || Draft.Seats != 0 || !string.IsNullOrWhiteSpace(Draft.First)
        || !string.IsNullOrWhiteSpace(Draft.JoiningFee)
        || ModelState.Keys.Any(k => k.StartsWith("Sale", StringComparison.Ordinal) || k.StartsWith("Trial", StringComparison.Ordinal)
            || k is "First" or "JoiningFee" or "Seats");

    /// <summary>How the new price compares with the others of the plan.</summary>
    public IEnumerable<string> Compare => Schedule is not { } mine ? [] : Others.Where(o => o != Old)
        .Select(o => (Price: o, Beside: mine.Beside(PaymentSchedule.For(o.Terms, Moment, Now.Calendar)))).Where(x => x.Beside is { Difference.IsZero: false })
        .Select(x => $"Beside “{x.Price.Name}” it {(x.Beside!.Value.Difference.Minor > 0 ? "costs " : "")}{Say.Beside(x.Beside.Value, Now.Culture)}.");

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        base.OnPageHandlerExecuting(context);
        if (context.Result is not null) return;
        if (long.TryParse(RouteData.Values["id"] as string, out var id) && Now.PlanById.TryGetValue(new(id), out var plan)) Plan = plan;
        else context.Result = NotFound();
    }

    /// <param name="of">The price whose place it is to take.</param>
    public void OnGet(long of)
    {
        if (Now.PriceById.GetValueOrDefault(new(of)) is { } old && old.PlanId == Plan.Id) Draft = PriceForm.Of(old, Now);
        Read();
    }

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
        Tell(Draft.Replaces == 0 ? "The price is there. Its join link stands in the list."
            : "The new amount counts from now on, at the same link. Those who have the old one keep it.");
        return Redirect("/desk/tiers");
    }

    void Read()
    {
        if (Draft.Kind != PriceKind.Free && string.IsNullOrWhiteSpace(Draft.Amount)) return;
        var terms = Draft.Read(Now, Moment);
        (Terms, Problem) = (terms.Value, terms.Refusal);
    }
}

/// <summary>A price as its form shows it.</summary>
static class PriceForm
{
    public static PriceDraft Of(Price price, App.Catalogues.CatalogueSnapshot now)
    {
        string? Show(Money? m) => m?.Major.ToString("F" + m.Value.Currency.Decimals, now.Culture);
        string? Day(NodaTime.Instant at) => NodaTime.Text.LocalDatePattern.Iso.Format(now.Calendar.Date(at));
        var t = price.Terms;
        var every = t.Interval ?? new(1, PeriodUnit.Months);
        return new(price.Name, price.Button, t switch
        {
            PriceTerms.Free => PriceKind.Free,
            PriceTerms.OnePayment => PriceKind.Once,
            PriceTerms.Instalments => PriceKind.Instalments,
            PriceTerms.Recurring => PriceKind.Recurring,
            _ => throw new InvalidOperationException($"No such terms: {t}"),
        }, Show(t.Headline), every.Count, every.Unit, t.TrialOrNull is not null, t.TrialOrNull?.Length.Count ?? 7, t.TrialOrNull?.Length.Unit
            ?? PeriodUnit.Days,
            Show(t.TrialOrNull?.Price))
        {
            Times = (t as PriceTerms.Instalments)?.Count ?? 3,
            First = Show(t.FirstOrNull),
            JoiningFee = Show(t.JoiningFee),
            HasSale = t.Sale is not null,
            SaleAmount = Show(t.Sale?.Amount),
            SaleFrom = t.Sale is { } from ? Day(from.From) : null,
            SaleUntil = t.Sale is { } until ? Day(until.Until - NodaTime.Duration.Epsilon) : null,
            SaleAll = t.Sale?.All ?? false,
            Access = t.Access switch
            {
                null => AccessKind.ForGood,
                AccessLength.For => AccessKind.For,
                AccessLength.UntilDay => AccessKind.UntilDay,
                _ => throw new InvalidOperationException($"No such length: {t.Access}"),
            },
            AccessCount = (t.Access as AccessLength.For)?.Length.Count ?? 1,
            AccessUnit = (t.Access as AccessLength.For)?.Length.Unit ?? PeriodUnit.Years,
            AccessUntil = t.Access is AccessLength.UntilDay u ? NodaTime.Text.LocalDatePattern.Iso.Format(u.Last) : null,
            Seats = t.Seats ?? 0,
            Replaces = price.Id.Value,
        };
    }
}
