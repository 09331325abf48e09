using BrightCircle.App.Letters;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class LettersModel(LetterList letters) : DeskPage
{
    public override string Place => "letters";
    public LetterFilter Filter { get; private set; } = new();
    public LetterRows List { get; private set; } = null!;
    public int PageNumber { get; private set; } = 1;

    public int Undelivered { get; private set; }

    public static string Colour(Letter l) =>
        l.State is LetterState.Sent or LetterState.Shown ? "good" : l is { State: LetterState.Refused, SetAsideAt: null } ? "bad" : "";

    public static string Word(LetterState state) => state switch
    {
        LetterState.Queued => "waiting",
        LetterState.Sent => "sent",
        LetterState.Shown => "shown on a device",
        LetterState.Refused => "not delivered",
    };

    public static string Word(LetterKind kind) => kind switch
    {
        LetterKind.SignIn => "sign-in link",
        LetterKind.PaymentFailed => "a payment failed",
        LetterKind.Edition => "edition announcement",
        LetterKind.HasAccount => "here already",
        LetterKind.Confirm => "proving an address",
        LetterKind.Ending => "leaving",
        LetterKind.Lapsed => "it has ended",
        LetterKind.Place => "a place",
        LetterKind.Seat => "a seat in a group",
        LetterKind.Covered => "nothing to pay",
        LetterKind.Changed => "another plan",
        LetterKind.Paused => "paused",
        LetterKind.Closed => "closed until paid",
        LetterKind.PriceTold => "another price",
        LetterKind.Credited => "credit",
        LetterKind.Answered => "an answer",
        LetterKind.Marked => "answers read",
        LetterKind.Welcome => "welcome",
        LetterKind.Receipt => "receipt",
        LetterKind.Refund => "refund",
        LetterKind.OrderPlaced => "how to pay",
        LetterKind.PaymentWanted => "a payment is due",
        LetterKind.OrderReminder => "a reminder",
        LetterKind.OrderOver => "an order given up",
        LetterKind.Voucher => "a voucher bought",
        LetterKind.HalfWay => "half-way",
        LetterKind.Session => "a live session",
        LetterKind.Talk => "what was said",
        LetterKind.TalkWord => "about what they wrote",
        LetterKind.Message => "a message",
        LetterKind.Challenge => "a challenge",
        LetterKind.Words => "words of a member",
        LetterKind.VoucherFor => "a voucher",
        LetterKind.CardRunsOut => "a card runs out",
        LetterKind.OwnerNews => "to the owner",
        LetterKind.Many => "a letter to many",
        LetterKind.TeamInvite => "asked into the team",
    };

    public string Query(int page) => QueryString.Create(new Dictionary<string, string?>
    {
        ["q"] = Filter.Search,
        ["state"] = Filter.State?.ToString(),
        ["waiting"] = Filter.Waiting ? "true" : null,
        ["kind"] = Filter.Kind?.ToString(),
        ["mailing"] = Filter.Mailing?.ToString(System.Globalization.CultureInfo.InvariantCulture),
        ["page"] = page.ToString(System.Globalization.CultureInfo.InvariantCulture),
    }.Where(x => !string.IsNullOrEmpty(x.Value))).ToString();

    /// <param name="waiting">Only what couldn’t be delivered and nobody has seen to.</param>
    public async Task OnGet(LetterState? state, string? q, bool waiting, long? mailing, LetterKind? kind, int page = 1)
    {
        (Filter, PageNumber) = (new(state, string.IsNullOrWhiteSpace(q) ? null : q.Trim(), waiting, mailing,
            kind is { } k && Enum.IsDefined(k) ? kind : null), Math.Clamp(page, 1, 1_000_000));
        ModelState.Clear();
        List = await letters.Page(Filter, PageNumber, Ct);
        Undelivered = (await Get<App.Insight.Waiting>().Counts(Actor, Ct)).Letters;
    }

    public async Task<IActionResult> OnPostAside([FromServices] SetLetterAside aside)
    {
        var done = await aside.Do(Actor, null, Ct);
        Tell($"{Count(done.Value, "letter")} set aside.");
        return Redirect("/desk/letters");
    }
}
