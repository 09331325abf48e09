using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace BrightCircle.StandIns;

/// <param name="Expires">The last month it is good for: "2029-12"; null for ever.</param>
/// <param name="Forgotten">The shop had it forgotten: its number is gone, and nothing is asked of it any more.</param>
public sealed record TillCard(string Token, string Number, Behaviour Behaviour, int Charges, string? Expires = null, bool Forgotten = false);
public sealed record TillCharge(string Id, string Key, string Card, string CardLabel, long Amount, string Currency, string Text, string Outcome,
    string? Reason, DateTimeOffset At, string? ShopAt, long Refunded, bool ChargedBack, string? CallbackUrl, string Shop = "");
public sealed record TillSession(string Id, string Key, long? Amount, string? Currency, string Text, string Email, string ReturnUrl, string CallbackUrl,
    string? At, string State, string? Charge, string? Card, string? CardLabel, string Shop = "", string? Expires = null);
public sealed record TillRefund(string Id, string Key, string Charge, long Amount, DateTimeOffset At, string? ShopAt = null);
/// <summary>A cardholder's bank took a charge back, and the shop may say something to it.</summary>
/// <param name="AnswerDays">Within so many days.</param>
/// <param name="Answer">What the shop said; null where it hasn't.</param>
/// <param name="Won">What the bank decided; null where it hasn't.</param>
public sealed record TillDispute(string Id, string Charge, string Reason, int AnswerDays, string? Answer, bool? Won);
/// <summary>What goes to the shop's bank for a week: the charges, less what went back, less the fees.</summary>
public sealed record TillPayout(string Id, string From, string To, string Currency, long Gross, long GivenBack, long Fees, long Net, string[] Charges);

/// <summary>When callbacks come: after the answer, before it, twice, late, or never.</summary>
public enum CallbackMode { After, Before, Twice, Late, Never }

/// <summary>The Till's memory: every change is a line in a file, read again at the next start.</summary>
public sealed class TillState : IDisposable
{
    static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter() } };
    readonly Lock gate = new();
    readonly StreamWriter? file;
    readonly Dictionary<string, TillCard> cards = [];
    readonly Dictionary<string, TillCharge> charges = [];
    readonly Dictionary<string, string> chargeByKey = [];
    readonly List<string> chargeOrder = [];
    readonly Dictionary<string, TillSession> sessions = [];
    readonly Dictionary<string, string> sessionByKey = [];
    readonly Dictionary<string, TillRefund> refundByKey = [];
    readonly Dictionary<string, TillDispute> disputes = [];

    sealed record Line(TillCard? Card, TillCharge? Charge, TillSession? Session, TillRefund? Refund, TillDispute? Dispute = null);

    public TillState(string? path)
    {
        if (path is null) return;
        if (File.Exists(path))
            foreach (var text in File.ReadLines(path))
            {
                // A line cut short by a kill is the last one, and is left out.
                try { if (JsonSerializer.Deserialize<Line>(text, Json) is { } line) Take(line); }
                catch (JsonException) { }
            }
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        file = new(new FileStream(path, FileMode.Append, FileAccess.Write, FileShare.Read), new UTF8Encoding(false)) { AutoFlush = true };
    }

    void Take(Line line)
    {
        if (line.Card is { } card) cards[card.Token] = card;
        if (line.Charge is { } charge)
        {
            if (charges.TryAdd(charge.Id, charge)) chargeOrder.Add(charge.Id);
            else charges[charge.Id] = charge;
            if (charge.Key.Length > 0) chargeByKey[charge.Key] = charge.Id;
        }
        if (line.Session is { } session)
        {
            sessions[session.Id] = session;
            sessionByKey[session.Key] = session.Id;
        }
        if (line.Refund is { } refund) refundByKey[refund.Key] = refund;
        if (line.Dispute is { } dispute) disputes[dispute.Id] = dispute;
    }

    void Keep(TillCard? card = null, TillCharge? charge = null, TillSession? session = null, TillRefund? refund = null, TillDispute? dispute = null)
    {
        var line = new Line(card, charge, session, refund, dispute);
        Take(line);
        file?.WriteLine(JsonSerializer.Serialize(line, Json));
    }

    static string NewId(string kind) => kind + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(8));

    public TillSession Open(string key, long? amount, string? currency, string text, string email, string returnUrl, string callbackUrl, string? at,
        string shop)
    {
        lock (gate)
        {
            if (sessionByKey.TryGetValue(key, out var known)) return sessions[known];
            var s = new TillSession(NewId("page"), key, amount, currency, text, email, returnUrl, callbackUrl, at, "open", null, null, null, shop);
            Keep(session: s);
            return s;
        }
    }

    public TillSession? Session(string id)
    {
        lock (gate) return sessions.GetValueOrDefault(id);
    }

    public TillCharge? Charge(string id)
    {
        lock (gate) return charges.GetValueOrDefault(id);
    }

    public IReadOnlyList<TillCharge> Charges()
    {
        lock (gate) return [.. chargeOrder.Select(id => charges[id]).Reverse()];
    }

    /// <summary>A card typed on the hosted page: kept, and charged where the page asks for money.</summary>
    /// <returns>The completed session, or why the card was refused.</returns>
    public (TillSession? Session, string? Refusal) Pay(string sessionId, string number, Behaviour behaviour, string? expires = null)
    {
        lock (gate)
        {
            var s = sessions[sessionId];
            if (s.State == "completed") return (s, null);
            if (behaviour == Behaviour.Lost) return (null, "This card is reported lost. Use another one.");
            var card = new TillCard(NewId("card"), number, behaviour, s.Amount is null ? 0 : 1, expires);
            TillCharge? charge = null;
            if (s.Amount is { } amount)
                charge = new(NewId("charge"), "page-" + s.Key, card.Token, Cards.Label(number), amount, s.Currency!, s.Text, "approved", null,
                    DateTimeOffset.UtcNow, s.At, 0, false, s.CallbackUrl, s.Shop);
            s = s with { State = "completed", Card = card.Token, CardLabel = Cards.Label(number), Charge = charge?.Id, Expires = expires };
            Keep(card, charge, s);
            return (s, null);
        }
    }

    /// <returns>The charge, and whether it was made just now; null for an unknown card.</returns>
    public (TillCharge? Charge, bool New, Behaviour Behaviour) Charge(
        string key, string token, long amount, string currency, string text, string? at, string? callbackUrl, string shop)
    {
        lock (gate)
        {
            if (chargeByKey.TryGetValue(key, out var known)) return (charges[known], false, default);
            if (!cards.TryGetValue(token, out var card) || card.Forgotten) return (null, false, default);
            var (outcome, reason) = card.Behaviour switch
            {
                // By the shop's own time: past its last month a card is good for nothing.
                _ when card.Expires is { } last && (at ?? "") is { Length: >= 7 } && string.CompareOrdinal(at![..7], last) > 0 =>
                    ("declined_hard", "the card has expired"),
                Behaviour.FailsLater when card.Charges > 0 => ("declined_soft", "insufficient funds"),
                Behaviour.Lost => ("declined_hard", "the card is reported lost"),
                Behaviour.NeedsCardholder => ("needs_cardholder", "the bank wants the cardholder to confirm"),
                _ => ("approved", (string?)null),
            };
            var charge = new TillCharge(NewId("charge"), key, token, Cards.Label(card.Number), amount, currency, text, outcome, reason, DateTimeOffset.UtcNow,
                at, 0, false, callbackUrl, shop);
            Keep(card with { Charges = card.Charges + 1 }, charge);
            return (charge, true, card.Behaviour);
        }
    }

    /// <returns>Whether there was such a card.</returns>
    public bool Forget(string token)
    {
        lock (gate)
        {
            if (!cards.TryGetValue(token, out var card)) return false;
            if (!card.Forgotten) Keep(card with { Number = "", Forgotten = true });
            return true;
        }
    }

    public (TillRefund? Refund, string? Refusal) Refund(string key, string chargeId, long amount, string? at)
    {
        lock (gate)
        {
            if (refundByKey.TryGetValue(key, out var known)) return (known, null);
            if (!charges.TryGetValue(chargeId, out var charge)) return (null, "no such charge");
            if (charge.Outcome != "approved") return (null, "that charge was not approved");
            if (amount <= 0 || amount > charge.Amount - charge.Refunded) return (null, "more than is left of that charge");
            var refund = new TillRefund(NewId("refund"), key, chargeId, amount, DateTimeOffset.UtcNow, at);
            Keep(charge: charge with { Refunded = charge.Refunded + amount }, refund: refund);
            return (refund, null);
        }
    }

    /// <returns>The charge as charged back, or null where it can't be or already was.</returns>
    public (TillCharge Charge, TillDispute Dispute)? ChargeBack(string chargeId)
    {
        lock (gate)
        {
            if (!charges.TryGetValue(chargeId, out var charge) || charge.Outcome != "approved" || charge.ChargedBack || charge.Refunded == charge.Amount)
                return null;
            charge = charge with { ChargedBack = true };
            var dispute = new TillDispute(NewId("dispute"), chargeId, "the cardholder doesn’t know this charge", 10, null, null);
            Keep(charge: charge, dispute: dispute);
            return (charge, dispute);
        }
    }

    public IReadOnlyList<TillDispute> Disputes()
    {
        lock (gate) return [.. disputes.Values.Reverse()];
    }

    /// <returns>Why it can't be answered; null where it is.</returns>
    public string? Answer(string id, string text)
    {
        lock (gate)
        {
            if (!disputes.TryGetValue(id, out var dispute)) return "no such dispute";
            if (dispute.Won is not null) return "that dispute is decided";
            Keep(dispute: dispute with { Answer = text });
            return null;
        }
    }

    /// <summary>The cardholder's bank decides.</summary>
    /// <returns>The dispute and its charge; null where it is decided already.</returns>
    public (TillDispute Dispute, TillCharge Charge)? Decide(string id, bool won)
    {
        lock (gate)
        {
            if (!disputes.TryGetValue(id, out var dispute) || dispute.Won is not null) return null;
            dispute = dispute with { Won = won };
            Keep(dispute: dispute);
            return (dispute, charges[dispute.Charge]);
        }
    }

    /// <summary>The fee for a charge: 1.5 % and 20 minor units, rounded half up.</summary>
    static long Fee(long amount) => (amount * 15 + 500) / 1000 + 20;

    /// <summary>What goes to a shop's bank, a week (from Monday on, by the shop's own time) at a time; a week that isn't over isn't there.</summary>
    public IReadOnlyList<TillPayout> Payouts(string shop, DateTimeOffset from, DateTimeOffset to)
    {
        static DateTimeOffset When(string? shopAt, DateTimeOffset at) =>
            DateTimeOffset.TryParse(shopAt, System.Globalization.CultureInfo.InvariantCulture, out var told) ? told : at;
        static DateOnly Monday(DateTimeOffset at) => DateOnly.FromDateTime(at.UtcDateTime).AddDays(-(((int)at.UtcDateTime.DayOfWeek + 6) % 7));
        lock (gate)
        {
            var mine = charges.Values.Where(c => c.Shop == shop && c.Outcome == "approved").ToArray();
            var back = refundByKey.Values.Where(r => charges[r.Charge].Shop == shop).ToLookup(r => (Monday(When(r.ShopAt, r.At)), charges[r.Charge].Currency));
            return [.. mine.GroupBy(c => (Week: Monday(When(c.ShopAt, c.At)), c.Currency)).Select(g => (g.Key, Charges: g.ToArray()))
                .Concat(back.Where(b => !mine.Any(c => (Monday(When(c.ShopAt, c.At)), c.Currency) == b.Key))
                    .Select(b => (b.Key, Charges: Array.Empty<TillCharge>())))
                .Select(x =>
                {
                    var (week, currency) = x.Key;
                    var (gross, fees) = (x.Charges.Sum(c => c.Amount), x.Charges.Sum(c => Fee(c.Amount)));
                    // What a bank took back is kept from the week it was paid in, unless it was won.
                    var taken = x.Charges.Where(c => c.ChargedBack && !disputes.Values.Any(d => d.Charge == c.Id && d.Won == true))
                        .Sum(c => c.Amount - c.Refunded);
                    var given = back[x.Key].Sum(r => r.Amount) + taken;
                    return new TillPayout($"payout-{week:yyyyMMdd}-{currency}", week.ToString("yyyy-MM-dd"), week.AddDays(7).ToString("yyyy-MM-dd"),
                        currency, gross, given,
                        fees, gross - given - fees, [.. x.Charges.Select(c => c.Id)]);
                })
                .Where(p => DateTimeOffset.Parse(p.To + "T00:00Z", System.Globalization.CultureInfo.InvariantCulture) is var end && end > from && end <= to)
                .OrderBy(p => p.From, StringComparer.Ordinal)];
        }
    }

    /// <summary>Makes a card without the page: for tests and demo data, which have no browser.</summary>
    public TillCard AddCard(string number, Behaviour behaviour, string? expires = null)
    {
        lock (gate)
        {
            var card = new TillCard(NewId("card"), number, behaviour, 0, expires);
            Keep(card);
            return card;
        }
    }

    public void Dispose() => file?.Dispose();
}

/// <summary>Sends signed callbacks, and again where the shop doesn't answer.</summary>
public sealed class Callbacks(string secret)
{
    static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };
    static readonly TimeSpan[] Again = [TimeSpan.FromSeconds(1), TimeSpan.FromSeconds(5), TimeSpan.FromSeconds(20), TimeSpan.FromMinutes(1),
        TimeSpan.FromMinutes(5)];
    readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(10) };
    public CallbackMode Mode { get; set; }
    public TimeSpan Lateness { get; set; } = TimeSpan.FromSeconds(5);
    /// <summary>What was sent, for the Till's page: event, address, how it went.</summary>
    public ConcurrentQueue<string> Log { get; } = new();

    public Task Completed(TillSession s) => Send(s.CallbackUrl, "session.completed",
        new { @event = "session.completed", session = s with { ReturnUrl = "", CallbackUrl = "" } });
    public Task ChargedBack(TillCharge c, TillDispute d) => c.CallbackUrl is { Length: > 0 } url
        ? Send(url, "charge.charged_back", new { @event = "charge.charged_back", charge = c, dispute = d }) : Task.CompletedTask;
    public Task Decided(TillCharge c, TillDispute d) => c.CallbackUrl is { Length: > 0 } url
        ? Send(url, "dispute.decided", new { @event = "dispute.decided", dispute = d }) : Task.CompletedTask;

    async Task Send(string url, string name, object body)
    {
        if (url.Length == 0) return;
        var bytes = JsonSerializer.SerializeToUtf8Bytes(body, Json);
        for (var i = 0; ; i++)
        {
            var outcome = await Once(url, bytes);
            Log.Enqueue($"{DateTimeOffset.UtcNow:HH:mm:ss} {name} → {outcome}");
            while (Log.Count > 50) Log.TryDequeue(out _);
            if (outcome is "200" or "204" || i == Again.Length) return;
            await Task.Delay(Again[i]);
        }
    }

    async Task<string> Once(string url, byte[] bytes)
    {
        var timestamp = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString(System.Globalization.CultureInfo.InvariantCulture);
        var signed = Encoding.UTF8.GetBytes(timestamp + ".").Concat(bytes).ToArray();
        using var request = new HttpRequestMessage(HttpMethod.Post, url) { Content = new ByteArrayContent(bytes) };
        request.Content.Headers.ContentType = new("application/json");
        request.Headers.Add("Till-Time", timestamp);
        request.Headers.Add("Till-Signed", Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(secret), signed)));
        try
        {
            using var response = await http.SendAsync(request);
            return ((int)response.StatusCode).ToString(System.Globalization.CultureInfo.InvariantCulture);
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
        {
            return "no answer";
        }
    }
}
