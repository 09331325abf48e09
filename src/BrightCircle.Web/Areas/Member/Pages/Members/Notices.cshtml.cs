using BrightCircle.App.Letters;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The browsers in which a member sees what is new, also while the site isn't open there.</summary>
public sealed class NoticesModel(PushDevices devices, PushKey keys) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<OwnPushDevice> Own { get; private set; } = [];
    /// <summary>The house's key, for the browser.</summary>
    public string Key { get; private set; } = "";
    /// <summary>The number of this browser.</summary>
    public long Here => SignedInBrowser.Of(User);

    async Task Show()
    {
        if (Visitor.Member is { } member) Own = await devices.Of(member, Ct);
        Key = await keys.Public(Ct);
    }

    public Task OnGet() => Show();

    public async Task<IActionResult> OnPost(string? endpoint, string? key, string? secret)
    {
        ModelState.Clear();
        var done = await devices.Put(Member, Here, endpoint, key, secret, Ct);
        if (done.Ok)
        {
            Tell("This browser shows what is new from now on.");
            return Redirect("/me/notices");
        }
        Refuse(done.Refusal!, done.Field);
        await Show();
        return Page();
    }

    public async Task<IActionResult> OnPostInstead(long device, bool instead)
    {
        var done = await devices.Set(Member, device, instead, Ct);
        Tell(!done.Ok ? done.Refusal! : instead ? "What is said in spaces and messages shows there, and comes by letter only if it can’t."
            : "It shows there, and comes by letter too.");
        return Redirect("/me/notices");
    }

    public async Task<IActionResult> OnPostAway(long device)
    {
        var done = await devices.TakeAway(Member, device, Ct);
        Tell(done.Ok ? "Nothing shows there any more." : done.Refusal!);
        return Redirect("/me/notices");
    }
}
