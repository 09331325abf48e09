using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>
/// A coupon on its way through a checkout: typed in, kept when the buyer goes to pay, used when the order is done. A use is kept under the coupon's lock, so
/// that of fifty who want the last one, one gets it.
/// </summary>
public sealed class UseCoupon(BrightContext db, Ids ids, Catalogue catalogue, ConditionSql sql, IClock clock)
{
    /// <summary>Puts a coupon to a checkout, or takes it away where nothing is typed.</summary>
    public async Task<Result> Type(long checkout, string? typed, CancellationToken ct)
    {
        var c = await db.Checkouts.FirstOrDefaultAsync(x => x.Id == checkout && x.State == CheckoutState.Open && x.PriceId != null, ct);
        if (c is null) return Result.Refused("This order isn’t open any more.");
        var code = Coupon.Normalise(typed);
        if (code.Length == 0) c.Coupon = null;
        else
        {
            var coupon = await db.Coupons.AsNoTracking().FirstOrDefaultAsync(x => x.Code == code, ct);
            if (coupon is null) return Result.Refused("There is no coupon of that name. Look whether a letter is missing.", "Coupon");
            if (await Refuses(coupon, c, catalogue.Now.PriceById[c.PriceId!.Value], await BoughtBefore(c.MemberId, ct), clock.GetCurrentInstant(),
                ct) is { } no)
                return Result.Refused(no.Words(), "Coupon");
            c.Coupon = coupon.Applied;
        }
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Keeps a use for whoever goes to pay now.</summary>
    /// <returns>Why it can't be used after all; the checkout goes on without it.</returns>
    /// <param name="until">How long it is kept; null for the usual time.</param>
    public async Task<string?> Keep(Checkout c, Price price, Instant? until, CancellationToken ct)
    {
        if (c.Coupon is not { } applied) return null;
        var at = clock.GetCurrentInstant();
        var keep = until ?? at + CouponUse.KeptFor;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var coupon = await db.Coupons.FromSql($"select * from coupons where id = {applied.Coupon} for update").AsNoTracking().SingleAsync(ct);
        if (await Refuses(coupon, c, price, await BoughtBefore(c.MemberId, ct), at, ct) is { } no)
        {
            c.Coupon = null;
            await db.SaveChangesAsync(ct);
            await transaction.CommitAsync(ct);
            return no.Words();
        }
        var kept = await db.CouponUses.FirstOrDefaultAsync(u => u.CheckoutId == c.Id, ct);
        if (kept?.CouponId == coupon.Id) (kept.At, kept.Until) = (at, keep);
        else
        {
            if (kept is not null) db.Remove(kept);
            await db.SaveChangesAsync(ct);
            db.Add(new CouponUse
            {
                Id = ids.Next(),
                CouponId = coupon.Id,
                CheckoutId = c.Id,
                Email = EmailAddress.Normalise(c.Email),
                MemberId = c.MemberId,
                At = at,
                Until = keep,
            });
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return null;
    }

    /// <summary>Whether the coupon of a checkout isn't for the person it turned out to be of. Only here that is told: before, the address could be
    /// anybody's.</summary>
    internal async Task<string?> RefusedTo(Checkout c, Price price, Membership m, Instant at, CancellationToken ct)
    {
        if (c.Coupon is not { } applied) return null;
        var coupon = await db.Coupons.AsNoTracking().SingleAsync(x => x.Id == applied.Coupon, ct);
        var byThem = await db.CouponUses.CountAsync(u => u.CouponId == coupon.Id && u.CheckoutId != c.Id && u.MemberId == m.Member.Id && u.UsedAt != null, ct);
        // What was agreed to while it was valid is kept: only who they are is asked again.
        return coupon.OnlyNewcomers && m.Holdings.Any(h => h.IsPaidFor) ? CouponRefusal.OnlyNewcomers.Words() + " You can buy without it."
            : coupon.LimitEach is { } each && byThem >= each ? CouponRefusal.UsedByThem.Words() + " You can buy without it." : null;
    }

    /// <summary>The order is done: the use counts for good.</summary>
    internal async Task Used(Checkout c, MemberId member, HoldingId? holding, Instant at, CancellationToken ct)
    {
        if (c.Coupon is not { } applied) return;
        var use = await db.CouponUses.FirstOrDefaultAsync(u => u.CheckoutId == c.Id, ct);
        if (use?.CouponId != applied.Coupon)
        {
            // Paid on a page that was opened with another choice than the last one.
            if (use is not null)
            {
                db.Remove(use);
                await db.SaveChangesAsync(ct);
            }
            use = db.Add(new CouponUse
            {
                Id = ids.Next(),
                CouponId = applied.Coupon,
                CheckoutId = c.Id,
                Email = EmailAddress.Normalise(c.Email),
                At = at,
                Until = at
            }).Entity;
        }
        (use.UsedAt, use.MemberId, use.HoldingId) = (at, member, holding);
    }

    async Task<CouponRefusal?> Refuses(Coupon coupon, Checkout c, Price price, bool before, Instant at, CancellationToken ct)
    {
        var uses = db.CouponUses.Where(u => u.CouponId == coupon.Id && u.CheckoutId != c.Id && (u.UsedAt != null || u.Until > at));
        var used = await uses.CountAsync(ct);
        var byThem = c.MemberId is { } member ? await uses.CountAsync(u => u.MemberId == member, ct) : 0;
        var belongs = coupon.AudienceId is { } id && c.MemberId is { } them && catalogue.Now.People.AudienceById.TryGetValue(id, out var audience)
            && await sql.Members(audience.Condition).AnyAsync(m => m.Id == them, ct);
        return coupon.Refuses(price, at, used, byThem, before, belongs);
    }

    async Task<bool> BoughtBefore(MemberId? member, CancellationToken ct) =>
        member is { } id && await db.Payments.AnyAsync(p => p.MemberId == id && p.Outcome == Core.Billing.ChargeOutcome.Approved, ct);
}
