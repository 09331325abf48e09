using System.Text.Json;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Data;

namespace BrightCircle.App.Billing;

/// <param name="Token">What the payment service knows the card by.</param>
public sealed record ForgottenCard(string Token);

/// <summary>Tells the payment service to forget a card. It is asked again until it answers.</summary>
public sealed class ForgetCard(IPaymentGateway gateway) : IDueHandler
{
    public DueKind Kind => DueKind.ForgetCard;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var card = JsonSerializer.Deserialize<ForgottenCard>(item.Row.Payload!, CoreJson.Options)!;
            if (await gateway.Forget(card.Token, ct)) happened.Add("cards forgotten");
            else item.Postpone("The payment service gave no answer to forgetting a card.");
        }
    }
}
