using BrightCircle.App.Offer;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All coupons, with how often each was used and what it brought.</summary>
public sealed class CouponsModel(Coupons coupons) : DeskPage
{
    public override string Place => "coupons";
    public IReadOnlyList<CouponRow> Rows { get; private set; } = [];

    public async Task OnGet() => Rows = await coupons.All(Ct);

    public string For(Coupon c) => (c.Plans.Count == 0 ? "everything" : Say.List(c.Plans.Select(p => Now.PlanName(p)), c.Plans.Count))
        + (c.OnlyNewcomers ? ", newcomers" : "")
        + (c.AudienceId is { } a ? $", {Now.People.AudienceById.GetValueOrDefault(a)?.Name}" : "")
        + (c.LimitEach is { } each ? $", {(each == 1 ? "once" : each + " times")} each" : "");

    public string Valid(Coupon c) => c.IsClosed ? "closed" : c.Until <= Moment ? $"over since {Day(c.Until.Value)}"
        : (c.From > Moment ? $"from {Day(c.From.Value)} " : "") + (c.Until is { } until ? $"until {Day(until - NodaTime.Duration.Epsilon)}" : c.From > Moment
            ? "" : "open");
}
