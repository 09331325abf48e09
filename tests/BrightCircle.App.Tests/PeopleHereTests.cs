using BrightCircle.App.Community;
using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using SkiaSharp;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>Who is found among the people here, by whom, with what; badges; a space that belongs to a piece; threads that ask for a choice.</summary>
public class PeopleHereTests
{
    static PeopleReader? By(House house, params SpaceReader[] talks) => PeopleReader.For(house.Now, talks);

    static Task<Result> Switch(House house, bool on = true) => house.Get<SavePersonCard, Result>(s => s.Switch(house.Owner, on, default));
    static Task<Result> Card(House house, long account, PersonCardDraft draft, bool confirmed = true, PictureUpload? picture = null) =>
        house.Get<SavePersonCard, Result>(s => s.Do(account, confirmed, draft, picture, default));
    static PersonCardDraft Draft(string line = "Two hives.", bool shown = true, bool unnamed = false) => new(shown, line, "by the sea", unnamed);
    static async Task<long[]> Found(House house, PeopleReader by, string? q = null, bool lately = false) => [.. (await house.Get<ReadPeople,
        (IReadOnlyList<PersonRow> People, int)>(r => r.List(by, q, lately, 1, 24, house.Clock.Moment, default))).People.Select(p => p.Account)];
    static Task<PersonSeen?> One(House house, PeopleReader by, long account) =>
        house.Get<ReadPeople, PersonSeen?>(r => r.One(by, account, default));
    static Task<List<string>> Names(House house, long account) =>
        house.Ask(db => db.TalkPosts.Where(p => p.AccountId == account).OrderBy(p => p.Id).Select(p => p.Name).ToListAsync());
    static async Task<long> Begin(House house, SpaceReader by, string? choices = null) =>
        (await house.Get<Talk, Result<Said>>(t => t.Begin(by, "Wasps", "A stream of them.", default, null, choices))).Value!.Id;

    static PictureUpload Png()
    {
        using var bitmap = new SKBitmap(40, 30);
        bitmap.Erase(SKColors.Teal);
        var bytes = bitmap.Encode(SKEncodedImageFormat.Png, 90).ToArray();
        return new("me.png", bytes.Length, () => new MemoryStream(bytes));
    }

    [Fact]
    public async Task Whoever_wants_to_be_found_is_by_those_who_talk_in_a_room_and_nobody_else_is()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, other) = (await Somebody(house, space), await Somebody(house, space));
        // Members don't find one another before the owner wants it, and never those without a space.
        Assert.Null(By(house, one));
        Assert.True((await Switch(house)).Ok);
        Assert.Null(By(house));
        var by = By(house, other)!;
        Assert.Empty(await Found(house, by));

        Assert.True((await Card(house, one.Account, Draft())).Ok);
        Assert.Equal([one.Account], await Found(house, by));
        Assert.Equal("Two hives.", (await One(house, by, one.Account))!.Person.Line);
        Assert.Null(await One(house, by, other.Account));
        // What isn't shown is kept for its owner, and found by nobody.
        Assert.True((await Card(house, one.Account, Draft(shown: false))).Ok);
        Assert.Empty(await Found(house, by));
        Assert.Null(await One(house, by, one.Account));
        Assert.Equal("Two hives.", (await house.Get<SavePersonCard, PersonCard?>(s => s.Of(one.Account, default)))!.Line);
        Assert.True((await Switch(house, false)).Ok);
        Assert.Null(By(house, other));
    }

    [Fact]
    public async Task Nothing_is_shown_under_an_address_that_isnt_proved_and_what_is_too_long_is_refused()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        await Switch(house);
        Assert.Equal("Shown", (await Card(house, one.Account, Draft(), confirmed: false)).Field);
        Assert.True((await Card(house, one.Account, Draft(shown: false, unnamed: true), confirmed: false)).Ok);
        Assert.Equal("Line", (await Card(house, one.Account, Draft(new string('x', PersonCard.MostLine + 1)))).Field);
        Assert.True((await Card(house, one.Account, Draft(new string('x', PersonCard.MostLine)))).Ok);
        Assert.Equal("CardPlace", (await Card(house, one.Account, Draft() with { Place = new string('x', PersonCard.MostPlace + 1) })).Field);
        Assert.True((await Card(house, one.Account, Draft() with { Place = new string('x', PersonCard.MostPlace) })).Ok);
        Assert.Equal("Picture", (await Card(house, one.Account, Draft(), picture: new("no.png", 4, () => new MemoryStream([1, 2, 3, 4])))).Field);
    }

    [Fact]
    public async Task People_are_found_by_name_line_place_field_and_badge_and_by_having_been_here()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, other) = (await Somebody(house, space), await Somebody(house, space));
        await Switch(house);
        await Card(house, one.Account, Draft("Wax & wood."));
        await Card(house, other.Account, Draft() with { Place = "the moor" });
        var field = (await house.Get<OwnFields, Result<OwnFieldId>>(s => s.Save(house.Owner, null, new("Hives", OwnFieldKind.Number, null, false, true, true),
            default))).Value;
        var hidden = (await house.Get<OwnFields, Result<OwnFieldId>>(s => s.Save(house.Owner, null, new("Secret", OwnFieldKind.Text, null, false, true),
            default))).Value;
        Assert.True((await house.Get<OwnFields, Result>(s => s.FillOwn(new(one.Account),
            new Dictionary<OwnFieldId, string?> { [field] = "41", [hidden] = "velvet" }, default))).Ok);
        await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "mentor", null, 1, null, default, true));
        await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "owes us", null, 1, null, default));
        Assert.True((await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, new(other.Account), "mentor, owes us", default))).Ok);

        var by = By(house, one)!;
        long[] both = [one.Account, other.Account];
        Assert.Equal(both.Order(), (await Found(house, by, "mirela")).Order());
        Assert.Equal([one.Account], await Found(house, by, "WAX &"));
        Assert.Equal([other.Account], await Found(house, by, "moor"));
        Assert.Equal([one.Account], await Found(house, by, "41"));
        Assert.Equal([other.Account], await Found(house, by, "mentor"));
        // What is for the team finds nobody.
        Assert.Empty(await Found(house, by, "velvet"));
        Assert.Empty(await Found(house, by, "owes"));
        Assert.Empty(await Found(house, by, "%"));
        var seen = (await One(house, by, other.Account))!.Person;
        Assert.Equal(["mentor"], seen.Badges);
        Assert.Equal(["Hives: 41"], (await One(house, by, one.Account))!.Person.Fields);

        var at = house.Clock.Moment;
        foreach (var (who, when) in new[] { (one.Account, at - ReadPeople.Lately), (other.Account, at - ReadPeople.Lately - Duration.FromSeconds(1)) })
            await house.Ask(db => db.Database.ExecuteSqlAsync($"""
                insert into last_seen (member_id, at) values ({who}, {when}) on conflict (member_id) do update set at = excluded.at
                """));
        Assert.Equal([one.Account], await Found(house, by, lately: true));
        // Beside what they say in a thread it stands, too.
        var thread = await Begin(house, other);
        var view = await house.Get<ReadTalk, ThreadView?>(r => r.Thread([one], thread, 1, 50, at, default));
        Assert.Equal((true, "mentor"), (view!.Authors[other.Account].HasCard, view.Authors[other.Account].Badges.Single()));
        await Switch(house, false);
        view = await house.Get<ReadTalk, ThreadView?>(r => r.Thread([one], thread, 1, 50, at, default));
        Assert.Equal((false, "mentor"), (view!.Authors[other.Account].HasCard, view.Authors[other.Account].Badges.Single()));
    }

    [Fact]
    public async Task What_follows_a_condition_is_no_badge()
    {
        await using var house = await House.Open();
        var done = await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "active", null, 1,
            new Condition.InStanding([Standing.Active]), default, true));
        Assert.Equal("Badge", done.Field);
    }

    [Fact]
    public async Task A_picture_on_a_card_stays_as_long_as_it_stands_there_and_goes_with_it()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        await Switch(house);
        Assert.True((await Card(house, one.Account, Draft(), picture: Png())).Ok);
        await house.Days(2);
        var picture = (await house.Ask(db => db.TalkPictures.SingleAsync())).Id;
        Assert.NotNull(await house.Get<TalkPictures, (string, string?)?>(p => p.AddressOf(picture, true, false, default)));
        // It can't be put into what is said as well: it would be taken from there.
        Assert.Empty(await house.Get<TalkPictures, IReadOnlyList<TalkPicture>>(p => p.Waiting(one, [picture], default)));
        Assert.True((await Card(house, one.Account, Draft() with { NoPicture = true })).Ok);
        await house.To(house.Clock.Moment + Duration.FromMinutes(1));
        Assert.Equal(0, await house.Ask(db => db.TalkPictures.CountAsync()));
        Assert.True(await house.Ask(db => db.PersonCards.AnyAsync(c => c.Shown && c.PictureId == null)));
    }

    [Fact]
    public async Task When_a_membership_is_over_a_card_isnt_found_and_words_bear_the_name_that_was_wanted()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        await Switch(house);
        var (stays, goes, watcher) = (await house.Join(house.Monthly), await house.Join(house.Monthly), await Somebody(house, space));
        foreach (var member in new[] { stays, goes })
        {
            await house.Ask(db => db.Users.Where(a => a.Id == member.Value).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed, true)));
            await Begin(house, await Of(house, member, space));
            Assert.True((await Card(house, member.Value, Draft(unnamed: member == goes))).Ok);
        }
        Assert.Equal(["Mirela Duarte"], await Names(house, goes.Value));
        var by = By(house, watcher)!;
        Assert.Equal(2, (await Found(house, by)).Length);
        foreach (var member in new[] { stays, goes })
        {
            var holding = await house.Ask(db => db.Holdings.Where(h => h.MemberId == member).Select(h => h.Id).SingleAsync());
            Assert.True((await house.Get<App.Billing.LeavePlan, Result>(s => s.Do(member, holding, default))).Ok);
        }
        // Whoever has left is here until what is paid is over.
        Assert.Equal(2, (await Found(house, by)).Length);
        Assert.Equal(["Mirela Duarte"], await Names(house, goes.Value));
        await house.Days(40);
        Assert.Empty(await Found(house, by));
        Assert.Equal([PersonCard.Former], await Names(house, goes.Value));
        Assert.Equal(["Mirela Duarte"], await Names(house, stays.Value));
        // They can say so afterwards, and the other way round.
        Assert.True((await Card(house, goes.Value, Draft(unnamed: false))).Ok);
        Assert.Equal(["Mirela Duarte"], await Names(house, goes.Value));
        Assert.True((await Card(house, goes.Value, Draft(unnamed: true))).Ok);
        Assert.Equal([PersonCard.Former], await Names(house, goes.Value));
        // And whoever comes back is themselves again.
        await house.JoinAgain(goes, house.Monthly);
        Assert.Equal(["Mirela Duarte"], await Names(house, goes.Value));
        Assert.Equal([goes.Value], await Found(house, by));
    }

    [Fact]
    public async Task The_team_takes_a_card_down_and_its_owner_puts_it_up_again()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        await Switch(house);
        await Card(house, one.Account, Draft());
        var by = By(house, await Team(house, space))!;
        Assert.True(by.Keeps);
        Assert.True((await house.Get<SavePersonCard, Result>(s => s.TakeDown(house.Owner, one.Account, default))).Ok);
        Assert.Empty(await Found(house, by));
        Assert.False((await house.Get<SavePersonCard, Result>(s => s.TakeDown(house.Owner, one.Account, default))).Ok);
        await Card(house, one.Account, Draft());
        Assert.Equal([one.Account], await Found(house, by));
    }

    [Fact]
    public async Task A_space_of_a_piece_is_open_to_whom_the_piece_is_open()
    {
        await using var house = await House.Open();
        // The edition of November came out before anybody joined: it is open to whoever holds the tier; December’s isn't out.
        var (out_, coming) = (house.Now.Pieces.Single(p => p.Title == "Piece 11"), house.Now.Pieces.Single(p => p.Title == "Piece 12"));
        var (open, notYet) = (await Space(house, "Beside", forGuests: false, piece: out_.Id), await Space(house, "Ahead", forGuests: false, piece: coming.Id));
        var member = await house.JoinProved();
        var guest = (await house.Get<AddMember, Result<MemberId>>(s => s.Do(house.Owner, "Otto Sand", House.NewAddress(), default))).Value;
        Assert.True((await Reader(house, member.Value, open))!.MayWrite);
        Assert.Null(await Reader(house, member.Value, notYet));
        Assert.Null(await Reader(house, guest.Value, open));
        await house.Days(8);
        Assert.True((await Reader(house, member.Value, notYet))!.MayWrite);
        // Closed, it is read by the same people; and without the piece by nobody.
        Assert.True((await house.Get<SaveSpace, Result>(s => s.Close(house.Owner, open, true, default))).Ok);
        Assert.False((await Reader(house, member.Value, open))!.MayWrite);
        Assert.True((await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, open,
            SpaceDraft.Of(house.Now.SpaceById[open]) with { Piece = null }, default))).Ok);
        Assert.Null(await Reader(house, member.Value, open));
        Assert.Equal("Piece", (await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, open,
            SpaceDraft.Of(house.Now.SpaceById[open]) with { Piece = 1 }, default))).Field);
    }

    [Fact]
    public async Task Where_holders_meet_elsewhere_is_an_https_address_and_stays_where_nothing_is_said_of_it()
    {
        await using var house = await House.Open();
        var plan = house.Now.PlanById[house.Now.PriceById[house.Free].PlanId];
        Task<Result<PlanId>> Save(string? link, string? words) => house.Get<App.Offer.SavePlan, Result<PlanId>>(s => s.Do(house.Owner, plan.Id,
            new(plan.Name, plan.Rank, plan.Description, [], GroupLink: link, GroupWords: words), default));
        foreach (var wrong in new[] { "http://rides.example/x", "rides.example", "javascript:alert(1)", "https://" + new string('a', 400) })
            Assert.Equal("GroupLink", (await Save(wrong, "")).Field);
        Assert.Equal("GroupWords", (await Save("https://rides.example/x", new string('a', 201))).Field);
        Assert.True((await Save(" https://rides.example/x ", new string('a', 200))).Ok);
        Assert.Equal("https://rides.example/x", house.Now.PlanById[plan.Id].GroupLink);
        Assert.True((await Save(null, null)).Ok);
        Assert.Equal("https://rides.example/x", house.Now.PlanById[plan.Id].GroupLink);
        Assert.True((await Save("", null)).Ok);
        Assert.Equal(("", ""), (house.Now.PlanById[plan.Id].GroupLink, house.Now.PlanById[plan.Id].GroupWords));
    }

    static Task<Result> Choose(House house, SpaceReader by, long thread, int choice) =>
        house.Get<Choosing, Result>(c => c.Do(by, thread, choice, default));

    [Theory]
    [InlineData("One", false)]
    [InlineData("One\none", false)]
    [InlineData("One\n\n Two ", true)]
    [InlineData("1\n2\n3\n4\n5\n6\n7\n8", true)]
    [InlineData("1\n2\n3\n4\n5\n6\n7\n8\n9", false)]
    [InlineData("", true)]
    public void Two_to_eight_can_be_chosen_from(string typed, bool fits) => Assert.Equal(fits, Choosing.Read(typed).Ok);

    [Fact]
    public async Task Each_chooses_one_and_can_change_it_until_the_thread_is_closed()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, other) = (await Somebody(house, space), await Somebody(house, space));
        var thread = await Begin(house, one, "Tuesday\nSunday");
        var plain = await Begin(house, one);
        Task<ThreadView?> Read(SpaceReader by) => house.Get<ReadTalk, ThreadView?>(r => r.Thread([by], thread, 1, 50, house.Clock.Moment, default));
        Assert.Equal(["Tuesday", "Sunday"], (await Read(one))!.Thread.Choices);
        Assert.False((await Choose(house, one, thread, 2)).Ok);
        Assert.False((await Choose(house, one, thread, -1)).Ok);
        Assert.False((await Choose(house, one, plain, 0)).Ok);
        await Task.WhenAll(Choose(house, one, thread, 0), Choose(house, one, thread, 0), Choose(house, other, thread, 1));
        var seen = (await Read(other))!;
        Assert.Equal((1, 1, 1), (seen.Chosen[0], seen.Chosen[1], seen.OwnChoice!.Value));
        Assert.True((await Choose(house, other, thread, 0)).Ok);
        seen = (await Read(other))!;
        Assert.Equal((2, false, 0), (seen.Chosen[0], seen.Chosen.ContainsKey(1), seen.OwnChoice!.Value));
        var third = await Somebody(house, space);
        Assert.Null((await Read(third))!.OwnChoice);
        // What asks for a choice isn't put into another thread: the choices would be lost.
        Assert.False((await house.Get<KeepTalk, Result<long>>(k => k.Merge(house.Owner, thread, $"{plain}", default))).Ok);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Close(house.Owner, thread, true, default))).Ok);
        Assert.False((await Choose(house, third, thread, 0)).Ok);
    }
}
