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
        var dispute = await db.Disputes.AsNoTracking().FirstOrDefaultAsync(d => d.Id == id, ct);
        if (dispute is null) return Result.Refused("This dispute isn’t here any more.");
        if (dispute.State != DisputeState.Open) return AnsweredBefore;
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
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // Somebody else may have answered meanwhile, or the bank decided: what came first stands.
        if (await db.Disputes.Where(d => d.Id == id && d.State == DisputeState.Open).ExecuteUpdateAsync(u => u
            .SetProperty(d => d.State, DisputeState.Answered).SetProperty(d => d.Answer, text).SetProperty(d => d.AnsweredAt, at)
            .SetProperty(d => d.AnsweredBy, by.Name), ct) == 0) return AnsweredBefore;
        tell.Of(await db.Members.SingleAsync(m => m.Id == dispute.MemberId, ct), new Event.DisputeAnswered(dispute.PaymentId, dispute.Amount), at, by);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    static Result AnsweredBefore => Result.Refused("It has been answered, or decided.");
}
