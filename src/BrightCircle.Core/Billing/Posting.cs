using System.Collections.Immutable;
using BrightCircle.Core.Offer;

namespace BrightCircle.Core.Billing;

/// <summary>The accounts of the ledger. A positive amount is a debit, a negative one a credit.</summary>
public enum LedgerAccount
{
    /// <summary>What members owe.</summary>
    Member,
    /// <summary>What was charged for plans.</summary>
    Income,
    /// <summary>What was given back, by the team or by a chargeback.</summary>
    Refunds,
    /// <summary>What the payment service holds for the site.</summary>
    Cash,
    /// <summary>What members have to their credit, for their next charges.</summary>
    Credit,
    /// <summary>What came in by transfer or by hand, and is in the site's own account.</summary>
    Bank,
}

public readonly record struct LedgerLine(LedgerAccount Account, Money Amount);

/// <summary>A balanced set of ledger lines for one event. It can't be made unbalanced.</summary>
public sealed record Posting
{
    /// <exception cref="InvalidOperationException">The lines don't sum to zero in each currency.</exception>
    public Posting(params ImmutableArray<LedgerLine> lines)
    {
        foreach (var byCurrency in lines.GroupBy(l => l.Amount.Currency))
            if (byCurrency.Sum(l => l.Amount.Minor) != 0)
                throw new InvalidOperationException($"These lines don't balance in {byCurrency.Key}.");
        Lines = lines;
    }

    public ImmutableArray<LedgerLine> Lines { get; }

    /// <summary>The member is charged, and pays.</summary>
    public static Posting Paid(Money amount, PayWay way = PayWay.Card) => Paid(amount, amount, way);

    /// <summary>Where money is that came in by a way.</summary>
    public static LedgerAccount Into(PayWay way) => way switch
    {
        PayWay.Card => LedgerAccount.Cash,
        PayWay.Transfer or PayWay.Elsewhere => LedgerAccount.Bank,
        _ => throw new ArgumentOutOfRangeException(nameof(way), way, "No such way."),
    };

    /// <summary>The member is charged one amount and another came in: what is between them stays with the member, to be looked at.</summary>
    /// <exception cref="InvalidOperationException">The currencies differ.</exception>
    public static Posting Paid(Money asked, Money taken, PayWay way = PayWay.Card) => new(
        new(LedgerAccount.Member, asked), new(LedgerAccount.Income, -asked),
        new(Into(way), taken), new(LedgerAccount.Member, -taken));

    /// <summary>The member is charged, doesn't pay, and the charge is withdrawn: it leaves its trace and no balance.</summary>
    public static Posting Failed(Money amount) => new(
        new(LedgerAccount.Member, amount), new(LedgerAccount.Income, -amount),
        new(LedgerAccount.Income, amount), new(LedgerAccount.Member, -amount));

    /// <summary>Income becomes the member's credit: what they changed away from wasn't used up.</summary>
    public static Posting Credited(Money amount) => new(new(LedgerAccount.Income, amount), new(LedgerAccount.Credit, -amount));

    /// <summary>The member is charged, and credit pays.</summary>
    public static Posting CreditUsed(Money amount) => new(
        new(LedgerAccount.Member, amount), new(LedgerAccount.Income, -amount),
        new(LedgerAccount.Credit, amount), new(LedgerAccount.Member, -amount));

    /// <summary>Money that a bank had taken back came in again: the dispute was won.</summary>
    public static Posting Restored(Money amount) => new(new(LedgerAccount.Cash, amount), new(LedgerAccount.Refunds, -amount));

    /// <summary>Money goes back, by a refund or a chargeback.</summary>
    public static Posting GivenBack(Money amount, PayWay way = PayWay.Card) => new(
        new(LedgerAccount.Refunds, amount), new(Into(way), -amount));
}
