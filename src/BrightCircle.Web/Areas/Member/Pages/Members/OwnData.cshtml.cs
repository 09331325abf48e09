using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Everything that is kept about whoever is signed in, as a zip. Nobody looks at it through their eyes.</summary>
public sealed class OwnDataModel(MemberData data) : MemberPage
{
    public override string Place => "account";

    public async Task<IActionResult> OnGet() => Visitor.Recorded is { } me && await data.Of(me, Ct) is var (name, zip)
        ? File(zip, "application/zip", name) : Redirect("/me/account");
}
