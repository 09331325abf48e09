using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What a member and the team write to each other.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = PicturesSent.MostBytes), RequestSizeLimit(PicturesSent.MostBytes)]
public sealed class MessagesModel(Correspond correspond, ReadExchanges exchanges) : MemberPage
{
    public override string Place => "account";
    public DialogueView View { get; private set; } = DialogueView.Empty;
    /// <summary>With other members; empty while the team looks.</summary>
    public IReadOnlyList<ExchangeRow> Exchanges { get; private set; } = [];
    [BindProperty] public string? Body { get; set; }
    public PicturesChosen Chosen { get; private set; } = null!;

    async Task<IActionResult> Show(PicturesSent? sent = null)
    {
        Chosen = await (sent ?? new()).Again(this, new(Visitor.Member?.Value ?? 0, false));
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

    public async Task<IActionResult> OnPost(PicturesSent sent)
    {
        ModelState.Clear();
        var confirmed = Visitor.Person!.Confirmed;
        var shown = await sent.Take(this, new(Member.Value, false), () => Task.FromResult(Correspond.Refused(confirmed)));
        var done = shown.Ok ? await correspond.Write(Member, confirmed, Body, Ct, shown: shown.Value) : App.Result.Refused(shown.Refusal!, shown.Field);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return await Show(sent);
        }
        Tell("It is with us.");
        return Redirect("/me/messages");
    }
}
