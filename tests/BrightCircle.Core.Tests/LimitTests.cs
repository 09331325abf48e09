using BrightCircle.Core.Content;
using CsCheck;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Bounds of content, and videos kept elsewhere.</summary>
public class LimitTests
{
    static readonly BlockId Id = new(1);
    static FollowAlong Run(int rounds, int steps, int seconds = 10) =>
        new("Run", [.. Enumerable.Range(1, steps).Select(n => new FollowStep($"Step {n}", "", n % 2 == 0 ? null : seconds, n % 2 == 0 ? 3 : null, 5, null))],
            rounds, 3, 20, 2, false);

    [Theory]
    [InlineData(1, 1, true)]
    [InlineData(50, 20, true)]
    [InlineData(51, 1, false)]
    [InlineData(0, 1, false)]
    [InlineData(10, 100, true)]
    [InlineData(11, 100, false)]   // 3,300 stretches
    [InlineData(1, 101, false)]
    [InlineData(1_000_000, 1, false)]
    public void A_run_has_bounds(int rounds, int steps, bool fits) =>
        Assert.Equal(fits, ContentLimits.Beyond([new Block.Follow(Run(rounds, steps)) { Id = Id }]) is null);

    [Fact]
    public void What_is_stored_beyond_them_is_played_within_them()
    {
        Assert.True(Run(1_000_000, 1000).Unroll().Count <= ContentLimits.MostMoments);
        Assert.Equal(Run(50, 1).TotalSeconds, Run(1_000_000, 1).TotalSeconds);
    }

    [Fact]
    public void The_total_is_that_of_all_its_stretches() => Gen.Select(Gen.Int[0, 50], Gen.Int[0, 30], Gen.Int[1, 7200]).Sample((rounds, steps, seconds) =>
        Run(rounds, steps, seconds).Unroll().Sum(m => m.Seconds) == Run(rounds, steps, seconds).TotalSeconds, iter: Make.Tries(500));

    [Fact]
    public void Every_kind_of_block_has_bounds_of_both_sides()
    {
        static string Long(int n) => new('x', n);
        (Block Fits, Block Beyond)[] pairs =
        [
            (new Block.Text(Long(ContentLimits.TextLength)), new Block.Text(Long(ContentLimits.TextLength + 1))),
            (new Block.Pictures([.. Enumerable.Repeat(new Picture(new(1), "A", ""), 200)]),
                new Block.Pictures([.. Enumerable.Repeat(new Picture(new(1), "A", ""), 201)])),
            (new Block.Video(Recording.Empty with { Transcript = Long(ContentLimits.TextLength) }),
                new Block.Video(Recording.Empty with { Transcript = Long(ContentLimits.TextLength + 1) })),
            (new Block.Audio(Recording.Empty with { Title = Long(2000) }), new Block.Audio(Recording.Empty with { Title = Long(2001) })),
            (new Block.Files([.. Enumerable.Repeat(new FileId(1), 200)]), new Block.Files([.. Enumerable.Repeat(new FileId(1), 201)])),
            (new Block.Links([new("", Long(2000), "")]), new Block.Links([new("", Long(2001), "")])),
            (new Block.Booking("", Long(2000), ""), new Block.Booking("", Long(2001), "")),
            (new Block.Live("", null, 1440, "", null), new Block.Live("", null, 1441, "", null)),
            (new Block.Live("", null, 1, "", null), new Block.Live("", null, 0, "", null)),
            (new Block.Timer("", 86_400), new Block.Timer("", 86_401)),
            (new Block.Practice(new("", "", [], 100, 100)), new Block.Practice(new("", "", [], 101, 100))),
            (new Block.Practice(new("", "", [], null, 0)), new Block.Practice(new("", "", [], null, -1))),
            (new Block.Practice(new("", "", [new Question.FillText("q", "", 100, "", [.. Enumerable.Repeat("a", 50)])], null, 60)),
                new Block.Practice(new("", "", [new Question.FillText("q", "", 100, "", [.. Enumerable.Repeat("a", 51)])], null, 60))),
            (new Block.Practice(new("", "", [new Question.Open("q", "", 100, "")], null, 60)),
                new Block.Practice(new("", "", [new Question.Open("q", "", 101, "")], null, 60))),
            (new Block.CheckIn(new("", [.. Enumerable.Repeat(new FormQuestion("q", FormQuestionKind.Short, "", false, [], null), 100)], FormRepeat.Once, "")),
                new Block.CheckIn(new("", [.. Enumerable.Repeat(new FormQuestion("q", FormQuestionKind.Short, "", false, [], null), 101)], FormRepeat.Once,
                ""))),
        ];
        foreach (var (fits, beyond) in pairs)
        {
            Assert.Null(ContentLimits.Beyond([fits]));
            Assert.EndsWith(".", ContentLimits.Beyond([beyond]), StringComparison.Ordinal);
        }
        Assert.Null(ContentLimits.Beyond([.. Enumerable.Repeat(pairs[0].Fits with { Id = Id }, 200)]));
        Assert.NotNull(ContentLimits.Beyond([.. Enumerable.Repeat(new Block.Timer("", 1), 201)]));
    }

    static readonly VideoHost[] Hosts = [new("videos.example", "/watch?v={id}", "https://player.videos.example/embed/{id}"),
        new("clips.example", "/{id}", "https://clips.example/frame/{id}?quiet=1")];

    [Theory]
    [InlineData("https://videos.example/watch?v=Ab_1-x", "https://player.videos.example/embed/Ab_1-x")]
    [InlineData("https://www.videos.example/watch?t=30&v=Ab1&list=9", "https://player.videos.example/embed/Ab1")]
    [InlineData("http://videos.example/watch?v=Ab1", "https://player.videos.example/embed/Ab1")]
    [InlineData("https://clips.example/77", "https://clips.example/frame/77?quiet=1")]
    [InlineData("https://clips.example/77/", "https://clips.example/frame/77?quiet=1")]
    // The address out of an embed code is one already.
    [InlineData("https://player.videos.example/embed/Ab1", "https://player.videos.example/embed/Ab1")]
    [InlineData("https://clips.example/frame/77?quiet=0", "https://clips.example/frame/77?quiet=1")]
    [InlineData("https://videos.example/watch?w=Ab1", null)]
    [InlineData("https://videos.example/other?v=Ab1", null)]
    [InlineData("https://videos.example/watch?v=", null)]
    [InlineData("https://videos.example/watch?v=Ab\"onload=x", null)]
    [InlineData("https://evilvideos.example/watch?v=Ab1", null)]
    [InlineData("https://videos.example.evil.example/watch?v=Ab1", null)]
    [InlineData("javascript:alert(1)", null)]
    [InlineData("https://elsewhere.example/1", null)]
    [InlineData(null, null)]
    public void A_link_is_shown_from_where_the_table_says_or_opens_by_itself(string? link, string? shownFrom) =>
        Assert.Equal(shownFrom, VideoHost.EmbedOf(link, Hosts));

    [Fact]
    public void A_line_of_the_table_is_whole()
    {
        Assert.All(Hosts, h => Assert.Null(h.Wrong()));
        VideoHost[] wrong = [new("", "/{id}", "https://a.example/{id}"), new("a b.example", "/{id}", "https://a.example/{id}"),
            new("localhost", "/{id}", "https://a.example/{id}"), new("a.example", "{id}", "https://a.example/{id}"),
            new("a.example", "/x", "https://a.example/{id}"), new("a.example", "/{id}", "http://a.example/{id}"),
            new("a.example", "/{id}", "https://a.example/"), new("a.example", "/{id}", "javascript:{id}")];
        Assert.All(wrong, h => Assert.NotNull(h.Wrong()));
    }

    [Theory]
    [InlineData("""<iframe width="560" src="https://player.videos.example/embed/Ab1?x=1&amp;y=2" allow="autoplay" onload="x()"></iframe>""",
        "https://player.videos.example/embed/Ab1?x=1&y=2")]
    [InlineData("""<IFRAME class='a' SRC='//player.videos.example/embed/Ab1'></IFRAME>""", "https://player.videos.example/embed/Ab1")]
    [InlineData("  https://videos.example/watch?v=Ab1 ", "https://videos.example/watch?v=Ab1")]
    [InlineData("<b>nothing</b>", "<b>nothing</b>")]
    public void Of_an_embed_code_only_the_address_counts(string typed, string address) => Assert.Equal(address, VideoHost.AddressIn(typed));
}
