using BrightCircle.App.Settings;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>How buyers pay, what they agree to, and which letters about money the owner gets.</summary>
public sealed class SettingsMoneyModel(MoneySettings settings) : DeskPage
{
    public override string Place => "paying";
    public MoneyDraft Draft { get; private set; } = null!;
    public IEnumerable<SitePage> TermsPages => Now.Pages.Where(p => p.Kind == SitePageKind.Free && p.IsPublic);

    public static string Kind(PayWay way) => way switch
    {
        PayWay.Card => "By card, at the payment service",
        PayWay.Transfer => "By bank transfer",
        PayWay.Elsewhere => "In cash, or elsewhere",
        _ => throw new ArgumentOutOfRangeException(nameof(way), way, "No such way."),
    };

    public void OnGet() => Draft = settings.AsSet;

    public async Task<IActionResult> OnPost(List<WayDraft>? ways, PayWay usual, long terms, OwnerLetterWhen sale, OwnerLetterWhen failure,
        OwnerLetterWhen dispute)
    {
        ModelState.Clear();
        Draft = new(ways ?? [], usual, terms, sale, failure, dispute);
        var done = await settings.Save(Actor, Draft, Ct);
        if (!done.Ok)
        {
            if (Draft.Ways.Count == 0) Draft = settings.AsSet;
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect("/desk/settings/money");
    }
}
