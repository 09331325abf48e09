using BrightCircle.App.Offer;
using BrightCircle.App.Settings;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A new coupon, or what of one can still be changed.</summary>
public sealed class CouponModel(Coupons coupons, SiteAddress address) : DeskPage
{
    public override string Place => "coupons";
    public Coupon? Coupon { get; private set; }
    public CouponDraft Draft { get; private set; } = new(null, null);
    public string Iso(LocalDate? day) => day is { } d ? LocalDatePattern.Iso.Format(d) : "";

    /// <summary>To the first price it is for, with the coupon in it; null where it is good for nothing at the moment.</summary>
    public string? Link => Now.Prices.FirstOrDefault(p => Coupon!.Fits(p, Moment)
        && p.Within(Now.PlanById[p.PlanId]) != Availability.Closed) is { } price
        ? $"{address.Url}/join/{price.Code}?coupon={Uri.EscapeDataString(Coupon!.Code)}" : null;

    async Task<bool> Find(string id)
    {
        if (id == "new") return true;
        return long.TryParse(id, out var number) && (Coupon = await coupons.Find(number, Ct)) is not null;
    }

    public async Task<IActionResult> OnGet(string id)
    {
        if (!await Find(id)) return NotFound();
        if (Coupon is { } c)
            Draft = new(c.Code, c.Note, Plans: [.. c.Plans.Select(p => p.Value)], From: c.From is { } f ? Now.Calendar.Date(f) : null,
                Until: c.Until is { } u ? Now.Calendar.Date(u - Duration.Epsilon) : null, Limit: c.Limit ?? 0, LimitEach: c.LimitEach ?? 0,
                OnlyNewcomers: c.OnlyNewcomers, Audience: c.AudienceId?.Value ?? 0);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, string? code, string? note, OffKind kind, string? off, LastsKind lasts, int payments, long[]? plans,
        string? from, string? until, int limit, int limitEach, bool onlyNewcomers,
        long audience)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        Draft = new(code, note, kind, off, lasts, payments, plans, LocalInput.DayOrNone(from), LocalInput.DayOrNone(until), limit, limitEach, onlyNewcomers,
            audience);
        if (!LocalInput.TryReadDay(from, out _)) Refuse("From which day?", "From");
        else if (!LocalInput.TryReadDay(until, out _)) Refuse("Until which day?", "Until");
        else if (await coupons.Save(Actor, Coupon?.Id, Draft, Ct) is var saved && saved.Ok)
        {
            Tell("The coupon is saved.");
            return Redirect(Coupon is null ? $"/desk/coupons/{saved.Value}" : "/desk/coupons");
        }
        else Refuse(saved.Refusal!, saved.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostClose(string id, bool closed)
    {
        if (!await Find(id) || Coupon is null) return NotFound();
        var done = await coupons.Close(Actor, Coupon.Id, closed, Ct);
        Tell(done.Ok ? closed ? "Nobody new can use it." : "It can be used again." : done.Refusal!);
        return Redirect("/desk/coupons");
    }
}
