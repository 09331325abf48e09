using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>How two members stand who write to one another, and small rules of spaces.</summary>
public class ExchangeRuleTests
{
    [Theory]
    [InlineData(false, false, false, ExchangeState.Asked)]
    [InlineData(true, false, false, ExchangeState.Open)]
    [InlineData(true, true, false, ExchangeState.Shut)]
    [InlineData(true, false, true, ExchangeState.Shut)]
    [InlineData(true, true, true, ExchangeState.Shut)]
    [InlineData(false, true, false, ExchangeState.Shut)]
    // Whoever asked doesn't learn that the other said no; the other does know.
    [InlineData(false, false, true, ExchangeState.Asked)]
    [InlineData(false, true, true, ExchangeState.Shut)]
    public void Whoever_asked_sees_a_no_as_no_answer(bool agreed, bool byMe, bool byOther, ExchangeState seen) =>
        Assert.Equal(seen, ExchangeRules.Seen(agreed, byMe, byOther));

    [Fact]
    public void A_host_keeps_what_is_every_hosts_and_what_is_theirs()
    {
        Assert.True(new Space().IsHostedBy(5));
        var room = new Space { HostIds = [5, 7] };
        Assert.True(room.IsHostedBy(5));
        Assert.True(room.IsHostedBy(7));
        Assert.False(room.IsHostedBy(6));
    }

    [Fact]
    public void Nothing_begins_where_a_newer_space_is_nor_in_the_pattern_of_them()
    {
        var at = Instant.FromUtc(2026, 11, 24, 10, 0);
        Assert.False(new Space { FullAt = at }.TakesThreads(false));
        Assert.True(new Space { FullAt = at }.TakesThreads(true));
        Assert.False(new Space { ByEdition = true }.TakesThreads(true));
        var name = new Space { Name = "The month’s table" };
        Assert.Equal("The month’s table, December", name.NameFor("December"));
        Assert.Equal(Space.MostName, name.NameFor(new string('x', 60)).Length);
        Assert.Equal("The month’s table, " + new string('x', Space.MostName - 19), name.NameFor(new string('x', Space.MostName - 19)));
    }

    [Theory]
    [InlineData(EditionSpan.Month, 2, 1, 28)]
    [InlineData(EditionSpan.Month, 12, 1, 31)]
    [InlineData(EditionSpan.Week, 11, 23, 29)]
    [InlineData(EditionSpan.Day, 11, 24, 24)]
    public void An_edition_ends_with_its_span(EditionSpan span, int month, int first, int last) =>
        Assert.Equal(new LocalDate(2026, month, last), new Edition { Span = span, FirstDay = new(2026, month, first) }.LastDay);
}
