using BrightCircle.App.Due;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What falls due by transfer or by hand is asked for ahead.</summary>
public sealed class AskTransfer(BrightContext db, Memberships door, WantPayment want) : IDueHandler
{
    public DueKind Kind => DueKind.AskTransfer;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var asks = new List<(Membership, Holding, Charge, Instant)>();
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            if (holding.Way == PayWay.Card || Obligations.Of(holding, at) is not { IsOverdue: false, Next: { Amount.IsZero: false } charge }) return false;
            asks.Add((m, holding, charge, at));
            return false;
        }, ct);
        foreach (var (m, holding, charge, at) in asks)
        {
            await want.For(m, holding, charge, at, ct);
            happened.Add("asked for");
        }
    }
}
