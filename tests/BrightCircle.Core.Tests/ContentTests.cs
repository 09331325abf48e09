using BrightCircle.Core.Content;
using CsCheck;
using Xunit;

namespace BrightCircle.Core.Tests;

public class ContentTests
{
    [Theory]
    [InlineData("Week 3", "Week 4")]
    [InlineData("October", "November")]
    [InlineData("November hive record", "December hive record")]
    [InlineData("December 2026", "January 2027")]
    [InlineData("December, 2026", "January, 2027")]
    [InlineData("November 2026: warm, dry, fed", "December 2026: warm, dry, fed")]
    [InlineData("3. Boil", "4. Boil")]
    [InlineData("Day 09", "Day 10")]
    [InlineData("Day 9: feeding", "Day 10: feeding")]
    [InlineData("Part 99", "Part 100")]
    [InlineData("Hive check #7", "Hive check #8")]
    [InlineData("Review 2026", "Review 2027")]
    [InlineData("5 mm of ice", "5 mm of ice (copy)")]
    [InlineData("What bees may do", "What bees may do (copy)")]
    [InlineData("Feeding in frost (copy)", "Feeding in frost (copy 2)")]
    [InlineData("Feeding in frost (copy 2)", "Feeding in frost (copy 3)")]
    public void A_copy_counts_on(string name, string next) => Assert.Equal(next, NextName.After(name));

    [Fact]
    public void A_copy_passes_over_names_that_are_taken() => Assert.Equal("Week 6", NextName.After("Week 3", ["Week 4", "week 5"]));

    [Fact]
    public void Twelve_months_on_is_the_same_month_of_the_next_year()
    {
        var name = "March 2026";
        for (var i = 0; i < 12; i++) name = NextName.After(name);
        Assert.Equal("March 2027", name);
    }

    /// <summary>An order of up to five modules and the loose lessons before them.</summary>
    static readonly Gen<OutlineOrder> Orders = Gen.Int[0, 6].Array[1, 6].Select(sizes =>
    {
        var next = 1L;
        var groups =
            sizes.Select((n, g) => new OutlineOrder.Group(g == 0 ? null : new ModuleId(g), [.. Enumerable.Range(0, n).Select(_ => new LessonId(next++))]))
            .ToList();
        if (groups[0].Lessons.Count == 0) groups.RemoveAt(0);
        return new OutlineOrder(groups);
    });

    [Fact]
    public void Moving_lessons_loses_and_doubles_none() =>
        Gen.Select(Orders, Gen.Int[0, 40], Gen.Int[0, 6], Gen.Int[-2, 12]).Sample((order, pick, module, at) =>
    {
        var moving = order.Lessons.Where(l => (l.Value + pick) % 3 == 0).ToArray();
        ModuleId? to = order.Modules.Any(m => m.Value == module) ? new ModuleId(module) : null;
        var after = order.MoveLessons(moving, new(to, at));
        Assert.True(after.SameSetAs(order));
        // Those that moved stand together, in the order they stood in.
        if (moving.Length > 0) Assert.Equal(moving.OrderBy(m => order.Lessons.ToList().IndexOf(m)),
            after.Groups.First(g => g.Module == to).Lessons.Where(moving.Contains));
        // The others keep their order among themselves.
        Assert.Equal(order.Lessons.Where(l => !moving.Contains(l)), after.Lessons.Where(l => !moving.Contains(l)));
    });

    [Fact]
    public void One_step_down_and_one_up_is_where_it_was() => Gen.Select(Orders, Gen.Int[0, 30]).Sample((order, pick) =>
    {
        var all = order.Lessons.ToArray();
        if (all.Length == 0) return;
        var id = all[pick % all.Length];
        var down = order.Step(id, 1);
        Assert.True(down.SameSetAs(order));
        if (down.Lessons.SequenceEqual(order.Lessons) && down.Groups.Select(g => g.Lessons.Count).SequenceEqual(order.Groups.Select(g => g.Lessons.Count)))
            return;
        var back = down.Step(id, -1);
        // An emptied group before the first module isn't kept, so going back may end in the first module.
        if (order.Groups[0].Module is null && order.Groups[0].Lessons is [var only] && only == id) return;
        Assert.Equal(order.Groups.Select(g => string.Join(',', g.Lessons.Select(l => l.Value))),
            back.Groups.Select(g => string.Join(',', g.Lessons.Select(l => l.Value))));
    });

    [Fact]
    public void Modules_move_with_their_lessons()
    {
        var order = new OutlineOrder([new(null, [new(1)]), new(new ModuleId(1), [new(2), new(3)]), new(new ModuleId(2), [new(4)])]);
        var after = order.MoveModule(new(2), 0);
        Assert.Equal([1L, 4, 2, 3], after.Lessons.Select(l => l.Value));
        Assert.Throws<ArgumentException>(() => order.MoveLessons([new(1)], new(new ModuleId(9), 0)));
    }

    [Fact]
    public void An_outline_orders_by_module_then_place_and_sums_its_minutes()
    {
        var a = new Module { Id = new(1), Title = "A", Position = 2 };
        var b = new Module { Id = new(2), Title = "B", Position = 1 };
        Lesson L(long id, ModuleId? m, int at, int? min) => new() { Id = new(id), ModuleId = m, Position = at, Minutes = min, Title = $"{id}" };
        var outline = Outline.Of([a, b], [L(1, a.Id, 2, 5), L(2, a.Id, 1, null), L(3, null, 1, 7), L(4, b.Id, 1, 1), L(5, new ModuleId(99), 2, null)]);
        Assert.Equal([3L, 5, 4, 2, 1], outline.Lessons.Select(l => l.Id.Value));
        Assert.Equal(13, outline.Minutes);
        Assert.True(outline.IsCourse);
        Assert.Equal(4, outline.Before(new(2), _ => true)!.Id.Value);
        Assert.Equal(1, outline.After(new(2), _ => true)!.Id.Value);
        Assert.Null(outline.After(new(1), _ => true));
        Assert.Null(Outline.Of([], [L(1, null, 1, null)]).Minutes);
        Assert.False(Outline.Of([], [L(1, null, 1, 3)]).IsCourse);
    }

    [Fact]
    public void Splitting_and_joining_gives_the_same_blocks()
    {
        Block[] blocks = [new Block.Text("a") { Id = new(1) }, new Block.Timer("t", 60) { Id = new(2) }, new Block.Text("b") { Id = new(3) }];
        var (stays, goes) = Blocks.Split(blocks, new(2));
        Assert.Equal<Block>(blocks, stays.Concat(goes));
        Assert.Throws<ArgumentException>(() => Blocks.Split(blocks, new(1)));
        Assert.Equal("timer", Blocks.Kinds(blocks));
        Assert.Equal("text", Blocks.Kinds([blocks[0]]));
        var next = 10L;
        Assert.Equal([10L, 11, 12], Blocks.Copy(blocks, () => new(next++)).Select(b => b.Id.Value));
    }

    [Fact]
    public void Every_kind_of_block_is_written_and_read_back()
    {
        foreach (var block in EveryBlock)
        {
            var json = System.Text.Json.JsonSerializer.Serialize(block, CoreJson.Options);
            Assert.Equal(json, System.Text.Json.JsonSerializer.Serialize(
                System.Text.Json.JsonSerializer.Deserialize<Block>(json, CoreJson.Options), CoreJson.Options));
            Assert.NotEmpty(block.Word);
            // Other files in the place of those it uses, and back.
            var there = block.WithFiles(f => new(f.Value + 100));
            Assert.Equal(block.UsedFiles().Select(f => f.Value + 100), there.UsedFiles().Select(f => f.Value));
        }
    }

    internal static Block[] EveryBlock { get; } =
    [
        new Block.Text("<p>a</p><figure><img data-file=\"5\" alt=\"x\"></figure>") { Id = new(1) },
            new Block.Pictures([new(new(5), "alt", "caption")]) { Id = new(2) },
        new Block.Video(new("t", null, new FileId(6), new FileId(5), "", "")) { Id = new(3) },
            new Block.Audio(Recording.Empty with { Url = "https://a.example/x" }) { Id = new(4) }, new Block.Files([new(7)]) { Id = new(5) },
        new Block.Links([new("t", "https://a.example", "n")]) { Id = new(6) }, new Block.Booking("t", "https://a.example", "n") { Id = new(7) },
            new Block.Live("t", new(2026, 12, 3, 19, 0), 60, "https://a.example", null) { Id = new(8) },
        new Block.Timer("t", null) { Id = new(9) }, new Block.Practice(LearningTests.Sheet) { Id = new(10) },
            new Block.Follow(new("t", [new("s", "n", 30, null, 5, new FileId(5))], 2, 5, 10, 3, true)) { Id = new(11) },
        new Block.CheckIn(LearningTests.CheckIn) { Id = new(12) },
    ];

    [Fact]
    public void Answers_are_never_among_the_words_that_are_searched()
    {
        var words = string.Join('\n', EveryBlock.Select(b => b.PlainText()));
        Assert.Contains("How much?", words, StringComparison.Ordinal);
        Assert.DoesNotContain("fondant", words, StringComparison.Ordinal);
    }

    [Fact]
    public void Text_loses_its_tags_and_keeps_its_lines()
    {
        Assert.Equal("One & two\nthree\na\nb", RichTextFiles.Plain(
            "<p>One &amp; <b>two</b></p><ul><li>three</li></ul><table><tr><td>a</td><td>b</td></tr></table>"));
        Assert.Equal([5L, 12], RichTextFiles.In("<img data-file=\"5\"><img alt=\"\" data-file=\"12\">").Select(f => f.Value));
        Assert.Equal("<img data-file=\"5\" loading=\"lazy\" src=\"/x?a=1&amp;b=2\">", RichTextFiles.WithAddresses("<img data-file=\"5\">", _ => "/x?a=1&b=2"));
    }

    [Theory]
    [InlineData(null, false)]
    [InlineData("javascript:alert(1)", false)]
    [InlineData("data:text/html,x", false)]
    [InlineData("//host/path", false)]
    [InlineData("host.example/path", false)]
    [InlineData("https://host.example/path", true)]
    public void Only_full_web_addresses_lead_elsewhere(string? url, bool good) => Assert.Equal(good, BlockRules.IsWebAddress(url));

    [Fact]
    public void What_is_unfinished_is_told_at_its_block()
    {
        Block[] blocks = [new Block.Video(Recording.Empty) { Id = new(1) }, new Block.Timer("t", 0) { Id = new(2) },
            new Block.Pictures([new(new(1), "", "")]) { Id = new(3) }, new Block.Live("", null, 60, "", null) { Id = new(4) }];
        Assert.Equal([1L, 2, 3, 4, 4, 4], BlockRules.Problems(blocks).Select(p => p.Block.Value));
        Assert.Empty(BlockRules.Problems([.. EveryBlock.Where(b => b is not Block.Audio)]));
    }

    // WebVTT, W3C: the file structure of section 4.1, and its example of cue times with and without hours.
    [Fact]
    public void Captions_are_read_as_WebVTT_and_written_back()
    {
        var vtt =
            WebVtt.Read(
            "\uFEFFWEBVTT - a title\r\n\r\nNOTE a note\r\n\r\n1\r\n00:11.000 --> 00:13.500 align:start\r\n<v Roger>We are in New York &amp; "
            + "more\r\n\r\n01:00:13.000 --> 01:00:16.000\r\ntwo\r\nlines\r\n");
        Assert.True(vtt.Ok, vtt.Wrong);
        Assert.Equal([new Cue(11_000, 13_500, "We are in New York & more"), new Cue(3_613_000, 3_616_000, "two lines")], vtt.Cues);
        Assert.Equal(vtt.Cues, WebVtt.Read(WebVtt.Write(vtt.Cues)).Cues);
        Assert.Equal("0:11 We are in New York & more\n1:00:13 two lines", vtt.Transcript());
        Assert.Equal([(11, "We are in New York & more"), (3613, "two lines"), (null, "no time")], WebVtt.Lines(vtt.Transcript() + "\nno time"));
    }

    [Theory]
    [InlineData("00:01.000 --> 00:02.000\nx", 1)]
    [InlineData("WEBVTT\n\n00:05.000 --> 00:02.000\nx", 3)]
    [InlineData("WEBVTT\n\n00:05.000 --> 00:06.000\nx\n\n00:01.000 --> 00:02.000\ny", 6)]
    [InlineData("WEBVTT\n\nid\nnot a time\n", 4)]
    public void Wrong_captions_are_told_with_their_line(string text, int line)
    {
        var vtt = WebVtt.Read(text);
        Assert.False(vtt.Ok);
        Assert.Equal(line, vtt.WrongLine);
    }

    // ISO 8601: the week of 31 December 2026 begins on Monday the 28th.
    [Fact]
    public void Editions_begin_on_the_first_day_of_their_span()
    {
        Assert.Equal(new(2026, 12, 1), Edition.FirstDayOf(EditionSpan.Month, new(2026, 12, 31)));
        Assert.Equal(new(2026, 12, 28), Edition.FirstDayOf(EditionSpan.Week, new(2026, 12, 31)));
        Assert.Equal("Week 53, 2026", Edition.NameFor(EditionSpan.Week, new(2026, 12, 28), System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal(new(2026, 12, 31), Edition.FirstDayOf(EditionSpan.Day, new(2026, 12, 31)));
    }
}
