using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Writes the letters that follow from events, into the outbox of the same transaction.</summary>
public sealed class LettersListen(BrightContext db, Ids ids, Catalogue catalogue) : IListen
{
    static readonly Duration LinkLasts = Duration.FromDays(14);

    CatalogueSnapshot Now => catalogue.Now;

    public void Hear(Told told)
    {
        switch (told.What)
        {
            case Event.Joined e: Welcome(told, e.Holding, e.Plan, e.Price, ""); break;
            case Event.Given { Quietly: false, From: null } e: Welcome(told, e.Holding, e.Plan, null, told.By?.Name ?? Now.Site!.Name); break;
            case Event.Begun { Quietly: false } e: Welcome(told, e.Holding, e.Plan, null, Now.Site!.Name); break;
            case Event.Paid e: Receipt(told, e); break;
            case Event.Covered e: Covered(told, e); break;
            case Event.Changed e: Changed(told, e); break;
            case Event.Paused e: Paused(told, e); break;
            case Event.PriceTold e: PriceTold(told, e); break;
            case Event.Closed e: Closed(told, e); break;
            case Event.PaymentFailed e: PaymentFailed(told, e); break;
            case Event.Left { OpenUntil: { } until, ChangedPlan: false } e: Ending(told, e.Plan, until); break;
            case Event.Ended { Reason: EndReason.Lapsed or EndReason.Left or EndReason.RanOut or EndReason.SeatFreed or EndReason.GroupOver } e:
                Ended(told, e); break;
            case Event.Refunded e: Refund(told, e); break;
            case Event.Credited e: Credited(told, e); break;
            case Event.OrderPlaced e: HowToPay(LetterKind.OrderPlaced, told, e.Order, e.Plan, e.Amount, e.Reference, e.Way, e.Until, null, e.OpenAtOnce); break;
            case Event.PaymentWanted e: HowToPay(LetterKind.PaymentWanted, told, e.Order, e.Plan, e.Amount, e.Reference, e.Way, e.Until, e.DueAt, true); break;
            case Event.OrderReminded e: HowToPay(LetterKind.OrderReminder, told, e.Order, e.Plan, e.Amount, e.Reference, e.Way, e.Until, null, false); break;
            case Event.OrderOver e: OrderOver(told, e); break;
            case Event.VoucherBought e: Voucher(told, e); break;
            case Event.CardRunsOut e: CardRunsOut(told, e); break;
            case Event.GotPlace e: Place(told, e); break;
            case Event.Answered e: Answered(told, e); break;
            case Event.SessionNews e: Session(told, e); break;
            case Event.HourNews e: Hour(told, e); break;
            case Event.ChallengeNews e: ChallengeTurned(told, e); break;
            case Event.TalkCared e: TalkCared(told, e); break;
            case Event.TeamWrote e: TeamWrote(told, e); break;
            case Event.Marked e: Marked(told, e); break;
            // Nobody is written to about these.
            case Event.Given or Event.Begun:
                break;
            case Event.VoucherSent:
                break;
            case Event.ChangeRefused or Event.ChangeTakenBack or Event.PauseOver:
                break;
            case Event.PaidTwice or Event.PeriodMissed or Event.OpenWaived or Event.Left or Event.LeaveOffered or Event.Stayed or Event.Ended
                or Event.RefundRefused
                or Event.ChargedBack or Event.DisputeAnswered or Event.DisputeDecided
                or Event.CardChanged or Event.Added or Event.SignedIn or Event.Corrected or Event.Merged
                or Event.AddressConfirmed or Event.Opened or Event.Finished
                or Event.HandedIn or Event.Asked or Event.PromiseMoved or Event.LetterRefused or Event.TagPutOn or Event.TagTakenOff
                or Event.FieldFilled or Event.SaidHello or Event.SaidComing or Event.CameLive or Event.WroteToTeam or Event.Reported or Event.Noted:
                break;
            default: throw new InvalidOperationException($"Nobody decided whether {told.What.Kind} is written about.");
        }
    }

    void Welcome(Told told, HoldingId holding, PlanId planId, PriceId? priceId, string giftFrom)
    {
        var plan = Now.PlanById[planId];
        var open = OpenWith(plan, told.At);
        Add(LetterKind.Welcome, told, plan.Id, $"welcome-{holding.Value}", Link(told, $"/start/{plan.Id.Value}"), new()
        {
            ["joined"] = priceId is { } p ? Say.Joined(plan, Now.PriceById[p], Now.Culture) : plan.Name,
            ["gift_from"] = giftFrom,
            // What has an end by its price says so in its name.
            ["bought"] = plan.IsTier ? "" : priceId is { } q && Now.PriceById[q].Terms.Access is not null ? "limited"
                : PromiseWords.Lasts(plan.Promise) is { } length ? $"for {length}" : "yes",
            ["current"] = open.Count == 0 ? "" : Say.List(open.Take(3).Select(r => $"“{r.Title}”"), open.Count),
            ["opens_next"] = Coming(plan, told.At),
        });
    }

    /// <summary>What somebody who joins a plan now can open with it, the newest first.</summary>
    List<Released> OpenWith(Plan plan, Instant at)
    {
        var book = Now.Book;
        return [.. Now.Releases.ByRelease.Where(r => r.At <= at && r.Piece.Places is null && book.PlansThatOpen(r.Thing, at).Any(p => p.Id == plan.Id))];
    }

    /// <summary>What comes next for them; nothing is said where nothing will.</summary>
    string Coming(Plan plan, Instant at)
    {
        var next = Now.Releases.ByRelease.TakeWhile(r => r.At > at).Reverse()
            .FirstOrDefault(r => Now.Book.PlansThatOpen(r.Thing, at).Any(p => p.Id == plan.Id));
        if (next is null) return plan.IsTier ? "New things open as soon as they are released; we’ll write when they do." : "";
        return Now.EditionOf(next.Piece) is { } e && e.ReleaseAt == next.At ? $"{e.Title} opens on {Day(next.At)}."
            : $"“{next.Title}” opens on {Day(next.At)}.";
    }

    void Receipt(Told told, Event.Paid e)
    {
        Add(LetterKind.Receipt, told, e.Plan, $"receipt-{e.Payment.Value}", null, new()
        {
            ["amount"] = Show(e.Amount),
            ["date"] = Day(told.At),
            ["from"] = e.Way == PayWay.Card ? $"from the card {e.Card}" : e.Card.StartsWith("transfer", StringComparison.Ordinal) ? $"by {e.Card}" : e.Card,
            ["paid_for"] = e.To is { } to ? $"{Day(e.From)} to {Day(to)}"
                : Now.PlanById.GetValueOrDefault(e.Plan) is { } plan
                    && Core.Offer.PromiseWords.Lasts(plan.Promise) is { } length ? $"for {length}" : "for good",
            ["next"] = e is { Next: { } next, NextAt: { } at } ? $"The next payment is {Show(next)} on {Day(at)}." : "",
            ["receipt_path"] = $"/me/receipts/{e.Payment.Value}",
        });
    }

    /// <summary>How to pay what comes by transfer or by hand: the amount, the reference, and what the owner says of it.</summary>
    void HowToPay(LetterKind kind, Told told, long order, PlanId plan, Money amount, string reference, PayWay way, Instant until, Instant? due, bool open)
    {
        Add(kind, told, plan, $"{kind.ToString().ToLowerInvariant()}-{told.Id}", null, new()
        {
            ["amount"] = Show(amount),
            ["way"] = Now.WayName(way),
            ["words"] = Now.Site!.Ways.FirstOrDefault(w => w.Way == way)?.Words ?? "",
            ["reference"] = Core.Billing.CreditorReference.Show(reference),
            ["until"] = Day(until),
            ["due"] = due is { } day ? Day(day) : "",
            ["open"] = open ? "yes" : "",
            ["order_path"] = $"/me/orders/{order}",
        });
    }

    void OrderOver(Told told, Event.OrderOver e) => Add(LetterKind.OrderOver, told, e.Plan, $"orderover-{e.Order}", null, new()
    {
        ["amount"] = Show(e.Amount),
        ["called_off"] = e.CalledOff ? "yes" : "",
        ["tiers_path"] = "/tiers",
    });

    void Voucher(Told told, Event.VoucherBought e) => Add(LetterKind.Voucher, told, e.Plan, $"voucher-{e.Key}", Link(told, $"/me/vouchers/{e.Key}"), new()
    {
        ["for"] = e.For,
        ["amount"] = e.Payment is null ? "" : Show(e.Amount),
        ["card"] = e.Card,
        ["receipt_path"] = e.Payment is { } p ? $"/me/receipts/{p.Value}" : "",
    });

    void CardRunsOut(Told told, Event.CardRunsOut e) => Add(LetterKind.CardRunsOut, told, e.Plan, $"runsout-{told.Id}", Link(told, "/me/card"), new()
    {
        ["card"] = e.Card,
        ["last_day"] = e.LastDay.ToString("d MMMM uuuu", Now.Culture),
        ["amount"] = Show(e.Amount),
        ["next"] = Day(e.NextAt),
    });

    void Covered(Told told, Event.Covered e) => Add(LetterKind.Covered, told, e.Plan, $"covered-{told.Id}", null, new()
    {
        ["credit"] = e.Credit.IsZero ? "" : Show(e.Credit),
        ["left"] = e.StillCredit.IsZero ? "" : Show(e.StillCredit),
        ["paid_for"] = e.To is { } to ? $"{Day(e.From)} to {Day(to)}" : "for good",
        ["account_path"] = "/me/account",
    });

    void Changed(Told told, Event.Changed e) => Add(LetterKind.Changed, told, e.To, $"changed-{told.Id}", null, new()
    {
        ["from"] = Now.PlanName(e.From),
        ["price"] = Now.PriceById.TryGetValue(e.ToPrice, out var price) ? Say.Price(price.Terms.ForAChange(), Now.Culture) : "",
        ["at"] = e.AtOnce ? "" : Day(e.At),
        ["credit"] = e.Credit.IsZero ? "" : Show(e.Credit),
        ["charged"] = Show(e.Charged),
        ["left"] = e.StillCredit.IsZero ? "" : Show(e.StillCredit),
        ["account_path"] = "/me/account",
    });

    void Paused(Told told, Event.Paused e) => Add(LetterKind.Paused, told, e.Plan, $"paused-{told.Id}", null, new()
    {
        ["until"] = Day(e.Until),
        ["paid_through"] = Day(e.PaidThrough),
        ["account_path"] = "/me/account",
    });

    void PriceTold(Told told, Event.PriceTold e) => Add(LetterKind.PriceTold, told, e.Plan, $"price-{told.Id}", null, new()
    {
        ["old"] = Say.Price(Now.PriceById[e.From].Terms, Now.Culture),
        ["new"] = Say.Price(Now.PriceById[e.To].Terms.ForAChange(), Now.Culture),
        ["on"] = e.On.ToString("d MMMM uuuu", Now.Culture),
        ["account_path"] = "/me/account",
    });

    void Closed(Told told, Event.Closed e) => Add(LetterKind.Closed, told, e.Plan, $"closed-{told.Id}", Link(told, "/me/card"), new()
    {
        ["amount"] = Show(e.Amount),
    });

    void PaymentFailed(Told told, Event.PaymentFailed e)
    {
        // The last refusal ends the membership, and the letter about that says all there is to say.
        if (told.At >= e.OpenUntil) return;
        Add(LetterKind.PaymentFailed, told, e.Plan, $"failed-{e.Payment.Value}", Link(told, "/me/card"), new()
        {
            ["amount"] = Show(e.Amount),
            ["card"] = e.Card,
            ["refusal"] = e.Refusal.Length > 0 ? e.Refusal : "the card was refused",
            ["retry"] = e.RetryAt is { } r ? Day(r) : "",
            ["until"] = Day(e.OpenUntil),
            ["confirm"] = e.NeedsCardholder ? "yes" : "",
        });
    }

    void Ending(Told told, PlanId plan, Instant until) => Add(LetterKind.Ending, told, plan, $"ending-{told.Id}", null, new()
    {
        ["until"] = Day(until),
        ["keep"] = PromiseWords.AfterLeaving(Now.PlanById[plan]) ?? "",
        ["account_path"] = "/me/account",
    });

    void Ended(Told told, Event.Ended e) => Add(LetterKind.Lapsed, told, e.Plan, $"lapsed-{e.Holding.Value}", Link(told, "/me/account"), new()
    {
        ["reason"] = e.Reason switch
        {
            EndReason.Lapsed => "lapsed",
            EndReason.RanOut or EndReason.SeatFreed or EndReason.GroupOver => "ran-out",
            EndReason.Left => "left",
            _ => throw new ArgumentOutOfRangeException(nameof(e), e.Reason, "Nobody is written to about this.")
        },
        ["keep"] = PromiseWords.AfterLeaving(Now.PlanById[e.Plan]) ?? "",
    });

    void Refund(Told told, Event.Refunded e) => Add(LetterKind.Refund, told, e.Plan, $"refund-{told.Id}", null, new()
    {
        ["amount"] = Show(e.Amount),
        ["paid_on"] = Day(e.PaidAt),
        ["card"] = e.Card,
        ["ended"] = e.AlsoEnded ? "yes" : "",
        ["receipt_path"] = $"/me/receipts/{e.Payment.Value}",
    });

    void Credited(Told told, Event.Credited e) => Add(LetterKind.Credited, told, e.Plan, $"credited-{told.Id}", null, new()
    {
        ["amount"] = Show(e.Amount),
        ["paid_on"] = Day(e.PaidAt),
        ["account_path"] = "/me/account",
    });

    void Place(Told told, Event.GotPlace e) => Add(LetterKind.Place, told, null, $"place-{told.Id}", null, new()
    {
        ["piece"] = e.Title,
        ["piece_path"] = $"/read/{e.Piece.Value}",
    });

    void Answered(Told told, Event.Answered e) => Add(LetterKind.Answered, told, null, $"answered-{e.Answer}", null, new()
    {
        ["lesson"] = e.Title,
        ["question"] = e.Question.Length > 300 ? e.Question[..300] + "…" : e.Question,
        ["answer"] = e.Text,
        ["by"] = told.By?.Name ?? Now.Site!.Name,
        ["lesson_path"] = $"/lessons/{e.Lesson.Value}#questions",
    });

    void TalkCared(Told told, Event.TalkCared e) => Add(LetterKind.TalkWord, told, null, $"talkword-{told.Id}", null, new()
    {
        ["care"] = e.What.ToString(),
        ["thread"] = e.Thread,
        ["words"] = e.Words,
        ["until"] = e.Until is { } until ? Day(until) : "",
        ["spaces_path"] = "/spaces",
    });

    void TeamWrote(Told told, Event.TeamWrote e) => Add(LetterKind.Message, told, null, $"message-{e.Message}", null, new()
    {
        ["message"] = e.Text,
        ["by"] = told.By?.Name ?? Now.Site!.Name,
        ["messages_path"] = "/me/messages",
    });

    void Session(Told told, Event.SessionNews e)
    {
        var local = Now.Calendar.Of(told.Member.ZoneId).Local(e.StartsAt);
        Add(LetterKind.Session, told, null, $"session-{told.Id}", null, new()
        {
            ["session"] = e.Title,
            ["when"] = local.ToString("dddd, d MMMM uuuu, HH:mm", Now.Culture),
            ["time"] = local.ToString("HH:mm", Now.Culture),
            ["what"] = e.What.ToString(),
            ["words"] = e.Words,
            ["session_number"] = e.Session.Value.ToString(System.Globalization.CultureInfo.InvariantCulture),
            ["session_path"] = $"/sessions/{e.Session.Value}",
        });
    }

    void ChallengeTurned(Told told, Event.ChallengeNews e)
    {
        var next = Now.Community.ChallengeById.TryGetValue(e.Challenge, out var challenge)
            ? Community.Challenges.After(Now, challenge, Now.Calendar.Date(told.At)) : null;
        Add(LetterKind.Challenge, told, null, $"challenge-{told.Id}", null, new()
        {
            ["challenge"] = e.Name,
            ["turn"] = e.What.ToString(),
            ["weeks"] = Say.Count(e.Weeks, "week"),
            ["met"] = Say.Count(e.Met, "week"),
            ["a_week"] = Say.Count(e.Aim, "time"),
            ["next"] = next?.Next.Name ?? "",
            ["next_day"] = next?.Next.StartsOn.ToString("d MMMM", Now.Culture) ?? "",
            ["challenge_path"] = $"/challenges/{e.Challenge.Value}",
        });
    }

    void Hour(Told told, Event.HourNews e)
    {
        var local = Now.Calendar.Of(told.Member.ZoneId).Local(e.StartsAt);
        string Number(long n) => n.ToString(System.Globalization.CultureInfo.InvariantCulture);
        Add(LetterKind.Session, told, null, $"hour-{told.Id}", null, new()
        {
            ["session"] = e.Title,
            ["when"] = local.ToString("dddd, d MMMM uuuu, HH:mm", Now.Culture),
            ["time"] = local.ToString("HH:mm", Now.Culture),
            ["what"] = e.What == HourNewsKind.Moved ? "HourMoved" : e.What.ToString(),
            ["words"] = e.Words,
            ["hour"] = Number(e.Hour),
            ["hour_starts"] = Number(e.StartsAt.ToUnixTimeSeconds()),
            ["hour_minutes"] = Number(e.Minutes),
            ["hour_sequence"] = Number(e.Sequence),
            ["hour_place"] = e.Place,
            ["session_path"] = $"/sessions/hours/{e.Series.Value}",
        });
    }

    void Marked(Told told, Event.Marked e) => Add(LetterKind.Marked, told, null, $"marked-{told.Id}", null, new()
    {
        ["sheet"] = e.Title,
        ["earned"] = $"{e.Earned} of {Say.Count(e.Points, "point")}",
        ["passed"] = e.Passed ? "yes" : "",
        ["by"] = told.By?.Name ?? Now.Site!.Name,
        ["lesson_path"] = $"/lessons/{e.Lesson.Value}",
    });

    /// <param name="plan">What it is about; null for none.</param>
    void Add(LetterKind kind, Told told, PlanId? plan, string key, long? link, Dictionary<string, string> fields)
    {
        if (plan is { } id) fields["plan"] = Now.PlanName(id);
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = kind,
            MemberId = told.Member.Id,
            ToAddress = told.Member.Email,
            ToName = told.Member.Name,
            Fields = fields,
            PlanId = plan,
            SignInLinkId = link,
            Key = key,
            CreatedAt = told.At,
        });
    }

    long Link(Told told, string path)
    {
        var link = new SignInLink
        {
            Id = ids.Next(),
            AccountId = told.Member.Id.Value,
            CreatedAt = told.At,
            ExpiresAt = told.At + LinkLasts,
            ReturnPath = path
        };
        db.SignInLinks.Add(link);
        return link.Id;
    }

    string Show(Money money) => money.Format(Now.Culture);
    string Day(Instant at) => Now.Calendar.Date(at).ToString("d MMMM uuuu", Now.Culture);
}
