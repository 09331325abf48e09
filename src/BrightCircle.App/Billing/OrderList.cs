using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

public enum OrderShown
{
    /// <summary>Their money is on its way.</summary>
    Waiting,
    Done,
    /// <summary>Given up or called off.</summary>
    Over,
    /// <summary>Somebody began and went away, in the last thirty days.</summary>
    HalfWay,
    Vouchers,
}

/// <param name="Plan">What it is about.</param>
public sealed record OrderRow(Checkout Order, PlanId Plan);
public sealed record OrderPage(IReadOnlyList<OrderRow> Rows, int Count, IReadOnlyDictionary<OrderShown, int> Counts);

/// <summary>The orders, by how they stand.</summary>
public sealed class OrderList(BrightContext db, Catalogue catalogue, IClock clock)
{
    public const int PageSize = 50;

    /// <summary>Those who began and went away.</summary>
    public IQueryable<Checkout> HalfWay => Of(OrderShown.HalfWay);

    IQueryable<Checkout> Of(OrderShown shown)
    {
        var since = clock.GetCurrentInstant() - CheckoutSecret.Lasts;
        var orders = db.Checkouts.AsNoTracking().Where(c => c.Purpose == CheckoutPurpose.Join);
        return shown switch
        {
            OrderShown.Waiting => db.Checkouts.AsNoTracking().Where(c => c.State == CheckoutState.Placed),
            OrderShown.Done => orders.Where(c => c.State == CheckoutState.Completed && c.RefusedBecause == null),
            OrderShown.Over => db.Checkouts.AsNoTracking().Where(c => c.State == CheckoutState.Expired || c.State == CheckoutState.CalledOff
                && c.Purpose == CheckoutPurpose.Join),
            // Whoever came back and went through with it isn't half-way.
            OrderShown.HalfWay => orders.Where(c => c.State == CheckoutState.Open && c.CreatedAt > since
                && !db.Checkouts.Any(x => x.Purpose == CheckoutPurpose.Join && x.Email == c.Email && x.Id != c.Id
                    && (x.State == CheckoutState.Open ? x.Id > c.Id : (x.PlacedAt ?? x.CompletedAt) >= c.CreatedAt))),
            OrderShown.Vouchers => orders.Where(c => c.Voucher != null && c.State == CheckoutState.Completed),
            _ => throw new ArgumentOutOfRangeException(nameof(shown), shown, "No such list."),
        };
    }

    public async Task<OrderPage> Page(OrderShown shown, string? search, int page, CancellationToken ct)
    {
        var query = Of(shown);
        if (!string.IsNullOrWhiteSpace(search))
        {
            var reference = Core.Billing.CreditorReference.Normalise(search);
            query = query.Where(c => EF.Functions.ILike(c.Name + " " + c.Email, Like.Containing(search), Like.Escape) || c.Reference == reference);
        }
        var trip = new OneTrip(db);
        var rows = trip.List(query.OrderByDescending(c => c.CreatedAt).ThenByDescending(c => c.Id).Skip((Math.Max(1, page) - 1) * PageSize).Take(PageSize));
        var held = trip.List(query.Where(c => c.PriceId == null).OrderByDescending(c => c.CreatedAt).ThenByDescending(c => c.Id)
            .Take(Math.Max(1, page) * PageSize).Join(db.Holdings, c => c.HoldingId, h => (HoldingId?)h.Id, (c, h) => new { c.Id, h.PlanId }));
        var count = trip.Count(query);
        var counts = new Dictionary<OrderShown, Answer<int>>();
        foreach (var kind in Enum.GetValues<OrderShown>())
            if (kind is OrderShown.Waiting or OrderShown.HalfWay) counts[kind] = trip.Count(Of(kind));
        await trip.Ask(ct);
        var plans = held.Value.ToDictionary(h => h.Id, h => h.PlanId);
        return new([.. rows.Value.Select(c => new OrderRow(c, c.PriceId is { } p ? catalogue.Now.PriceById[p].PlanId : plans[c.Id]))], count.Value,
            counts.ToDictionary(c => c.Key, c => c.Value.Value));
    }
}
