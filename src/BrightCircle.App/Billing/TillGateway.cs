using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using BrightCircle.App.Clock;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using NodaTime;

namespace BrightCircle.App.Billing;

public sealed class TillSettings
{
    public string Url { get; set; } = "";
    /// <summary>Shared with the Till, for signing callbacks.</summary>
    public string Secret { get; set; } = "";
    /// <summary>Where the Till sends callbacks.</summary>
    public string CallbackUrl { get; set; } = "";
    public int TimeoutSeconds { get; set; } = 4;
    /// <summary>Under which name this site is known there, where several use one.</summary>
    public string Shop { get; set; } = "";
}

/// <summary>Signs and checks callbacks: HMAC-SHA256 (RFC 2104, FIPS 180-4) over the timestamp, a full stop and the body, in lower-case hex.</summary>
public static class CallbackSignature
{
    /// <summary>Older or further ahead than this, a callback is refused, so that a copied one can't be played again later.</summary>
    public static Duration Freshness { get; } = Duration.FromMinutes(5);

    public static string Sign(string secret, string timestamp, ReadOnlySpan<byte> body)
    {
        var prefix = Encoding.UTF8.GetBytes(timestamp + ".");
        var signed = new byte[prefix.Length + body.Length];
        prefix.CopyTo(signed, 0);
        body.CopyTo(signed.AsSpan(prefix.Length));
        return Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(secret), signed));
    }

    public static bool IsRight(string secret, string? timestamp, string? signature, ReadOnlySpan<byte> body, Instant now)
    {
        if (!long.TryParse(timestamp, out var seconds) || seconds is < 0 or > 100_000_000_000 || signature is null) return false;
        var age = now - Instant.FromUnixTimeSeconds(seconds);
        if (age > Freshness || age < -Freshness) return false;
        return CryptographicOperations.FixedTimeEquals(
            Encoding.ASCII.GetBytes(Sign(secret, timestamp!, body)), Encoding.ASCII.GetBytes(signature.ToLowerInvariant()));
    }
}

/// <summary>Talks to the Till that ships with the product.</summary>
public sealed class TillGateway(HttpClient http, TillSettings settings, IWallClock wall) : IPaymentGateway
{
    static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    // What comes from outside is cut to what is kept of it.
    const int RefLength = 80, LabelLength = 40, RefusalLength = 200;

    public async Task<OpenedSession?> Open(SessionRequest r, CancellationToken ct)
    {
        try
        {
            using var response = await Post("/sessions", r.Key, new
            {
                amount = r.Amount?.Minor,
                currency = r.Amount?.Currency.Code,
                text = r.Text,
                email = r.Email,
                returnUrl = r.ReturnUrl,
                callbackUrl = settings.CallbackUrl,
                at = r.At.ToString(),
            }, ct);
            if (!response.IsSuccessStatusCode) return null;
            return await response.Content.ReadFromJsonAsync<SessionBody>(Json, ct) is { Id.Length: > 0 and <= RefLength, Url.Length: > 0 } body
                ? new(body.Id, body.Url) : null;
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return null;
        }
    }

    public async Task<SessionResult?> Result(string session, CancellationToken ct)
    {
        try
        {
            using var response = await http.GetAsync($"/sessions/{Uri.EscapeDataString(session)}", ct);
            return response.IsSuccessStatusCode ? Completed(await response.Content.ReadFromJsonAsync<SessionBody>(Json, ct)) : null;
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return null;
        }
    }

    static SessionResult? Completed(SessionBody? body) => body is { State: "completed", Id.Length: > 0 and <= RefLength }
        ? new(body.Id, Ref(body.Charge), Ref(body.Card), Bounded.To(body.CardLabel, LabelLength), Taken(body.Amount, body.Currency),
            NodaTime.Text.YearMonthPattern.Iso.Parse(body.Expires ?? "") is { Success: true, Value: var last }
                ? last.OnDayOfMonth(1).With(DateAdjusters.EndOfMonth)
                : null) : null;

    /// <summary>A reference is used to ask again, so a longer one than is kept isn't cut but refused.</summary>
    static string Ref(string? given) => given is null ? "" : given.Length <= RefLength ? given
        : throw new InvalidDataException("The payment service gave a reference that is too long.");

    static Money? Taken(long? minor, string? currency) => minor is { } m && Currency.IsKnown(currency) ? new(m, new(currency!)) : null;

    public async Task<ChargeResult> Charge(ChargeRequest r, CancellationToken ct)
    {
        try
        {
            using var response = await Post("/charges", r.Key,
                new { amount = r.Amount.Minor, currency = r.Amount.Currency.Code, card = r.CardToken, text = r.Text, at = r.At.ToString() }, ct);
            var status = (int)response.StatusCode;
            // 409 and 429 are answers for later; any other refusal of the request will be given again however often it is asked.
            if (status is >= 500 or 408 or 409 or 429) return new ChargeResult.Unknown($"The payment service answered {status}.");
            if (!response.IsSuccessStatusCode) return new ChargeResult.NotTaken(Bounded.To(await response.Content.ReadAsStringAsync(ct), RefusalLength));
            var body = await response.Content.ReadFromJsonAsync<ChargeBody>(Json, ct) ?? throw new InvalidDataException("The Till answered nothing.");
            ChargeOutcome? outcome = body.Outcome switch
            {
                "approved" => ChargeOutcome.Approved,
                "declined_soft" => ChargeOutcome.DeclinedSoft,
                "declined_hard" => ChargeOutcome.DeclinedHard,
                "needs_cardholder" => ChargeOutcome.NeedsCardholder,
                _ => null,
            };
            return outcome is { } o
                ? new ChargeResult.Answered(o, Ref(body.Id), body.Reason is null ? null : Bounded.To(body.Reason, RefusalLength),
                    Taken(body.Amount, body.Currency))
                : new ChargeResult.Unknown($"The payment service answered “{Bounded.To(body.Outcome, 40)}”.");
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return new ChargeResult.Unknown("The payment service gave no answer in time.");
        }
    }

    public async Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct)
    {
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, $"/charges?from={from}&to={to}");
            request.Headers.Add("Till-Shop", settings.Shop);
            using var response = await http.SendAsync(request, ct);
            if (!response.IsSuccessStatusCode) return null;
            var body = await response.Content.ReadFromJsonAsync<List<ListedBody>>(Json, ct) ?? [];
            return [.. body.Where(c => c.Outcome == "approved" && Currency.IsKnown(c.Currency))
                .Select(c => new GatewayCharge(Ref(c.Id), new(c.Amount, new(c.Currency)),
                new(c.Refunded, new(c.Currency)), NodaTime.Text.InstantPattern.ExtendedIso.Parse(c.ShopAt ?? "") is { Success: true } at ? at.Value
                    : Instant.FromDateTimeOffset(c.At)))];
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return null;
        }
    }

    public async Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct)
    {
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, $"/payouts?from={from}&to={to}");
            request.Headers.Add("Till-Shop", settings.Shop);
            using var response = await http.SendAsync(request, ct);
            if (!response.IsSuccessStatusCode) return null;
            static LocalDate? Day(string? text) => NodaTime.Text.LocalDatePattern.Iso.Parse(text ?? "") is { Success: true } day ? day.Value : null;
            var payouts = new List<GatewayPayout>();
            foreach (var p in await response.Content.ReadFromJsonAsync<List<PayoutBody>>(Json, ct) ?? [])
                if (Currency.IsKnown(p.Currency) && Day(p.From) is { } first && Day(p.To) is { } last && new Currency(p.Currency) is var c)
                    payouts.Add(new(Bounded.To(p.Id, RefLength), first, last, new(p.Gross, c), new(p.GivenBack, c), new(p.Fees, c), new(p.Net, c), p.Charges
                        ?? []));
            return payouts;
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return null;
        }
    }

    public async Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct)
    {
        try
        {
            using var response = await Post($"/disputes/{Uri.EscapeDataString(disputeRef)}/answer", key, new { text }, ct);
            if ((int)response.StatusCode >= 500) return new RefundResult.Unknown($"The payment service answered {(int)response.StatusCode}.");
            if (response.IsSuccessStatusCode) return new RefundResult.Done(disputeRef);
            var body = await response.Content.ReadFromJsonAsync<RefundBody>(Json, ct);
            return new RefundResult.Refused(body?.Reason is { } why ? Bounded.To(why, RefusalLength) : "The payment service refused it.");
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return new RefundResult.Unknown("The payment service gave no answer in time.");
        }
    }

    public async Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct)
    {
        try
        {
            using var response = await Post("/refunds", key, new
            {
                charge = chargeRef,
                amount = amount.Minor,
                currency = amount.Currency.Code,
                at = at.ToString()
            },
                ct);
            if ((int)response.StatusCode >= 500) return new RefundResult.Unknown($"The payment service answered {(int)response.StatusCode}.");
            var body = await response.Content.ReadFromJsonAsync<RefundBody>(Json, ct);
            return response.IsSuccessStatusCode && body?.Id is { } id ? new RefundResult.Done(Ref(id))
                : new RefundResult.Refused(body?.Reason is { } why ? Bounded.To(why, RefusalLength) : "The payment service refused it.");
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return new RefundResult.Unknown("The payment service gave no answer in time.");
        }
    }

    public async Task<bool> Forget(string cardToken, CancellationToken ct)
    {
        try
        {
            using var response = await http.DeleteAsync($"/cards/{Uri.EscapeDataString(cardToken)}", ct);
            return response.IsSuccessStatusCode || response.StatusCode is System.Net.HttpStatusCode.NotFound or System.Net.HttpStatusCode.Gone;
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return false;
        }
    }

    public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body)
    {
        if (!CallbackSignature.IsRight(settings.Secret, timestamp, signature, body, wall.Moment)) return new GatewayCallback.NotSigned();
        try
        {
            var callback = JsonSerializer.Deserialize<CallbackBody>(body, Json);
            return callback switch
            {
                { Event: "session.completed", Session: { } s } => Completed(s) is { } done ? new GatewayCallback.SessionCompleted(done)
                    : new GatewayCallback.Malformed(),
                { Event: "charge.charged_back", Charge: { } c } => c.Id.Length is > 0 and <= RefLength && Taken(c.Amount, c.Currency) is { Minor: > 0 } amount
                    ? new GatewayCallback.ChargedBack(c.Id, amount, callback.Dispute is { Id.Length: > 0 and <= RefLength } d
                        ? new(d.Id, Bounded.To(d.Reason ?? "", RefusalLength), Math.Clamp(d.AnswerDays, 0, 365)) : null) : new GatewayCallback.Malformed(),
                { Event: "dispute.decided", Dispute: { Id.Length: > 0 and <= RefLength, Won: { } won } decided } =>
                    new GatewayCallback.Decided(decided.Id, won),
                { Event.Length: > 0 } => new GatewayCallback.Other(),
                _ => new GatewayCallback.Malformed(),
            };
        }
        catch (Exception e) when (e is JsonException or InvalidDataException)
        {
            return new GatewayCallback.Malformed();
        }
    }

    static bool IsSilence(Exception e, CancellationToken ct) =>
        e is HttpRequestException or IOException or JsonException or NotSupportedException or Polly.ExecutionRejectedException
            || e is OperationCanceledException && !ct.IsCancellationRequested;

    async Task<HttpResponseMessage> Post(string path, string key, object body, CancellationToken ct)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body, options: Json) };
        request.Headers.Add("Idempotency-Key", key);
        request.Headers.Add("Till-Shop", settings.Shop);
        return await http.SendAsync(request, ct);
    }

    sealed record SessionBody(string Id, string Url, string State, string? Charge, string? Card, string? CardLabel, long? Amount, string? Currency,
        string? Expires);
    sealed record DisputeBody(string Id, string? Reason, int AnswerDays, bool? Won);
    sealed record PayoutBody(string Id, string? From, string? To, string Currency, long Gross, long GivenBack, long Fees, long Net, string[]? Charges);
    sealed record ChargeBody(string Id, string Outcome, string? Reason, long Amount, string Currency);
    sealed record ListedBody(string Id, string Outcome, long Amount, string Currency, long Refunded, string? ShopAt, DateTimeOffset At);
    sealed record RefundBody(string? Id, string? Reason);
    sealed record CallbackBody(string Event, SessionBody? Session, ChargeBody? Charge, DisputeBody? Dispute);
}
