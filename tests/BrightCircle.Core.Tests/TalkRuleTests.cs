using BrightCircle.Core.Community;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>What waits until the team has seen it, and who is named in what is said.</summary>
public class TalkRuleTests
{
    static readonly HoldRules All = new(true, true, ["nuc for sale", "cheap", "é"]);

    [Theory]
    [InlineData("Hello", false, 0, HoldReason.FirstPost)]
    [InlineData("Hello", false, 1, null)]
    [InlineData("Hello", true, 1, HoldReason.Link)]
    [InlineData("Hello", true, 2, HoldReason.Link)]
    [InlineData("Hello", true, 3, null)]
    [InlineData("Very CHEAP.", false, 9, HoldReason.Word)]
    [InlineData("cheaper", false, 9, null)]
    [InlineData("a-cheap-one", false, 9, HoldReason.Word)]
    [InlineData("uncheap", false, 9, null)]
    [InlineData("2cheap", false, 9, null)]
    [InlineData("A nuc\nfor   sale", false, 9, HoldReason.Word)]
    [InlineData("nuc for", false, 9, null)]
    [InlineData("café", false, 9, null)]
    [InlineData("caf é", false, 9, HoldReason.Word)]
    public void What_waits(string text, bool hasLink, int standing, HoldReason? expected) => Assert.Equal(expected, All.Of(text, hasLink, standing));

    [Fact]
    public void Without_rules_nothing_waits_and_each_is_by_itself()
    {
        Assert.Null(HoldRules.None.Of("cheap", true, 0));
        Assert.Null(new HoldRules(Links: true).Of("cheap", false, 0));
        Assert.Equal(HoldReason.Link, new HoldRules(Links: true).Of("cheap", true, 0));
        Assert.Equal(HoldReason.FirstPost, new HoldRules(FirstPosts: true).Of("cheap", true, 0));
        Assert.Null(new HoldRules(FirstPosts: true).Of("cheap", true, 1));
        // As it is read from what was kept before there were any.
        Assert.Equal(HoldRules.None, System.Text.Json.JsonSerializer.Deserialize<HoldRules>("{}"));
        Assert.NotEqual(HoldRules.None, new HoldRules(Words: ["a"]));
        Assert.Equal(new HoldRules(Words: ["a"]).GetHashCode(), new HoldRules(Words: ["a"]).GetHashCode());
        // A word with signs of its own is a word, and no pattern.
        Assert.Null(new HoldRules(Words: ["a.c"]).Of("abc", false, 9));
        Assert.Equal(HoldReason.Word, new HoldRules(Words: ["a.c"]).Of("an a.c!", false, 9));
    }

    static readonly string[] People = ["Ana Bell", "Ana Bellamy", "Tom", "Tom Field", "Li Moss", "Li Fern"];

    [Theory]
    [InlineData("Hello @Ana Bell, yes", "Hello |@Ana Bell=Ana Bell|, yes")]
    [InlineData("@ana bellamy", "@ana bellamy=Ana Bellamy")]
    // The whole of a name, though another begins so.
    [InlineData("@Tom, you", "@Tom=Tom|, you")]
    [InlineData("@Tom Field", "@Tom Field=Tom Field")]
    // The first word where only one has it.
    [InlineData("@Ana said", "@Ana said")]
    [InlineData("@Li", "@Li")]
    [InlineData("a@Tom", "a@Tom")]
    [InlineData("@Tomorrow", "@Tomorrow")]
    [InlineData("(@Tom)@Tom Field", "(|@Tom=Tom|)|@Tom Field=Tom Field")]
    [InlineData("@", "@")]
    [InlineData("", "")]
    [InlineData("@@Tom", "@|@Tom=Tom")]
    public void Who_is_named(string text, string expected)
    {
        var parts = MentionRule.In(text, People);
        Assert.Equal(expected, string.Join('|', parts.Select(p => p.Name is null ? p.Text : $"{p.Text}={p.Name}")));
        Assert.Equal(text, string.Concat(parts.Select(p => p.Text)));
    }

    [Fact]
    public void A_first_name_names_whoever_alone_has_it_and_nobody_twice()
    {
        Assert.Equal("Ana Bell", MentionRule.In("@Ana", ["Ana Bell", "Tom"]).Single().Name);
        // The same name of two accounts is one name.
        Assert.Equal("Ana Bell", MentionRule.In("@Ana", ["Ana Bell", "Ana Bell"]).Single().Name);
        Assert.Null(MentionRule.In("@Ana", []).Single().Name);
        Assert.Null(MentionRule.In("@Ana", [""]).Single().Name);
    }
}
