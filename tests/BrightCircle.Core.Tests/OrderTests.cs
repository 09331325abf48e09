using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Orders of several things, and the references by which money finds them.</summary>
public class OrderTests
{
    static readonly Currency Gbp = new("GBP");
    static readonly Instant At = Instant.FromUtc(2026, 11, 24, 10, 42);
    static Money Pounds(long minor) => new(minor, Gbp);

    static OrderPart Part(PriceTerms terms, int n = 1, bool extra = false) => new(new(n), new(n), new(terms, true, At, "Europe/London"), extra);

    // ISO 11649's often printed example is RF18 5390 0754 7034 (from memory); its check digits by ISO 7064 MOD 97-10: 539007547034 2715 00 leaves 80, and
    // 98 − 80 = 18.
    [Fact]
    public void A_reference_has_the_check_digits_of_the_standard()
    {
        Assert.Equal("RF18539007547034", CreditorReference.For(539007547034));
        Assert.True(CreditorReference.IsValid("RF18539007547034"));
        Assert.True(CreditorReference.IsValid("rf18 5390 0754 7034"));
        Assert.Equal("RF18 5390 0754 7034", CreditorReference.Show("RF18539007547034"));
        // Letters count from A = 10: A1 and RF00 make 10 1 27 15 00; 101,271,500 = 97 × 1,044,036 + 8, and 98 − 8 = 90.
        Assert.True(CreditorReference.IsValid("RF90A1"));
    }

    [Theory]
    [InlineData("RF19539007547034"), InlineData("RF18539007547043"), InlineData("XX18539007547034"), InlineData("RF18"), InlineData("RF1"), InlineData("")]
    [InlineData(null), InlineData("RF18 5390-0754-7034"), InlineData("RFAB539007547034"), InlineData("RF185390075470341234567890")]
    public void What_is_no_reference_is_none(string? typed) => Assert.False(CreditorReference.IsValid(typed));

    [Fact]
    public void A_number_below_nothing_has_no_reference() => Assert.Throws<ArgumentOutOfRangeException>(() => CreditorReference.For(-1));

    // Any single digit mistyped, and any two neighbours swapped, is found out: that is what MOD 97-10 is for.
    [Fact]
    public void One_slip_is_found_out() => Gen.Long[0, long.MaxValue].Select(Gen.Int[0, 17], Gen.Int[1, 9]).Sample((number, at, by) =>
    {
        var right = CreditorReference.For(number);
        Assert.True(CreditorReference.IsValid(right));
        Assert.True(right.Length <= CreditorReference.Longest);
        var i = 4 + at % (right.Length - 4);
        var wrong = right.ToCharArray();
        wrong[i] = (char)('0' + (wrong[i] - '0' + by) % 10);
        Assert.False(CreditorReference.IsValid(new string(wrong)));
        if (i + 1 < right.Length && right[i] != right[i + 1])
        {
            var swapped = right.ToCharArray();
            (swapped[i], swapped[i + 1]) = (swapped[i + 1], swapped[i]);
            Assert.False(CreditorReference.IsValid(new string(swapped)));
        }
    }, iter: 2000);

    [Fact]
    public void References_are_found_among_other_words()
    {
        Assert.Equal(["RF18539007547034"], CreditorReference.FindIn("RF18539007547034"));
        Assert.Contains("RF18539007547034", CreditorReference.FindIn("Transfer rf18 5390 0754 7034 thank you"));
        Assert.Contains("RF18539007547034", CreditorReference.FindIn("INV RF18539007547034 12"));
        Assert.Empty(CreditorReference.FindIn("RF19539007547034"));
        Assert.Empty(CreditorReference.FindIn("nothing of the kind"));
        Assert.Empty(CreditorReference.FindIn(null));
        var (a, b) = (CreditorReference.For(7), CreditorReference.For(8));
        var both = CreditorReference.FindIn($"{a}/{b}/{a}");
        Assert.Equal([a, b], both.Where(r => r == a || r == b));
    }

    [Fact]
    public void An_order_asks_for_the_first_charge_of_each_part()
    {
        var order = new Order([Part(new PriceTerms.Recurring(Pounds(1800), Core.Time.Period.Months(1)) { JoiningFee = Pounds(500) }),
            Part(new PriceTerms.OnePayment(Pounds(900)), 2, true)]);
        Assert.Equal(Pounds(3200), order.Due);
        Assert.True(order.NeedsCard);
        // A trial for nothing asks for nothing, and the extra all the same.
        var trial = Part(new PriceTerms.Recurring(Pounds(1800), Core.Time.Period.Months(1), new(new(7, Core.Time.PeriodUnit.Days), Money.Zero(Gbp))));
        Assert.Equal(Pounds(900), new Order([trial, Part(new PriceTerms.OnePayment(Pounds(900)), 2, true)]).Due);
        Assert.Null(new Order([trial]).Due);
        Assert.True(new Order([trial]).NeedsCard);
        Assert.Null(new Order([Part(new PriceTerms.Free())]).Due);
        Assert.False(new Order([Part(new PriceTerms.Free())]).NeedsCard);
        Assert.True(new Order([Part(new PriceTerms.Free()), Part(new PriceTerms.OnePayment(Pounds(900)), 2, true)]).NeedsCard);
    }

    [Fact]
    public void An_order_is_of_something_in_one_currency()
    {
        Assert.Throws<ArgumentException>(() => new Order([]));
        Assert.Throws<ArgumentException>(() => new Order([Part(new PriceTerms.OnePayment(Pounds(1))),
            Part(new PriceTerms.OnePayment(new(1, new("EUR"))), 2, true)]));
    }

    [Fact]
    public void What_came_in_is_shared_out_by_what_was_asked()
    {
        var order = new Order([Part(new PriceTerms.OnePayment(Pounds(6900))), Part(new PriceTerms.OnePayment(Pounds(900)), 2, true)]);
        Assert.Equal([Pounds(6900), Pounds(900)], order.Split(Pounds(7800)));
        Assert.Equal([Pounds(6800), Pounds(900)], order.Split(Pounds(7700)));
        Assert.Equal([Pounds(7000), Pounds(900)], order.Split(Pounds(7900)));
        Assert.Equal([null, null], order.Split(null));
        Assert.Equal([new Money(7800, new("EUR")), Pounds(900)], order.Split(new Money(7800, new("EUR"))));
        // A part that asks for nothing gets nothing; the difference stands with the first that asks.
        var free = new Order([Part(new PriceTerms.Free()), Part(new PriceTerms.OnePayment(Pounds(900)), 2, true)]);
        Assert.Equal([null, Pounds(900)], free.Split(Pounds(900)));
        Assert.Equal([null, Pounds(850)], free.Split(Pounds(850)));
    }

    [Fact]
    public void Sharing_out_loses_nothing() => Gen.Select(Gen.Long[0, 100_000].Array[1, 4], Gen.Long[-50_000, 50_000]).Sample((amounts, off) =>
    {
        var order = new Order([.. amounts.Select((a, i) => Part(a == 0 ? new PriceTerms.Free() : new PriceTerms.OnePayment(Pounds(a)), i + 1, i > 0))]);
        if (order.Due is not { } due) return;
        var shared = order.Split(due + Pounds(off));
        Assert.Equal(due.Minor + off, shared.Sum(p => p?.Minor ?? 0));
    });

    [Fact]
    public void Money_by_transfer_or_by_hand_is_in_the_bank_and_goes_back_from_there()
    {
        foreach (var (way, account) in new[] { (PayWay.Card, LedgerAccount.Cash), (PayWay.Transfer, LedgerAccount.Bank),
            (PayWay.Elsewhere, LedgerAccount.Bank) })
        {
            Assert.Equal(Pounds(1800), Posting.Paid(Pounds(1800), way).Lines.Single(l => l.Account == account).Amount);
            Assert.Equal(Pounds(2700), Posting.Paid(Pounds(1800), Pounds(2700), way).Lines.Single(l => l.Account == account).Amount);
            Assert.Equal(Pounds(-700), Posting.GivenBack(Pounds(700), way).Lines.Single(l => l.Account == account).Amount);
        }
    }

    [Fact]
    public void An_extra_is_a_pass_that_is_paid_once()
    {
        var tier = new Plan { Id = new(1), Kind = PlanKind.Tier, Name = "Keeper", Rank = 1 };
        var pass = new Plan { Id = new(2), Kind = PlanKind.Pass, Name = "First Winter" };
        Price Of(Plan plan, PriceTerms terms, int n) => new() { Id = new(n), PlanId = plan.Id, Terms = terms };
        var main = Of(tier, new PriceTerms.Recurring(Pounds(1800), Core.Time.Period.Months(1)), 1);
        Assert.Null(CheckoutExtra.Refuses(Of(pass, new PriceTerms.OnePayment(Pounds(900)), 2), pass, main));
        Assert.NotNull(CheckoutExtra.Refuses(Of(pass, new PriceTerms.Free(), 2), pass, main));
        Assert.NotNull(CheckoutExtra.Refuses(Of(pass, new PriceTerms.Instalments(Pounds(900), 3, Core.Time.Period.Months(1)), 2), pass, main));
        Assert.NotNull(CheckoutExtra.Refuses(Of(pass, new PriceTerms.OnePayment(Pounds(900)) { Seats = 3 }, 2), pass, main));
        Assert.NotNull(CheckoutExtra.Refuses(Of(pass, new PriceTerms.OnePayment(new(900, new("EUR"))), 2), pass, main));
        Assert.NotNull(CheckoutExtra.Refuses(Of(tier, new PriceTerms.OnePayment(Pounds(900)), 2), tier, Of(pass, new PriceTerms.OnePayment(Pounds(900)), 3)));
        Assert.NotNull(CheckoutExtra.Refuses(Of(pass, new PriceTerms.OnePayment(Pounds(900)), 2), pass, Of(pass, new PriceTerms.OnePayment(Pounds(800)), 3)));
        // Beside what is free no currency stands in the way.
        Assert.Null(CheckoutExtra.Refuses(Of(pass, new PriceTerms.OnePayment(new(900, new("EUR"))), 2), pass, Of(tier, new PriceTerms.Free(), 1)));
    }
}
