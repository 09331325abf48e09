using System.IO.Compression;
using System.Text;
using BrightCircle.App.Content;
using BrightCircle.App.Insight;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using CsCheck;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>What the team puts right, and what is kept out.</summary>
public class CareTests
{
    [Fact]
    public async Task A_letter_that_was_refused_is_sent_again_to_the_corrected_address()
    {
        await using var house = await House.Open();
        var (wrong, right) = (House.NewAddress(), House.NewAddress());
        await House.Control("/control/rules", new { address = wrong, rule = "refuse" });
        var id = await house.Join(house.Free, email: wrong);
        await house.Deliver();
        var letter = await house.Ask(db => db.Letters.AsNoTracking().SingleAsync(l => l.MemberId == id && l.State == LetterState.Refused));
        Assert.Contains((await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default))).Needs,
            n => n.Title.Contains("could not be delivered", StringComparison.Ordinal));

        // Neither another's address nor a wrong one is taken.
        var other = House.NewAddress();
        await house.Join(house.Free, email: other);
        Assert.Equal("Email", (await house.Get<CorrectMember, Result>(s => s.Do(house.Owner, id, "Mirela Duarte", other.ToUpperInvariant(), default))).Field);
        Assert.Equal("Email", (await house.Get<CorrectMember, Result>(s => s.Do(house.Owner, id, "Mirela Duarte", "nowhere", default))).Field);
        Assert.Equal("Name", (await house.Get<CorrectMember, Result>(s => s.Do(house.Owner, id, " ", right, default))).Field);
        var stamp = await house.Ask(db => db.Users.Where(a => a.Id == id.Value).Select(a => a.SecurityStamp).SingleAsync());
        Assert.True((await house.Get<CorrectMember, Result>(s => s.Do(house.Owner, id, "Mirela Duarte", right, default))).Ok);
        Assert.NotEqual(stamp, await house.Ask(db => db.Users.Where(a => a.Id == id.Value).Select(a => a.SecurityStamp).SingleAsync()));
        Assert.False(await house.Ask(db => db.SignInLinks.AnyAsync(l => l.Id == letter.SignInLinkId && l.ExpiresAt > house.Clock.Moment)));

        var again = await house.Get<SendLetterAgain, Result<long>>(s => s.Do(house.Owner, letter.Id, default));
        Assert.True(again.Ok);
        Assert.Contains("seen to it", (await house.Get<SendLetterAgain, Result<long>>(s => s.Do(house.Owner, letter.Id, default))).Refusal,
            StringComparison.Ordinal);
        await house.Deliver();
        Assert.Contains("/in/", (await House.Letter(right, "Welcome")).GetProperty("text").GetString(), StringComparison.Ordinal);
        Assert.Contains(await House.Post(right), s => s.Contains("address", StringComparison.OrdinalIgnoreCase));
        Assert.DoesNotContain((await house.Get<TodayQuery, TodayView>(s => s.Load(house.Owner, house.Clock.Moment, default))).Needs,
            n => n.Title.Contains("could not be delivered", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Undelivered_letters_are_set_aside_one_by_one_or_all()
    {
        await using var house = await House.Open();
        var addresses = Enumerable.Range(0, 3).Select(_ => House.NewAddress()).ToArray();
        foreach (var a in addresses)
        {
            await House.Control("/control/rules", new { address = a, rule = "refuse" });
            await house.Join(house.Free, email: a);
        }
        await house.Deliver();
        var first = await house.Ask(db => db.Letters.OrderBy(l => l.Id).Select(l => l.Id).FirstAsync());
        foreach (var expected in new[] { 1, 0 }) Assert.Equal(
            expected, (await house.Get<SetLetterAside, Result<int>>(s => s.Do(house.Owner, first, default))).Value);
        Assert.Equal(2, (await house.Get<LetterList, LetterRows>(s => s.Page(new(Waiting: true), 1, default))).Count);
        Assert.Equal(3, (await house.Get<LetterList, LetterRows>(s => s.Page(new(LetterState.Refused), 1, default))).Count);
        Assert.Equal(2, (await house.Get<SetLetterAside, Result<int>>(s => s.Do(house.Owner, null, default))).Value);
        await Assert.ThrowsAsync<NotAllowedException>(
            () => house.Get<SetLetterAside, Result<int>>(s => s.Do(house.Owner with { Role = TeamRole.Host }, null, default)));
    }

    // NIST SP 800-63B, 3.1.1.2: a blocklist of common, context-specific and repetitive passwords; no rules of composition; at least 64 letters taken.
    [Theory]
    [InlineData("short one", false)]
    [InlineData("ten letter", true)]
    [InlineData("password123", false)]
    [InlineData("PASSWORD123!", false)]
    [InlineData("1234567890", false)]
    [InlineData("abababababab", false)]
    [InlineData("klmnopqrstuv", false)]
    [InlineData("zyxwvutsrqpo", false)]
    [InlineData("mirela duarte", false)]
    [InlineData("mirela.duarte1", false)]
    [InlineData("tansylane12", false)]
    [InlineData("tansylane and a long walk", true)]
    [InlineData("smoke-and-honey", true)]
    [InlineData("пчела и липа", true)]
    public void Passwords_are_long_and_not_the_first_that_are_tried(string password, bool taken)
    {
        Assert.Equal(taken, PasswordRules.Wrong(password, "Mirela Duarte", "mirela.duarte@post.example", "Tansy Lane") is null);
        Assert.Null(PasswordRules.Wrong(string.Concat(Enumerable.Range(0, 40).Select(i => $"{i} ")), null, null, null));
        Assert.NotNull(PasswordRules.Wrong(new string('a', 50) + new string('b', 151), null, null, null));
    }

    [Fact]
    public async Task The_signing_keys_cant_be_read_from_the_database()
    {
        await using var house = await House.Open();
        var protector = house.Services.GetRequiredService<IDataProtectionProvider>().CreateProtector("test");
        var sealed1 = protector.Protect("words");
        var keys = await house.Ask(db => db.DataProtectionKeys.Select(k => k.Xml).ToListAsync());
        Assert.NotEmpty(keys);
        Assert.All(keys, xml => Assert.True(xml!.Contains("EncryptedData", StringComparison.Ordinal) && !xml.Contains("<masterKey", StringComparison.Ordinal),
            xml));
        // Another node with the same certificate reads what this one wrote.
        await using var other = await house.AnotherNode();
        Assert.Equal("words", other.Services.GetRequiredService<IDataProtectionProvider>().CreateProtector("test").Unprotect(sealed1));
    }

    [Fact]
    public void Versions_are_compared_in_words()
    {
        var changes = new LessonChanges(f => $"picture-{f.Value}.jpg", t => "Walks");
        Block Sheet(int pass, params Option[] options) =>
            new Block.Practice(new("Sugar", "", [new Question.Single("q1", "How much?", 1, "", options)], 2, pass));
        Block[] old = [new Block.Text("<p>One</p><p>Two</p>"), new Block.Pictures([new(new(3), "A hive", "")]),
            Sheet(60, new("2 kg", true, ""), new("1 kg", false, "Too little."))];
        Block[] now = [new Block.Text("<p>One</p><p>Three</p>"), new Block.Pictures([new(new(3), "A hive in snow", "")]),
            Sheet(70, new("2 kg", true, ""), new("1 kg", false, "Too little."))];
        var lines = changes.Between(("Winter", old), ("Winter", now));
        Assert.Equal(["- Two", "+ Three", "- picture-3.jpg; it shows: A hive", "+ picture-3.jpg; it shows: A hive in snow", "- passed with 60 %, 2 tries",
            "+ passed with 70 %, 2 tries"],
            lines.Where(l => l.Kind != DiffKind.Same).Select(l => (l.Kind == DiffKind.Added ? "+ " : "- ") + l.Text));
        Assert.Contains(lines, l => l is { Kind: DiffKind.Same, Text: "wrong: 1 kg; then: Too little." });
        // The first version is all new; a version compared with itself has no change; every kind of block has words.
        Assert.All(changes.Between(null, ("Winter", now)), l => Assert.Equal(DiffKind.Added, l.Kind));
        Assert.All(changes.Between(("Winter", now), ("Winter", now)), l => Assert.Equal(DiffKind.Same, l.Kind));
        Block[] every =
        [
            new Block.Video(Recording.Empty with { File = new(1), Captions = "WEBVTT" }), new Block.Audio(Recording.Empty with { Url = "https://a.example" }),
                new Block.Files([new(2)]), new Block.Links([new("A", "https://a.example", "n")]),
            new Block.Booking("B", "https://b.example", ""), new Block.Live("L", new(2026, 12, 3, 19, 0), 60, "https://l.example", null),
                new Block.Timer("T", 90), new Block.Timer("U", null),
            new Block.Follow(new("Run", [new("Tap", "soft", 10, null, 5, new(9)), new("Turn", "", null, 3, 0, null)], 2, 3, 20, 2, true, new(7))),
            new Block.CheckIn(new("Hives", [new("q", FormQuestionKind.One, "Which?", false, ["a", "b"], null)], FormRepeat.EveryWeek, "Thanks")),
            new Block.Practice(
                new("", "", [new Question.Open("a", "Why?", 2, "x"), new Question.FillText("b", "?", 1, "", ["c"]),
                new Question.FillNumber("c", "?", 1, "", 20, 1, "cm"), new Question.Ordering("d", "?", 1, "", ["x", "y"]),
                new Question.Match("e", "?", 1, "", [new("l", "r")])], null, 60)),
        ];
        var said = string.Join('\n', changes.Words("All", every));
        foreach (var part in new[] { "picture-1.jpg", "kept at https://a.example", "begins 3 December 2026, 19:00", "1:30", "counts up",
            "step 1: Tap, 0:10, then 5 s of rest; note: soft; picture: picture-9.jpg", "step 2: Turn, 3 times", "offers to mark Walks",
            "question 1, if one likes: Which? (a, b)", "right: 20, 1 more or less cm", "l goes with r", "as many tries as one likes" })
            Assert.Contains(part, said, StringComparison.Ordinal);
    }

    [Fact]
    public void A_difference_gives_both_texts_back() => Gen.Select(Gen.Int[0, 4].Array[0, 30], Gen.Int[0, 4].Array[0, 30]).Sample((a, b) =>
    {
        var changes = new LessonChanges(f => "", t => "");
        (string, IReadOnlyList<Block>) Version(int[] lines) => ("", [new Block.Text(string.Concat(lines.Select(x => $"<p>line {x}</p>")))]);
        string[] Of(int[] lines) => ["Text:", .. lines.Select(x => $"line {x}")];
        var lines = changes.Between(Version(a), Version(b));
        Assert.Equal(Of(a), lines.Where(l => l.Kind != DiffKind.Added).Select(l => l.Text));
        Assert.Equal(Of(b), lines.Where(l => l.Kind != DiffKind.Removed).Select(l => l.Text));
    });

    static MemoryStream Zip(params (string Name, Action<Stream> Write)[] entries)
    {
        var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (name, write) in entries)
            {
                using var entry = zip.CreateEntry(name, CompressionLevel.SmallestSize).Open();
                write(entry);
            }
        stream.Position = 0;
        return stream;
    }

    static void Zeros(Stream to, int megabytes)
    {
        var block = new byte[1024 * 1024];
        for (var i = 0; i < megabytes; i++) to.Write(block);
    }

    [Fact]
    public void An_archive_that_would_fill_the_machine_is_refused_before_it_is_unpacked()
    {
        Assert.Throws<ArchiveTooLargeException>(() => new ZipSource(Zip(("film.mp4", s => Zeros(s, 200)))));
        Assert.Throws<ArchiveTooLargeException>(() => new ZipSource(Zip(("text.md", s => s.Write(new byte[5 * 1024 * 1024])))));
        Assert.Throws<ArchiveTooLargeException>(() =>
            new ZipSource(Zip([.. Enumerable.Range(0, ZipSource.MostEntries + 1).Select(i => ($"{i}.md", (Action<Stream>)(_ => { })))])));
        using var good = new ZipSource(Zip(("a/b.md", s => s.Write("# Hello"u8)), ("__MACOSX/x", _ => { })));
        Assert.Equal(["a/b.md"], good.Paths);
        using var reader = new StreamReader(good.Open("a/b.md"));
        Assert.Equal("# Hello", reader.ReadToEnd());
        // One whose list says less than it holds is stopped while it is read.
        var lying = Zip(("a.md", s => s.Write(Encoding.UTF8.GetBytes(new string('x', 1000)))));
        var bytes = lying.ToArray();
        var at = bytes.AsSpan().LastIndexOf("PK\u0001\u0002"u8);
        BitConverter.TryWriteBytes(bytes.AsSpan(at + 24), 10);
        using var lie = new ZipSource(new MemoryStream(bytes));
        Assert.ThrowsAny<Exception>(() =>
        {
            using var r = new StreamReader(lie.Open("a.md"));
            return r.ReadToEnd().Length > 10 ? "all of it" : throw new InvalidDataException();
        });
    }

    [Fact]
    public void A_head_that_is_nested_without_end_or_repeats_itself_is_refused_with_its_line()
    {
        static ContentFormatException Refused(string yaml) => Assert.Throws<ContentFormatException>(() => BlockYaml.ReadYaml(yaml, 2));
        Assert.Contains("nested", Refused("a: " + new string('[', 100_000)).Message, StringComparison.Ordinal);
        Assert.Contains("nested", Refused(string.Join('\n', Enumerable.Range(0, 40).Select(i => new string(' ', i) + "a:"))).Message, StringComparison.Ordinal);
        var aliases = Refused("a: &x [1, 2]\nb: [*x, *x]");
        Assert.Contains("Aliases", aliases.Message, StringComparison.Ordinal);
        Assert.Equal(3, aliases.Line);
        Assert.Contains("too long", Refused("a: " + new string('x', 1_000_001)).Message, StringComparison.Ordinal);
        Assert.NotNull(BlockYaml.ReadYaml("a: [1, [2, {b: 3}]]", 2));
    }

    [Fact]
    public async Task A_lesson_beyond_its_bounds_is_refused_ready_or_not()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        var lesson = course.Lesson("Winter");
        var run = new Block.Follow(new("Run", [new("Tap", "", 10, null, 0, null)], 1_000_000, 3, 0, 3, false)) { Id = house.NextBlock() };
        var saved = await house.Get<SaveLesson, LessonSaved>(
            s => s.Do(house.Owner, lesson.Id, new("Winter", 5, false, DoneWhen.Marked, null, false, [run], lesson.Version), default));
        Assert.Contains("Rounds go from 1 to 50", Assert.IsType<LessonSaved.Refused>(saved).Why, StringComparison.Ordinal);
    }
}
