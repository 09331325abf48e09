using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The browsers in which somebody is signed in, members and team alike.</summary>
public sealed class SignedInModel(SignIns signIns) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<SignIn> Open { get; private set; } = [];
    /// <summary>The one this page is shown in.</summary>
    public long Here => Visitor.IsLooking ? 0 : SignedInBrowser.Of(User);

    public static (string Word, string Icon) Of(Device device) => device switch
    {
        Device.Phone => ("A phone", "bi-phone"),
        Device.Tablet => ("A tablet", "bi-tablet"),
        Device.Computer => ("A computer", "bi-laptop"),
        Device.Program => ("A program", "bi-terminal"),
        Device.Unknown => ("Something that doesn’t say what it is", "bi-globe"),
        _ => throw new ArgumentOutOfRangeException(nameof(device), device, "No such kind."),
    };

    public async Task OnGet() => Open = await signIns.Open(Visitor.Person!.AccountId, Ct);

    public async Task<IActionResult> OnPost(long id)
    {
        Tell(await signIns.End(Visitor.SignedIn!.AccountId, id, Ct) ? "It is signed out." : "It was signed out already.");
        return Redirect("/me/signed-in");
    }
}
