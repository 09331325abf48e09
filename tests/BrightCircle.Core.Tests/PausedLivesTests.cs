using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Whatever is paused, gone on with and paid ahead, in any order: no two paid stretches of a holding lie over one another.</summary>
public class PausedLivesTests
{
    static readonly SiteCalendar London = SiteCalendar.For("Europe/London");

    [Fact]
    public void No_two_paid_stretches_lie_over_one_another()
    {
        for (var seed = 0; seed < 300; seed++) Live(seed);
    }

    // By hand: 24 November to 24 December is paid. Paused from 1 December to 20 January, that is 50 days: paid to 12 February. Paused again from 5 to
    // 8 February, 3 days: paid to 15 February, and that is when the next payment is due. The stretch is 83 days long then, longer than any month.
    [Fact]
    public void A_second_pause_in_a_stretch_that_a_long_one_made_longer_moves_the_next_payment_too()
    {
        Instant Day(int year, int month, int day) => London.At(new LocalDate(year, month, day).At(new(10, 42)));
        var holding = Monthly(Day(2026, 11, 24));
        holding.Paused(Day(2026, 12, 1), London.At(new LocalDate(2027, 1, 20).AtMidnight()));
        Assert.Equal(Day(2027, 2, 12), Obligations.Of(holding, Day(2027, 1, 25)).Next!.DueAt);
        holding.Paused(Day(2027, 2, 5), London.At(new LocalDate(2027, 2, 8).AtMidnight()));
        Assert.Equal(Day(2027, 2, 15), holding.PaidThrough(Day(2027, 2, 9)));
        Assert.Equal(Day(2027, 2, 15), Obligations.Of(holding, Day(2027, 2, 9)).Next!.DueAt);
        Assert.Equal(Day(2027, 3, 15), Obligations.AgreementAt(holding, Day(2027, 2, 9)).Find(PaymentPurpose.Recurring, 2)!.DueAt);
    }

    static Holding Monthly(Instant start)
    {
        var holding = new Holding
        {
            Id = new(1),
            MemberId = new(1),
            PlanId = new(1),
            PriceId = new(1),
            StartsAt = start,
            Agreement = new Agreement(new PriceTerms.Recurring(new(1800, new("GBP")), Period.Months(1)), false, start, "Europe/London"),
        };
        var first = holding.Agreement.Charges().First();
        holding.Paid(first.DueAt, first.PaidThrough, start);
        return holding;
    }

    static void Live(int seed)
    {
        var random = new Random(seed);
        var start = London.At(new LocalDate(2026, 11, 24).At(new(10, 42)));
        var holding = Monthly(start);
        var at = start;
        var told = new List<string>();
        for (var step = 0; step < 40; step++)
        {
            var next = London.PlusDays(at, random.Next(0, 21));
            // What falls due on the way is charged on its day.
            for (var guard = 0; guard < 50; guard++)
            {
                var (moment, charge) = FirstDue(holding, at, next);
                if (charge is null) break;
                holding.Paid(charge.DueAt, charge.PaidThrough, moment);
                told.Add($"{moment}: charged {charge.DueAt}–{charge.PaidThrough}");
            }
            at = next;
            switch (random.Next(4))
            {
                case 0 when Obligations.Of(holding, at) is { State: HoldingState.Active or HoldingState.Trial, Next: { } ahead }:
                    holding.Paid(ahead.DueAt, ahead.PaidThrough, at);
                    told.Add($"{at}: ahead {ahead.DueAt}–{ahead.PaidThrough}");
                    break;
                case 1 when Pausing.Refuses(holding, London.Date(at).PlusDays(random.Next(1, 45)) is var day ? day : default, null, true, at) is null:
                    holding.Paused(at, London.At(day.AtMidnight()));
                    told.Add($"{at}: paused until {day}");
                    break;
                case 2 when Obligations.Of(holding, at).State == HoldingState.Paused:
                    holding.Resumed(at);
                    told.Add($"{at}: went on");
                    break;
            }
            var paid = holding.Timeline.Paid;
            for (var i = 1; i < paid.Count; i++)
                Assert.True(paid[i - 1].To <= paid[i].From,
                    $"Seed {seed}: {paid[i - 1].From}–{paid[i - 1].To}, then {paid[i].From}.\n{string.Join('\n', told)}");
        }
    }

    /// <summary>The first charge that falls due before a moment, and when it is asked for.</summary>
    static (Instant, Charge?) FirstDue(Holding holding, Instant from, Instant until)
    {
        for (var m = from; m <= until; m += Duration.FromDays(1))
            if (Obligations.Of(holding, m).DueAt(m) is { } due) return (m, due);
        return (until, null);
    }
}
