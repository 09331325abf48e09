using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Which letters a member gets, beside those about their own money and access.</summary>
public sealed class OwnLettersModel(SeriesOfLetters series, OwnSettings own) : MemberPage
{
    public override string Place => "account";
    public bool Wants => Visitor.Person!.WantsNews;
    public bool WantsTalk { get; private set; }
    public IReadOnlySet<long> Refused { get; private set; } = new HashSet<long>();

    public async Task OnGet()
    {
        if (Visitor.Member is { } member) (Refused, WantsTalk) = await series.WishesOf(member, Ct);
    }

    public async Task<IActionResult> OnPost(bool wants, bool talk)
    {
        var chosen = Request.Form["series"].Select(v => long.TryParse(v, System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : 0).ToHashSet();
        await own.SetWantsNews(Member, wants, Ct);
        if (Now.Spaces.Count > 0) await own.SetWantsTalk(Member, talk, Ct);
        foreach (var s in Now.People.Series) await series.Want(Member, s.Id, chosen.Contains(s.Id), Ct);
        Tell("It is kept.");
        return Redirect("/me/account");
    }
}
