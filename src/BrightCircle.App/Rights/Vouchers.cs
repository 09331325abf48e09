using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <param name="UsedAt">When somebody used it; null where nobody has.</param>
/// <param name="Wish">Whom it is for.</param>
public sealed record Voucher(KeyLink Key, VoucherWish Wish, string From, Instant BoughtAt, Instant? UsedAt)
{
    public bool IsOver => Key.RevokedAt is not null;
}

/// <summary>What somebody bought for others.</summary>
public sealed class Vouchers(BrightContext db)
{
    /// <param name="key">Only this one; null for all.</param>
    public async Task<IReadOnlyList<Voucher>> Of(MemberId buyer, long? key, CancellationToken ct)
    {
        var rows = await db.KeyLinks.AsNoTracking().Join(db.Checkouts, k => k.OrderId, c => (long?)c.Id, (k, c) => new { Key = k, Order = c })
            .Where(x => x.Order.MemberId == buyer && (key == null || x.Key.Id == key)).OrderByDescending(x => x.Key.MadeAt).Take(200)
            .Select(x => new
            {
                x.Key,
                x.Order.Voucher,
                x.Order.Name,
                Used = db.Holdings.Where(h => h.Source == HoldingSource.Key && h.Through == x.Key.Id).Select(h => (Instant?)h.StartsAt).FirstOrDefault()
            }).ToListAsync(ct);
        return [.. rows.Select(r => new Voucher(r.Key, r.Voucher!, r.Name, r.Key.MadeAt, r.Used))];
    }
}

/// <summary>A voucher goes to whom it is for, on the day that was chosen.</summary>
public sealed class SendVoucher(BrightContext db, Ids ids, Tell tell) : IDueHandler
{
    public DueKind Kind => DueKind.SendVoucher;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var found = await db.KeyLinks.Where(k => k.Id == item.Row.SubjectId && k.RevokedAt == null)
                .Join(db.Checkouts, k => k.OrderId, c => (long?)c.Id, (k, c) => new { Key = k, c.Voucher, c.Name, c.MemberId }).FirstOrDefaultAsync(ct);
            if (found is not { Voucher: { Email: { } email } wish, MemberId: { } buyer }) continue;
            var plan = await db.Plans.Where(p => p.Id == found.Key.PlanId).Select(p => p.Name).SingleAsync(ct);
            db.Letters.Add(new()
            {
                Id = ids.Next(),
                Kind = LetterKind.VoucherFor,
                ToAddress = email,
                ToName = wish.Name,
                PlanId = found.Key.PlanId,
                Key = $"voucher-for-{found.Key.Id}",
                CreatedAt = item.Moment,
                Fields = new()
                {
                    ["by"] = found.Name,
                    ["plan"] = plan,
                    ["words"] = wish.Words.ReplaceLineEndings(" ").Trim(),
                    ["voucher_path"] = $"/key/{found.Key.Code}",
                },
            });
            tell.Of(await db.Members.SingleAsync(m => m.Id == buyer, ct), new Event.VoucherSent(found.Key.PlanId, found.Key.Id, email), item.Moment);
            happened.Add("vouchers sent");
        }
    }
}
