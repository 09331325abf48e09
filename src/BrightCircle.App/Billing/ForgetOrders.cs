using BrightCircle.App.Due;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>What somebody began and went away from is forgotten after thirty days (<see cref="CheckoutSecret.Lasts"/>).</summary>
public sealed class ForgetOrders(BrightContext db) : IDueHandler
{
    public DueKind Kind => DueKind.ForgetOrders;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        // The letter that reminded of it goes with it, where it is nobody's who came.
        var letters = numbers.Select(RemindHalfWay.KeyOf).ToArray();
        await db.Letters.Where(l => letters.Contains(l.Key) && l.MemberId == null).ExecuteDeleteAsync(ct);
        var open = db.Checkouts.Where(c => numbers.Contains(c.Id) && c.State == CheckoutState.Open);
        var gone = await open.Where(c => c.Session == null).ExecuteDeleteAsync(ct);
        // A page of the payment service may still stand open somewhere; what was paid there has to find its way.
        gone += await open.Where(c => c.BrowserHash != null).ExecuteUpdateAsync(u => u.SetProperty(c => c.BrowserHash, (string?)null), ct);
        if (gone > 0) happened.Add("forgotten", gone);
    }
}
