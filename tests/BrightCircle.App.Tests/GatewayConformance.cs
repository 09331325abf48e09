using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using BrightCircle.App.Billing;
using BrightCircle.App.Clock;
using BrightCircle.App.Demo;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>
/// What the product relies on of a payment service. An adapter for another one inherits this, says how cards are had there for tests, and passes; see
/// docs/payments.md.
/// </summary>
public abstract class GatewayConformance
{
    protected abstract IPaymentGateway Gateway { get; }
    /// <summary>A stored card that pays; one without funds; one that is lost; one whose bank wants the cardholder; one whose first answer doesn't come in
    /// time.</summary>
    protected abstract Task<string> Card(string kind);
    /// <summary>Somebody pays on the hosted page.</summary>
    protected abstract Task PayOnPage(string sessionUrl);
    /// <summary>A callback as the service sends it, with its signature, and what tells when it was signed.</summary>
    protected abstract (string Timestamp, string Signature, byte[] Body) Callback(string body, Instant at);
    /// <summary>The body of a callback about a charge that a bank took back.</summary>
    /// <param name="dispute">The reference under which it can be answered; null where it can't.</param>
    protected abstract string ChargedBackBody(string chargeRef, Money amount, string? dispute = null);
    /// <summary>The body of a callback about what a bank decided.</summary>
    protected abstract string DecidedBody(string dispute, bool won);
    /// <summary>A cardholder's bank takes a charge back, at the service.</summary>
    /// <returns>The dispute's reference.</returns>
    protected abstract Task<string> TakeBack(string chargeRef);

    static readonly Money Eighteen = new(1800, new("GBP"));
    static string NewKey(string kind) => $"{kind}-{Guid.NewGuid():N}";
    static Instant Moment => SystemClock.Instance.GetCurrentInstant();

    async Task<ChargeResult> Charge(string key, string card, Money? amount = null) =>
        await Gateway.Charge(new(key, amount ?? Eighteen, card, "Conformance", Moment), default);

    [Fact]
    public async Task The_same_key_charges_once_and_answers_alike()
    {
        var (key, card) = (NewKey("charge"), await Card("pays"));
        var first = Assert.IsType<ChargeResult.Answered>(await Charge(key, card));
        Assert.Equal((ChargeOutcome.Approved, Eighteen), (first.Outcome, first.Taken!.Value));
        Assert.NotEmpty(first.Ref);
        var all = await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => Charge(key, card)));
        Assert.All(all, again => Assert.Equal(first, again));
        Assert.NotEqual(first.Ref, ((ChargeResult.Answered)await Charge(NewKey("charge"), card)).Ref);
    }

    [Theory]
    [InlineData("no funds", ChargeOutcome.DeclinedSoft)]
    [InlineData("lost", ChargeOutcome.DeclinedHard)]
    [InlineData("cardholder", ChargeOutcome.NeedsCardholder)]
    public async Task A_refusal_says_of_which_kind_it_is_and_takes_nothing(string kind, ChargeOutcome outcome)
    {
        var key = NewKey("charge");
        var card = await Card(kind);
        var refused = Assert.IsType<ChargeResult.Answered>(await Charge(key, card));
        Assert.Equal(outcome, refused.Outcome);
        Assert.False(string.IsNullOrEmpty(refused.Refusal));
        // Asked again under its key it is the same refusal, not another try.
        Assert.Equal(refused, await Charge(key, card));
    }

    [Fact]
    public async Task What_can_never_be_taken_is_told_apart_from_no_answer() =>
        Assert.IsType<ChargeResult.NotTaken>(await Charge(NewKey("charge"), "a-card-nobody-kept"));

    [Fact]
    public async Task A_card_that_is_forgotten_is_never_asked_again_and_what_it_paid_can_go_back()
    {
        var (key, card) = (NewKey("charge"), await Card("pays"));
        var before = Assert.IsType<ChargeResult.Answered>(await Charge(key, card));
        Assert.True(await Forgotten(card));
        Assert.True(await Forgotten(card));
        Assert.IsType<ChargeResult.NotTaken>(await Charge(NewKey("charge"), card));
        // What was asked before it was forgotten is still answered alike.
        Assert.Equal(before, await Charge(key, card));
        Assert.IsType<RefundResult.Done>(await Gateway.Refund(NewKey("refund"), before.Ref, Eighteen, Moment, default));
        Assert.True(await Forgotten("a-card-nobody-kept"));
    }

    /// <summary>Where no answer comes it is asked again, as the house does: another test can just have broken the line.</summary>
    async Task<bool> Forgotten(string card)
    {
        for (var tries = 0; tries < 5; tries++)
            if (await Gateway.Forget(card, default)) return true;
        return false;
    }

    [Fact]
    public async Task An_answer_that_is_lost_is_had_by_asking_again_and_the_money_moved_once()
    {
        var (key, card) = (NewKey("charge"), await Card("late"));
        Assert.IsType<ChargeResult.Unknown>(await Charge(key, card));
        var from = Moment - Duration.FromMinutes(5);
        var answered = Assert.IsType<ChargeResult.Answered>(await Charge(key, card));
        Assert.Equal(ChargeOutcome.Approved, answered.Outcome);
        Assert.Single((await Gateway.List(from, Moment + Duration.FromMinutes(5), default))!, c => c.Ref == answered.Ref);
    }

    [Fact]
    public async Task Money_goes_back_once_for_each_key_and_never_more_than_there_is()
    {
        var charge = (ChargeResult.Answered)await Charge(NewKey("charge"), await Card("pays"));
        var key = NewKey("refund");
        Assert.IsType<RefundResult.Done>(await Gateway.Refund(key, charge.Ref, new(1000, Eighteen.Currency), Moment, default));
        Assert.IsType<RefundResult.Done>(await Gateway.Refund(key, charge.Ref, new(1000, Eighteen.Currency), Moment, default));
        Assert.IsType<RefundResult.Refused>(await Gateway.Refund(NewKey("refund"), charge.Ref, new(801, Eighteen.Currency), Moment, default));
        Assert.IsType<RefundResult.Done>(await Gateway.Refund(NewKey("refund"), charge.Ref, new(800, Eighteen.Currency), Moment, default));
        Assert.IsType<RefundResult.Refused>(await Gateway.Refund(NewKey("refund"), "a-charge-nobody-made", new(1, Eighteen.Currency), Moment, default));
        var listed = (await Gateway.List(Moment - Duration.FromMinutes(5), Moment + Duration.FromMinutes(5), default))!.Single(c => c.Ref == charge.Ref);
        Assert.Equal((Eighteen, Eighteen), (listed.Amount, listed.Refunded));
    }

    [Fact]
    public async Task A_page_is_opened_once_for_each_key_and_tells_what_came_of_it()
    {
        var request = new SessionRequest(NewKey("page"), Eighteen, "Conformance", "somebody@post.example", "http://site.example/back", Moment);
        var opened = (await Gateway.Open(request, default))!;
        Assert.Equal(opened, await Gateway.Open(request, default));
        Assert.Null(await Gateway.Result(opened.Id, default));
        await PayOnPage(opened.Url);
        var result = (await Gateway.Result(opened.Id, default))!;
        Assert.Equal((opened.Id, Eighteen), (result.Session, result.Taken!.Value));
        Assert.NotEmpty(result.ChargeRef);
        // The card that was kept can be asked later.
        Assert.Equal(ChargeOutcome.Approved, ((ChargeResult.Answered)await Charge(NewKey("charge"), result.CardToken)).Outcome);
        Assert.Null(await Gateway.Result("a-page-nobody-opened", default));
    }

    [Fact]
    public async Task A_page_may_only_keep_a_card()
    {
        var opened = (await Gateway.Open(new(NewKey("page"), null, "Conformance", "somebody@post.example", "http://site.example/back", Moment), default))!;
        await PayOnPage(opened.Url);
        var result = (await Gateway.Result(opened.Id, default))!;
        Assert.Equal(("", null), (result.ChargeRef, result.Taken));
        Assert.NotEmpty(result.CardToken);
    }

    [Fact]
    public async Task What_a_bank_took_back_can_be_answered_and_what_it_did_not_can_not()
    {
        var charge = (ChargeResult.Answered)await Charge(NewKey("charge"), await Card("pays"));
        var dispute = await TakeBack(charge.Ref);
        var key = NewKey("answer");
        Assert.IsType<RefundResult.Done>(await Gateway.Answer(key, dispute, "They used it every day.", default));
        Assert.IsType<RefundResult.Done>(await Gateway.Answer(key, dispute, "They used it every day.", default));
        Assert.IsType<RefundResult.Refused>(await Gateway.Answer(NewKey("answer"), "a-dispute-nobody-has", "No.", default));
        // A bank that took it back isn't the shop giving it back: nothing more goes back by itself.
        var listed = (await Gateway.List(Moment - Duration.FromMinutes(5), Moment + Duration.FromMinutes(5), default))!.Single(c => c.Ref == charge.Ref);
        Assert.Equal(Money.Zero(Eighteen.Currency), listed.Refunded);
    }

    [Fact]
    public async Task A_payout_is_what_was_taken_less_what_went_back_less_the_fees()
    {
        // At a moment far enough back that its payout has gone.
        var then = Moment - Duration.FromDays(15);
        var card = await Card("pays");
        var charges = new List<string>();
        foreach (var i in Enumerable.Range(0, 3))
            charges.Add(((ChargeResult.Answered)await Gateway.Charge(new(NewKey("charge"), Eighteen, card, "Conformance", then), default)).Ref);
        await Gateway.Refund(NewKey("refund"), charges[0], new(500, Eighteen.Currency), then, default);
        var payout = Assert.Single((await Gateway.Payouts(then - Duration.FromDays(1), Moment, default))!, p => p.Charges.Contains(charges[0]));
        Assert.Equal(charges.Order(StringComparer.Ordinal), payout.Charges.Order(StringComparer.Ordinal));
        Assert.Equal((5400, 500), (payout.Gross.Minor, payout.GivenBack.Minor));
        Assert.True(payout.Fees.Minor >= 0);
        Assert.Equal(payout.Gross - payout.GivenBack - payout.Fees, payout.Net);
        // What is taken now hasn't gone to the bank yet.
        var fresh = (ChargeResult.Answered)await Charge(NewKey("charge"), card);
        Assert.DoesNotContain((await Gateway.Payouts(then - Duration.FromDays(1), Moment, default))!, p => p.Charges.Contains(fresh.Ref));
    }

    [Fact]
    public void A_callback_counts_only_with_its_signature_and_while_it_is_fresh()
    {
        var body = ChargedBackBody("charge-of-somebody", Eighteen);
        var (time, signature, bytes) = Callback(body, Moment);
        Assert.Equal(new GatewayCallback.ChargedBack("charge-of-somebody", Eighteen), Gateway.Read(time, signature, bytes));
        var (answerTime, answerSign, answerable) = Callback(ChargedBackBody("charge-of-somebody", Eighteen, "dispute-1"), Moment);
        var told = Assert.IsType<GatewayCallback.ChargedBack>(Gateway.Read(answerTime, answerSign, answerable));
        Assert.Equal("dispute-1", told.Dispute!.Ref);
        Assert.InRange(told.Dispute.AnswerDays, 1, 365);
        foreach (var won in new[] { true, false })
        {
            var (decidedTime, decidedSign, decided) = Callback(DecidedBody("dispute-1", won), Moment);
            Assert.Equal(new GatewayCallback.Decided("dispute-1", won), Gateway.Read(decidedTime, decidedSign, decided));
        }
        Assert.IsType<GatewayCallback.NotSigned>(Gateway.Read(time, signature, Encoding.UTF8.GetBytes(body.Replace("1800", "1801", StringComparison.Ordinal))));
        Assert.IsType<GatewayCallback.NotSigned>(Gateway.Read(time, null, bytes));
        Assert.IsType<GatewayCallback.NotSigned>(Gateway.Read(null, signature, bytes));
        var (old, oldSignature, oldBytes) = Callback(body, Moment - Duration.FromHours(1));
        Assert.IsType<GatewayCallback.NotSigned>(Gateway.Read(old, oldSignature, oldBytes));
        var (odd, oddSignature, oddBytes) = Callback("no json", Moment);
        Assert.IsType<GatewayCallback.Malformed>(Gateway.Read(odd, oddSignature, oddBytes));
    }
}

/// <summary>The Till that ships with the product passes.</summary>
public sealed class TillConformance : GatewayConformance, IDisposable
{
    readonly HttpClient http;
    readonly DemoTill till;

    public TillConformance()
    {
        TestServers.StartStandIns();
        http = new() { BaseAddress = new(TestServers.Till), Timeout = TimeSpan.FromSeconds(1) };
        till = new(TestServers.Till, TestServers.Postbox);
        Gateway = new TillGateway(http, new() { Url = TestServers.Till, Secret = TestServers.Secret, Shop = $"conformance-{Guid.NewGuid():N}" },
            new WallClock());
    }

    protected override IPaymentGateway Gateway { get; }

    protected override async Task<string> Card(string kind)
    {
        var number = kind switch
        {
            "pays" => DemoTill.Approves,
            "no funds" => DemoTill.FailsLater,
            "lost" => DemoTill.Lost,
            "cardholder" => DemoTill.NeedsCardholder,
            "late" => DemoTill.TimesOut,
            _ => throw new ArgumentOutOfRangeException(nameof(kind)),
        };
        using var other = new HttpClient();
        var made = await (await other.PostAsJsonAsync(TestServers.Till + "/control/cards", new { number })).Content.ReadFromJsonAsync<JsonElement>();
        var token = made.GetProperty("token").GetString()!;
        // The one that fails later has paid once.
        if (kind is "no funds") await Gateway.Charge(new($"first-{Guid.NewGuid():N}", new(100, new("GBP")), token, "",
            SystemClock.Instance.GetCurrentInstant()), default);
        return token;
    }

    protected override Task PayOnPage(string sessionUrl) => till.Pay(sessionUrl, DemoTill.Approves);

    protected override (string, string, byte[]) Callback(string body, Instant at)
    {
        var (time, bytes) = (at.ToUnixTimeSeconds().ToString(System.Globalization.CultureInfo.InvariantCulture), Encoding.UTF8.GetBytes(body));
        return (time, CallbackSignature.Sign(TestServers.Secret, time, bytes), bytes);
    }

    protected override Task<string> TakeBack(string chargeRef) => till.TakeBack(chargeRef);

    protected override string DecidedBody(string dispute, bool won) => JsonSerializer.Serialize(new
    {
        @event = "dispute.decided",
        dispute = new { id = dispute, won }
    });

    protected override string ChargedBackBody(string chargeRef, Money amount, string? dispute = null) =>
        JsonSerializer.Serialize(new
        {
            dispute = dispute is null ? null : new { id = dispute, reason = "unknown to the cardholder", answerDays = 10 },
            @event = "charge.charged_back",
            charge = new
            {
                id = chargeRef,
                outcome = "approved",
                amount = amount.Minor,
                currency = amount.Currency.Code
            }
        });

    public void Dispose()
    {
        till.Dispose();
        http.Dispose();
    }
}
