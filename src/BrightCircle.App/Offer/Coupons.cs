using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Offer;

/// <summary>What a coupon takes off, as the form has it.</summary>
public enum OffKind { Percent, Amount }

/// <summary>For how many payments, as the form has it.</summary>
public enum LastsKind { Once, Payments, ForEver }

/// <summary>A coupon as the form has it: what was typed, not yet understood.</summary>
/// <param name="Until">The last day.</param>
/// <param name="Audience">Only for those who belong to it; 0 for anybody.</param>
public sealed record CouponDraft(string? Code, string? Note, OffKind Kind = OffKind.Percent, string? Off = null, LastsKind Lasts = LastsKind.Once,
    int Payments = 3,
    long[]? Plans = null, LocalDate? From = null, LocalDate? Until = null, int Limit = 0, int LimitEach = 0, bool OnlyNewcomers = false,
    long Audience = 0);

/// <summary>A coupon with what it brought.</summary>
/// <param name="Used">Orders made with it.</param>
/// <param name="Kept">Uses kept for people who are paying just now.</param>
/// <param name="Brought">What was paid on those orders in all, less what went back.</param>
/// <param name="Given">What it took off in all.</param>
public sealed record CouponRow(Coupon Coupon, int Used, int Kept, Money Brought, Money Given);

/// <summary>The owner's coupons. What one takes off never changes; how long and for whom it is, does.</summary>
public sealed class Coupons(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    public async Task<IReadOnlyList<CouponRow>> All(CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var trip = new OneTrip(db);
        var coupons = trip.List(db.Coupons.AsNoTracking().OrderByDescending(c => c.CreatedAt).ThenByDescending(c => c.Id));
        var uses = trip.List(db.CouponUses.GroupBy(u => u.CouponId).Select(g => new
        {
            g.Key,
            Used = g.Count(u => u.UsedAt != null),
            Kept = g.Count(u => u.UsedAt == null && u.Until > at)
        }));
        var brought = trip.List(db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved)
            .Join(db.CouponUses.Where(u => u.HoldingId != null), p => p.HoldingId, u => u.HoldingId!.Value, (p, u) => new { u.CouponId, p })
            // A voucher is paid once, and held by nobody yet.
            .Concat(db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved && p.HoldingId == null)
                .Join(db.CouponUses, p => p.OrderId, u => (long?)u.CheckoutId, (p, u) => new { u.CouponId, p }))
            .GroupBy(x => x.CouponId).Select(g => new { g.Key, Sum = g.Sum(x => x.p.Amount.Minor - x.p.RefundedMinor) }));
        var lowered = trip.List(db.Payments.AsNoTracking().Where(p => p.CouponId != null && p.Outcome == ChargeOutcome.Approved)
            .Select(p => new { p.CouponId, p.Lines }));
        await trip.Ask(ct);
        var currency = catalogue.Now.Currency;
        var given = lowered.Value.GroupBy(x => x.CouponId!.Value).ToDictionary(g => g.Key,
            g => g.Sum(x => -x.Lines.Where(l => l.Kind == ChargeLineKind.Coupon).Sum(l => l.Amount.Minor)));
        return [.. coupons.Value.Select(c => new CouponRow(c, uses.Value.FirstOrDefault(u => u.Key == c.Id)?.Used ?? 0,
            uses.Value.FirstOrDefault(u => u.Key == c.Id)?.Kept ?? 0, new(brought.Value.FirstOrDefault(b => b.Key == c.Id)?.Sum ?? 0, currency),
            new(given.GetValueOrDefault(c.Id), currency)))];
    }

    public Task<Coupon?> Find(long id, CancellationToken ct) => db.Coupons.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, ct);

    /// <param name="id">Null for a new one.</param>
    public async Task<Result<long>> Save(TeamActor by, long? id, CouponDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var now = catalogue.Now;
        if (draft.Note?.Trim().Length > 200) return Result.Refused("The note is too long; 200 letters are the most.", "Note");
        if (draft.From is { Year: < 2000 or > 2200 } || draft.Until is { Year: < 2000 or > 2200 }) return Result.Refused("Choose a day within reason.",
            "Until");
        if (draft.Until < draft.From) return Result.Refused("It can’t end before it begins.", "Until");
        if (draft.Limit is < 0 or > 1_000_000) return Result.Refused("How often in all? Left empty: without limit.", "Limit");
        if (draft.LimitEach is < 0 or > 1000) return Result.Refused("How often by one person? Left empty: without limit.", "LimitEach");
        if (draft.Audience != 0 && !now.People.AudienceById.ContainsKey(new(draft.Audience)))
            return Result.Refused("This audience isn’t here any more.", "Audience");
        Coupon coupon;
        if (id is { } known)
        {
            if (await db.Coupons.FirstOrDefaultAsync(c => c.Id == known, ct) is not { } found) return Result.Refused("This coupon isn’t here any more.");
            coupon = found;
        }
        else
        {
            var code = Coupon.Normalise(draft.Code);
            if (code.Length is < 3 or > 40 || code.Any(c => !char.IsLetterOrDigit(c) && c != '-'))
                return Result.Refused("A code has 3 to 40 letters, digits and dashes.", "Code");
            var off = ReadOff(draft, now);
            if (!off.Ok) return Result.Refused(off.Refusal!, off.Field);
            if (draft.Lasts == LastsKind.Payments && draft.Payments is < 2 or > 120) return Result.Refused("For 2 to 120 payments.", "Payments");
            coupon = db.Add(new Coupon
            {
                Id = ids.Next(),
                Code = code,
                Off = off.Value!,
                Payments = draft.Lasts switch
                {
                    LastsKind.Once => 1,
                    LastsKind.Payments => draft.Payments,
                    LastsKind.ForEver => null,
                    _ => throw new InvalidOperationException($"No such kind: {draft.Lasts}"),
                },
                CreatedAt = clock.GetCurrentInstant(),
            }).Entity;
            deeds.Note(by, $"made the coupon {code}", $"/desk/coupons/{coupon.Id}");
        }
        coupon.Note = draft.Note?.Trim() ?? "";
        coupon.Plans = [.. (draft.Plans ?? []).Select(p => new PlanId(p)).Where(now.PlanById.ContainsKey)];
        coupon.From = draft.From is { } from ? now.Calendar.At(from.AtMidnight()) : null;
        coupon.Until = draft.Until is { } last ? now.Calendar.At(last.PlusDays(1).AtMidnight()) : null;
        coupon.Limit = draft.Limit == 0 ? null : draft.Limit;
        coupon.LimitEach = draft.LimitEach == 0 ? null : draft.LimitEach;
        coupon.OnlyNewcomers = draft.OnlyNewcomers;
        coupon.AudienceId = draft.Audience == 0 ? null : new AudienceId(draft.Audience);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("There is a coupon of that name already.", "Code");
        }
        return coupon.Id;
    }

    static Result<CouponOff> ReadOff(CouponDraft draft, CatalogueSnapshot now)
    {
        if (draft.Kind == OffKind.Percent)
            return int.TryParse(draft.Off?.Trim().TrimEnd('%').Trim(), System.Globalization.NumberStyles.None, now.Culture, out var percent)
                && percent is >= 1 and <= 100 ? new CouponOff.Percent(percent) : Result.Refused("A whole percent from 1 to 100.", "Off");
        var amount = Amounts.Read(draft.Off, "Off", now);
        if (!amount.Ok) return Result.Refused(amount.Refusal!, amount.Field);
        return amount.Value.IsZero ? Result.Refused("It takes something off.", "Off") : new CouponOff.Amount(amount.Value);
    }

    /// <summary>Nobody new can use it; who has it keeps it. Or lets it be used again.</summary>
    public async Task<Result> Close(TeamActor by, long id, bool closed, CancellationToken ct)
    {
        by.NeedOwner();
        if (await db.Coupons.FirstOrDefaultAsync(c => c.Id == id, ct) is not { } coupon) return Result.Refused("This coupon isn’t here any more.");
        coupon.IsClosed = closed;
        deeds.Note(by, $"{(closed ? "closed" : "opened")} the coupon {coupon.Code}", $"/desk/coupons/{id}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }
}
