using BrightCircle.App.Rights;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A voucher that was bought for somebody else: to print, or to pass on.</summary>
public sealed class VoucherModel(Vouchers vouchers, SiteAddress address) : MemberPage
{
    public override string Place => "account";
    public Voucher Voucher { get; private set; } = null!;
    public string Link => Visitor.IsLooking ? $"{address.Url}/key/…" : $"{address.Url}/key/{Voucher.Key.Code}";

    public async Task<IActionResult> OnGet(long id)
    {
        if (Visitor.Member is not { } member || await vouchers.Of(member, id, Ct) is not [var found]) return NotFound();
        Voucher = found;
        return Page();
    }
}
