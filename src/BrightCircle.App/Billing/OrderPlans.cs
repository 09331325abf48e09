using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

static class OrderPlans
{
    /// <summary>The plan an order is about.</summary>
    public static async Task<PlanId> PlanOf(this BrightContext db, Checkout order, CancellationToken ct) => order.PriceId is { } price
        ? await db.Prices.Where(p => p.Id == price).Select(p => p.PlanId).SingleAsync(ct)
        : await db.Holdings.Where(h => h.Id == order.HoldingId).Select(h => h.PlanId).SingleAsync(ct);
}
