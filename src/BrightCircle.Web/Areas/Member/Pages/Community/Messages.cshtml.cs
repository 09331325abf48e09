using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What a member and the team write to each other.</summary>
public sealed class MessagesModel(Correspond correspond, ReadExchanges exchanges) : MemberPage
{
    public override string Place => "account";
    public DialogueView View { get; private set; } = new(null, null, [], 0);
    /// <summary>With other members; empty while the team looks.</summary>
    public IReadOnlyList<ExchangeRow> Exchanges { get; private set; } = [];
    [BindProperty] public string? Body { get; set; }

    async Task<IActionResult> Show()
    {
        if (Visitor.Member is { } member) (View, Exchanges) = await exchanges.Messages(member, byMember: Visitor.Recorded is not null, Ct);
        return Page();
    }

    public static string Word(ExchangeRow x) => x.ShutByMe ? "shut by you" : x.State switch
    {
        ExchangeState.Asked => x.AskedByMe ? "you have asked" : $"asks to write to you: {x.LastWords}",
        ExchangeState.Shut => "shut",
        ExchangeState.Open => x.LastWords,
        _ => throw new InvalidOperationException($"No such state: {x.State}"),
    };

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
