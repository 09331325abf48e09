using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>Asks the payment service to give money back, and records it with what follows.</summary>
public sealed class RefundDue(BrightContext db, Books books, IPaymentGateway gateway, Memberships door, Tell tell, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.Refund;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var order = RefundOrder.Read(item.Row.Payload!);
            var of = await db.Payments.AsNoTracking().Where(p => p.Id == new PaymentId(item.Row.SubjectId)).Select(p => new { p.MemberId, p.HoldingId })
                .SingleAsync(ct);
            await door.Lock([of.MemberId], ct);
            if (await db.ChargeAsks.AnyAsync(a => a.MemberId == of.MemberId, ct))
            {
                item.Postpone("A charge of this member is still open.");
                continue;
            }
            var m = (await db.LoadMemberships([of.MemberId], ct))[of.MemberId];
            var payment = await db.Payments.SingleAsync(p => p.Id == new PaymentId(item.Row.SubjectId), ct);
            await db.Entry(payment).ReloadAsync(ct);
            var amount = new Money(order.Minor, payment.Amount.Currency);
            if (amount > payment.Refundable) continue;
            var holding = of.HoldingId is { } held ? m.Find(held) : null;
            var plan = holding?.PlanId ?? catalogue.Now.PriceById[payment.PriceId].PlanId;
            var by = order.By is null ? null : new TeamActor(0, order.By, TeamRole.Owner);
            // What came by transfer or by hand goes back the same way, by the team's own hand: here it is written down.
            switch (payment.Way == PayWay.Card ? await gateway.Refund(item.Row.Key, payment.ChargeRef, amount, item.Moment, ct) : new RefundResult.Done(""))
            {
                case RefundResult.Done:
                    books.GivenBack(payment, amount, chargeback: false, order.Reason, item.Row.Key, item.Moment);
                    var ends = order.EndHolding && (holding is null ? await db.RevokeVoucher(payment, item.Moment, ct) : holding.Ending is null);
                    tell.Of(m.Member, new Event.Refunded(payment.Id, holding?.Id, plan, amount, payment.At, payment.CardLabel, order.Reason, ends),
                        item.Moment, by);
                    if (ends && holding is not null) books.End(m, holding, EndReason.Refunded, item.Moment, by);
                    await door.Leave([m], item.Moment, ct);
                    happened.Add("refunded");
                    break;
                case RefundResult.Refused refused:
                    tell.Of(m.Member, new Event.RefundRefused(payment.Id, amount, refused.Why), item.Moment, by);
                    break;
                case RefundResult.Unknown unknown:
                    item.Postpone(unknown.Why);
                    break;
            }
        }
    }
}
