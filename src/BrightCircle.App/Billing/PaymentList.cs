using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <param name="Price">Paid at this price.</param>
/// <param name="Coupon">Lowered by this coupon.</param>
public sealed record PaymentFilter(PaymentState? State = null, string? Search = null, LocalDate? From = null, LocalDate? To = null, PlanId? Plan = null,
    PriceId? Price = null, long? Coupon = null, PayWay? Way = null);
public sealed record PaymentRow(Payment Payment, string Name);
/// <param name="Received">What was paid, over the whole filtered list.</param>
/// <param name="GivenBack">What of it went back since.</param>
public sealed record PaymentPage(IReadOnlyList<PaymentRow> Rows, int Count, Money Received, Money GivenBack);
public sealed record PaymentFile(Payment Payment, string Name, IReadOnlyList<LedgerEntry> Ledger, IReadOnlyList<Refund> Refunds, DueWork? UnderWay,
    Core.Offer.Agreement Agreement, Checkout? Order, Dispute? Dispute);

public sealed class PaymentList(BrightContext db, Catalogue catalogue)
{
    public const int PageSize = 50;

    sealed class Row
    {
        public required Payment Payment { get; init; }
        public required string Name { get; init; }
        public required string Email { get; init; }
    }

    IQueryable<Row> Query(PaymentFilter f)
    {
        var now = catalogue.Now;
        var query = db.Payments.AsNoTracking().Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new Row { Payment = p, Name = m.Name, Email = m.Email });
        if (f.Plan is { } plan)
        {
            PriceId[] prices = [.. now.PricesOf(plan).Select(p => p.Id)];
            query = query.Where(x => prices.Contains(x.Payment.PriceId));
        }
        if (f.Price is { } price) query = query.Where(x => x.Payment.PriceId == price);
        if (f.Way is { } way) query = query.Where(x => x.Payment.Way == way);
        if (f.Coupon is { } coupon) query = query.Where(x => x.Payment.CouponId == coupon);
        query = f.State switch
        {
            null => query,
            PaymentState.Failed => query.Where(x => x.Payment.Outcome != ChargeOutcome.Approved),
            PaymentState.ChargedBack => query.Where(x => x.Payment.ChargedBack),
            PaymentState.Paid => query.Where(x => x.Payment.Outcome == ChargeOutcome.Approved && x.Payment.RefundedMinor == 0),
            PaymentState.Refunded => query.Where(x => !x.Payment.ChargedBack && x.Payment.RefundedMinor == x.Payment.Amount.Minor),
            PaymentState.PartlyRefunded => query.Where(
                x => !x.Payment.ChargedBack && x.Payment.RefundedMinor > 0 && x.Payment.RefundedMinor < x.Payment.Amount.Minor),
            _ => throw new ArgumentOutOfRangeException(nameof(f)),
        };
        if (!string.IsNullOrWhiteSpace(f.Search)) query = query.Where(x => EF.Functions.ILike(x.Name + " " + x.Email, Like.Containing(f.Search), Like.Escape));
        if (f.From is { } from)
        {
            var start = now.Calendar.At(from.AtMidnight());
            query = query.Where(x => x.Payment.At >= start);
        }
        if (f.To is { Year: < 9999 } to)
        {
            var end = now.Calendar.At(to.PlusDays(1).AtMidnight());
            query = query.Where(x => x.Payment.At < end);
        }
        return query;
    }

    /// <summary>The whole filtered list as CSV (RFC 4180), the oldest first, as it is read.</summary>
    public async Task WriteCsv(PaymentFilter f, Stream to, CancellationToken ct)
    {
        var now = catalogue.Now;
        await using var text = new StreamWriter(to, new System.Text.UTF8Encoding(true), leaveOpen: true);
        await using var csv = Csv.Writer(text);
        csv.WriteRecord(["receipt", "day", "name", "email", "plan", "price", "amount", "currency", "state", "given back", "card", "from", "to", "way"]);
        await foreach (var x in Query(f).OrderBy(x => x.Payment.At).ThenBy(x => x.Payment.Id).AsAsyncEnumerable().WithCancellation(ct))
        {
            var p = x.Payment;
            var price = now.PriceById.GetValueOrDefault(p.PriceId);
            csv.WriteRecord([p.Receipt, Day(p.At), x.Name, x.Email, now.PlanName(price?.PlanId), price?.Name ?? "", Number(p.Amount), p.Amount.Currency.Code,
                p.State.ToString(), Number(p.Refunded), p.CardLabel, Day(p.PeriodFrom), p.PeriodTo is { } end ? Day(end) : "",
                p.Way.ToString()]);
        }
        await csv.FlushAsync(ct);

        static string Number(Money m) => m.Major.ToString("F" + m.Currency.Decimals, System.Globalization.CultureInfo.InvariantCulture);
        string Day(Instant at) => now.Calendar.Date(at).ToString("uuuu-MM-dd", null);
    }

    public async Task<PaymentPage> Page(PaymentFilter f, int page, CancellationToken ct)
    {
        var now = catalogue.Now;
        var query = Query(f);
        var trip = new OneTrip(db);
        var figures = trip.List(query.GroupBy(x => x.Payment.Outcome == ChargeOutcome.Approved)
            .Select(g => new { Paid = g.Key, Count = g.Count(), Sum = g.Sum(x => x.Payment.Amount.Minor), Back = g.Sum(x => x.Payment.RefundedMinor) }));
        var rows = trip.List(query.OrderByDescending(x => x.Payment.At).ThenByDescending(x => x.Payment.Id).Skip((Math.Max(1, page) - 1) * PageSize)
            .Take(PageSize).Select(x => new PaymentRow(x.Payment, x.Name)));
        await trip.Ask(ct);
        var sums = figures.Value;
        var paid = sums.FirstOrDefault(s => s.Paid);
        return new(rows.Value, sums.Sum(s => s.Count), new(paid?.Sum ?? 0, now.Currency), new(paid?.Back ?? 0, now.Currency));
    }

    public async Task<PaymentFile?> Load(PaymentId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var found = trip.First(db.Payments.AsNoTracking().Where(p => p.Id == id)
            .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Payment = p, m.Name })
            .LeftJoin(db.Holdings, x => x.Payment.HoldingId, h => (HoldingId?)h.Id, (x, h) =>
                new { x.Payment, x.Name, Agreement = h == null ? null : h.Agreement })
            .LeftJoin(db.Checkouts, x => x.Payment.OrderId, c => (long?)c.Id, (x, c) => new { x.Payment, x.Name, x.Agreement, Order = c }));
        var ledger = trip.List(db.Ledger.AsNoTracking().Where(l => l.PaymentId == id).OrderBy(l => l.Id));
        var refunds = trip.List(db.Refunds.AsNoTracking().Where(r => r.PaymentId == id).OrderBy(r => r.At));
        var under = trip.First(db.DueWork.AsNoTracking().Where(d => d.Kind == DueKind.Refund && d.SubjectId == id.Value));
        // Of an order paid with one charge the dispute is about all of it.
        var dispute = trip.First(db.Disputes.AsNoTracking().Where(d => d.PaymentId == id
            || db.Payments.Any(p => p.Id == id && p.ChargeRef != "" && db.Payments.Any(x => x.Id == d.PaymentId && x.ChargeRef == p.ChargeRef))));
        await trip.Ask(ct);
        return found.Value is { } f ? new(f.Payment, f.Name, ledger.Value, refunds.Value, under.Value,
            f.Agreement ?? Vouchered.AgreementOf(f.Payment, f.Order, catalogue.Now), f.Order, dispute.Value) : null;
    }
}
