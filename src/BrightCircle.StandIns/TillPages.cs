using System.Globalization;
using System.Net;

namespace BrightCircle.StandIns;

/// <summary>The Till's web side: its interface for shops, the hosted card page, and its own page of charges.</summary>
public static class TillPages
{
    sealed record OpenBody(long? Amount, string? Currency, string? Text, string? Email, string? ReturnUrl, string? CallbackUrl, string? At);
    sealed record ChargeBody(long Amount, string Currency, string Card, string? Text, string? At, string? CallbackUrl);
    sealed record RefundBody(string Charge, long Amount, string? At);
    sealed record CardBody(string Number, string? Expires);
    sealed record AnswerBody(string? Text);
    sealed record DecideBody(bool Won);
    sealed record ReachBody(string? Shop, string? Mode, int? Seconds);
    sealed record ModeBody(CallbackMode Mode, int? LateSeconds);

    public static void Map(WebApplication app, TillState till, Callbacks callbacks, StandInOptions options)
    {
        // How a bad day at the payment service looks: every answer late, or none at all.
        app.Use(async (http, next) =>
        {
            if (http.Request.Path.Value is { } path && path != "/" && !path.StartsWith("/control", StringComparison.Ordinal)
                && path is not ("/health" or "/reach"))
            {
                var (mode, seconds) = reach.GetValueOrDefault(Shop(http), Reached);
                if (mode == ReachMode.Away)
                {
                    http.Abort();
                    return;
                }
                if (mode == ReachMode.Slow) await Task.Delay(TimeSpan.FromSeconds(seconds), http.RequestAborted);
            }
            await next();
        });
        app.UseRouting();

        app.MapPost("/sessions", (HttpContext http, OpenBody b) =>
        {
            if (Key(http) is not { } key) return MissingKey();
            if (b.Amount is <= 0 || b.Amount is not null && b.Currency is null)
                return Results.UnprocessableEntity(new { reason = "an amount is positive and has a currency" });
            return Results.Ok(Show(till.Open(key, b.Amount, b.Currency, b.Text ?? "", b.Email ?? "", b.ReturnUrl ?? "", b.CallbackUrl ?? "", b.At,
                Shop(http)), http));
        });
        app.MapGet("/sessions/{id}", (HttpContext http, string id) => till.Session(id) is { } s ? Results.Ok(Show(s, http)) : Results.NotFound());
        app.MapPost("/charges", async (HttpContext http, ChargeBody b) =>
        {
            if (Key(http) is not { } key) return MissingKey();
            if (b.Amount <= 0) return Results.UnprocessableEntity(new { reason = "an amount is positive" });
            var (charge, isNew, behaviour) = till.Charge(key, b.Card, b.Amount, b.Currency, b.Text ?? "", b.At, b.CallbackUrl ?? options.DefaultCallback,
                Shop(http));
            if (charge is null) return Results.UnprocessableEntity(new { reason = "no such card" });
            if (charge.Amount != b.Amount || charge.Card != b.Card) return Results.UnprocessableEntity(new { reason = "this key was used for another charge" });
            // The money has moved; the answer hasn't come. Whoever asks again with the same key gets it.
            if (isNew && behaviour == Behaviour.TimesOut) await Task.Delay(options.TimeOut, http.RequestAborted);
            return Results.Ok(charge);
        });
        // A shop's own list, by the shop's own time: what its books are compared with.
        app.MapGet("/charges", (HttpContext http, DateTimeOffset from, DateTimeOffset to) => till.Charges()
            .Where(c => c.Shop == Shop(http) && (DateTimeOffset.TryParse(c.ShopAt, System.Globalization.CultureInfo.InvariantCulture, out var at) ? at
                : c.At) is var when
                && when >= from && when < to));
        app.MapPost("/refunds", (HttpContext http, RefundBody b) =>
        {
            if (Key(http) is not { } key) return MissingKey();
            var (refund, refusal) = till.Refund(key, b.Charge, b.Amount, b.At);
            return refund is not null ? Results.Ok(refund) : Results.UnprocessableEntity(new { reason = refusal });
        });

        app.MapDelete("/cards/{token}", (string token) => till.Forget(token) ? Results.NoContent() : Results.NotFound());

        app.MapPost("/disputes/{id}/answer", (HttpContext http, string id, AnswerBody b) =>
        {
            if (Key(http) is null) return MissingKey();
            return string.IsNullOrWhiteSpace(b.Text) ? Results.UnprocessableEntity(new { reason = "say something" })
                : till.Answer(id, b.Text) is { } why ? Results.UnprocessableEntity(new { reason = why }) : Results.NoContent();
        });
        app.MapGet("/payouts", (HttpContext http, DateTimeOffset from, DateTimeOffset to) => till.Payouts(Shop(http), from, to));

        app.MapPost("/control/reach", (ReachBody b) =>
        {
            if (Mode(b.Mode) is not { } mode || b.Seconds is < 0 or > 60) return Results.UnprocessableEntity(new { reason = "no such way to be reached" });
            reach[b.Shop ?? ""] = (mode, b.Seconds ?? 5);
            return Results.NoContent();
        });
        app.MapPost("/reach", async (HttpContext http) =>
        {
            if (Mode((await http.Request.ReadFormAsync())["mode"]) is not { } mode) return Results.BadRequest("No such way to be reached.");
            reach[""] = (mode, 5);
            return Results.Redirect("/");
        });
        app.MapPost("/control/disputes/{id}/decide", async (string id, DecideBody b) =>
        {
            if (till.Decide(id, b.Won) is not { } decided) return Results.UnprocessableEntity(new { reason = "decided already" });
            await callbacks.Decided(decided.Charge, decided.Dispute);
            return Results.NoContent();
        });
        app.MapPost("/disputes/{id}/decide", async (HttpContext http, string id) =>
        {
            if (till.Decide(id, (await http.Request.ReadFormAsync())["won"] == "yes") is { } decided) _ = callbacks.Decided(decided.Charge, decided.Dispute);
            return Results.Redirect("/");
        });
        app.MapGet("/control/disputes", () => till.Disputes());

        // For tests and demo data: cards without a page, callbacks at odd moments, chargebacks on demand.
        app.MapPost("/control/cards", (CardBody b) => Cards.Read(b.Number, out var number, out var behaviour) is { } wrong
            ? Results.UnprocessableEntity(new { reason = wrong })
                : Results.Ok(new { token = till.AddCard(number, behaviour, b.Expires).Token, label = Cards.Label(number) }));
        app.MapPost("/control/callbacks", (ModeBody b) =>
        {
            callbacks.Mode = b.Mode;
            if (b.LateSeconds is { } s) callbacks.Lateness = TimeSpan.FromSeconds(s);
            return Results.NoContent();
        });
        app.MapGet("/control/charges", () => till.Charges());
        app.MapPost("/control/sessions/{id}/pay", async (string id, CardBody b) =>
        {
            if (till.Session(id) is null) return Results.NotFound();
            if (Cards.Read(b.Number, out var number, out var behaviour) is { } wrong) return Results.UnprocessableEntity(new { reason = wrong });
            var (session, refusal) = till.Pay(id, number, behaviour, b.Expires);
            if (session is null) return Results.UnprocessableEntity(new { reason = refusal });
            await Tell(callbacks, session);
            return Results.Ok();
        });
        // While the demo is made nobody is there to be told.
        app.MapPost("/control/charges/{id}/chargeback", async (string id, bool? quietly) =>
        {
            if (till.ChargeBack(id) is not { } back) return Results.UnprocessableEntity(new { reason = "can't be charged back" });
            if (quietly != true) await callbacks.ChargedBack(back.Charge, back.Dispute);
            return Results.NoContent();
        });

        app.MapGet("/pay/{id}", (string id) => till.Session(id) switch
        {
            null => Html("Not found", "<h1>This payment page isn’t here.</h1>", 404),
            { State: "completed" } s => Results.Redirect(s.ReturnUrl),
            { } s => Html("Pay", CardForm(s, null, null)),
        });
        app.MapPost("/pay/{id}", async (HttpContext http, string id) =>
        {
            if (till.Session(id) is not { } s) return Html("Not found", "<h1>This payment page isn’t here.</h1>", 404);
            var form = await http.Request.ReadFormAsync();
            var typed = form["number"].ToString();
            if (Cards.Read(typed, out var number, out var behaviour) is { } wrong) return Html("Pay", CardForm(s, wrong, typed), 422);
            if (Expiry(form["expires"]) is not { } expires) return Html("Pay", CardForm(s, "The expiry is month and year, like 12/29, and not past.", typed),
                422);
            if (behaviour == Behaviour.NeedsCardholder && s.State != "completed")
            {
                var confirmed = form["confirmed"].ToString();
                if (confirmed.Length == 0) return Html("Confirm", Confirm(s, typed, form["expires"].ToString()));
                if (confirmed != "yes") return Html("Pay", CardForm(s, "You didn’t confirm it, so nothing was charged.", typed), 422);
            }
            var (session, refusal) = till.Pay(id, number, behaviour, expires);
            if (session is null) return Html("Pay", CardForm(s, refusal, typed), 422);
            await Tell(callbacks, session);
            if (behaviour == Behaviour.ChargedBackLater && session.Charge is { } charge) _ = ChargeBackLater(till, callbacks, charge, options.ChargebackAfter);
            if (behaviour == Behaviour.TimesOut)
                return Html(
                    "No answer",
                    $"<h1>No answer in time</h1><p>The bank didn’t answer before the time ran out. If the money moved, the shop hears of it all the "
                    + $"same.</p><p><a class=button href=\"{Enc(session.ReturnUrl)}\">Back to the shop</a></p>");
            return Results.Redirect(session.ReturnUrl);
        });

        app.MapPost("/charges/{id}/chargeback", (string id) =>
        {
            if (till.ChargeBack(id) is { } back) _ = callbacks.ChargedBack(back.Charge, back.Dispute);
            return Results.Redirect("/");
        });
        app.MapGet("/", () => Html("Till", Overview(till, callbacks)));
        app.MapGet("/health", () => "ok");
    }

    /// <summary>Tells the shop, at the moment that is set: before the browser goes back, after, twice, late, or never.</summary>
    static async Task Tell(Callbacks callbacks, TillSession session)
    {
        switch (callbacks.Mode)
        {
            case CallbackMode.Before:
                await callbacks.Completed(session);
                break;
            case CallbackMode.Twice:
                await Task.WhenAll(callbacks.Completed(session), callbacks.Completed(session));
                break;
            case CallbackMode.Late:
                _ = Later(callbacks.Lateness);
                break;
            case CallbackMode.After:
                _ = Later(TimeSpan.FromMilliseconds(300));
                break;
        }

        async Task Later(TimeSpan after)
        {
            await Task.Delay(after);
            await callbacks.Completed(session);
        }
    }

    static async Task ChargeBackLater(TillState till, Callbacks callbacks, string charge, TimeSpan after)
    {
        await Task.Delay(after);
        if (till.ChargeBack(charge) is { } c) await callbacks.ChargedBack(c.Charge, c.Dispute);
    }

    static object Show(TillSession s, HttpContext http) =>
        new
        {
            s.Id,
            Url = $"{http.Request.Scheme}://{http.Request.Host}/pay/{s.Id}",
            s.State,
            s.Charge,
            s.Card,
            s.CardLabel,
            s.Expires,
            Amount = s.Charge is null ? null : s.Amount,
            Currency = s.Charge is null ? null : s.Currency
        };
    /// <summary>Which of the shops that use this Till is asking.</summary>
    static string Shop(HttpContext http) => http.Request.Headers["Till-Shop"].ToString();
    static string? Key(HttpContext http) => http.Request.Headers["Idempotency-Key"].ToString() is { Length: > 0 } key ? key : null;
    static IResult MissingKey() => Results.BadRequest(new { reason = "an Idempotency-Key header is needed" });

    enum ReachMode { AsEver, Slow, Away }

    /// <summary>How it can be reached just now, by a shop or (under "") by all.</summary>
    static readonly System.Collections.Concurrent.ConcurrentDictionary<string, (ReachMode Mode, int Seconds)> reach = new();
    static (ReachMode Mode, int Seconds) Reached => reach.GetValueOrDefault("", (ReachMode.AsEver, 0));

    /// <returns>Null where there is none of that name; none at all is as ever.</returns>
    static ReachMode? Mode(string? name) => name switch
    {
        null or "" => ReachMode.AsEver,
        "slow" => ReachMode.Slow,
        "away" => ReachMode.Away,
        _ => null,
    };

    static string HowReached => Reached switch
    {
        (ReachMode.AsEver, _) => "As ever.",
        (ReachMode.Slow, var s) => $"Every answer takes {s} s.",
        (ReachMode.Away, _) => "It doesn’t answer at all.",
        _ => throw new InvalidOperationException("No such way to be reached."),
    };

    /// <returns>"2029-12"; null for what is no month, or past.</returns>
    static string? Expiry(string? text)
    {
        var parts = (text ?? "").Split('/', StringSplitOptions.TrimEntries);
        if (parts.Length != 2 || !int.TryParse(parts[0], out var month) || month is < 1 or > 12 || !int.TryParse(parts[1], out var year)) return null;
        if (year < 100) year += 2000;
        return year * 12 + month >= DateTimeOffset.UtcNow.Year * 12 + DateTimeOffset.UtcNow.Month && year < 2200 ? $"{year:D4}-{month:D2}" : null;
    }

    static string Amount(long minor, string currency) => currency switch
    {
        "JPY" or "KRW" => $"{minor.ToString("N0", CultureInfo.InvariantCulture)} {currency}",
        "BHD" or "KWD" => $"{(minor / 1000m).ToString("N3", CultureInfo.InvariantCulture)} {currency}",
        _ => $"{(minor / 100m).ToString("N2", CultureInfo.InvariantCulture)} {currency}",
    };

    static string Enc(string? s) => WebUtility.HtmlEncode(s ?? "");

    static string CardForm(TillSession s, string? wrong, string? typed) => $"""
        <p class=quiet>The Till · a stand-in, no money moves</p>
        <h1>{Enc(s.Text)}</h1>
        <p class=amount>{(s.Amount is { } a ? Amount(a, s.Currency!) : "Nothing to pay now: your card is kept for later")}</p>
        {(wrong is null ? "" : $"<p class=wrong role=alert>{Enc(wrong)}</p>")}
        <form method=post action="/pay/{s.Id}">
        <label for=number>Card number</label><input id=number name=number inputmode=numeric autocomplete=off required value="{Enc(typed)}">
        <label for=expires>Expires</label><input id=expires name=expires placeholder="12/29" value="12/29" required>
        <button>{(s.Amount is { } b ? "Pay " + Amount(b, s.Currency!) : "Keep this card")}</button></form>
        <h2>Cards that work here</h2>{CardTable()}
        """;

    static string CardTable() => "<table>" + string.Concat(
        Cards.Known.Select(c => $"<tr><td class=num>{Cards.Spaced(c.Number)}</td><td>{Enc(c.Says)}</td></tr>")) + "</table>";

    static string Confirm(TillSession s, string number, string expires) => $"""
        <p class=quiet>Your made-up bank</p><h1>Is this you?</h1><p>{Enc(s.Text)}{(s.Amount is { } a ? ", " + Amount(a, s.Currency!) : "")}</p>
        <form method=post action="/pay/{s.Id}"><input type=hidden name=number value="{Enc(number)}"><input type=hidden name=expires value="{Enc(expires)}">
        <button name=confirmed value=yes>Yes, it’s me</button> <button name=confirmed value=no class=plain>No</button></form>
        """;

    static string Moment(CallbackMode mode) => mode switch
    {
        CallbackMode.After => "after the answer",
        CallbackMode.Before => "before the answer",
        CallbackMode.Twice => "twice",
        CallbackMode.Late => "late",
        CallbackMode.Never => "never",
        _ => throw new ArgumentOutOfRangeException(nameof(mode)),
    };

    static string ChargeBack(TillCharge c) => c.Outcome == "approved" && !c.ChargedBack && c.Refunded < c.Amount
        ? $"<form method=post action=\"/charges/{c.Id}/chargeback\"><button class=plain>Charge back</button></form>" : "";

    static string Overview(TillState till, Callbacks callbacks)
    {
        var all = till.Charges();
        var rows = string.Concat(all.Take(200).Select(c => $"""
            <tr><td class=num>{Enc(c.ShopAt ?? c.At.ToString("u", CultureInfo.InvariantCulture))}</td><td>{Enc(c.Text)}</td><td
                class=num>{Enc(c.CardLabel)}</td><td class="num r">{Amount(c.Amount, c.Currency)}</td>
            <td>{Enc(c.Outcome.Replace('_', ' '))}{(c.Reason is null ? "" : ": " + Enc(c.Reason))}
            {(c.Refunded > 0 ? $" · {Amount(c.Refunded, c.Currency)} given back" : "")}{(c.ChargedBack ? " · charged back" : "")}</td>
            <td>{ChargeBack(c)}</td></tr>
            """));
        return $"""
            <p class=quiet>A stand-in for a card payment service. No money moves.</p><h1>The Till</h1>
            <h2>Cards that work here</h2>{CardTable()}
            <h2>{all.Count} charges</h2><p class=quiet>{(all.Count > 200 ? "The newest 200. " : "")}Times are the shop’s own.</p>
            <table><tr><th>When</th><th>For</th><th>Card</th><th class=r>Amount</th><th>Answer</th><th></th></tr>{rows}</table>
            {Disputes(till)}
            <h2>How it can be reached</h2><form method=post action="/reach"><p class=quiet>{HowReached}</p>
            <button name=mode value="" class=plain>As ever</button>
            <button name=mode value=slow class=plain>Slow</button> <button name=mode value=away class=plain>Unreachable</button></form>
            <h2>Last callbacks</h2><p class=quiet>They come {Moment(callbacks.Mode)}.</p>
            <pre>{Enc(string.Join('\n', callbacks.Log.Reverse()))}</pre>
            """;
    }

    static string Disputes(TillState till) => till.Disputes() is not { Count: > 0 } all ? "" : "<h2>Disputes</h2><table>"
        + string.Concat(all.Take(50).Select(d => $"""
        <tr><td class=num>{Enc(d.Charge)}</td><td>{Enc(d.Reason)}{(d.Answer is { } answer ? $"<br>The shop says: {Enc(answer)}"
            : "")}</td><td>{(d.Won is { } won
            ? won ? "for the shop" : "for the cardholder"
                : $"<form method=post action=\"/disputes/{d.Id}/decide\"><button name=won value=yes class=plain>For the shop"
                + "</button> <button name=won value=no class=plain>For the cardholder</button></form>")}</td></tr>
        """)) + "</table>";

    static IResult Html(string title, string body, int status = 200) =>
        Results.Content(Page.Of("Till: " + title, body), "text/html; charset=utf-8", statusCode: status);
}
