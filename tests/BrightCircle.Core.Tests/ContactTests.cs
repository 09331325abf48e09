using BrightCircle.Core.Members;
using Xunit;

namespace BrightCircle.Core.Tests;

public class ContactTests
{
    /// <summary>ITU-T E.164 (11/2010), 6.1: an international number has at most 15 digits, the country's code counted. The examples are of numbers kept for
    /// fiction (Ofcom, 01632 960000–960999; NANPA, 555-0100–0199), from memory.</summary>
    [Theory]
    [InlineData("+44 1632 960123", "+44 1632 960123")]
    [InlineData(" (01632) 960-123 ", "(01632) 960-123")]
    [InlineData("+1.202.555.0142", "+1.202.555.0142")]
    [InlineData("030/901820", "030/901820")]
    [InlineData("1234", "1234")]
    [InlineData("123456789012345", "123456789012345")]
    [InlineData("", "")]
    [InlineData(null, "")]
    public void A_number_is_taken_as_people_write_it(string? typed, string number)
    {
        Assert.True(PhoneNumber.TryRead(typed, out var read));
        Assert.Equal(number, read);
    }

    [Theory]
    [InlineData("123")]
    [InlineData("1234567890123456")]
    [InlineData("call me")]
    [InlineData("12+345")]
    [InlineData("++44 1632 960123")]
    [InlineData("+44 1632 960123 ext 4")]
    [InlineData("１２３４５")]
    [InlineData("+1           2           3           4    5")]
    public void What_is_no_number_is_not_taken(string typed) => Assert.False(PhoneNumber.TryRead(typed, out _));

    [Fact]
    public void Forty_letters_are_the_most()
    {
        static string Wide(int letters) => "1234" + new string(' ', letters - 5) + "5";
        Assert.True(PhoneNumber.TryRead(Wide(PhoneNumber.MostLetters), out _));
        Assert.False(PhoneNumber.TryRead(Wide(PhoneNumber.MostLetters + 1), out _));
    }

    /// <summary>ISO 639-1 has codes of two letters; names as in Unicode CLDR.</summary>
    [Fact]
    public void Languages_have_two_letters_and_a_name_each_once()
    {
        Assert.Equal(("German", "French", "Welsh"), (Languages.NameOf("de"), Languages.NameOf("fr"), Languages.NameOf("cy")));
        Assert.Null(Languages.NameOf("xx"));
        Assert.Null(Languages.NameOf("DE"));
        Assert.Null(Languages.NameOf(null));
        Assert.True(Languages.All.Count > 100);
        Assert.Equal(Languages.All.Count, Languages.All.Select(l => l.Code).Distinct().Count());
        Assert.All(Languages.All, l => Assert.True(l.Code.Length == 2 && l.Name.Length > 1));
        Assert.Equal(Languages.All.Select(l => l.Name).Order(StringComparer.Ordinal), Languages.All.Select(l => l.Name));
    }
}
