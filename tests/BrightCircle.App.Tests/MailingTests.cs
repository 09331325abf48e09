using System.Text.RegularExpressions;
using BrightCircle.App.Due;
using BrightCircle.App.Files;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Running;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Letters to many: to whom they go, that nobody gets two and nobody is left out, and what stands in them.</summary>
public class MailingTests
{
    static async Task<AudienceId> Everybody(House house) =>
        (await house.Get<Audiences, Result<AudienceId>>(s => s.Save(house.Owner, null, "Everybody here", new Condition.Named("post.example"), default))).Value;

    static async Task<long> Written(House house, AudienceId audience, string body = "<div>Dear {{ first_name }}, all is well.</div>", long? series = null,
        int? perHour = null)
    {
        var id = (await house.Get<Mailings, Result<long>>(s => s.New(house.Owner, null, series, null, default))).Value;
        var stored = await Find(house, id);
        var saved = await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, id, new("News for {{ name }}", "", body, audience, false, perHour,
            stored.Version), default));
        Assert.True(saved.Ok, saved.Refusal);
        return id;
    }

    static Task<Mailing> Find(House house, long id) => house.Ask(db => db.Mailings.AsNoTracking().SingleAsync(m => m.Id == id));
    static Task<Result> Send(House house, long id, LocalDateTime? at = null, bool theirs = false) =>
        house.Get<SendMailing, Result>(s => s.Do(house.Owner, id, at, theirs, default));
    static Task Due(House house) => house.Services.GetRequiredService<RunDue>().Run();
    static Task<List<Letter>> Copies(House house, long id) => house.Ask(db =>
        db.Letters.AsNoTracking().Where(l => l.MailingId == id).OrderBy(l => l.Id).ToListAsync());

    [Fact]
    public async Task Three_threads_worth_reading_are_those_of_the_week_in_spaces_that_are_open_to_the_reader()
    {
        await using var house = await House.Open();
        var (open, closed) = (await TalkHelp.Space(house, "The gate"), await TalkHelp.Space(house, "The bench", forGuests: false));
        var promise = house.Now.PlanById[house.Keeper].Promise.Append(new Inclusion(new Coverage.OneSpace(closed), new Reach.EverythingReleased(),
            new Keep.Nothing())).ToArray();
        var kept = await house.Get<SavePromise, Result<int>>(s => s.Do(house.Owner, house.Keeper, new(promise, PromiseVersion.NoPaces,
            house.Now.PlanById[house.Keeper].PromiseNumber), default));
        Assert.True(kept.Ok, kept.Refusal);
        var (member, guest) = (await house.JoinProved(), await house.JoinProved());
        await house.Do<App.Billing.EndPlan>(async e => Assert.True((await e.Do(house.Owner, guest, (await house.Holdings(guest))[0].Id, default)).Ok));
        var (atGate, atBench) = (await TalkHelp.Of(house, member, open), await TalkHelp.Of(house, member, closed));
        async Task<long> Begin(Community.SpaceReader by, string title, int answers)
        {
            var id = (await house.Get<Community.Talk, Result<Community.Said>>(t => t.Begin(by, title, "Words", default))).Value!.Id;
            for (var i = 0; i < answers; i++) await house.Get<Community.Talk, Result<Community.Said>>(t => t.Answer(by, id, null, "More", default));
            return id;
        }
        await Begin(atGate, "Long ago", 9);
        await house.To(house.Clock.Moment + Duration.FromDays(7) + Duration.FromSeconds(1));
        await Begin(atBench, "Wax", 4);
        await Begin(atGate, "Wasps", 3);
        var hidden = await Begin(atGate, "Taken away", 8);
        await house.Get<Community.KeepTalk, Result>(k => k.Hide(house.Owner, hidden, true, default));
        await Begin(atBench, "Frames", 2);
        await Begin(atBench, "Lids", 1);
        var audience = await Everybody(house);
        var id = await Written(house, audience, "<div>Talked about: {{ threads | default: \"nothing yet\" }}.</div>");
        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        var copies = await Copies(house, id);
        // The busiest first, three at most; who has no membership any more reads of what is open to everybody.
        Assert.Equal("“Wax”, “Wasps” and “Frames”", copies.Single(c => c.MemberId == member).Fields["threads"]);
        Assert.Equal("“Wasps”", copies.Single(c => c.MemberId == guest).Fields["threads"]);
    }

    [Fact]
    public async Task A_picture_goes_along_with_the_letter_and_nothing_is_loaded_when_it_is_read()
    {
        await using var house = await House.Open();
        await house.Join(house.Free);
        var hive = await Picture(house, 1300, 650, "A hive in the snow");
        var everybody = await Everybody(house);
        var id = await Written(house, everybody);
        Task<Result<int>> Save(FileId? picture, bool plain = false) => house.Get<Mailings, Result<int>>(async s =>
            await s.Save(house.Owner, id, new("Snow", "", "<div>Dear {{ first_name }}, all is well.</div>", everybody, plain, null,
                (await Find(house, id)).Version, Picture: picture), default));
        Assert.Equal("Picture", (await Save(new(-7))).Field);
        Assert.True((await Save(hive)).Ok);
        // It is in use, from the moment it is saved; also by a copy.
        Assert.Contains("still used", (await house.Get<KeepFiles, Result>(s => s.Remove(house.Owner, hive, default))).Refusal, StringComparison.Ordinal);
        var copy = (await house.Get<Mailings, Result<long>>(s => s.New(house.Owner, id, null, null, default))).Value;
        Assert.Equal(hive, (await Find(house, copy)).PictureId);
        Assert.Equal(2, await house.Ask(db => db.FileUses.CountAsync(u => u.FileId == hive && u.User == FileUser.Letter)));

        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        await house.Deliver();
        var sent = (await Copies(house, id)).First(c => c.State == LetterState.Sent);
        var raw = MimeKit.MimeMessage.Load(new MemoryStream(System.Text.Encoding.UTF8.GetBytes(
            await House.Raw((await House.Letter(sent.ToAddress, "Snow")).GetProperty("id").GetInt64()))));
        var part = Assert.Single(raw.BodyParts.OfType<MimeKit.MimePart>(), p => p.ContentType.MimeType == "image/jpeg");
        Assert.Contains($"src=\"cid:{part.ContentId}\"", raw.HtmlBody, StringComparison.Ordinal);
        Assert.Contains("alt=\"A hive in the snow\"", raw.HtmlBody, StringComparison.Ordinal);
        Assert.DoesNotContain("/files/", raw.HtmlBody, StringComparison.Ordinal);
        Assert.Contains("all is well", raw.TextBody, StringComparison.Ordinal);
        using var bytes = new MemoryStream();
        part.Content!.DecodeTo(bytes);
        using var bitmap = SkiaSharp.SKBitmap.Decode(bytes.ToArray());
        // Twice as wide as it is shown, for fine screens; never wider than it was.
        Assert.Equal((1040, 520), (bitmap.Width, bitmap.Height));

        // In the Desk it stands in the letter itself, and plain text has none.
        var pictures = house.Services.GetRequiredService<LetterPictures>();
        var shown = await house.Get<ShowMailing, (string, RenderedLetter Letter)>(async s => await s.As(await Find(house, id), null, default));
        Assert.Contains("src=\"data:image/jpeg;base64,", (await pictures.Shown(shown.Letter, default)).Html, StringComparison.Ordinal);
        var plain = await Find(house, id);
        plain.Plain = true;
        Assert.Null((await house.Get<ShowMailing, (string, RenderedLetter Letter)>(async s => await s.As(plain, null, default))).Letter.Picture);

        // A draft that is thrown away uses nothing any more.
        Assert.True((await house.Get<Mailings, Result>(s => s.Remove(house.Owner, copy, default))).Ok);
        Assert.Equal(1, await house.Ask(db => db.FileUses.CountAsync(u => u.FileId == hive)));
    }

    [Fact]
    public async Task A_letter_of_the_house_can_have_a_picture_which_comes_back_with_its_version()
    {
        await using var house = await House.Open();
        var welcome = HouseLetters.Of(LetterKind.Welcome)!;
        var (one, other) = (await Picture(house, 300, 300, "A door"), await Picture(house, 200, 100, "A gate"));
        async Task<Result> Save(int basedOn, FileId? picture) => await house.Get<ChangeLetter, Result>(s =>
            s.Save(house.Owner, welcome, null, s.Open(welcome, null, basedOn) with { Picture = picture }, default));
        Assert.Equal("Picture", (await Save(0, new(-7))).Field);
        Assert.True((await Save(0, one)).Ok);
        Assert.True((await Save(1, other)).Ok);
        Assert.Equal(other, await house.Get<ChangeLetter, FileId?>(s => Task.FromResult(s.Open(welcome, null, 2).Picture)));
        Assert.True((await house.Get<ChangeLetter, Result>(s => s.Take(house.Owner, welcome, null, 1, 2, default))).Ok);
        Assert.Equal(one, await house.Get<ChangeLetter, FileId?>(s => Task.FromResult(s.Open(welcome, null, 3).Picture)));
        // What went out keeps its version, and so its picture.
        Assert.Contains("still used", (await house.Get<KeepFiles, Result>(s => s.Remove(house.Owner, other, default))).Refusal, StringComparison.Ordinal);
        var member = await house.Member(await house.Join(house.Free));
        await house.Deliver();
        var raw = await House.Raw((await House.Letter(member.Email, "Welcome")).GetProperty("id").GetInt64());
        Assert.Contains("Content-Id: <picture@", raw, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public async Task A_letter_can_begin_with_a_price_as_a_way_back()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        var price = house.Now.PriceById[house.Monthly];
        var plan = house.Now.PlanById[price.PlanId];
        Assert.False(price.IsWayBackFrom(plan.Id, plan));
        var made = await house.Get<Mailings, Result<long>>(s => s.NewTo(house.Owner, member, price.Id, default));
        Assert.True(made.Ok, made.Refusal);
        var letter = await Find(house, made.Value);
        Assert.Contains($"href=\"/join/{price.Code}\"", letter.Body, StringComparison.Ordinal);
        Assert.Contains("£18.00 a month", System.Net.WebUtility.HtmlDecode(letter.Body), StringComparison.Ordinal);
        // It can be sent as it stands: what is put in is what the editor takes.
        Assert.True((await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, letter.Id, new(letter.Subject, "", letter.Body, null, false, null, 1),
            default))).Ok);
        Assert.True((await Send(house, letter.Id)).Ok);
        await Due(house);
        await house.Deliver();
        Assert.Contains($"/join/{price.Code}", (await House.Letter((await house.Member(member)).Email, "A way back")).GetProperty("text").GetString(),
            StringComparison.Ordinal);

        // Made for who went: it is a way back for them, until it is closed.
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, price.Id, PriceWords.Of(price) with
        {
            Buyers = BuyersKind.FormerHolders,
            BuyerPlans = [plan.Id.Value]
        }, default))).Ok);
        price = house.Now.PriceById[price.Id];
        Assert.True(price.IsWayBackFrom(plan.Id, plan));
        Assert.False(price.IsWayBackFrom(new(plan.Id.Value + 1), plan));
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, price.Id, PriceWords.Of(price) with { Availability = Availability.Closed },
            default))).Ok);
        Assert.False(house.Now.PriceById[price.Id].IsWayBackFrom(plan.Id, plan));
        Assert.False((await house.Get<Mailings, Result<long>>(s => s.NewTo(house.Owner, member, price.Id, default))).Ok);
        Assert.False((await house.Get<Mailings, Result<long>>(s => s.NewTo(house.Owner, member, new PriceId(-4), default))).Ok);
    }

    static async Task<FileId> Picture(House house, int width, int height, string alt)
    {
        using var drawn = new SkiaSharp.SKBitmap(width, height);
        using (var canvas = new SkiaSharp.SKCanvas(drawn)) canvas.Clear(SkiaSharp.SKColors.SteelBlue);
        using var png = drawn.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90);
        var kept = await house.Get<KeepFiles, Result<StoredFile>>(s =>
            s.Whole(house.Owner, png.AsStream(), $"{width}.png", alt, default));
        Assert.True(kept.Ok, kept.Refusal);
        return kept.Value!.Id;
    }

    [Fact]
    public async Task A_letter_to_one_goes_to_them_alone_also_where_they_want_none_to_many()
    {
        await using var house = await House.Open();
        var (one, other) = (await house.Join(house.Free), await house.Join(house.Free));
        await house.Do<OwnSettings>(s => s.SetWantsNews(one, false, default));
        var support = house.Owner with { Role = TeamRole.Support };
        Assert.False((await house.Get<Mailings, Result<long>>(s => s.NewTo(support, new(-5), null, default))).Ok);
        var id = (await house.Get<Mailings, Result<long>>(s => s.NewTo(support, one, null, default))).Value;
        var saved = await house.Get<Mailings, Result<int>>(s => s.Save(support, id,
            new("About your hives", "", "<div>Dear {{ first_name }}, ring me.</div>", null,
            false, null, 1), default));
        Assert.True(saved.Ok, saved.Refusal);
        Assert.True((await house.Get<SendMailing, Result>(s => s.Do(support, id, null, false, default))).Ok);
        await Due(house);
        await house.Deliver();
        var copy = Assert.Single(await Copies(house, id));
        Assert.Equal((one, LetterState.Sent), (copy.MemberId, copy.State));
        var sent = await House.Letter(copy.ToAddress, "About your hives");
        Assert.Contains("somebody of the team wrote to you", sent.GetProperty("text").GetString(), StringComparison.Ordinal);
        var raw = await House.Raw(sent.GetProperty("id").GetInt64());
        // Nothing to be taken off from, and no machine wrote it.
        Assert.DoesNotContain("List-", raw, StringComparison.Ordinal);
        Assert.DoesNotContain("Auto-Submitted", raw, StringComparison.Ordinal);
        Assert.DoesNotContain("About your hives", await House.Post((await house.Member(other)).Email));
        // Whoever helps writes to one, and not to many.
        var many = await Written(house, await Everybody(house));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SendMailing, Result>(s => s.Do(support, many, null, false, default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<Mailings, Result<int>>(s => s.Save(support, many, new("", "", "", null, false, null, 2),
            default)));
        Assert.False((await house.Get<Mailings, Result>(s => s.Remove(support, many, default))).Ok);
        // An address that refuses gets none until somebody has seen to it.
        await house.Ask(db => db.Letters.Where(l => l.Id == copy.Id).ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Refused)));
        var second = (await house.Get<Mailings, Result<long>>(s => s.NewTo(support, one, null, default))).Value;
        Assert.Equal(0, (await house.Get<MailingReaders, MailingReach>(async s => await s.Look(await Find(house, second), default))).Get);
    }

    [Fact]
    public async Task It_goes_once_to_each_who_takes_it_and_to_nobody_else()
    {
        await using var house = await House.Open();
        var audience = await Everybody(house);
        var people = new List<MemberId>();
        for (var i = 0; i < 5; i++) people.Add(await house.Join(house.Free));
        var series = (await house.Get<SeriesOfLetters, Result<long>>(s => s.Save(house.Owner, null, "to encourage", 1, new(18, 0), audience, default))).Value;
        await house.Do<OwnSettings>(s => s.SetWantsNews(people[0], false, default));
        await house.Do<SeriesOfLetters>(s => s.Want(people[1], series, false, default));
        // The third one's address refuses; the fourth one's did, and somebody has seen to it.
        foreach (var (who, seen) in new[] { (people[2], (Instant?)null), (people[3], house.Clock.Moment) })
        {
            var email = (await house.Member(who)).Email;
            await house.Ask(async db =>
            {
                db.Add(new Letter
                {
                    Id = house.Services.GetRequiredService<Ids>().Next(),
                    Kind = LetterKind.Receipt,
                    MemberId = who,
                    ToAddress = email,
                    Key = $"old-{who.Value}",
                    State = LetterState.Refused,
                    SetAsideAt = seen,
                    CreatedAt = house.Clock.Moment
                });
                return await db.SaveChangesAsync();
            });
        }
        var id = await Written(house, audience, series: series);
        var reach = await house.Get<MailingReaders, MailingReach>(async s => await s.Look(await Find(house, id), default));
        Assert.Equal((5, 2, 1, 1, 1), (reach.Audience, reach.Get, reach.NoNews, reach.NoSeries, reach.Refusing));
        Assert.Equal(people[3..].Order(), reach.First.Select(r => r.Id).Order());

        Assert.True((await Send(house, id)).Ok);
        // Two workers, and the row put in twice: each gets one.
        await using var other = await house.AnotherNode();
        await house.Ask(async db =>
        {
            db.PutDue(house.Services.GetRequiredService<Ids>(), DueKind.Mailing, id, house.Clock.Moment, "mailing-once-more");
            return await db.SaveChangesAsync();
        });
        await Task.WhenAll(Due(house), Due(other));
        await Due(house);
        var copies = await Copies(house, id);
        Assert.Equal(people[3..].Order(), copies.Select(c => c.MemberId!.Value).Order());
        await house.Deliver();
        var address = (await house.Member(people[4])).Email;
        var subject = Assert.Single(await House.Post(address), s => s.StartsWith("News", StringComparison.Ordinal));
        Assert.Equal($"News for {(await house.Member(people[4])).Name}", subject);
        Assert.Equal(MailingState.Done, (await Find(house, id)).State);
        Assert.Equal((2, 2, 0), await house.Get<Mailings, (int, int, int)>(async s =>
            (await s.Open(id, default))!.Value.Figures is var f ? (f.Written, f.Sent, f.Waiting) : default));
        // Sent is sent: neither changed, nor sent again, nor thrown away.
        Assert.False((await Send(house, id)).Ok);
        Assert.False((await house.Get<Mailings, Result>(s => s.Remove(house.Owner, id, default))).Ok);
        Assert.False((await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, id, new("x", "", "<p>x</p>", audience, false, null, 2), default))).Ok);
    }

    static Task<Result<int>> Two(House house, long id, AudienceId audience, string? other, int part = 40, int hours = 4, int? perHour = null,
        string body = "<div>Dear {{ first_name }}, <a href=\"https://bees.example/a\">look</a>.</div>") =>
        house.Get<Mailings, Result<int>>(async s => await s.Save(house.Owner, id, new("News for {{ name }}", "", body, audience, false, perHour,
            (await Find(house, id)).Version, null, null, other, part, hours), default));

    /// <summary>Whoever of some letters is to have opened a link.</summary>
    static Task Opened(House house, long mailing, IEnumerable<Letter> letters) => house.Ask(async db =>
    {
        foreach (var l in letters)
            db.Add(new OpenedLink { LetterId = l.Id, Link = 0, MemberId = l.MemberId!.Value, MailingId = mailing, At = house.Clock.Moment });
        return await db.SaveChangesAsync();
    });

    /// <summary>The larger share wins, not the larger number; where they are equal, the first stays.</summary>
    [Theory, InlineData(2, 10, true), InlineData(10, 2, false), InlineData(5, 5, false)]
    public async Task Two_subjects_are_tried_on_a_part_and_the_better_goes_to_all_others(int first, int other, bool otherWins)
    {
        await using var house = await House.Open();
        await ManyMembers.Add(house, 200);
        await house.Do<OpenedLinks>(s => s.Count(house.Owner, true, default));
        var everybody = await Everybody(house);
        var id = await Written(house, everybody);
        Assert.True((await Two(house, id, everybody, "Bees, {{ first_name }}?")).Ok);
        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        await house.Deliver();
        var tried = await Copies(house, id);
        Assert.InRange(tried.Count, 50, 110);
        bool IsOther(Letter l) => l.Subject!.StartsWith("Bees, ", StringComparison.Ordinal);
        var (ones, others) = (tried.Where(l => !IsOther(l)).ToArray(), tried.Where(IsOther).ToArray());
        Assert.InRange(others.Length, tried.Count / 4, tried.Count * 3 / 4);
        Assert.Equal(MailingState.Going, (await Find(house, id)).State);
        // As it reads for the team: with the subject they got.
        Assert.Equal(others[0].Subject, (await house.Get<LetterAsSent, RenderedLetter>(s => s.Of(others[0], default))).Subject);
        // As many of each, so that shares are told by numbers.
        var least = Math.Min(ones.Length, others.Length);
        await Opened(house, id, ones.Take(first == other ? 0 : first * least / 12).Concat(others.Take(first == other ? 0 : other * least / 12)));
        // Held up and gone on meanwhile it waits all the same; a minute too early it does too.
        Assert.True((await house.Get<SendMailing, Result>(s => s.Pause(house.Owner, id, default))).Ok);
        Assert.True((await house.Get<SendMailing, Result>(s => s.GoOn(house.Owner, id, default))).Ok);
        await Due(house);
        house.Clock.StandAt(house.Clock.Moment + Duration.FromMinutes(4 * 60 - 1));
        await Due(house);
        Assert.Equal(tried.Count, (await Copies(house, id)).Count);
        house.Clock.StandAt(house.Clock.Moment + Duration.FromMinutes(1));
        await Due(house);
        await house.Deliver();
        var all = await Copies(house, id);
        Assert.Equal((201, 201), (all.Count, all.Select(l => l.MemberId).Distinct().Count()));
        var rest = all.Where(l => tried.All(t => t.Id != l.Id)).ToArray();
        Assert.All(rest, l => Assert.Equal(otherWins, IsOther(l)));
        Assert.All(tried, t => Assert.Equal(t.Subject, all.Single(l => l.Id == t.Id).Subject));
        var done = await Find(house, id);
        Assert.Equal((MailingState.Done, otherWins, ones.Length, others.Length),
            (done.State, done.Tried!.OtherIsBetter, done.Tried.First, done.Tried.Other));
    }

    [Fact]
    public async Task At_so_many_an_hour_the_try_goes_no_faster_either()
    {
        await using var house = await House.Open();
        await ManyMembers.Add(house, 200);
        await house.Do<OpenedLinks>(s => s.Count(house.Owner, true, default));
        var everybody = await Everybody(house);
        var id = await Written(house, everybody);
        Assert.True((await Two(house, id, everybody, "Bees?", part: 50, perHour: 600)).Ok);
        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        // Ten of a minute's share, twenty readers looked at.
        Assert.InRange((await Copies(house, id)).Count, 3, 17);
        for (var minute = 0; minute < 12; minute++)
        {
            house.Clock.StandAt(house.Clock.Moment + Duration.FromMinutes(1));
            await Due(house);
        }
        var tried = (await Copies(house, id)).Count;
        Assert.NotNull((await Find(house, id)).TriedAt);
        house.Clock.StandAt(house.Clock.Moment + Duration.FromHours(4));
        await Due(house);
        // Ten readers are looked at, of whom some have theirs.
        Assert.InRange((await Copies(house, id)).Count, tried, tried + 10);
    }

    [Fact]
    public async Task Two_subjects_are_taken_only_where_they_can_be_told_apart()
    {
        await using var house = await House.Open();
        var everybody = await Everybody(house);
        var id = await Written(house, everybody);
        Assert.Contains("aren’t counted", (await Two(house, id, everybody, "Bees?")).Refusal, StringComparison.Ordinal);
        await house.Do<OpenedLinks>(s => s.Count(house.Owner, true, default));
        Assert.Contains("there is none", (await Two(house, id, everybody, "Bees?", body: "<div>No link.</div>")).Refusal, StringComparison.Ordinal);
        Assert.Equal("OtherSubject", (await Two(house, id, everybody, "News for {{ name }}")).Field);
        Assert.Equal("OtherSubject", (await Two(house, id, everybody, "Of {{ surname }}")).Field);
        Assert.Equal("OtherSubject", (await Two(house, id, everybody, new string('x', Mailing.MostSubject + 1))).Field);
        foreach (var (part, ok) in new[] { (4, false), (5, true), (50, true), (51, false) })
            Assert.Equal(ok ? null : "TryPart", (await Two(house, id, everybody, "Bees?", part)).Field);
        foreach (var (hours, ok) in new[] { (0, false), (1, true), (72, true), (73, false) })
            Assert.Equal(ok ? null : "TryHours", (await Two(house, id, everybody, "Bees?", 20, hours)).Field);
        var tomorrow = house.Now.Calendar.Local(house.Clock.Moment).PlusDays(1);
        Assert.Equal("SendAt", (await Send(house, id, tomorrow, theirs: true)).Field);
        Assert.True((await Send(house, id, tomorrow)).Ok);
        // Switched off meanwhile nothing could be told: it isn't sent like that.
        Assert.True((await house.Get<SendMailing, Result>(s => s.Withdraw(house.Owner, id, default))).Ok);
        await house.Do<OpenedLinks>(s => s.Count(house.Owner, false, default));
        Assert.Equal("OtherSubject", (await Send(house, id)).Field);
        // Without a second subject it is a letter as any.
        Assert.True((await Two(house, id, everybody, " ")).Ok);
        Assert.Null((await Find(house, id)).TryPart);
        Assert.True((await Send(house, id)).Ok);
    }

    [Fact]
    public async Task It_is_held_up_goes_on_and_is_stopped_at_so_many_an_hour()
    {
        await using var house = await House.Open();
        var audience = await Everybody(house);
        for (var i = 0; i < 5; i++) await house.Join(house.Free);
        // 120 an hour: two a minute.
        var id = await Written(house, audience, perHour: 120);
        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        Assert.Equal((2, MailingState.Going), ((await Copies(house, id)).Count, (await Find(house, id)).State));
        await house.To(house.Clock.Moment + Duration.FromSeconds(59));
        Assert.Equal(2, (await Copies(house, id)).Count);
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        Assert.Equal(4, (await Copies(house, id)).Count);
        // Held up: nothing is written, and what is in the outbox waits.
        await house.Ask(db => db.Letters.Where(l => l.MailingId == id).ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Queued)));
        Assert.True((await house.Get<SendMailing, Result>(s => s.Pause(house.Owner, id, default))).Ok);
        await house.To(house.Clock.Moment + Duration.FromMinutes(10));
        await house.Deliver();
        Assert.Equal(4, (await Copies(house, id)).Count(l => l.State == LetterState.Queued));
        Assert.False((await house.Get<SendMailing, Result>(s => s.Pause(house.Owner, id, default))).Ok);
        Assert.True((await house.Get<SendMailing, Result>(s => s.GoOn(house.Owner, id, default))).Ok);
        await Due(house);
        Assert.Equal((5, MailingState.Done), ((await Copies(house, id)).Count, (await Find(house, id)).State));
        // All of it is in the outbox: it can be held up and go on there, too.
        Assert.True((await house.Get<SendMailing, Result>(s => s.Pause(house.Owner, id, default))).Ok);
        await house.Deliver();
        Assert.Equal((5, MailingState.Paused), ((await Copies(house, id)).Count(l => l.State == LetterState.Queued), (await Find(house, id)).State));
        Assert.True((await house.Get<SendMailing, Result>(s => s.GoOn(house.Owner, id, default))).Ok);
        Assert.Equal(MailingState.Done, (await Find(house, id)).State);
        // Stopped with copies in the outbox: they don't go.
        Assert.True((await house.Get<SendMailing, Result>(s => s.Stop(house.Owner, id, default))).Ok);
        Assert.Empty(await Copies(house, id));
        Assert.False((await house.Get<SendMailing, Result>(s => s.GoOn(house.Owner, id, default))).Ok);
        Assert.False((await house.Get<SendMailing, Result>(s => s.Stop(house.Owner, id, default))).Ok);
    }

    [Fact]
    public async Task It_goes_at_a_time_here_or_where_each_reader_is()
    {
        await using var house = await House.Open();
        var audience = await Everybody(house);
        var (here, east, west) = (await house.Join(house.Free), await house.Join(house.Free), await house.Join(house.Free));
        await house.Do<OwnSettings>(s => s.SetZone(east, "Asia/Tokyo", default));
        await house.Do<OwnSettings>(s => s.SetZone(west, "America/New_York", default));
        // Thursday, 07:30: in Tokyo it is 22:30 UTC of the day before, in London 07:30, in New York 12:30.
        var thursday = new LocalDateTime(2026, 11, 26, 7, 30);
        var id = await Written(house, audience);
        Assert.False((await Send(house, id, new LocalDateTime(2026, 11, 24, 10, 42))).Ok);
        Assert.True((await Send(house, id, thursday, theirs: true)).Ok);
        Assert.Equal(MailingState.Planned, (await Find(house, id)).State);
        await house.To(Instant.FromUtc(2026, 11, 25, 17, 29));
        Assert.Empty(await Copies(house, id));
        await house.To(Instant.FromUtc(2026, 11, 25, 17, 31));
        var times = (await Copies(house, id)).ToDictionary(l => l.MemberId!.Value, l => l.NotBefore);
        Assert.Equal((Instant.FromUtc(2026, 11, 26, 7, 30), Instant.FromUtc(2026, 11, 25, 22, 30), Instant.FromUtc(2026, 11, 26, 12, 30)),
            (times[here], times[east], times[west]));
        // Taken back before its time it doesn't go.
        var second = await Written(house, audience);
        Assert.True((await Send(house, second, thursday)).Ok);
        Assert.True((await house.Get<SendMailing, Result>(s => s.Withdraw(house.Owner, second, default))).Ok);
        await house.To(Instant.FromUtc(2026, 11, 26, 8, 0));
        Assert.Empty(await Copies(house, second));
        Assert.Equal(MailingState.Draft, (await Find(house, second)).State);
        Assert.True((await house.Get<Mailings, Result>(s => s.Remove(house.Owner, second, default))).Ok);
    }

    [Fact]
    public async Task Fields_are_checked_before_saving_and_filled_for_each()
    {
        await using var house = await House.Open();
        var audience = await Everybody(house);
        var member = await house.Join(house.Monthly);
        var field = (await house.Get<OwnFields, Result<OwnFieldId>>(s =>
            s.Save(house.Owner, null, new("How many hives?", OwnFieldKind.Number, null, false, false),
            default))).Value;
        await house.Do<OwnFields>(s => s.Fill(house.Owner, member, new Dictionary<OwnFieldId, string?> { [field] = "3" }, default));
        string? Wrong(string text) => MailingFields.WrongWith(text, house.Now);
        Assert.Null(Wrong("Dear {{ first_name }}, {{name}} of {{ site }} {{ tier | default: \"friend\" }} {{ how_many_hives | default: “some” }}"));
        Assert.Contains("no field “surname”", Wrong("{{ surname }}"), StringComparison.Ordinal);
        Assert.Contains("empty for some", Wrong("{{ tier }}"), StringComparison.Ordinal);
        foreach (var broken in new[] { "{{ first_name", "first_name }}", "{% if tier %}", "{{ first_name | upcase }}", "{{ <b>first_name</b> }}", "{{}}" })
            Assert.Contains("can’t be read", Wrong(broken), StringComparison.Ordinal);

        // A name that carries an address, and signs that mean something in HTML.
        await house.Ask(db => db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.Name, "http://bad.example/<b> x")));
        var id = await Written(house, audience,
            "<div>Dear {{ first_name | default: \"friend\" }}, {{ how_many_hives | default: \"some\" }} hives, {{ tier | default: \"x\" }}."
            + "</div><div><strong><a href=\"/shelves\">Read on</a></strong></div>");
        Assert.True((await Send(house, id)).Ok);
        await Due(house);
        await house.Deliver();
        var address = (await house.Member(member)).Email;
        var letter = await House.Letter(address, "News for");
        var (html, text) = (letter.GetProperty("html").GetString()!, letter.GetProperty("text").GetString()!);
        Assert.Contains("Dear friend, 3 hives, Keeper.", html, StringComparison.Ordinal);
        Assert.Contains("Dear friend, 3 hives, Keeper.", text, StringComparison.Ordinal);
        Assert.DoesNotContain("bad.example", html + text, StringComparison.Ordinal);
        Assert.Matches("<a style=\"background[^>]*href=\"http[^\"]*/shelves\"", html);
        Assert.Contains("You get this because you are one of: Everybody here.", text, StringComparison.Ordinal);
        Assert.Matches(@"/no-more/[\w-]+\?of=many", text);
        var raw = (await House.Raw(letter.GetProperty("id").GetInt64())).ReplaceLineEndings("\n");
        Assert.Contains("List-Unsubscribe-Post: List-Unsubscribe=One-Click", raw, StringComparison.Ordinal);
        Assert.Matches(new Regex("^List-Id: <letters\\.", RegexOptions.Multiline), raw);
    }

    [Fact]
    public async Task Two_who_write_one_letter_are_told()
    {
        await using var house = await House.Open();
        var audience = await Everybody(house);
        var id = await Written(house, audience);
        var version = (await Find(house, id)).Version;
        Task<Result<int>> Save(string subject) => house.Get<Mailings, Result<int>>(s =>
            s.Save(house.Owner, id, new(subject, "", "<div>x</div>", audience, false, null,
            version), default));
        var both = await Task.WhenAll(Save("One"), Save("Two"));
        Assert.Single(both, r => r.Ok);
        Assert.Contains("meanwhile", both.Single(r => !r.Ok).Refusal, StringComparison.Ordinal);
        // Only who may write letters does.
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SendMailing,
            Result>(s => s.Do(house.Owner with { Role = TeamRole.Support }, id, null, false,
            default)));
    }

    static Task<string?> Follow(House house, string address, bool note = true)
    {
        var parts = new Uri(address).AbsolutePath.Split('/');
        return house.Get<OpenedLinks, string?>(s => s.Follow(parts[2], int.Parse(parts[3], System.Globalization.CultureInfo.InvariantCulture), note, default));
    }

    [Fact]
    public async Task Opened_links_are_counted_only_where_the_owner_wants_it_once_for_each_and_lead_where_the_letter_says()
    {
        await using var house = await House.Open();
        var (one, other) = (await house.Join(house.Free), await house.Join(house.Free));
        var audience = await Everybody(house);
        const string body = "<div>Dear {{ first_name }}, <a href=\"/shelves\">look</a> or <a href=\"https://bees.example/a?b=1&amp;c=2\">read</a>, "
            + "or <a href=\"mailto:a@b.example\">write</a>.</div>";
        async Task<string[]> Sent(long id, MemberId member)
        {
            Assert.True((await Send(house, id)).Ok);
            await Due(house);
            await house.Deliver();
            var text = (await House.Letter((await house.Member(member)).Email, "News for")).GetProperty("html").GetString()!;
            return [.. Regex.Matches(text, "href=\"([^\"]+)\"").Select(m => System.Net.WebUtility.HtmlDecode(m.Groups[1].Value))];
        }
        // Off, as it comes: links lead where they say.
        var plain = await Sent(await Written(house, audience, body), one);
        Assert.Contains("http://site.example/shelves", plain);
        Assert.Contains("https://bees.example/a?b=1&c=2", plain);
        Assert.DoesNotContain(plain, l => l.Contains("/l/", StringComparison.Ordinal));

        await house.Do<OpenedLinks>(s => s.Count(house.Owner, true, default));
        var id = await Written(house, audience, body);
        var counted = (await Sent(id, one)).Where(l => l.Contains("/l/", StringComparison.Ordinal)).ToArray();
        Assert.Equal(2, counted.Length);
        var letter = (await House.Letter((await house.Member(one)).Email, "News for")).GetProperty("text").GetString();
        Assert.Contains("\nWhich of these links is opened is counted.\n", letter, StringComparison.Ordinal);
        Assert.DoesNotContain("<", letter, StringComparison.Ordinal);
        Assert.Contains("Write to help@site.example and a person answers.", letter, StringComparison.Ordinal);
        // Whoever looks at it beforehand reads that too, and is led nowhere through the count.
        var look = (await house.Get<ShowMailing, (string, RenderedLetter Letter)>(async s => await s.As(await Find(house, id), null, default))).Letter;
        Assert.Contains("is counted", look.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("/l/", look.Html, StringComparison.Ordinal);
        Assert.Contains("mailto:a@b.example", await Sent(await Written(house, audience, body), one));
        async Task<MailingFigures> Figures() =>
            (await house.Get<Mailings, (Mailing, MailingFigures Figures, Member?)?>(s => s.Open(id, default)))!.Value.Figures;
        Assert.Equal("http://site.example/shelves", await Follow(house, counted[0], note: false));
        Assert.Equal((0, 0), ((await Figures()).LinkReaders, (await Figures()).Links.Sum(l => l.Readers)));
        foreach (var _ in Enumerable.Range(0, 2)) Assert.Equal("https://bees.example/a?b=1&c=2", await Follow(house, counted[1]));
        await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => Follow(house, counted[0])));
        var figures = await Figures();
        Assert.Equal(1, figures.LinkReaders);
        Assert.Equal([("/shelves", 1), ("https://bees.example/a?b=1&c=2", 1)], figures.Links.Select(l => (l.To, l.Readers)));
        Assert.Equal(2, await house.Ask(db => db.OpenedLinks.CountAsync(o => o.MemberId == one)));
        Assert.Equal(0, await house.Ask(db => db.OpenedLinks.CountAsync(o => o.MemberId == other)));
        // Nothing else is led to: not another link, not another letter.
        Assert.Null(await Follow(house, counted[0][..^1] + "2"));
        Assert.Null(await Follow(house, "http://site.example/l/nothing/0"));
        var welcome = await house.Ask(db => db.Letters.Where(l => l.MemberId == one && l.MailingId == null).Select(l => l.Id).FirstAsync());
        Assert.Null(await Follow(house, $"http://site.example/l/{house.Services.GetRequiredService<SignInTokens>().ForLetter(welcome)}/0"));
        // Turned off again, what went out still leads where it says, and is counted no more.
        await house.Do<OpenedLinks>(s => s.Count(house.Owner, false, default));
        await house.Ask(db => db.OpenedLinks.ExecuteDeleteAsync());
        Assert.Equal("http://site.example/shelves", await Follow(house, counted[0]));
        Assert.Equal(0, (await Figures()).LinkReaders);
    }
}
