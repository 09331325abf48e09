using BrightCircle.App.Catalogues;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;

namespace BrightCircle.App.Billing;

static class Vouchered
{
    /// <summary>The terms on which a voucher was bought.</summary>
    public static Agreement AgreementOf(Payment payment, Checkout? order, CatalogueSnapshot now) =>
        new(now.PriceById[payment.PriceId].Terms, false, payment.At, now.Calendar.Zone.Id, order?.Coupon);
}
