using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Asks for what falls due where it is paid by transfer or by hand: a request with a reference, written down like an order.</summary>
public sealed class WantPayment(BrightContext db, Ids ids, Tell tell, Catalogue catalogue)
{
    /// <summary>So many days before it is due it is asked for.</summary>
    public const int AheadDays = 10;

    /// <summary>When a charge is asked for: before it is due, where there is time for that.</summary>
    public static Instant? AskAt(Charge charge, Instant from, SiteCalendar calendar) =>
        calendar.PlusDays(charge.DueAt, -AheadDays) is var ahead && ahead > from ? ahead : null;

    /// <summary>How long the money of what falls due is waited for, in days.</summary>
    public int DaysOf(PayWay way) => catalogue.Now.Site!.Ways.FirstOrDefault(w => w.Way == way)?.Days ?? 14;

    /// <summary>The request for a charge, made where it isn't there yet.</summary>
    public async Task<Checkout> For(Membership m, Holding holding, Charge charge, Instant at, CancellationToken ct)
    {
        if (await db.Checkouts.FirstOrDefaultAsync(c => c.HoldingId == holding.Id && c.Purpose == CheckoutPurpose.ConfirmPayment && c.Turn == charge.Turn
            && c.ChargePurpose == charge.Purpose && c.State == CheckoutState.Placed, ct) is { } known) return known;
        var until = catalogue.Now.Calendar.PlusDays(Instant.Max(at, charge.DueAt), DaysOf(holding.Way));
        var id = ids.Next();
        var order = db.Add(new Checkout
        {
            Id = id,
            Purpose = CheckoutPurpose.ConfirmPayment,
            MemberId = m.Member.Id,
            HoldingId = holding.Id,
            Turn = charge.Turn,
            ChargePurpose = charge.Purpose,
            Email = m.Member.Email,
            Name = m.Member.Name,
            CreatedAt = at,
            Way = holding.Way,
            State = CheckoutState.Placed,
            PlacedAt = at,
            OpenUntil = until,
            Reference = CreditorReference.For(id),
            AskedMinor = charge.Amount.Minor,
            AskedCurrency = charge.Amount.Currency.Code,
        }).Entity;
        tell.Of(m.Member, new Event.PaymentWanted(id, holding.Id, holding.PlanId, charge.Amount, order.Reference!, order.Way, charge.DueAt, until), at);
        ChaseOrder.Put(db, ids, order, at);
        return order;
    }
}
