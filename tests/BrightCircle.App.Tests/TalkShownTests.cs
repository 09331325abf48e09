using System.Net.ServerSentEvents;
using System.Text;
using System.Text.Json;
using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using SkiaSharp;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>Pictures in what is said, people named in it, what waits for the team, threads put elsewhere, and what comes while somebody reads.</summary>
public class TalkShownTests
{
    static Task<Result<Said>> Begin(House house, SpaceReader by, string title = "Wasps", string body = "A stream of them.", Shown? shown = null) =>
        house.Get<Talk, Result<Said>>(t => t.Begin(by, title, body, default, shown));
    static Task<Result<Said>> Answer(House house, SpaceReader by, long thread, string body = "Look below.", Shown? shown = null, long? to = null) =>
        house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, to, body, default, shown));
    static Task<ThreadView?> Read(House house, SpaceReader by, long thread) =>
        house.Get<ReadTalk, ThreadView?>(r => r.Thread([by], thread, 1, 50, house.Clock.Moment, default));
    static Task<Result<IReadOnlyList<long>>> Take(House house, SpaceReader by, params byte[][] pictures) => house.Get<TalkPictures,
        Result<IReadOnlyList<long>>>(
        t => t.Take(by, null, [.. pictures.Select((p, n) => new PictureUpload($"p{n}.png", p.Length, () => new MemoryStream(p)))], default));
    static async Task<string?> Address(House house, long picture, bool byTeam = false) =>
        (await house.Get<TalkPictures, (string Address, string?)?>(t => t.AddressOf(picture, false, byTeam, default)))?.Address;
    static async Task<bool> IsKept(House house, string address)
    {
        await using var stream = await house.Services.GetRequiredService<IFileStore>().Open(address, default);
        return stream is not null;
    }

    /// <summary>A JPEG as a camera makes one: taken with its side down, and with words in its Exif part (CIPA DC-008: APP1, a TIFF directory).</summary>
    static byte[] FromCamera(string words)
    {
        using var bitmap = new SKBitmap(60, 20);
        bitmap.Erase(SKColors.SeaGreen);
        using var image = SKImage.FromBitmap(bitmap);
        var plain = image.Encode(SKEncodedImageFormat.Jpeg, 90).ToArray();
        var text = Encoding.ASCII.GetBytes(words + "\0");
        using var tiff = new MemoryStream();
        using (var w = new BinaryWriter(tiff, Encoding.ASCII, true))
        {
            w.Write("II*\0"u8);
            w.Write(8);
            w.Write((short)2);
            w.Write((ushort)0x010E); w.Write((short)2); w.Write(text.Length); w.Write(38);
            w.Write((ushort)0x0112); w.Write((short)3); w.Write(1); w.Write(6);
            w.Write(0);
            w.Write(text);
        }
        byte[] exif = [.. "Exif\0\0"u8, .. tiff.ToArray()];
        var length = exif.Length + 2;
        return [.. plain[..2], 0xFF, 0xE1, (byte)(length >> 8), (byte)length, .. exif, .. plain[2..]];
    }

    [Fact]
    public async Task A_file_goes_with_what_is_said_as_it_came_and_only_of_the_kinds_the_site_keeps()
    {
        await using var house = await House.Open();
        var (space, window) = (await Space(house), await Space(house, "The window", SpaceKind.Showcase));
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        Task<Result<IReadOnlyList<long>>> TakeFile(string name, byte[] bytes, SpaceReader? by = null) => house.Get<TalkPictures, Result<IReadOnlyList<long>>>(
            t => t.Take(by ?? one, null, [new(name, bytes.Length, () => new MemoryStream(bytes))], default));
        var pdf = "%PDF-1.4\n1 0 obj << >> endobj\ntrailer << >>\n%%EOF\n"u8.ToArray();
        var taken = await TakeFile("a/plan of\u0001 \"the\" yard.pdf", pdf);
        Assert.True(taken.Ok, taken.Refusal);
        // What a browser would run isn't taken, by whatever name; nor what isn't what its name says.
        foreach (var (name, bytes) in new (string, byte[])[] { ("page.html", "<script>alert(1)</script>"u8.ToArray()), ("plan.pdf", "no plan"u8.ToArray()),
            ("run.exe", "MZ\0\0"u8.ToArray()), ("picture.svg", "<svg/>"u8.ToArray()) })
            Assert.Equal("Pictures", (await TakeFile(name, bytes)).Field);
        Assert.Equal("Pictures", (await TakeFile("long.txt", [.. Enumerable.Repeat((byte)'x', (int)TalkPictures.MostFile + 1)])).Field);
        await house.Ask(db => db.Sites.ExecuteUpdateAsync(u => u.SetProperty(s => s.DocumentKinds, ["pdf"])));
        await house.Services.GetRequiredService<App.Catalogues.Catalogue>().Changed(default);
        Assert.Equal("Pictures", (await TakeFile("notes.txt", "notes"u8.ToArray())).Field);

        var thread = (await Begin(house, one, body: "", shown: new(taken.Value!, "not said of files"))).Value!.Id;
        var shown = Assert.Single((await Read(house, two, thread))!.Posts[0].Pictures);
        Assert.Equal(("plan of the yard.pdf", (long?)pdf.Length, 0), (shown.FileName, shown.Bytes, shown.Width));
        Assert.Equal((shown.Address, "plan of the yard.pdf"), await house.Get<TalkPictures, (string, string?)?>(t => t.AddressOf(shown.Id, true, false,
            default)));
        await using (var stream = (await house.Services.GetRequiredService<IFileStore>().Open(shown.Address, default))!)
        {
            using var copy = new MemoryStream();
            await stream.CopyToAsync(copy);
            Assert.Equal(pdf, copy.ToArray());
        }
        // Where everything begins with a picture a file isn't one.
        var showing = await Of(house, one.Account, window);
        var alone = (await TakeFile("one.pdf", pdf, showing)).Value!;
        Assert.Equal("Pictures", (await Begin(house, showing, shown: new(alone, null))).Field);
        var both = (await Take(house, showing, FileTests.Png(20, 20))).Value!;
        var put = await Begin(house, showing, shown: new([.. both, .. alone], null));
        Assert.True(put.Ok, put.Refusal);
        var post = (await Read(house, showing, put.Value!.Id))!.Posts[0].Post.Id;
        Assert.Equal("Pictures", (await house.Get<Talk, Result>(t => t.Edit(showing, post, "", default, new(alone, null)))).Field);
        Assert.True((await house.Get<Talk, Result>(t => t.Edit(showing, post, "", default, new(both, null)))).Ok);
        // What is dropped goes, but not the bytes that another still has.
        await house.To(house.Clock.Moment + Duration.FromMinutes(1));
        Assert.True(await IsKept(house, shown.Address));
        var first = (await Read(house, one, thread))!.Posts[0].Post.Id;
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(one, first, default))).Ok);
        Assert.Null(await Address(house, shown.Id));
    }

    [Fact]
    public async Task A_picture_stands_with_its_words_upright_and_without_what_the_camera_wrote_into_it()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        var camera = FromCamera("taken at 51.5 north");
        Assert.Contains("51.5 north", Encoding.Latin1.GetString(camera), StringComparison.Ordinal);
        var taken = await Take(house, one, camera, FileTests.Png(2000, 100));
        Assert.True(taken.Ok, taken.Refusal);
        // Nobody takes somebody else’s picture into their words.
        var others = (await Answer(house, two, (await Begin(house, two)).Value!.Id, shown: new(taken.Value!, null))).Value!.Id;
        Assert.Empty((await house.Get<TalkPictures, IReadOnlyList<TalkPicture>>(t => t.Of(others, default))));

        var thread = (await Begin(house, one, body: " ", shown: new(taken.Value!, " A hive "))).Value!.Id;
        var shown = (await Read(house, two, thread))!.Posts[0].Pictures;
        Assert.Equal(taken.Value!, shown.Select(p => p.Id));
        Assert.Equal([(20, 60), (1600, 80)], shown.Select(p => (p.Width, p.Height)));
        Assert.All(shown, p => Assert.Equal("A hive", p.Alt));
        await using (var stream = (await house.Services.GetRequiredService<IFileStore>().Open(shown[0].Address, default))!)
        {
            using var copy = new MemoryStream();
            await stream.CopyToAsync(copy);
            Assert.Equal("RIFF", Encoding.ASCII.GetString(copy.ToArray(), 0, 4));
            Assert.DoesNotContain("51.5 north", Encoding.Latin1.GetString(copy.ToArray()), StringComparison.Ordinal);
        }
        // The address that was given out opens it, and only as it was given.
        var links = house.Services.GetRequiredService<FileLinks>();
        var parts = links.ForTalk(shown[0].Id, false).Split('/', '.');
        Assert.True(links.IsGoodForTalk(shown[0].Id, parts[4], long.Parse(parts[5], System.Globalization.CultureInfo.InvariantCulture), parts[6]));
        Assert.False(links.IsGoodForTalk(shown[1].Id, parts[4], long.Parse(parts[5], System.Globalization.CultureInfo.InvariantCulture), parts[6]));
        Assert.False(links.IsGood(shown[0].Id, parts[4], long.Parse(parts[5], System.Globalization.CultureInfo.InvariantCulture), parts[6]));

        // Changed: one goes with its bytes, another comes.
        var post = (await Read(house, one, thread))!.Posts[0].Post.Id;
        var more = (await Take(house, one, FileTests.Png(30, 30))).Value!;
        Assert.True((await house.Get<Talk, Result>(t => t.Edit(one, post, "", default, new([more[0], shown[1].Id], "Two")))).Ok);
        Assert.Equal([more[0], shown[1].Id], (await Read(house, two, thread))!.Posts[0].Pictures.Select(p => p.Id));
        await house.To(house.Clock.Moment + Duration.FromMinutes(1));
        Assert.Null(await Address(house, shown[0].Id, byTeam: true));
        Assert.False(await IsKept(house, shown[0].Address));
        Assert.True(await IsKept(house, shown[1].Address));
        // Without words and without a picture nothing is left to say.
        Assert.Equal("Body", (await house.Get<Talk, Result>(t => t.Edit(one, post, " ", default, new([], null)))).Field);

        // Taken away nobody is shown it but the team, and after thirty days it is gone.
        Assert.NotNull(await Address(house, shown[1].Id));
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(one, post, default))).Ok);
        Assert.Null(await Address(house, shown[1].Id));
        Assert.NotNull(await Address(house, shown[1].Id, byTeam: true));
        await house.To(house.Clock.Moment + Duration.FromDays(29));
        Assert.True(await IsKept(house, shown[1].Address));
        await house.To(house.Clock.Moment + Duration.FromDays(2));
        Assert.Null(await Address(house, shown[1].Id, byTeam: true));
        Assert.False(await IsKept(house, shown[1].Address));
    }

    [Fact]
    public async Task What_is_no_picture_is_refused_and_what_comes_to_stand_nowhere_goes_after_a_day()
    {
        await using var house = await House.Open();
        var show = await Space(house, "The window", SpaceKind.Showcase);
        var one = await Somebody(house, show);
        Assert.Equal("Pictures", (await Take(house, one, "%PDF-2.0 no picture"u8.ToArray())).Field);
        Assert.Equal("Pictures", (await Take(house, one, [.. Enumerable.Repeat(FileTests.Png(4, 4), 7)])).Field);
        Assert.Equal("Nope", (await house.Get<TalkPictures, Result<IReadOnlyList<long>>>(t => t.Take(one, Result.Refused("Nope"), [], default))).Refusal);
        // In the window everything begins with one.
        Assert.Equal("Pictures", (await Begin(house, one)).Field);
        var (a, b) = ((await Take(house, one, FileTests.Png(41, 4))).Value![0], (await Take(house, one, FileTests.Png(42, 4))).Value![0]);
        // What is bad about the words leaves the pictures where they are.
        Assert.Equal("Title", (await Begin(house, one, " ", shown: new([a], null))).Field);
        Assert.Equal([b, a], (await house.Get<TalkPictures, IReadOnlyList<TalkPicture>>(t => t.Waiting(one, [b, a], default))).Select(p => p.Id));
        var thread = (await Begin(house, one, shown: new([a], null))).Value!.Id;
        Assert.Equal(a, (await house.Get<ReadTalk, SpaceView>(r => r.Space(one, 1, 30, house.Clock.Moment, default))).Threads.Single().Picture);
        var first = (await Read(house, one, thread))!.Posts[0].Post.Id;
        Assert.Equal("Pictures", (await house.Get<Talk, Result>(t => t.Edit(one, first, "Words alone", default, new([], null)))).Field);
        var address = (await Address(house, b))!;
        await house.To(house.Clock.Moment + Duration.FromHours(23));
        Assert.True(await IsKept(house, address));
        await house.To(house.Clock.Moment + Duration.FromHours(2));
        Assert.False(await IsKept(house, address));
        Assert.NotNull(await Address(house, a));
        // The same bytes in two places stay as long as one of them does.
        var (c, d) = ((await Take(house, one, FileTests.Png(41, 4))).Value![0], await Address(house, a));
        Assert.Equal(d, await Address(house, c));
        await house.To(house.Clock.Moment + Duration.FromDays(2));
        Assert.Null(await Address(house, c));
        Assert.True(await IsKept(house, d!));
    }

    [Fact]
    public async Task Somebody_named_is_marked_and_hears_how_it_goes_on_unless_they_want_to_hear_nothing()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        async Task<SpaceReader> Called(string name)
        {
            var member = await house.JoinProved();
            await house.Ask(db => db.Users.Where(a => a.Id == member.Value).ExecuteUpdateAsync(u => u.SetProperty(a => a.Name, name)));
            return await Of(house, member.Value, space);
        }
        var (one, two, three) = (await Called("Ana Bell"), await Called("Tom Field"), await Called("Li Moss"));
        var thread = (await Begin(house, one)).Value!.Id;
        await Answer(house, two, thread);
        async Task<bool?> Follows(SpaceReader by)
        {
            var rows = await house.Ask(db => db.TalkFollows.Where(f => f.AccountId == by.Account && f.ThreadId == thread).Select(f => f.Follows).ToListAsync());
            return rows.Count == 0 ? null : rows[0];
        }
        await house.Ask(db => db.TalkFollows.Where(f => f.AccountId == two.Account).ExecuteDeleteAsync());
        await house.Get<FollowTalk, Result>(f => f.Thread(one, thread, false, default));
        // Who hasn't written here isn't found by trying.
        var said = (await Answer(house, three, thread, $"@{one.Name} and @{two.Name}, and @Nobody Here <b>x</b> `@{two.Name}`")).Value!.Id;
        var body = (await Read(house, one, thread))!.Posts.Single(p => p.Post.Id == said).Post.Body;
        Assert.Contains($"<span class=\"named\">@{two.Name}</span>", body, StringComparison.Ordinal);
        Assert.Contains("@Nobody Here", body, StringComparison.Ordinal);
        Assert.DoesNotContain("named\">@Nobody", body, StringComparison.Ordinal);
        Assert.Contains($"<code>@{two.Name}</code>", body, StringComparison.Ordinal);
        Assert.True(await Follows(two));
        Assert.False(await Follows(one));
        Assert.StartsWith($"@{one.Name} and @{two.Name}", Talk.Written((await Read(house, one, thread))!.Posts.Single(p => p.Post.Id == said).Post),
            StringComparison.Ordinal);
        var quoted = Talk.Quoted(new TalkPost { Name = "Ana Bell", Body = "<p>One</p><p>Two <em>x</em></p>" });
        Assert.StartsWith("> Ana Bell:\n> One\n", quoted, StringComparison.Ordinal);
        Assert.Contains("> Two *x*\n", quoted, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_waits_is_seen_by_whoever_wrote_it_and_the_team_alone_until_it_stands()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        var host = await Of(house, house.Owner.AccountId, space);
        var old = (await Begin(house, two, "An old one")).Value!.Id;
        Assert.Equal("Words", (await house.Get<CareTalk, Result>(c => c.SaveHolds(house.Owner, true, true, new string('x', 41), default))).Field);
        Assert.True((await house.Get<CareTalk, Result>(c => c.SaveHolds(house.Owner, true, true, "nuc for sale\n\nCheap\ncheap", default))).Ok);
        Assert.Equal(["nuc for sale", "Cheap"], house.Now.Site!.Holds.Words);

        var begun = (await Begin(house, one, "My first", "Hello all")).Value!;
        Assert.True(begun.Waits);
        Assert.Null(await Read(house, two, begun.Id));
        Assert.DoesNotContain((await house.Get<ReadTalk, SpaceView>(r => r.Space(two, 1, 30, house.Clock.Moment, default))).Threads, t => t.Id == begun.Id);
        Assert.Empty(await house.Get<ReadTalk, IReadOnlyList<TalkHit>>(r => r.Find([two], "Hello", 0, 20, default)));
        var answered = (await Answer(house, one, old, "And an answer")).Value!;
        Assert.True(answered.Waits);
        Assert.DoesNotContain((await Read(house, two, old))!.Posts, p => p.Post.Id == answered.Id);
        Assert.Contains((await Read(house, one, old))!.Posts, p => p.Post.Id == answered.Id);
        Assert.Contains((await Read(house, host, old))!.Posts, p => p.Post.Id == answered.Id);
        Assert.Equal(0, (await Read(house, two, old))!.Thread.Answers);
        // Whoever has written before doesn't wait, but for a word or a link.
        Assert.False((await Answer(house, two, old, "Plain")).Value!.Waits);
        Assert.True((await Answer(house, two, old, "A NUC  for sale")).Value!.Waits);
        Assert.False((await Answer(house, two, old, "Cheaply said")).Value!.Waits);
        // Three stand by now: a link may come.
        Assert.False((await Answer(house, two, old, "[there](https://there.example)")).Value!.Waits);
        Assert.False((await Answer(house, host, old, "cheap, says the team")).Value!.Waits);
        var plain = await house.Ask(db => db.TalkPosts.Where(p => p.AccountId == two.Account && p.GoneAt == null && !p.IsFirst).MinAsync(p => p.Id));
        Assert.False((await house.Get<Talk, Result>(t => t.Edit(two, plain, "now cheap", default))).Ok);

        var look = await house.Get<CareTalk, ToCareFor>(c => c.Look(house.Owner, false, 1, 20, default));
        var rows = look.Waits;
        Assert.Equal((3, 3, 0), (rows.Count, look.WaitInAll, look.InAll));
        Assert.Empty((await house.Get<CareTalk, ToCareFor>(c => c.Look(house.Owner, true, 1, 20, default))).Waits);
        Assert.Equal([HoldReason.FirstPost, HoldReason.FirstPost, HoldReason.Word], rows.Select(r => r.Post.Held!.Value));
        Assert.Equal(3, (await house.Get<App.Insight.Waiting, App.Insight.WaitingCounts>(w => { w.Forget(); return w.Counts(house.Owner, default); })).Reports);
        // A thread whose beginning waits isn't put back as if it had been taken away.
        Assert.False((await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, begun.Id, false, default))).Ok);
        await house.To(house.Clock.Moment + Duration.FromHours(5));
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetStand(house.Owner, rows[0].Post.Id, default))).Ok);
        Assert.False((await house.Get<CareTalk, Result>(c => c.LetStand(house.Owner, rows[0].Post.Id, default))).Ok);
        var now = (await Read(house, two, begun.Id))!;
        Assert.Equal((house.Clock.Moment, house.Clock.Moment), (now.Thread.LastAt, now.Posts[0].Post.At));
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetStand(house.Owner, answered.Id, default))).Ok);
        // What doesn't stand leaves a trace, and a word to whoever wrote it.
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetGo(house.Owner, rows[2].Post.Id, "We don’t sell here.", default))).Ok);
        var seen = (await Read(house, two, old))!;
        Assert.Equal((true, false), (seen.Posts.Single(p => p.Post.Id == rows[2].Post.Id).Post.GoneByTeam, seen.Posts.Any(p => p.Post.Held is not null)));
        Assert.Equal(seen.Posts.Count - 1, seen.Thread.Answers);
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.MemberId == new MemberId(two.Account) && l.Kind == LetterKind.TalkWord)));
        Assert.Equal(0, (await house.Get<CareTalk, ToCareFor>(c => c.Look(house.Owner, false, 1, 20, default))).WaitInAll);
    }

    [Fact]
    public async Task A_thread_is_put_elsewhere_into_another_or_made_of_an_answer_and_nothing_of_it_is_lost()
    {
        await using var house = await House.Open();
        var (bench, shed) = (await Space(house), await Space(house, "The shed"));
        var (one, two) = (await Somebody(house, bench), await Somebody(house, bench));
        var a = (await Begin(house, one, "Wasps")).Value!.Id;
        var b = (await Begin(house, two, "Wasps again")).Value!.Id;
        var a1 = (await Answer(house, two, a, "To a")).Value!.Id;
        var b1 = (await Answer(house, one, b, "To b")).Value!.Id;
        var a2 = (await Answer(house, one, a, "Under a1", to: a1)).Value!.Id;
        var (firstOfA, firstOfB) = ((await Read(house, one, a))!.Posts[0].Post.Id, (await Read(house, one, b))!.Posts[0].Post.Id);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Move(house.Owner, a, shed, default))).Ok);
        Assert.Null(await Read(house, one, a));
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Move(house.Owner, a, bench, default))).Ok);
        Assert.False((await house.Get<KeepTalk, Result>(k => k.Move(house.Owner, a, new(1), default))).Ok);

        foreach (var wrong in new[] { "", "elsewhere", "/spaces/threads/1", $"/spaces/threads/{b}" })
            Assert.Equal("Into", (await house.Get<KeepTalk, Result<long>>(k => k.Merge(house.Owner, b, wrong, default))).Field);
        Assert.Equal(a, (await house.Get<KeepTalk, Result<long>>(k => k.Merge(house.Owner, b, $"https://site.example/spaces/threads/{a}?page=2#p1",
            default))).Value);
        var whole = (await Read(house, two, a))!;
        // In the order in which it was said, what answers under what it answers; the earlier beginning is the beginning.
        Assert.Equal([firstOfA, firstOfB, a1, a2, b1], whole.Posts.Select(p => p.Post.Id));
        Assert.Equal([firstOfA], whole.Posts.Where(p => p.Post.IsFirst).Select(p => p.Post.Id));
        Assert.Equal((4, a1), (whole.Thread.Answers, whole.Posts[3].Post.AnswersId));
        Assert.Equal(a, (await Read(house, two, b))!.Thread.MergedId);
        Assert.Equal([a], (await house.Get<ReadTalk, SpaceView>(r => r.Space(one, 1, 30, house.Clock.Moment, default))).Threads.Select(t => t.Id));
        var host = await Of(house, house.Owner.AccountId, bench);
        Assert.Equal([a], (await house.Get<ReadTalk, SpaceView>(r => r.Space(host, 1, 30, house.Clock.Moment, default))).Threads.Select(t => t.Id));
        Assert.False((await Answer(house, one, b)).Ok);
        Assert.False((await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, b, false, default))).Ok);
        Assert.False((await house.Get<KeepTalk, Result<long>>(k => k.Merge(house.Owner, b, $"{a}", default))).Ok);

        await house.Get<KeepTalk, Result>(k => k.Helped(house.Owner, a, a2, default));
        Assert.Equal("Title", (await house.Get<KeepTalk, Result<long>>(k => k.Split(house.Owner, a1, " ", default))).Field);
        Assert.False((await house.Get<KeepTalk, Result<long>>(k => k.Split(house.Owner, firstOfA, "It all", default))).Ok);
        var made = (await house.Get<KeepTalk, Result<long>>(k => k.Split(house.Owner, a1, "Below the floor", default))).Value;
        var split = (await Read(house, one, made))!;
        Assert.Equal([a1, a2], split.Posts.Select(p => p.Post.Id));
        Assert.Equal((true, null, 1), (split.Posts[0].Post.IsFirst, split.Posts[1].Post.AnswersId, split.Thread.Answers));
        var rest = (await Read(house, one, a))!;
        Assert.Equal([firstOfA, firstOfB, b1], rest.Posts.Select(p => p.Post.Id));
        Assert.Equal((2, null), (rest.Thread.Answers, rest.Thread.HelpedId));
        Assert.True((await Read(house, two, made))!.Follows);
    }

    [Fact]
    public async Task What_is_said_comes_to_whoever_has_the_thread_open_on_every_node()
    {
        await using var house = await House.Open();
        await using var node = await house.AnotherNode();
        node.Clock.StandAt(house.Clock.Moment);
        var space = await Space(house);
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        var thread = (await Begin(house, one)).Value!.Id;
        var before = (await Answer(house, two, thread, "Before")).Value!.Id;
        var last = (await Read(house, one, thread))!.Posts[0].Post.Id;
        using var stop = new CancellationTokenSource(TimeSpan.FromMinutes(2));
        var live = node.Services.GetRequiredService<LiveTalk>();
        await live.StartAsync(stop.Token);
        await live.Listens.WaitAsync(stop.Token);
        await using var watched = live.Watch(thread, last, stop.Token).GetAsyncEnumerator(stop.Token);
        async Task<SseItem<string>> Next()
        {
            do Assert.True(await watched.MoveNextAsync()); while (watched.Current.EventType == "still");
            return watched.Current;
        }
        static LivePost[] Posts(SseItem<string> item) => JsonSerializer.Deserialize<LivePost[]>(item.Data, JsonSerializerOptions.Web)!;
        // First what was said since they loaded the page.
        var missed = await Next();
        Assert.Equal([before.ToString(System.Globalization.CultureInfo.InvariantCulture)], Posts(missed).Select(p => p.Id));
        Assert.Equal(missed.EventId, Posts(missed)[0].Id);
        Assert.Equal(1, live.Watching(thread));
        // Then what is said on another node; nothing of another thread, and nothing that waits.
        await Begin(house, two, "Another");
        await house.Get<CareTalk, Result>(c => c.SaveHolds(house.Owner, false, false, "psst", default));
        var held = (await Answer(house, one, thread, "psst, all of you")).Value!;
        Assert.True(held.Waits);
        var said = (await Answer(house, one, thread, "*Now*", to: before)).Value!.Id;
        var came = Posts(await Next()).Single();
        Assert.Equal((said.ToString(System.Globalization.CultureInfo.InvariantCulture), before.ToString(System.Globalization.CultureInfo.InvariantCulture),
            one.Name, false), (came.Id, came.Under, came.Name, came.Team));
        Assert.Contains("<em>Now</em>", came.Body, StringComparison.Ordinal);
        // What was let stand comes too, though others were written since.
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetStand(house.Owner, held.Id, default))).Ok);
        var stands = Posts(await Next()).Single();
        Assert.Equal((held.Id.ToString(System.Globalization.CultureInfo.InvariantCulture), (string?)null, (string?)null, 0), (stands.Id, stands.Card,
            stands.Face,
            stands.Badges.Count));
        // Whoever has a card leads to it, with the badges they bear, as on the page.
        await house.Do<SavePersonCard>(c => c.Switch(house.Owner, true, default));
        await house.Do<SavePersonCard>(c => c.Do(two.Account, true, new(true, "", "", false), null, default));
        var badge = (await house.Get<App.Members.MemberTags, Result<TagId>>(t => t.Save(house.Owner, null, "mentor", "", 1, null, default, true))).Value;
        await house.Do<App.Members.MemberTags>(t => t.PutOn(house.Owner, new(two.Account), "mentor", default));
        await Answer(house, two, thread, "With a card");
        var carded = Posts(await Next()).Single();
        Assert.Equal(two.Account.ToString(System.Globalization.CultureInfo.InvariantCulture), carded.Card);
        Assert.Equal([house.Now.TagById[badge].Name], carded.Badges);
        // What comes at once arrives together, however much it is.
        var many = await house.Ask(db => db.Database.SqlQuery<long>($"""
            with made as (insert into talk_posts (id, thread_id, is_first, account_id, name, by_team, body, at, gone_by_team)
                select nextval('ids'), {thread}, false, {one.Account}, {one.Name}, false, '<p>One of many.</p>', {house.Clock.Moment}, false
                from generate_series(1, 40) returning id)
            select id as "Value" from made
            """).ToListAsync());
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            select pg_notify({LiveTalk.Channel}, {thread}::text || ':' || id) from talk_posts where thread_id = {thread} and body = '<p>One of many.</p>'
            """));
        Assert.Equal(many.Order(), Posts(await Next()).Select(p => long.Parse(p.Id, System.Globalization.CultureInfo.InvariantCulture)));
        await watched.DisposeAsync();
        Assert.Equal(0, live.Watching(thread));
        await live.StopAsync(default);
    }
}
