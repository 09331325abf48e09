using BrightCircle.App.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Looks at the site as a member, as a visitor, or as somebody who would join; now or on another day.</summary>
public sealed class LookModel(IDataProtectionProvider protection, MemberReader reader, Deeds deeds) : DeskPage
{
    public override string Place => "look";
    /// <summary>visitor, somebody, member.</summary>
    [BindProperty] public string Who { get; set; } = "somebody";
    /// <summary>plan-7 or price-8.</summary>
    [BindProperty] public string? By { get; set; }
    [BindProperty] public string? Joined { get; set; }
    [BindProperty] public string? Email { get; set; }
    [BindProperty] public string? At { get; set; }

    /// <summary>Where to look first: a path of the site.</summary>
    [BindProperty] public string? Then { get; set; }

    public void OnGet() { }

    public async Task<IActionResult> OnPost()
    {
        Instant? at = null;
        if (!string.IsNullOrWhiteSpace(At))
            if (LocalInput.TryReadMoment(At, out var moment) && moment.Year is >= 2000 and <= 2200) at = Now.Calendar.At(moment);
            else return Wrong($"“{At}” isn’t a date and time.", "At");
        switch (Who)
        {
            case "visitor":
                return await Go(new(At: at), Url.IsLocalUrl(Then) ? Then! : "/", "a visitor");
            case "member":
                Actor.NeedSupport();
                return await reader.Find(Email ?? "", Ct) is { IsTeam: false } member
                    ? await Go(new(member.AccountId, At: at), "/me", member.Name, $"/desk/members/{member.AccountId}")
                    : Wrong($"No member has the address “{Email?.Trim()}”.", "Email");
            default:
                var number = By?.Split('-') is [_, var n] && long.TryParse(n, out var value) ? value : 0;
                var price = By?.StartsWith("price-", StringComparison.Ordinal) == true ? Now.PriceById.GetValueOrDefault(new PriceId(number)) : null;
                var plan = price is not null ? Now.PlanById[price.PlanId] : Now.PlanById.GetValueOrDefault(new PlanId(number));
                if (plan is null) return Wrong("Choose what they hold.", "By");
                var day = LocalDatePattern.Iso.Parse(Joined ?? "");
                if (!day.Success || day.Value.Year is < 2000 or > 2200) return Wrong("Say on which day they joined.", "Joined");
                var joined = day.Value == Now.Calendar.Date(Moment) ? Moment : Now.Calendar.At(day.Value.At(new(9, 0)));
                return await Go(new(Plan: plan.Id.Value, Price: price?.Id.Value, Joined: joined, At: at), Url.IsLocalUrl(Then) ? Then! : "/me",
                    $"somebody who joined {plan.Name}");
        }
    }

    IActionResult Wrong(string why, string field)
    {
        Refuse(why, field);
        return Page();
    }

    async Task<IActionResult> Go(Look look, string to, string who, string path = "")
    {
        VisitorMiddleware.LookAs(HttpContext, protection, look);
        await deeds.Write(Actor, $"looked at the site as {who}{(look.At is { } day ? $", on {FullDay(day)}" : "")}", path, Ct);
        return Redirect(to);
    }

    /// <param name="member">Who was looked as; back to their page.</param>
    public IActionResult OnPostStop(long? member)
    {
        VisitorMiddleware.LookAs(HttpContext, protection, null);
        return Redirect(member is { } id ? $"/desk/members/{id}" : "/desk");
    }
}
