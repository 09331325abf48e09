using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using BrightCircle.App.House;
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
        return CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(Sign(secret, timestamp!, body)), Encoding.ASCII.GetBytes(signature.ToLowerInvariant()));
    }
}

/// <summary>Talks to the Till that ships with the product.</summary>
public sealed class TillGateway(HttpClient http, TillSettings settings, IWallClock wall) : IPaymentGateway
{
    static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    public async Task<OpenedSession> Open(SessionRequest r, CancellationToken ct)
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
        response.EnsureSuccessStatusCode();
        var body = await response.Content.ReadFromJsonAsync<SessionBody>(Json, ct) ?? throw new InvalidDataException("The Till answered nothing.");
        return new(body.Id, body.Url);
    }

    public async Task<SessionResult?> Result(string session, CancellationToken ct)
    {
        using var response = await http.GetAsync($"/sessions/{Uri.EscapeDataString(session)}", ct);
        response.EnsureSuccessStatusCode();
        var body = await response.Content.ReadFromJsonAsync<SessionBody>(Json, ct);
        return body is { State: "completed" } ? new(body.Id, body.Charge ?? "", body.Card ?? "", body.CardLabel ?? "") : null;
    }

    public async Task<ChargeResult> Charge(ChargeRequest r, CancellationToken ct)
    {
        try
        {
            using var response = await Post("/charges", r.Key, new { amount = r.Amount.Minor, currency = r.Amount.Currency.Code, card = r.CardToken, text = r.Text, at = r.At.ToString() }, ct);
            if ((int)response.StatusCode >= 500) return new ChargeResult.Unknown($"The payment service answered {(int)response.StatusCode}.");
            if (!response.IsSuccessStatusCode) throw new InvalidOperationException($"The payment service doesn't take this charge: {await response.Content.ReadAsStringAsync(ct)}");
            var body = await response.Content.ReadFromJsonAsync<ChargeBody>(Json, ct) ?? throw new InvalidDataException("The Till answered nothing.");
            return new ChargeResult.Answered(body.Outcome switch
            {
                "approved" => ChargeOutcome.Approved,
                "declined_soft" => ChargeOutcome.DeclinedSoft,
                "declined_hard" => ChargeOutcome.DeclinedHard,
                "needs_cardholder" => ChargeOutcome.NeedsCardholder,
                _ => throw new InvalidDataException($"The Till answered “{body.Outcome}”."),
            }, body.Id, body.Reason);
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return new ChargeResult.Unknown("The payment service gave no answer in time.");
        }
    }

    public async Task<RefundResult> Refund(string key, string chargeRef, Money amount, CancellationToken ct)
    {
        try
        {
            using var response = await Post("/refunds", key, new { charge = chargeRef, amount = amount.Minor, currency = amount.Currency.Code }, ct);
            if ((int)response.StatusCode >= 500) return new RefundResult.Unknown($"The payment service answered {(int)response.StatusCode}.");
            var body = await response.Content.ReadFromJsonAsync<RefundBody>(Json, ct);
            return response.IsSuccessStatusCode && body?.Id is { } id ? new RefundResult.Done(id) : new RefundResult.Refused(body?.Reason ?? "The payment service refused it.");
        }
        catch (Exception e) when (IsSilence(e, ct))
        {
            return new RefundResult.Unknown("The payment service gave no answer in time.");
        }
    }

    public GatewayCallback? Read(string? timestamp, string? signature, ReadOnlySpan<byte> body)
    {
        if (!CallbackSignature.IsRight(settings.Secret, timestamp, signature, body, wall.Now)) return null;
        var c = JsonSerializer.Deserialize<CallbackBody>(body, Json);
        return c switch
        {
            { Event: "session.completed", Session: { } s } => new GatewayCallback.SessionCompleted(new(s.Id, s.Charge ?? "", s.Card ?? "", s.CardLabel ?? "")),
            { Event: "charge.charged_back", Charge: { } charge } => new GatewayCallback.ChargedBack(charge.Id, new(charge.Amount, new(charge.Currency))),
            null => null,
            _ => new GatewayCallback.Other(),
        };
    }

    static bool IsSilence(Exception e, CancellationToken ct) =>
        e is HttpRequestException or IOException || e is TaskCanceledException && !ct.IsCancellationRequested;

    async Task<HttpResponseMessage> Post(string path, string key, object body, CancellationToken ct)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body, options: Json) };
        request.Headers.Add("Idempotency-Key", key);
        return await http.SendAsync(request, ct);
    }

    sealed record SessionBody(string Id, string Url, string State, string? Charge, string? Card, string? CardLabel);
    sealed record ChargeBody(string Id, string Outcome, string? Reason, long Amount, string Currency);
    sealed record RefundBody(string? Id, string? Reason);
    sealed record CallbackBody(string Event, SessionBody? Session, ChargeBody? Charge);
}
