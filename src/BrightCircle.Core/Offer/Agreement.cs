using System.Collections.Immutable;
using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>
/// The terms as agreed for one holding: the price's terms, whether its trial applies, the coupon, from when, and in whose calendar. What is owed at any
/// time is computed from it and from the facts; nothing else says what a member pays.
/// </summary>
/// <param name="TrialRight">Whether a trial in the terms applies: it is for those who never held the plan.</param>
/// <param name="Start">The moment of joining, UTC.</param>
/// <param name="ZoneId">The zone in which periods are counted, by the tz database's name.</param>
/// <param name="Coupon">The coupon that was used; null for none.</param>
public sealed record Agreement(PriceTerms Terms, bool TrialRight, Instant Start, string ZoneId, AppliedCoupon? Coupon = null)
{
    /// <summary>What is given without payment.</summary>
    public static Agreement ForNothing(Instant start, string zoneId) => new(new PriceTerms.Free(), false, start, zoneId);

    /// <summary>Where a pause moved the payments to: payment <c>Turn</c> is due at <c>Anchor</c>, and those after it are counted from there.</summary>
    [JsonIgnore] public ImmutableArray<(int Turn, Instant Anchor)> Moves { get; private init; } = [];

    /// <summary>The terms as they are for this person: without a trial that isn't for them.</summary>
    [JsonIgnore] public PriceTerms Applied => TrialRight ? Terms : Terms.WithoutTrial();

    [JsonIgnore] public SiteCalendar Calendar => SiteCalendar.For(ZoneId);

    /// <summary>Nothing is ever charged.</summary>
    [JsonIgnore] public bool IsFree => Terms is PriceTerms.Free;

    /// <summary>It is charged again and again until the member leaves.</summary>
    [JsonIgnore] public bool Renews => Terms is PriceTerms.Recurring;

    /// <summary>It is paid in a fixed number of instalments.</summary>
    [JsonIgnore] public bool IsInstalments => Terms is PriceTerms.Instalments;

    /// <summary>When access ends, whatever is paid, UTC; null where it doesn't end by itself.</summary>
    [JsonIgnore] public Instant? AccessEnds => Renews ? null : Terms.Access?.EndFrom(Start, Calendar);

    /// <summary>Where its periods are counted from, UTC: the start, or the end of the trial.</summary>
    [JsonIgnore] public Instant Anchor => Applied.TrialOrNull is { } trial ? Calendar.Boundary(Start, trial.Length, 1) : Start;

    /// <summary>All charges in the order they fall due: as many as the terms ask for, without end where they recur.</summary>
    public IEnumerable<Charge> Charges() => From(0);

    /// <summary>What is charged when it begins, by the card page or at once; null where nothing is.</summary>
    [JsonIgnore] public Charge? First => Charges().FirstOrDefault() is { } c && c.DueAt == Start ? c : null;

    /// <summary>The first charge that pays for time at or after a moment; null where none will.</summary>
    public Charge? From(Instant moment)
    {
        foreach (var c in From(TurnBefore(moment)))
            if (c.DueAt >= moment) return c;
        return null;
    }

    /// <summary>The charge whose stretch a moment is in; null where there is none.</summary>
    public Charge? At(Instant moment)
    {
        Charge? found = null;
        foreach (var c in From(TurnBefore(moment)))
        {
            if (c.DueAt > moment) break;
            if (c.PaidThrough is null || moment < c.PaidThrough) found = c;
        }
        return found;
    }

    /// <summary>One named charge; null where the terms don't ask for it.</summary>
    public Charge? Find(PaymentPurpose purpose, int turn)
    {
        if (turn < 0) return null;
        if (purpose == PaymentPurpose.Rest) return RestFrom(turn);
        foreach (var c in From(purpose == PaymentPurpose.Trial ? 0 : turn).Take(2))
            if (c.Purpose == purpose && c.Turn == turn) return c;
        return null;
    }

    /// <summary>All instalments from a turn on, as one charge due when the first of them is; null where there are none.</summary>
    public Charge? RestFrom(int turn)
    {
        if (Applied is not PriceTerms.Instalments) return null;
        Charge? first = null;
        var lines = new List<ChargeLine>();
        foreach (var c in From(turn).Where(c => c.Purpose == PaymentPurpose.Instalment))
        {
            first ??= c;
            foreach (var line in c.Lines)
                if (lines.FindIndex(l => l.Kind == line.Kind) is >= 0 and var i) lines[i] = line with { Amount = lines[i].Amount + line.Amount };
                else lines.Add(line);
        }
        return first is null ? null : new(PaymentPurpose.Rest, first.Turn, first.DueAt, AccessEnds, lines);
    }

    /// <summary>
    /// The same after a pause: the end of the stretch it began in moves by its calendar days and is the new anchor. Where it began in none, nothing moves.
    /// </summary>
    /// <param name="from">When it began, UTC.</param>
    /// <param name="to">When it ended or will, UTC.</param>
    public Agreement Paused(Instant from, Instant to)
    {
        if (!Renews || At(from) is not { PaidThrough: { } end } during) return this;
        var next = during.Purpose == PaymentPurpose.Trial ? 0 : during.Turn + 1;
        return this with { Moves = Moves.Add((next, Calendar.PlusDays(end, Calendar.DaysBetween(from, to)))) };
    }

    /// <summary>From a normal payment on; from the first one the trial stands before it, where there is one.</summary>
    IEnumerable<Charge> From(int turn)
    {
        var terms = Applied;
        if (terms.Headline is null) yield break;
        if (terms.Interval is not { } every)
        {
            if (turn == 0) yield return Normal(terms, PaymentPurpose.Once, 0, Start, AccessEnds, isFirst: true);
            yield break;
        }
        var trial = terms.TrialOrNull;
        if (turn == 0 && trial is not null)
            yield return new(PaymentPurpose.Trial, 0, Start, Due(every, 0), WithFee(terms, [new(ChargeLineKind.Trial, trial.Price)]));
        var (count, ends) = (terms.Times ?? int.MaxValue, AccessEnds);
        var purpose = Renews ? PaymentPurpose.Recurring : PaymentPurpose.Instalment;
        for (var k = turn; k < count; k++)
        {
            Instant? through = k + 1 < count ? Due(every, k + 1) : ends;
            yield return Normal(terms, purpose, k, Due(every, k), through, isFirst: k == 0 && trial is null);
        }
    }

    Charge Normal(PriceTerms terms, PaymentPurpose purpose, int n, Instant due, Instant? through, bool isFirst)
    {
        var amount = terms.Payment(n, Start);
        var off = Coupon?.OffPayment(n, amount) ?? Money.Zero(amount.Currency);
        ChargeLine line = new(ChargeLineKind.Plan, amount);
        ChargeLine[] lines = off.IsZero ? [line] : [line, new(ChargeLineKind.Coupon, -off)];
        return new(purpose, n, due, through, isFirst ? WithFee(terms, lines) : lines);
    }

    static ChargeLine[] WithFee(PriceTerms terms, ChargeLine[] lines) =>
        terms.JoiningFee is { IsZero: false } fee ? [.. lines, new(ChargeLineKind.JoiningFee, fee)] : lines;

    /// <summary>When normal payment <paramref name="k"/> is due: counted from the anchor, or from where the last pause before it moved it.</summary>
    Instant Due(Period every, int k)
    {
        var (first, anchor) = (0, Anchor);
        foreach (var move in Moves)
            if (move.Turn <= k) (first, anchor) = move;
        return Calendar.Boundary(anchor, every, k - first);
    }

    /// <summary>A turn that surely begins before the moment and not long before: a period is never longer than its longest days.</summary>
    int TurnBefore(Instant moment)
    {
        if (Terms.Interval is not { } every) return 0;
        var (first, anchor, most) = (0, Anchor, int.MaxValue);
        foreach (var move in Moves)
            if (move.Anchor <= moment) (first, anchor) = move;
            // A pause made the period before it longer than any: what it moved hasn't begun.
            else most = Math.Min(most, move.Turn - 1);
        var turn = Math.Min(most, first + (int)((moment - anchor).TotalDays / LongestDays(every)) - 1);
        return Math.Clamp(turn, 0, Math.Max(0, (Terms.Times ?? int.MaxValue) - 1));
    }

    static double LongestDays(Period every) => every.Count * every.Unit switch
    {
        PeriodUnit.Days => 1.05,
        PeriodUnit.Weeks => 7.05,
        PeriodUnit.Months => 31.1,
        PeriodUnit.Years => 366.1,
        _ => throw new InvalidOperationException($"No such unit: {every.Unit}"),
    };
}
