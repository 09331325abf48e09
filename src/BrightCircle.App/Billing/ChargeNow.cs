using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Asks the card on file for something now, at somebody's screen: written down first, and recorded like any other charge.</summary>
public sealed class ChargeNow(BrightContext db, Ids ids, SettleAsks settle, Catalogue catalogue)
{
    /// <summary>A worker looks after it if whoever asked is cut off.</summary>
    static readonly Duration LookAfter = Duration.FromMinutes(2);

    /// <summary>Writes the ask down, within the door.</summary>
    internal async Task<Result> WriteDown(Membership m, Holding holding, Charge charge, ChangeOrder? change, Instant at, CancellationToken ct)
    {
        var card = await db.Cards.AsNoTracking().AskedOf(m.Member.Id).FirstOrDefaultAsync(ct);
        if (card is null) return Result.Refused("No card is kept. Put one in first.");
        var attempt = change is not null ? 1 : await db.NextAttempt(holding.Id, charge, ct);
        var plan = change is null ? holding.PlanId : catalogue.Now.PriceById[change.To].PlanId;
        db.Add(new ChargeAsk
        {
            Key = Asking.KeyFor(change?.New ?? holding.Id, charge.Purpose, charge.Turn, attempt),
            HoldingId = holding.Id,
            MemberId = m.Member.Id,
            Purpose = charge.Purpose,
            Turn = charge.Turn,
            Attempt = attempt,
            DueAt = charge.DueAt,
            PaidThrough = charge.PaidThrough,
            Amount = charge.Amount,
            Lines = charge.Lines,
            Change = change,
            CardToken = card.Token,
            CardLabel = card.Label,
            Text = Bounded.To($"{catalogue.Now.Site?.Name}: {catalogue.Now.PlanName(plan)}", 300),
            At = at,
        });
        db.PutDue(ids, DueKind.Settle, m.Member.Id.Value, at + LookAfter, $"settle-{ids.Next()}");
        return Result.Done;
    }

    /// <summary>Asks, and records the answer.</summary>
    /// <returns>Null where it is settled, or a sentence for whoever has to wait.</returns>
    internal Task<string?> Settle(MemberId member, CancellationToken ct) => settle.Of(member, ct);
}

/// <summary>A member pays what is left of instalments, or the one that is open, with the card on file.</summary>
public sealed class PayRest(BrightContext db, Memberships door, ChargeNow charge)
{
    /// <param name="shown">What was shown to be charged, in minor units.</param>
    public async Task<Result> Do(MemberId member, HoldingId id, long shown, CancellationToken ct)
    {
        var key = "";
        var done = await door.Change(member, async (m, at) =>
        {
            if (m.Find(id) is not { } holding) return Result.Refused("This membership isn’t yours.");
            var agreement = Obligations.AgreementAt(holding, at);
            if (Obligations.Of(holding, at).RestOf(agreement) is not { } rest) return Result.Refused("Nothing is left to pay at once.");
            if (rest.Amount.Minor != shown) return Result.Refused("What is left has changed meanwhile. Please look at it again.");
            key = Asking.KeyFor(holding.Id, rest.Purpose, rest.Turn, 0)[..^1];
            return await charge.WriteDown(m, holding, rest, null, at, ct);
        }, ct);
        if (!done.Ok) return done;
        if (await charge.Settle(member, ct) is { } unsettled) return Result.Refused(unsettled);
        return await db.Payments.AnyAsync(p => p.Key.StartsWith(key) && p.Outcome == ChargeOutcome.Approved, ct) ? Result.Done
            : Result.Refused("The card was refused. Put in another card, or wait: each instalment is asked for on its day.");
    }
}
