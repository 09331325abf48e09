using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>A member with everything they hold and held.</summary>
public sealed record Membership(Member Member, List<Holding> Holdings)
{
    public Holding? Find(HoldingId id) => Holdings.FirstOrDefault(h => h.Id == id);
    /// <summary>What they hold of a plan, or will from a later day on.</summary>
    public Holding? Held(PlanId plan, NodaTime.Instant at) => Holdings.FirstOrDefault(h => h.PlanId == plan && h.StateAt(at) != HoldingState.Over);
}

public static class MembershipLoading
{
    /// <summary>Reads memberships: two queries, however many there are.</summary>
    internal static async Task<Dictionary<MemberId, Membership>> LoadMemberships(this BrightContext db, IReadOnlyCollection<MemberId> ids, CancellationToken ct)
    {
        var members = await db.Members.Where(m => ids.Contains(m.Id)).ToListAsync(ct);
        var holdings = (await db.Holdings.Where(h => ids.Contains(h.MemberId)).Include(h => h.Facts.OrderBy(f => f.Seq)).OrderBy(h => h.Id).ToListAsync(ct))
            .ToLookup(h => h.MemberId);
        return members.ToDictionary(m => m.Id, m => new Membership(m, [.. holdings[m.Id]]));
    }

    /// <summary>What opened the running stretch of a holding; null where nothing did.</summary>
    public static HoldingFact? Running(this Holding holding, NodaTime.Instant at) => holding.TimelineAsOf(at).Paid.LastOrDefault(f => f.From <= at);

    /// <summary>The payment for the running stretch of a holding; null where no money was paid for it.</summary>
    internal static async Task<Core.Billing.Payment?> PaymentOf(this BrightContext db, Holding holding, NodaTime.Instant at, CancellationToken ct) =>
        holding.Running(at)?.PaymentId is { } id ? await db.Payments.AsNoTracking().FirstAsync(p => p.Id == id, ct) : null;

    /// <summary>The price it was bought at; null for a gift.</summary>
    public static Price? PriceOf(this CatalogueSnapshot now, Holding holding) => holding.PriceId is { } id ? now.PriceById.GetValueOrDefault(id) : null;
}
