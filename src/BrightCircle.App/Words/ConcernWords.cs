using BrightCircle.Core.Billing;

namespace BrightCircle.App.Words;

/// <summary>What a payment is to be looked at for.</summary>
public static class ConcernWords
{
    public static string One(PaymentConcern concern) => concern switch
    {
        PaymentConcern.TakenDiffers => "Another amount came in than was asked for.",
        PaymentConcern.Dispute => "A bank took a payment back.",
        PaymentConcern.DisputeAfterRefund => "A bank took back what had been refunded.",
        PaymentConcern.DisputeOfUnknown => "A bank took back a charge that isn’t known here.",
        PaymentConcern.ChargeRefused => "The payment service refuses a charge.",
        PaymentConcern.FirstPaymentFailed => "A first payment failed.",
        PaymentConcern.DisputeWon => "A dispute was decided for you.",
    };

    public static string Many(PaymentConcern concern, int n) => concern switch
    {
        PaymentConcern.TakenDiffers => $"{n} times another amount came in than was asked for.",
        PaymentConcern.Dispute => $"Banks took {n} payments back.",
        PaymentConcern.DisputeAfterRefund => $"Banks took back {n} payments that had been refunded.",
        PaymentConcern.DisputeOfUnknown => $"Banks took back {n} charges that aren’t known here.",
        PaymentConcern.ChargeRefused => $"The payment service refuses {n} charges.",
        PaymentConcern.FirstPaymentFailed => $"{n} first payments failed.",
        PaymentConcern.DisputeWon => $"{n} disputes were decided for you.",
    };
}
