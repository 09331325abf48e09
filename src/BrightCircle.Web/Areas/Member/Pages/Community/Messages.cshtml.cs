using BrightCircle.App.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What a member and the team write to each other.</summary>
public sealed class MessagesModel(Correspond correspond) : MemberPage
{
    public override string Place => "account";
    public DialogueView View { get; private set; } = new(null, null, [], 0);
    [BindProperty] public string? Body { get; set; }

    async Task<IActionResult> Show()
    {
        if (Visitor.Member is { } member) View = await correspond.View(member, byMember: Visitor.Recorded is not null, Ct);
        return Page();
    }

    public Task<IActionResult> OnGet() => Show();

    public async Task<IActionResult> OnPost()
    {
        ModelState.Clear();
        var done = await correspond.Write(Member, Visitor.Person!.Confirmed, Body, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return await Show();
        }
        Tell("It is with us.");
        return Redirect("/me/messages");
    }
}
