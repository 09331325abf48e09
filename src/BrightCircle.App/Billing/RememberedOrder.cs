using BrightCircle.App.Catalogues;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <param name="Price">Of what they were on the way to.</param>
public sealed record HalfWay(Checkout Checkout, Price Price);

/// <summary>A choice that was made in this browser and not gone through with.</summary>
public sealed class RememberedOrder(BrightContext db, Catalogue catalogue, IClock clock)
{
    /// <param name="secret">What the browser holds; without one nothing is asked.</param>
    public async Task<HalfWay?> Find(string? secret, CancellationToken ct)
    {
        if (secret is not { Length: 64 }) return null;
        var hash = CheckoutSecret.Hash(secret);
        var c = await db.Checkouts.AsNoTracking().OrderByDescending(x => x.CreatedAt).FirstOrDefaultAsync(
            x => x.BrowserHash == hash && x.Purpose == CheckoutPurpose.Join && x.State == CheckoutState.Open, ct);
        return c is not null && CheckoutSecret.Fits(c, secret, clock.GetCurrentInstant())
            && catalogue.Now.PriceById.TryGetValue(c.PriceId!.Value, out var price)
            && price.Within(catalogue.Now.PlanById[price.PlanId]) != Availability.Closed ? new(c, price) : null;
    }

    /// <summary>The buyer doesn't want it to be remembered.</summary>
    public async Task Forget(string? secret, CancellationToken ct)
    {
        if (secret is not { Length: 64 }) return;
        var hash = CheckoutSecret.Hash(secret);
        await db.Checkouts.Where(x => x.BrowserHash == hash && x.Purpose == CheckoutPurpose.Join && x.State == CheckoutState.Open && x.Session == null)
            .ExecuteDeleteAsync(ct);
        await db.Checkouts.Where(x => x.BrowserHash == hash && x.Purpose == CheckoutPurpose.Join && x.State == CheckoutState.Open)
            .ExecuteUpdateAsync(u => u.SetProperty(x => x.BrowserHash, (string?)null), ct);
    }
}
