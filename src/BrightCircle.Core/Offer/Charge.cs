using System.Text.Json.Serialization;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>What a charge is for; with its turn and its holding it names it for good.</summary>
public enum PaymentPurpose
{
    Trial,
    Once,
    Recurring,
    Instalment,
    /// <summary>All the instalments that are left, at once.</summary>
    Rest,
}

/// <summary>What a line of a charge is about.</summary>
public enum ChargeLineKind { Plan, Trial, JoiningFee, Coupon, Credit }

/// <summary>A line of a charge. What lowers it is negative. A tax would stand with the line it is of.</summary>
public sealed record ChargeLine(ChargeLineKind Kind, Money Amount);

/// <summary>One charge that an agreement asks for: its lines, and their sum, which is never negative.</summary>
/// <param name="Turn">0 for the first charge of its purpose, then counting; with purpose and holding it names the charge for good.</param>
/// <param name="DueAt">When it is due, UTC: the start of the stretch it pays for.</param>
/// <param name="PaidThrough">The end of that stretch, exclusive; null where it pays for ever.</param>
public sealed record Charge(PaymentPurpose Purpose, int Turn, Instant DueAt, Instant? PaidThrough, IReadOnlyList<ChargeLine> Lines)
{
    /// <summary>A charge of one line.</summary>
    public Charge(PaymentPurpose purpose, int turn, Instant dueAt, Instant? paidThrough, Money amount)
        : this(purpose, turn, dueAt, paidThrough, [new(purpose == PaymentPurpose.Trial ? ChargeLineKind.Trial : ChargeLineKind.Plan, amount)]) { }

    [JsonIgnore]
    public Money Amount
    {
        get
        {
            var sum = Lines[0].Amount;
            for (var i = 1; i < Lines.Count; i++) sum += Lines[i].Amount;
            return sum;
        }
    }

    /// <summary>1 for the first of its purpose.</summary>
    [JsonIgnore] public int Number => Turn + 1;

    /// <summary>The credit it uses, as a positive amount; zero for none.</summary>
    [JsonIgnore] public Money CreditUsed => -Of(ChargeLineKind.Credit);

    /// <summary>What the stretch it pays for is worth: all but a joining fee, whether paid in money or in credit.</summary>
    [JsonIgnore] public Money Worth => Amount + CreditUsed - Of(ChargeLineKind.JoiningFee);

    /// <summary>The sum of the lines of a kind.</summary>
    public Money Of(ChargeLineKind kind)
    {
        var sum = Money.Zero(Lines[0].Amount.Currency);
        foreach (var line in Lines)
            if (line.Kind == kind) sum += line.Amount;
        return sum;
    }

    /// <summary>The same with as much of a balance used as it asks for.</summary>
    /// <param name="balance">Null, nothing or of another currency: nothing is used.</param>
    public Charge Using(Money? balance)
    {
        if (balance is not { Minor: > 0 } has || has.Currency != Lines[0].Amount.Currency || Amount is not { Minor: > 0 } asks) return this;
        return this with { Lines = [.. Lines, new(ChargeLineKind.Credit, has < asks ? -has : -asks)] };
    }

    public bool Equals(Charge? other) => other is not null && Purpose == other.Purpose && Turn == other.Turn && DueAt == other.DueAt
        && PaidThrough == other.PaidThrough && Lines.SequenceEqual(other.Lines);

    public override int GetHashCode() => HashCode.Combine(Purpose, Turn, DueAt, PaidThrough, Lines.Count);
}
