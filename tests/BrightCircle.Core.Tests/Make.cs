using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Plans, holdings and facts for tests, in as few words as they need.</summary>
static class Make
{
    /// <summary>How often a property is tried; fewer times where each is run for a thousand mutants.</summary>
    public static int Tries(int usual) => int.TryParse(Environment.GetEnvironmentVariable("BRIGHT_TRIES_PERCENT"), out var percent)
        ? Math.Max(20, usual * percent / 100) : usual;

    public const string London = "Europe/London";
    public static readonly Currency Gbp = new("GBP");

    public static Money Pounds(decimal major) => new((long)(major * 100), Gbp);
    public static PriceTerms Monthly(decimal amount = 18, Trial? trial = null) => new PriceTerms.Recurring(Pounds(amount), Period.Months(1), trial);
    public static PriceTerms Once(decimal amount = 69) => new PriceTerms.OnePayment(Pounds(amount));
    public static PriceTerms Free => new PriceTerms.Free();

    public static Plan Tier(long id, int rank, params Inclusion[] promise) => new() { Id = new(id), Name = $"Plan {id}", Rank = rank, Promise = promise };
    public static Plan Pass(long id, params Inclusion[] promise) => new() { Id = new(id), Kind = PlanKind.Pass, Name = $"Pass {id}", Promise = promise };

    public static HoldingFact Paid(Instant from, Instant? to, Instant? at = null) => Fact(HoldingFactKind.Paid, at ?? from, from, to);
    public static HoldingFact Trial(Instant from, Instant to) => Fact(HoldingFactKind.Trial, from, from, to);
    public static HoldingFact Given(Instant from, Instant? to = null) => Fact(HoldingFactKind.Given, from, from, to);
    public static HoldingFact Grace(Instant from, Instant to) => Fact(HoldingFactKind.Grace, from, from, to);
    public static HoldingFact Leaving(Instant at, Instant to) => Fact(HoldingFactKind.Leaving, at, at, to);
    public static HoldingFact Staying(Instant at) => Fact(HoldingFactKind.Staying, at, at);
    public static HoldingFact Missed(Instant from, Instant to, Instant at) => Fact(HoldingFactKind.Missed, at, from, to);
    public static HoldingFact Planned(Instant at, Instant? from = null) => Fact(HoldingFactKind.Planned, at, from ?? at);
    public static HoldingFact Waived(Instant at) => Fact(HoldingFactKind.Waived, at, at);
    public static HoldingFact Ended(Instant at, EndReason why = EndReason.Left) => Fact(HoldingFactKind.Ended, at, at, null, why);

    static HoldingFact Fact(HoldingFactKind kind, Instant at, Instant from, Instant? to = null, EndReason? reason = null) =>
        HoldingFact.Stored(default, 0, kind, at, from, to, reason);

    /// <summary>A holding with its facts in the order given.</summary>
    public static Holding Holding(long plan, Instant start, PriceTerms? terms = null, HoldingSource source = HoldingSource.Bought, params HoldingFact[] facts)
    {
        var h = new Holding
        {
            Id = new(plan),
            PlanId = new(plan),
            StartsAt = start,
            Source = source,
            Agreement = new(source == HoldingSource.Gift ? Free : terms ?? Monthly(), true, start, London),
        };
        foreach (var f in facts) h.Facts.Add(HoldingFact.Stored(h.Id, h.Facts.Count + 1, f.Kind, f.At, f.From, f.To, f.Reason));
        return h;
    }
}
