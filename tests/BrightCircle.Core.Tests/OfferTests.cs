using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Agreements, the availability of prices, and a promise in words.</summary>
public sealed class OfferTests
{
    static readonly Instant Start = Instant.FromUtc(2026, 11, 3, 10, 0);
    static readonly Keep Closes = new Keep.Nothing(), Stays = new Keep.WhatHadOpened();
    static readonly Reach All = new Reach.EverythingReleased(), Joining = new Reach.FromJoining(), Paid = new Reach.WhilePaid();
    static Agreement Month(Trial? trial = null, bool right = true) => new(Make.Monthly(18, trial), right, Start, Make.London);
    static Trial Week(decimal price = 1) => new(Period.Days(7), Make.Pounds(price));
    static Inclusion On(Coverage covers, Reach? reach = null, Keep? keep = null) => new(covers, reach ?? All, keep ?? Closes);

    [Fact]
    public void What_is_given_owes_nothing_and_needs_no_card()
    {
        var given = Agreement.ForNothing(Start, Make.London);
        Assert.False(given.TrialRight);
        Assert.True(given.IsFree);
        Assert.Empty(given.Charges());
        Assert.Null(given.From(Start));
        Assert.Equal((false, true, true), (Make.Free.NeedsCard, Make.Once().NeedsCard, Make.Monthly().NeedsCard));
    }

    [Fact]
    public void Charges_are_counted_from_one()
    {
        var three = Month(Week()).Charges().Take(3).ToArray();
        Assert.Equal([(PaymentPurpose.Trial, 1), (PaymentPurpose.Recurring, 1), (PaymentPurpose.Recurring, 2)], three.Select(c => (c.Purpose, c.Number)));
    }

    [Fact]
    public void A_moment_is_in_the_stretch_that_begins_with_it_and_not_in_the_one_that_ends_with_it()
    {
        var agreement = Month(Week());
        var anchor = agreement.Anchor;
        var tick = Duration.FromNanoseconds(1);
        Assert.Null(agreement.At(Start - tick));
        Assert.Equal(PaymentPurpose.Trial, agreement.At(Start)!.Purpose);
        Assert.Equal(PaymentPurpose.Trial, agreement.At(anchor - tick)!.Purpose);
        Assert.Equal((PaymentPurpose.Recurring, 0), (agreement.At(anchor)!.Purpose, agreement.At(anchor)!.Turn));
        var second = agreement.Find(PaymentPurpose.Recurring, 1)!;
        Assert.Equal((0, 1), (agreement.At(second.DueAt - tick)!.Turn, agreement.At(second.DueAt)!.Turn));
        // What is paid once ends never.
        Assert.Equal(PaymentPurpose.Once, new Agreement(Make.Once(), false, Start, Make.London).At(Start + Duration.FromDays(9000))!.Purpose);
    }

    [Fact]
    public void The_next_charge_from_a_moment_on_is_the_trial_only_at_its_very_beginning()
    {
        var agreement = Month(Week());
        Assert.Equal(PaymentPurpose.Trial, agreement.From(Start)!.Purpose);
        Assert.Equal(agreement.Anchor, agreement.From(Start + Duration.Epsilon)!.DueAt);
        Assert.Equal(agreement.Anchor, agreement.From(agreement.Anchor)!.DueAt);
        Assert.Equal(agreement.Find(PaymentPurpose.Recurring, 1), agreement.From(agreement.Anchor + Duration.Epsilon));
        Assert.Equal(agreement.Find(PaymentPurpose.Recurring, 120), agreement.From(agreement.Find(PaymentPurpose.Recurring, 120)!.DueAt));
        // Without the right to the trial it begins with the first month.
        Assert.Equal((PaymentPurpose.Recurring, Start), (Month(Week(), right: false).From(Start)!.Purpose, Month(Week(), right: false).From(Start)!.DueAt));
    }

    [Fact]
    public void A_charge_is_found_by_its_purpose_and_turn_or_not_at_all()
    {
        var agreement = Month(Week());
        Assert.Equal((PaymentPurpose.Recurring, 0), (agreement.Find(PaymentPurpose.Recurring, 0)!.Purpose, agreement.Find(PaymentPurpose.Recurring, 0)!.Turn));
        Assert.Equal(PaymentPurpose.Trial, agreement.Find(PaymentPurpose.Trial, 0)!.Purpose);
        Assert.Null(agreement.Find(PaymentPurpose.Trial, 1));
        Assert.Null(agreement.Find(PaymentPurpose.Recurring, -1));
        Assert.Null(agreement.Find(PaymentPurpose.Once, 0));
    }

    [Fact]
    public void A_schedule_lists_from_one_to_a_thousand_payments_and_sums_what_ends()
    {
        Assert.Throws<ArgumentOutOfRangeException>(() => PaymentSchedule.For(Month(), count: 0));
        Assert.Throws<ArgumentOutOfRangeException>(() => PaymentSchedule.For(Month(), count: 1001));
        Assert.Single(PaymentSchedule.For(Month(), count: 1).Payments);
        Assert.Equal(1000, PaymentSchedule.For(Month(), count: 1000).Payments.Count);
        Assert.Equal(Make.Pounds(69), PaymentSchedule.For(new Agreement(Make.Once(), true, Start, Make.London)).Total);
        Assert.Null(PaymentSchedule.For(Month()).Total);
        Assert.Null(PaymentSchedule.For(Agreement.ForNothing(Start, Make.London)).Total);
    }

    [Theory]
    [InlineData(Availability.OnOffer, Availability.OnOffer, Availability.OnOffer)]
    [InlineData(Availability.ByLink, Availability.OnOffer, Availability.ByLink)]
    [InlineData(Availability.OnOffer, Availability.ByLink, Availability.ByLink)]
    [InlineData(Availability.ByLink, Availability.Closed, Availability.Closed)]
    [InlineData(Availability.Closed, Availability.ByLink, Availability.Closed)]
    public void Of_a_plan_and_its_price_the_stricter_word_counts(Availability plan, Availability price, Availability counts)
    {
        var of = new Plan { Id = new(1), Availability = plan };
        Assert.Equal(counts, new Price { Terms = Make.Free, Availability = price }.Within(of));
    }

    [Fact]
    public void A_promise_reads_as_sentences()
    {
        string Line(Plan plan) => PromiseWords.Line(plan, plan.Promise[0], c => c is Coverage.OnShelf ? "the shelf Bees" : "everything");
        Assert.Equal("Everything there is, old and new, until you leave", Line(Make.Tier(1, 1, On(new Coverage.Everything()))));
        Assert.Equal("The shelf Bees, from the month you join; what has opened stays yours",
            Line(Make.Tier(1, 1, On(new Coverage.OnShelf(new(7)), Joining, Stays))));
        // What was bought once is never left.
        Assert.Equal("Everything there is, old and new", Line(Make.Pass(1, On(new Coverage.Everything()))));
        Assert.Equal("", PromiseWords.Line(Make.Tier(1, 1), On(new Coverage.OneTally(new(3))), _ => ""));
        // Named or not: nothing is said about how far back a tally goes.
        Assert.Equal("the tally", PromiseWords.Describe(On(new Coverage.OneTally(new(3)))));
        Assert.Equal("the tally Walks", PromiseWords.Describe(On(new Coverage.OneTally(new(3))), _ => "the tally Walks"));
        Assert.Equal("this piece, what comes out while you pay, until you leave", PromiseWords.Describe(On(new Coverage.OnePiece(new(3)), Paid)));
        Assert.Equal("everything that comes out while you pay", PromiseWords.Describe(On(new Coverage.Everything(), Paid), canBeLeft: false));
    }

    [Fact]
    public void What_stays_after_leaving_is_said_of_the_whole_promise()
    {
        var (piece, shelf, tally) = (new Coverage.OnePiece(new(1)), new Coverage.OnShelf(new(1)), new Coverage.OneTally(new(1)));
        string? After(params Inclusion[] promise) => PromiseWords.AfterLeaving(Make.Tier(1, 1, promise));
        Assert.Equal("When you leave, what it opened closes.", After(On(piece), On(shelf)));
        Assert.Equal("When you leave, part of what had opened for you stays open.", After(On(piece), On(shelf, keep: Stays)));
        Assert.Equal("When you leave, everything that had opened for you stays open.", After(On(piece, keep: Stays), On(shelf, keep: Stays)));
        // A tally is nothing that stays open or closes: it isn't counted, whatever it says.
        Assert.Equal("When you leave, everything that had opened for you stays open.", After(On(piece, keep: Stays), On(tally)));
        Assert.Equal("When you leave, what it opened closes.", After(On(piece), On(tally, keep: Stays)));
        Assert.Null(PromiseWords.AfterLeaving(Make.Pass(1, On(piece))));
    }

    // ISO 3166-1: 249 officially assigned codes (Newsletter VI-15 and after); some have no language of their own in CLDR. Spot checks from the standard.
    [Fact]
    public void Countries_have_their_codes()
    {
        foreach (var (code, name) in new[] { ("GB", "United Kingdom"), ("IE", "Ireland"), ("DE", "Germany"), ("JP", "Japan"), ("NZ", "New Zealand"),
            ("ZA", "South Africa"), ("BR", "Brazil"), ("IS", "Iceland") })
        {
            Assert.Equal(name, Countries.NameOf(code));
            Assert.Equal(name, Countries.NameOf(code.ToLowerInvariant()));
        }
        Assert.InRange(Countries.All.Count, 200, 260);
        Assert.Equal(Countries.All.Count, Countries.All.Select(c => c.Code).Distinct().Count());
        Assert.Equal(Countries.All.OrderBy(c => c.Name, StringComparer.Ordinal), Countries.All);
        Assert.Null(Countries.NameOf("Atlantis"));
        Assert.Null(Countries.NameOf(null));
    }

    [Theory]
    [InlineData("", "", null)]
    [InlineData(null, "", null)]
    [InlineData("gb", "GB", null)]
    [InlineData(" ireland ; GB,\nGermany", "IE GB DE", null)]
    [InlineData("GB, United Kingdom", "GB", null)]
    [InlineData("GB, Atlantis, Nowhere", "GB", "Atlantis")]
    public void Countries_are_read_by_name_and_by_letters(string? typed, string codes, string? unknown)
    {
        Assert.Equal(codes, string.Join(' ', Countries.Read(typed, out var which)));
        Assert.Equal(unknown, which);
    }

    [Fact]
    public void A_way_to_pay_is_for_everywhere_or_for_its_countries()
    {
        var everywhere = new WayOffered(PayWay.Card, "Card");
        var some = everywhere with { Countries = ["IE", "GB"] };
        Assert.True(everywhere.IsFor(null));
        Assert.True(everywhere.IsFor("FR"));
        Assert.True(some.IsFor("GB"));
        Assert.False(some.IsFor("FR"));
        Assert.False(some.IsFor(null));
        Assert.Equal("Ireland, United Kingdom", Countries.Show(some.Countries));
    }
}
