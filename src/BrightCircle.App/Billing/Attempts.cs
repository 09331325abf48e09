using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

static class Attempts
{
    /// <summary>Which asking of a charge the next one is, from 1.</summary>
    public static async Task<int> NextAttempt(this BrightContext db, HoldingId holding, Charge charge, CancellationToken ct) =>
        (await db.Payments.Where(p => p.HoldingId == holding && p.Purpose == charge.Purpose && p.Turn == charge.Turn).MaxAsync(p => (int?)p.Attempt, ct) ?? 0)
            + 1;
}
