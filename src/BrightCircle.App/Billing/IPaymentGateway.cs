using BrightCircle.Core;
using BrightCircle.Core.Billing;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>The card payment service. A real provider takes the Till's place by another implementation of this and a setting.</summary>
public interface IPaymentGateway
{
    /// <summary>Opens a hosted card page; null where the payment service gives no answer.</summary>
    Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct);
    /// <summary>What came of a hosted card page; null while nothing has, and where the payment service gives no answer.</summary>
    Task<SessionResult?> Result(string session, CancellationToken ct);
    /// <summary>Asks a stored card for money. Asking again with the same key moves no more money and gives the same answer.</summary>
    Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct);
    /// <summary>The approved charges of a time, as the payment service has them; null where it gives no answer.</summary>
    /// <param name="to">Exclusive.</param>
    Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct);
    /// <summary>Gives money back. The same key gives back once.</summary>
    /// <param name="at">The site's own time.</param>
    Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct);
    /// <summary>Says something to a bank that took a charge back.</summary>
    Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct);
    /// <summary>What went to the site's bank in a time, by the day it went; null where the payment service gives no answer.</summary>
    /// <param name="to">Exclusive.</param>
    Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct);
    /// <summary>Has a stored card forgotten: it can never be asked again. What was charged to it stays, and can be given back.</summary>
    /// <returns>Whether it is forgotten, now or before, or was never known; false where the payment service gives no answer.</returns>
    Task<bool> Forget(string cardToken, CancellationToken ct);
    /// <summary>Reads a callback: the signature first, and its content only where that is right and fresh.</summary>
    GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body);
}

public static class Gateways
{
    /// <summary>Asks for a charge that is written down. Where there is nothing to pay nobody is asked, and without a card nobody can be.</summary>
    public static async Task<ChargeResult> Ask(this IPaymentGateway gateway, Data.ChargeAsk ask, CancellationToken ct) =>
        ask.Amount.IsZero ? new ChargeResult.Answered(ChargeOutcome.Approved, "", null)
        : ask.CardToken.Length == 0 ? new ChargeResult.Answered(ChargeOutcome.DeclinedHard, "", "there is no card on file")
        : await gateway.Charge(new(ask.Key, ask.Amount, ask.CardToken, ask.Text, ask.At), ct);
}

/// <param name="Key">Idempotency key: the same key opens the same session.</param>
/// <param name="Amount">What is charged on the page; null to only keep a card.</param>
/// <param name="At">The site's own time, shown on the payment service's page.</param>
public sealed record SessionRequest(string Key, Money? Amount, string Text, string Email, string ReturnUrl, Instant At);

public sealed record OpenedSession(string Id, string Url);

/// <param name="ChargeRef">The charge made on the page; empty where only a card was kept.</param>
/// <param name="Taken">What the payment service says it took; null where it took nothing.</param>
/// <param name="GoodUntil">The last day the card is good for; null where the payment service doesn't say.</param>
public sealed record SessionResult(string Session, string ChargeRef, string CardToken, string CardLabel, Money? Taken, LocalDate? GoodUntil = null)
{
    public ChargeResult.Answered Charged => new(ChargeOutcome.Approved, ChargeRef, null, Taken);
}

/// <summary>A charge as the payment service has it.</summary>
/// <param name="Refunded">What of it was given back; what a bank took back isn't in it.</param>
public sealed record GatewayCharge(string Ref, Money Amount, Money Refunded, Instant At);

/// <summary>What the payment service sent to the site's bank.</summary>
/// <param name="Ref">As it stands on the bank's own list.</param>
/// <param name="From">The first day whose charges are in it.</param>
/// <param name="To">The day it went: the first whose charges aren't.</param>
/// <param name="Charges">The references of the charges in it.</param>
public sealed record GatewayPayout(string Ref, LocalDate From, LocalDate To, Money Gross, Money GivenBack, Money Fees, Money Net,
    IReadOnlyList<string> Charges);

/// <summary>A dispute as the payment service tells of it with a charge that was taken back.</summary>
/// <param name="AnswerDays">Within so many days it can be answered.</param>
public sealed record GatewayDispute(string Ref, string Reason, int AnswerDays);

public sealed record ChargeRequest(string Key, Money Amount, string CardToken, string Text, Instant At);

public abstract record ChargeResult
{
    private ChargeResult() { }
    /// <param name="Taken">What the payment service says it took; null where it didn't say.</param>
    public sealed record Answered(ChargeOutcome Outcome, string Ref, string? Refusal, Money? Taken = null) : ChargeResult;
    /// <summary>The payment service refuses the request itself (an unknown card, say): asking again is pointless.</summary>
    public sealed record NotTaken(string Why) : ChargeResult;
    /// <summary>No answer came; the money may have moved. Only asking again with the same key can tell.</summary>
    public sealed record Unknown(string Why) : ChargeResult;
}

public abstract record RefundResult
{
    private RefundResult() { }
    public sealed record Done(string Ref) : RefundResult;
    public sealed record Refused(string Why) : RefundResult;
    public sealed record Unknown(string Why) : RefundResult;
}

public abstract record GatewayCallback
{
    private GatewayCallback() { }
    public sealed record SessionCompleted(SessionResult Result) : GatewayCallback;
    /// <param name="Dispute">Where it can be answered; null where it can't.</param>
    public sealed record ChargedBack(string ChargeRef, Money Amount, GatewayDispute? Dispute = null) : GatewayCallback;
    /// <summary>A bank has decided a dispute.</summary>
    public sealed record Decided(string DisputeRef, bool Won) : GatewayCallback;
    /// <summary>The signature isn't right, or too old.</summary>
    public sealed record NotSigned : GatewayCallback;
    /// <summary>Signed, but it can't be understood.</summary>
    public sealed record Malformed : GatewayCallback;
    /// <summary>Something we don't act on.</summary>
    public sealed record Other : GatewayCallback;
}
