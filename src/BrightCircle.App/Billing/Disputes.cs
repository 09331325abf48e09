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

/// <summary>What banks took back: shown with the day until which it can be answered, and answered.</summary>
public sealed class Disputes(BrightContext db, IPaymentGateway gateway, Tell tell, IClock clock)
{
    public const int LongestAnswer = 4000;

    /// <summary>Those that are open first, by the day until which they can be answered; then the newest.</summary>
    public async Task<IReadOnlyList<(Dispute Dispute, string Name)>> All(CancellationToken ct) =>
        [.. (await db.Disputes.AsNoTracking().Join(db.Members, d => d.MemberId, m => m.Id, (d, m) => new { d, m.Name })
            .OrderByDescending(x => x.d.OpenedAt).Take(200).ToListAsync(ct)).OrderBy(x => x.d.State != DisputeState.Open)
            .ThenBy(x => x.d.State == DisputeState.Open ? x.d.AnswerBy : Instant.MinValue).Select(x => (x.d, x.Name))];

    /// <summary>Sends what the team says to it. Once, and only as long as the bank listens.</summary>
    public async Task<Result> Answer(TeamActor by, long id, string? text, CancellationToken ct)
    {
        by.NeedOwner();
        text = text?.Trim() ?? "";
        if (text.Length is 0 or > LongestAnswer)
            return Result.Refused($"Say what was agreed, and what was used: at most {LongestAnswer} letters.", "Answer");
        var at = clock.GetCurrentInstant();
        var dispute = await db.Disputes.FirstOrDefaultAsync(d => d.Id == id, ct);
        if (dispute is null) return Result.Refused("This dispute isn’t here any more.");
        if (dispute.State != DisputeState.Open) return Result.Refused("It has been answered, or decided.");
        if (!dispute.CanBeAnswered(at)) return Result.Refused("It is too late to answer it: the bank doesn’t listen any more.");
        // The same key says it once, however often it is sent.
        switch (await gateway.Answer($"answer-{dispute.Id}", dispute.Ref, text, ct))
        {
            case RefundResult.Refused refused: return Result.Refused($"The payment service refuses it: {refused.Why}.", "Answer");
            case RefundResult.Unknown:
                return Result.Refused("The payment service doesn’t answer just now. What you wrote stands below; send it again.",
                "Answer");
            case RefundResult.Done: break;
            default: throw new InvalidOperationException("No such answer.");
        }
        (dispute.State, dispute.Answer, dispute.AnsweredAt, dispute.AnsweredBy) = (DisputeState.Answered, text, at, by.Name);
        tell.Of(await db.Members.SingleAsync(m => m.Id == dispute.MemberId, ct), new Event.DisputeAnswered(dispute.PaymentId, dispute.Amount), at, by);
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }
}

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
                    $"{dispute.Amount.Format(catalogue.Now.Culture)} of {member.Name} came back. What it had paid for ended when the bank took it; "
                        + $"give it again on "
                    + "their page, if that is right.", $"won-{dispute.Id}", item.Moment);
            }
            tell.Of(member, new Event.DisputeDecided(dispute.PaymentId, dispute.Amount, order.Won), item.Moment);
            happened.Add(order.Won ? "disputes won" : "disputes lost");
        }
    }
}
