using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>A bank has decided: where it was for the site, the money is there again.</summary>
public sealed class DisputeDecided(BrightContext db, Books books, Tell tell, Catalogue catalogue) : IDueHandler
{
    /// <summary>So long a decision waits for its dispute, which may be on its way.</summary>
    static readonly Duration KnownWithin = Duration.FromHours(2);

    public DueKind Kind => DueKind.DisputeDecided;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var order = JsonSerializer.Deserialize<DecidedOrder>(item.Row.Payload!, CoreJson.Options)!;
            // Whoever is told a second time waits here, and then finds it decided.
            await db.Database.ExecuteSqlAsync($"select 1 from disputes where ref = {order.DisputeRef} for update", ct);
            if (await db.Disputes.FirstOrDefaultAsync(d => d.Ref == order.DisputeRef, ct) is not { } dispute)
            {
                // What isn't known here was told of as a charge that nobody knows.
                if (item.Moment < item.Row.DueAt + KnownWithin) item.Postpone("No dispute of that reference is known yet.");
                continue;
            }
            if (dispute.DecidedAt is not null) continue;
            (dispute.State, dispute.DecidedAt) = (order.Won ? DisputeState.Won : DisputeState.Lost, item.Moment);
            var member = await db.Members.SingleAsync(m => m.Id == dispute.MemberId, ct);
            if (order.Won)
            {
                books.Restored(dispute, item.Moment);
                books.LookAt(PaymentConcern.DisputeWon, dispute.MemberId, dispute.PaymentId,
                    $"{dispute.Amount.Format(catalogue.Now.Culture)} of {member.Name} came back. What it had paid for ended when the bank took it; give it "
                    + "again on their page, if that is right.", $"won-{dispute.Id}", item.Moment);
            }
            tell.Of(member, new Event.DisputeDecided(dispute.PaymentId, dispute.Amount, order.Won), item.Moment);
            happened.Add(order.Won ? "disputes won" : "disputes lost");
        }
    }
}
