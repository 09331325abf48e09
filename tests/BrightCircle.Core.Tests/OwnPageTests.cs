using BrightCircle.Core.Content;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Pages of the owner's own and menus.</summary>
public class OwnPageTests
{
    [Theory]
    [InlineData("about", true), InlineData("about-us-2", true), InlineData("a", true), InlineData("", false), InlineData("-about", false)]
    [InlineData("about-", false), InlineData("a--b", false), InlineData("About", false), InlineData("über", false), InlineData("a/b", false),
        InlineData("a b", false)]
    public void An_address_is_small_letters_digits_and_dashes_between(string slug, bool good) => Assert.Equal(good, SitePage.IsSlug(slug));

    [Fact]
    public void An_address_has_its_length()
    {
        Assert.True(SitePage.IsSlug(new('a', 80)));
        Assert.False(SitePage.IsSlug(new('a', 81)));
    }

    [Fact]
    public void A_menu_entry_is_for_whom_it_says()
    {
        PlanId one = new(1), two = new(2);
        PlanId[]? out_ = null;
        PlanId[] guest = [], holder = [one];
        bool[] Sees(MenuFor who, PlanId? plan = null, bool shown = true)
        {
            var item = new MenuItem("x", "/x", who, plan, shown);
            return [item.IsFor(out_), item.IsFor(guest), item.IsFor(holder)];
        }
        Assert.Equal([true, true, true], Sees(MenuFor.Everybody));
        Assert.Equal([true, false, false], Sees(MenuFor.SignedOut));
        Assert.Equal([false, true, true], Sees(MenuFor.SignedIn));
        Assert.Equal([false, true, false], Sees(MenuFor.Guests));
        Assert.Equal([false, false, true], Sees(MenuFor.Holders));
        Assert.Equal([false, false, true], Sees(MenuFor.Holders, one));
        Assert.Equal([false, false, false], Sees(MenuFor.Holders, two));
        Assert.Equal([false, false, false], Sees(MenuFor.Everybody, shown: false));
        Assert.Throws<InvalidOperationException>(() => Sees((MenuFor)9));
        Assert.All(MenuItem.Usual, i => Assert.Null(i.Wrong()));
        Assert.Null(new MenuItem(new('a', 30), "/x").Wrong());
        Assert.NotNull(new MenuItem(new('a', 31), "/x").Wrong());
        Assert.NotNull(new MenuItem("", "/x").Wrong());
        // Nobody is that: kept, it would break every page with a menu.
        Assert.NotNull(new MenuItem("x", "/x", (MenuFor)99).Wrong());
        Assert.NotNull(new MenuItem("x", "javascript:1").Wrong());
    }

    [Fact]
    public void Sections_that_miss_something_are_told_and_bounded()
    {
        int Missing(Block block) => BlockRules.Problems([block]).Count;
        Assert.Equal(0, Missing(new Block.Voices([new("Good.", "")])));
        Assert.Equal(1, Missing(new Block.Voices([])));
        Assert.Equal(1, Missing(new Block.Voices([new("", "Ann")])));
        Assert.Equal(0, Missing(new Block.Faq([new("Why?", "So.")])));
        Assert.Equal(1, Missing(new Block.Faq([])));
        Assert.Equal(1, Missing(new Block.Faq([new("Why?", "")])));
        Assert.Equal(1, Missing(new Block.Faq([new("", "So.")])));
        Assert.Equal(0, Missing(new Block.Inside(null)) + Missing(new Block.Prices(new(7))));
        string? Beyond(Block block) => ContentLimits.Beyond([block]);
        var (most, longer) = (new string('a', 2000), new string('a', 2001));
        Assert.Null(Beyond(new Block.Voices([new(most, "")])));
        Assert.NotNull(Beyond(new Block.Voices([new(longer, "")])));
        Assert.NotNull(Beyond(new Block.Voices([new("", longer)])));
        Assert.NotNull(Beyond(new Block.Faq([new(longer, "")])));
        Assert.NotNull(Beyond(new Block.Faq([new("", longer)])));
        Assert.Null(Beyond(new Block.Faq([.. Enumerable.Repeat(new Answered("q", "a"), 200)])));
        Assert.NotNull(Beyond(new Block.Faq([.. Enumerable.Repeat(new Answered("q", "a"), 201)])));
        Assert.NotNull(Beyond(new Block.Voices([.. Enumerable.Repeat(new Voice("q", "a"), 201)])));
        Assert.Null(Beyond(new Block.Inside(null)));
        Assert.Equal("Good.\nAnn", new Block.Voices([new("Good.", "Ann")]).PlainText());
        Assert.Equal("Why?\nSo.", new Block.Faq([new("Why?", "So.")]).PlainText());
        Assert.Empty(new Block.Faq([]).UsedFiles());
    }
}
