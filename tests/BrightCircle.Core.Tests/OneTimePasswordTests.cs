using BrightCircle.Core.Members;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

public class OneTimePasswordTests
{
    static readonly byte[] Key = "12345678901234567890"u8.ToArray();

    /// <summary>RFC 6238, appendix B: the values for HMAC-SHA-1, with eight digits.</summary>
    [Theory]
    [InlineData(59, "94287082")]
    [InlineData(1111111109, "07081804")]
    [InlineData(1111111111, "14050471")]
    [InlineData(1234567890, "89005924")]
    [InlineData(2000000000, "69279037")]
    [InlineData(20000000000, "65353130")]
    public void As_the_standard_has_it_by_the_clock(long seconds, string code) =>
        Assert.Equal(code, OneTimePassword.At(Key, OneTimePassword.StepOf(Instant.FromUnixTimeSeconds(seconds)), 8));

    /// <summary>RFC 4226, appendix D.</summary>
    [Fact]
    public void As_the_standard_has_it_by_a_counter() => Assert.Equal(
        ["755224", "287082", "359152", "969429", "338314", "254676", "287922", "162583", "399871", "520489"],
        Enumerable.Range(0, 10).Select(n => OneTimePassword.At(Key, n)));

    /// <summary>RFC 4648, section 10, without the signs at the end.</summary>
    [Theory]
    [InlineData("", "")]
    [InlineData("f", "MY")]
    [InlineData("fo", "MZXQ")]
    [InlineData("foo", "MZXW6")]
    [InlineData("foob", "MZXW6YQ")]
    [InlineData("fooba", "MZXW6YTB")]
    [InlineData("foobar", "MZXW6YTBOI")]
    public void As_the_standard_has_it_in_letters(string bytes, string letters) =>
        Assert.Equal(letters, OneTimePassword.Base32(System.Text.Encoding.ASCII.GetBytes(bytes)));

    static string Code(int step) => OneTimePassword.At(Key, step);
    static Instant Time(int step, int second = 0) => Instant.FromUnixTimeSeconds(step * 30L + second);

    [Fact]
    public void Good_in_its_half_minute_and_in_those_beside_it()
    {
        foreach (var (now, good) in new[] { (98, false), (99, true), (100, true), (101, true), (102, false) })
            Assert.Equal(good ? 100 : null, OneTimePassword.Check(Key, Code(100), Time(now), 0));
        Assert.Equal(100, OneTimePassword.Check(Key, Code(100), Time(101, 29), 0));
        Assert.Null(OneTimePassword.Check(Key, Code(100), Time(102, 0), 0));
        Assert.Equal(99, OneTimePassword.StepOf(Instant.FromUnixTimeMilliseconds(2_999_999)));
        Assert.Equal(100, OneTimePassword.StepOf(Instant.FromUnixTimeMilliseconds(3_000_000)));
        Assert.Equal(-1, OneTimePassword.StepOf(Instant.FromUnixTimeMilliseconds(-1)));
    }

    [Fact]
    public void No_code_is_taken_twice_and_none_from_before_the_last_one()
    {
        Assert.Null(OneTimePassword.Check(Key, Code(100), Time(100), 100));
        Assert.Null(OneTimePassword.Check(Key, Code(99), Time(100), 100));
        Assert.Equal(101, OneTimePassword.Check(Key, Code(101), Time(100), 100));
        Assert.Equal(100, OneTimePassword.Check(Key, Code(100), Time(100), 99));
    }

    [Fact]
    public void Typed_with_a_gap_but_not_with_anything_else()
    {
        var code = Code(100);
        Assert.Equal(100, OneTimePassword.Check(Key, $" {code[..3]} {code[3..]} ", Time(100), 0));
        foreach (var wrong in new[] { "", code[..5], code + "0", "abcdef", "-" + code[1..], Code(103), "٠١٢٣٤٥" })
            Assert.Null(OneTimePassword.Check(Key, wrong, Time(100), 0));
        Assert.Null(OneTimePassword.Check("another key that is good"u8, code, Time(100), 0));
    }

    [Fact]
    public void What_an_app_reads_names_the_site_and_the_account() => Assert.Equal(
        "otpauth://totp/Tansy%20Lane:ines%40tansy-lane.example?secret=MZXW6YTBOI&issuer=Tansy%20Lane",
        OneTimePassword.Address("foobar"u8, "Tansy Lane", "ines@tansy-lane.example"));
}
