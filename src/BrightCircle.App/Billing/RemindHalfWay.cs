using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Writes once to whoever went away while joining, where the owner wants it and they said that they may be reminded.</summary>
public sealed class RemindHalfWay(BrightContext db, Ids ids, OrderList orders, Catalogue catalogue) : IDueHandler
{
    /// <summary>However often somebody begins, in so long they are written to once.</summary>
    public static readonly Duration Once = CheckoutSecret.Lasts;

    public DueKind Kind => DueKind.RemindHalfWay;

    /// <summary>Of what falls due, and of the letter, which goes with the choice it is about.</summary>
    internal static string KeyOf(long order) => $"half-way-{order}";

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (!now.Site!.WritesHalfWay) return;
        foreach (var item in items)
        {
            // Locked: they may be going through with it just now.
            var order = (await db.Checkouts.FromSql($"select * from checkouts where id = {item.Row.SubjectId} for update").ToListAsync(ct)).FirstOrDefault();
            if (order is not { MayRemind: true, RemindedAt: null, PriceId: { } id } || !now.PriceById.TryGetValue(id, out var price)) continue;
            var plan = now.PlanById[price.PlanId];
            if (price.Within(plan) == Availability.Closed || !await orders.HalfWay.AnyAsync(c => c.Id == order.Id, ct)) continue;
            var since = item.Moment - Once;
            var normal = EmailAddress.Normalise(order.Email);
            if (await db.Letters.AnyAsync(l => l.Kind == LetterKind.HalfWay && l.ToAddress.ToUpper() == normal && l.CreatedAt > since, ct)) continue;
            // Who holds it needs no reminding, however they came by it.
            if (await db.Users.Where(a => a.NormalizedEmail == normal && a.Role == null).Select(a => a.Id).FirstOrDefaultAsync(ct) is not 0 and var account
                && await db.Holdings.AnyAsync(h => h.MemberId == new MemberId(account) && h.PlanId == plan.Id && !h.IsOver, ct)) continue;
            order.RemindedAt = item.Moment;
            db.Letters.Add(new()
            {
                Id = ids.Next(),
                Kind = LetterKind.HalfWay,
                MemberId = order.MemberId,
                ToAddress = order.Email,
                ToName = order.Name,
                PlanId = plan.Id,
                Key = KeyOf(order.Id),
                CreatedAt = item.Moment,
                Fields = new()
                {
                    ["plan"] = plan.Name,
                    ["price"] = Words.Say.FullPrice(price.Terms, now.Culture),
                    ["join_path"] = $"/join/{price.Code}" + (order.Coupon is { } coupon ? $"?coupon={Uri.EscapeDataString(coupon.Code)}" : ""),
                },
            });
            happened.Add("reminded half-way");
        }
    }
}
