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

    /// <summary>What of the payment for the running stretch of a holding went back already; null where nothing did.</summary>
    internal static async Task<Money?> GivenBackOf(this BrightContext db, Holding holding, NodaTime.Instant at, CancellationToken ct)
    {
        var running = holding.TimelineAsOf(at).Paid.LastOrDefault(f => f.From <= at);
        if (running?.PaymentId is not { } id) return null;
        var payment = await db.Payments.AsNoTracking().FirstAsync(p => p.Id == id, ct);
        return payment.RefundedMinor == 0 ? null : payment.Refunded;
    }

    /// <summary>The price it was bought at; null for a gift.</summary>
    public static Price? PriceOf(this CatalogueSnapshot now, Holding holding) => holding.PriceId is { } id ? now.PriceById.GetValueOrDefault(id) : null;
}
