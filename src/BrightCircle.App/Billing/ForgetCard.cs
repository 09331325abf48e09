using System.Text.Json;
using BrightCircle.App.Due;
using BrightCircle.Data;

namespace BrightCircle.App.Billing;

/// <summary>Tells the payment service to forget a card. It is asked again until it answers.</summary>
public sealed class ForgetCard(IPaymentGateway gateway) : IDueHandler
{
    public DueKind Kind => DueKind.ForgetCard;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            // What the payment service knows it by.
            var token = JsonSerializer.Deserialize<string>(item.Row.Payload!)!;
            if (await gateway.Forget(token, ct)) happened.Add("cards forgotten");
            else item.Postpone("The payment service gave no answer to forgetting a card.");
        }
    }
}
