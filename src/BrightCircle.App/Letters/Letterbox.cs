using BrightCircle.App.House;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Puts letters into the outbox, in the transaction of what they tell of.</summary>
public sealed class Letterbox(BrightContext db, Ids ids, Catalogue catalogue)
{
    static readonly Duration WelcomeLinkLasts = Duration.FromDays(14);
    public static readonly Duration SignInLinkLasts = Duration.FromMinutes(30);

    CatalogueSnapshot Now => catalogue.Now;

    public void Welcome(Member member, Plan plan, Price? price, HoldingId holding, Instant at, string giftFrom = "")
    {
        var opens = Now.NextEdition is { } next
            ? $"{next.Title} opens on {Day(next.ReleaseAt)}."
            : "New things open as soon as they are released; we’ll write when they do.";
        Add(LetterKind.Welcome, member, $"welcome-{holding.Value}", at, Link(member, at, WelcomeLinkLasts, "/start"), new()
        {
            ["plan"] = plan.Name,
            ["joined"] = price is null ? plan.Name : Say.Joined(plan, price, Now.Culture),
            ["gift_from"] = giftFrom,
            ["current"] = Now.CurrentEdition?.Title ?? "",
            ["opens_next"] = opens,
        });
    }

    public void SignIn(Member? member, Account account, string returnPath, Instant at)
    {
        var link = NewLink(account.Id, at, SignInLinkLasts, returnPath);
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = LetterKind.SignIn,
            MemberId = member?.Id,
            ToAddress = account.Email!,
            ToName = account.Name,
            Fields = new() { ["minutes"] = SignInLinkLasts.TotalMinutes.ToString("0", Now.Culture) },
            SignInLinkId = link,
            Key = $"sign-in-{link}",
            CreatedAt = at,
        });
    }

    public void Receipt(Member member, Plan plan, Payment payment, Price price) =>
        Add(LetterKind.Receipt, member, $"receipt-{payment.Id.Value}", payment.At, null, new()
        {
            ["plan"] = plan.Name,
            ["amount"] = Show(payment.Amount),
            ["date"] = Day(payment.At),
            ["card"] = payment.CardLabel,
            ["number"] = payment.ReceiptNumber(Now.Calendar.Date(payment.At).Year),
            ["paid_for"] = payment.PeriodTo is { } to ? $"{Day(payment.PeriodFrom)} to {Day(to)}" : "for good",
            ["next"] = payment.PeriodTo is { } due && price.Terms is PriceTerms.Recurring r ? $"The next payment is {Show(r.Amount)} on {Day(due)}." : "",
            ["receipt_path"] = $"/me/receipts/{payment.Id.Value}",
        });

    public void PaymentFailed(Member member, Plan plan, Payment payment, Instant? retry, Instant openUntil) =>
        Add(LetterKind.PaymentFailed, member, $"failed-{payment.Id.Value}", payment.At, Link(member, payment.At, WelcomeLinkLasts, "/me/card"), new()
        {
            ["plan"] = plan.Name,
            ["amount"] = Show(payment.Amount),
            ["card"] = payment.CardLabel,
            ["refusal"] = payment.Refusal ?? "the card was refused",
            ["retry"] = retry is { } r ? Day(r) : "",
            ["until"] = Day(openUntil),
            ["confirm"] = payment.Outcome == ChargeOutcome.NeedsCardholder ? "yes" : "",
        });

    public void Ending(Member member, Plan plan, HoldingFact leaving) =>
        Add(LetterKind.Ending, member, $"ending-{leaving.Id.Value}", leaving.At, null, new()
        {
            ["plan"] = plan.Name,
            ["until"] = Day(leaving.To ?? leaving.At),
            ["keep"] = Say.Keeps(plan),
            ["account_path"] = "/me/account",
        });

    public void Lapsed(Member member, Plan plan, Holding holding, EndReason reason) =>
        Add(LetterKind.Lapsed, member, $"lapsed-{holding.Id.Value}", holding.Ending!.At, Link(member, holding.Ending.At, WelcomeLinkLasts, "/me/account"), new()
        {
            ["plan"] = plan.Name,
            ["reason"] = reason switch { EndReason.Lapsed => "lapsed", EndReason.RanOut => "ran-out", _ => "left" },
            ["keep"] = Say.Keeps(plan),
        });

    public void Refund(Member member, Plan plan, Payment payment, Money amount, bool ended, long number, Instant at) =>
        Add(LetterKind.Refund, member, $"refund-{number}", at, null, new()
        {
            ["plan"] = plan.Name,
            ["amount"] = Show(amount),
            ["paid_on"] = Day(payment.At),
            ["card"] = payment.CardLabel,
            ["ended"] = ended ? "yes" : "",
            ["receipt_path"] = $"/me/receipts/{payment.Id.Value}",
        });

    /// <summary>A place in a full piece became free, and it is theirs.</summary>
    public void PlaceFree(Member member, Piece piece, Instant at) =>
        Add(LetterKind.Place, member, $"place-{piece.Id.Value}-{member.Id.Value}-{at.ToUnixTimeSeconds()}", at, null, new()
        {
            ["piece"] = piece.Title,
            ["piece_path"] = $"/read/{piece.Id.Value}",
        });

    /// <summary>The team answered what they asked under a lesson.</summary>
    public void QuestionAnswered(Member member, Lesson lesson, string question, string answer, string by, long number, Instant at) =>
        Add(LetterKind.Answered, member, $"answered-{number}", at, null, new()
        {
            ["lesson"] = lesson.Title,
            ["question"] = question.Length > 300 ? question[..300] + "…" : question,
            ["answer"] = answer,
            ["by"] = by,
            ["lesson_path"] = $"/lessons/{lesson.Id.Value}#questions",
        });

    /// <summary>All open answers of a practice sheet are read.</summary>
    public void SheetMarked(Member member, Lesson lesson, Core.Learning.PracticeSheet sheet, Core.Learning.SheetResult result, string by, long number, Instant at) =>
        Add(LetterKind.Marked, member, $"marked-{number}-{at.ToUnixTimeSeconds()}", at, null, new()
        {
            ["sheet"] = sheet.Title.Length > 0 ? sheet.Title : lesson.Title,
            ["earned"] = $"{result.Earned} of {Say.Count(result.Points, "point")}",
            ["passed"] = result.Passed == true ? "yes" : "",
            ["by"] = by,
            ["lesson_path"] = $"/lessons/{lesson.Id.Value}",
        });

    void Add(LetterKind kind, Member member, string key, Instant at, long? link, Dictionary<string, string> fields) => db.Letters.Add(new()
    {
        Id = ids.Next(),
        Kind = kind,
        MemberId = member.Id,
        ToAddress = member.Email,
        ToName = member.Name,
        Fields = fields,
        SignInLinkId = link,
        Key = key,
        CreatedAt = at,
    });

    long Link(Member member, Instant at, Duration lasts, string path) => NewLink(member.Id.Value, at, lasts, path);

    long NewLink(long account, Instant at, Duration lasts, string path)
    {
        var link = new SignInLink { Id = ids.Next(), AccountId = account, CreatedAt = at, ExpiresAt = at + lasts, ReturnPath = path };
        db.SignInLinks.Add(link);
        return link.Id;
    }

    string Show(Money money) => money.Format(Now.Culture);
    string Day(Instant at) => Now.Calendar.Date(at).ToString("d MMMM uuuu", Now.Culture);
}
