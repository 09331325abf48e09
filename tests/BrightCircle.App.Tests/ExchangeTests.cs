using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>What members write to one another: who may ask whom, what the other says, who reads it, and that it can be shut.</summary>
public class ExchangeTests
{
    static Task<Result> Card(House house, SpaceReader of, bool takes = true, bool read = false) => house.Get<SavePersonCard, Result>(s => s.Do(of.Account, true,
        new(true, "", "", false, false, takes, read), null, default));
    static PeopleReader By(House house, SpaceReader of) => PeopleReader.For(house.Now, [of])!;
    static MemberId Id(SpaceReader of) => new(of.Account);
    static Task<Result<long>> Ask(House house, SpaceReader by, SpaceReader to, string body = "Do you have a spare queen?", bool confirmed = true) =>
        house.Get<Exchanges, Result<long>>(e => e.Ask(By(house, by), new(Id(by), confirmed), Id(to), body, default));
    static Task<Result> Write(House house, SpaceReader by, long exchange, string body = "Yes, come on Saturday.") =>
        house.Get<Exchanges, Result>(e => e.Write(By(house, by), new(Id(by), true), exchange, body, default));
    static Task<Result> Agree(House house, SpaceReader by, long exchange, bool yes = true) =>
        house.Get<Exchanges, Result>(e => e.Agree(Id(by), exchange, yes, default));
    static Task<Result> Shut(House house, SpaceReader by, long exchange, bool shut = true) =>
        house.Get<Exchanges, Result>(e => e.Shut(Id(by), exchange, shut, default));
    static Task<ExchangeView?> See(House house, SpaceReader by, long exchange) => house.Get<ReadExchanges, ExchangeView?>(r => r.One(Id(by), exchange,
        default));
    static async Task<IReadOnlyList<ExchangeRow>> List(House house, SpaceReader by, bool byMember = true) =>
        (await house.Get<ReadExchanges, (DialogueView, IReadOnlyList<ExchangeRow> Members)>(r => r.Messages(Id(by), byMember, default))).Members;
    static Task<int> LettersTo(House house, SpaceReader to) =>
        house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.Words && l.MemberId == Id(to)));

    /// <summary>Two who have cards and take words, on a site that lets members write to one another.</summary>
    static async Task<(SpaceReader A, SpaceReader B, SpaceId Space)> Two(House house)
    {
        await house.Do<SavePersonCard>(s => s.Switch(house.Owner, true, default));
        Assert.True((await house.Get<SavePersonCard, Result>(s => s.SwitchWriting(house.Owner, true, default))).Ok);
        var space = await Space(house);
        var (a, b) = (await Somebody(house, space), await Somebody(house, space));
        await Card(house, a);
        await Card(house, b);
        return (a, b, space);
    }

    [Fact]
    public async Task One_asks_the_other_agrees_and_both_write()
    {
        await using var house = await House.Open();
        var (a, b, space) = await Two(house);
        var asked = await Ask(house, a, b);
        Assert.True(asked.Ok, asked.Refusal);
        var id = asked.Value;
        // Asked twice, or by the other too, it is the same one.
        Assert.Equal(id, (await Ask(house, a, b)).Value);
        Assert.Equal(id, (await Ask(house, b, a)).Value);
        Assert.Equal(1, await house.Ask(db => db.ExchangeMessages.CountAsync()));
        // Before a yes neither writes on.
        Assert.Equal("Body", (await Write(house, a, id)).Field);
        Assert.Equal("Body", (await Write(house, b, id)).Field);
        Assert.Equal((ExchangeState.Asked, false), ((await See(house, b, id))!.State, (await See(house, b, id))!.AskedByMe));
        Assert.False((await Agree(house, a, id)).Ok);
        Assert.True((await Agree(house, b, id)).Ok);
        Assert.False((await Agree(house, b, id)).Ok);
        Assert.True((await Write(house, b, id)).Ok);
        Assert.True((await Write(house, a, id, "I bring a cage.")).Ok);
        var seen = (await See(house, b, id))!;
        Assert.Equal((ExchangeState.Open, 3), (seen.State, seen.Count));
        Assert.Equal([Id(a), Id(b), Id(a)], seen.Messages.Select(m => m.MemberId!.Value));
        // Nobody else sees it or writes in it: not another member, and not the team through a member's eyes.
        var c = await Somebody(house, space);
        Assert.Null(await See(house, c, id));
        Assert.False((await Write(house, c, id)).Ok);
        Assert.False((await Agree(house, c, id)).Ok);
        Assert.False((await Shut(house, c, id)).Ok);
        Assert.Single(await List(house, a));
        Assert.Empty(await List(house, a, byMember: false));
        Assert.Empty(await List(house, c));
    }

    [Fact]
    public async Task Who_may_be_asked_and_who_may_ask()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await Somebody(house, space), await Somebody(house, space));
        // Writing needs that members find one another at all.
        Assert.False((await house.Get<SavePersonCard, Result>(s => s.SwitchWriting(house.Owner, true, default))).Ok);
        await house.Do<SavePersonCard>(s => s.Switch(house.Owner, true, default));
        await Card(house, a);
        await Card(house, b, takes: false);
        Assert.False((await Ask(house, a, b)).Ok);
        Assert.True((await house.Get<SavePersonCard, Result>(s => s.SwitchWriting(house.Owner, true, default))).Ok);
        Assert.Equal("They don’t take messages from members.", (await Ask(house, a, b)).Refusal);
        await Card(house, b);
        Assert.Equal("Body", (await Ask(house, a, b, confirmed: false)).Field);
        Assert.Equal("Body", (await Ask(house, a, b, " ")).Field);
        Assert.Equal("Body", (await Ask(house, a, b, new string('x', ExchangeRules.MostAsk + 1))).Field);
        Assert.Equal("That is you.", (await Ask(house, a, a)).Refusal);
        // Whoever asks is seen.
        await house.Get<SavePersonCard, Result>(s => s.Do(a.Account, true, new(false, "", "", false), null, default));
        Assert.StartsWith("Put up a card", (await Ask(house, a, b)).Refusal, StringComparison.Ordinal);
        await Card(house, a);
        // Whoever can't write in spaces can't ask either.
        await house.Get<CareTalk, Result>(c => c.Bar(house.Owner, Id(a), 7, "Selling", default));
        Assert.Contains("Selling", (await Ask(house, a, b)).Refusal, StringComparison.Ordinal);
        await house.Get<CareTalk, Result>(c => c.LetWrite(house.Owner, Id(a), default));
        Assert.True((await Ask(house, a, b, new string('x', ExchangeRules.MostAsk))).Ok);
        // Of the team nobody is asked here: there is the inbox.
        await house.Get<SavePersonCard, Result>(s => s.Do(house.Owner.AccountId, true, new(true, "", "", false, false, true), null, default));
        Assert.False((await house.Get<Exchanges, Result<long>>(e => e.Ask(By(house, a), new(Id(a), true), new(house.Owner.AccountId), "Hello", default))).Ok);
        Assert.False(PeopleReader.For(house.Now, [await Team(house, space)])!.MayWriteToOthers);
        Assert.False(PeopleReader.For(house.Now, [await Of(house, a.Account, space, looking: true)])!.MayWriteToOthers);
    }

    [Fact]
    public async Task So_many_are_asked_in_a_day_and_no_more()
    {
        await using var house = await House.Open();
        var (a, _, space) = await Two(house);
        for (var i = 0; i < ExchangeRules.MostAsksADay; i++)
        {
            var other = await Somebody(house, space);
            await Card(house, other);
            Assert.True((await Ask(house, a, other)).Ok);
        }
        var last = await Somebody(house, space);
        await Card(house, last);
        Assert.Equal("Body", (await Ask(house, a, last)).Field);
        await house.To(house.Clock.Moment + Duration.FromDays(1) - Duration.FromSeconds(1));
        Assert.False((await Ask(house, a, last)).Ok);
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        Assert.True((await Ask(house, a, last)).Ok);
    }

    [Fact]
    public async Task A_no_stays_with_whoever_said_it_and_shut_is_shut()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b)).Value;
        Assert.True((await Agree(house, b, id, yes: false)).Ok);
        Assert.Equal(ExchangeState.Asked, (await See(house, a, id))!.State);
        Assert.Equal((ExchangeState.Shut, true), ((await See(house, b, id))!.State, (await See(house, b, id))!.ShutByMe));
        Assert.Equal("You have asked; they haven’t answered yet.", (await Write(house, a, id)).Refusal);
        Assert.False((await Agree(house, b, id)).Ok);
        // Thought better of it.
        Assert.True((await Shut(house, b, id, false)).Ok);
        Assert.True((await Agree(house, b, id)).Ok);
        Assert.True((await Write(house, a, id)).Ok);
        Assert.True((await Shut(house, a, id)).Ok);
        Assert.StartsWith("You shut this", (await Write(house, a, id)).Refusal, StringComparison.Ordinal);
        Assert.StartsWith("They don’t take", (await Write(house, b, id)).Refusal, StringComparison.Ordinal);
        Assert.False((await List(house, a))[0].IsNew);
        Assert.True((await Shut(house, a, id, false)).Ok);
        Assert.True((await Write(house, b, id)).Ok);
        // Once the owner lets nobody write any more, what was written stays to be read.
        await house.Get<SavePersonCard, Result>(s => s.SwitchWriting(house.Owner, false, default));
        Assert.False((await Write(house, b, id)).Ok);
        Assert.Equal(3, (await See(house, a, id))!.Count);
    }

    [Fact]
    public async Task A_letter_says_that_somebody_wrote_once_until_it_is_read_and_nothing_of_what()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        Assert.False(await Unread(house, b));
        var id = (await Ask(house, a, b)).Value;
        Assert.True(await Unread(house, b));
        Assert.False(await Unread(house, a));
        await house.To(house.Clock.Moment + ExchangeRules.TellAfter - Duration.FromSeconds(1));
        Assert.Equal(0, await LettersTo(house, b));
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        Assert.Equal(1, await LettersTo(house, b));
        await house.Deliver();
        var letter = await House.Letter((await house.Member(Id(b))).Email, "asks to write to you");
        Assert.DoesNotContain("spare queen", letter.GetProperty("html").GetString(), StringComparison.Ordinal);
        Assert.Contains($"/me/messages/{id}", letter.GetProperty("html").GetString(), StringComparison.Ordinal);
        await See(house, b, id);
        Assert.False(await Unread(house, b));
        await Agree(house, b, id);
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        for (var i = 0; i < 3; i++) await Write(house, a, id, $"More {i}");
        await house.To(house.Clock.Moment + ExchangeRules.TellAfter);
        Assert.Equal(2, await LettersTo(house, b));
        // As long as they don't come, there is no second one.
        await Write(house, a, id, "And more");
        await house.To(house.Clock.Moment + ExchangeRules.TellAfter);
        Assert.Equal(2, await LettersTo(house, b));
        // Read within those minutes, none is written; nor to whoever shut it, nor to whoever wants no such letters.
        await See(house, b, id);
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        await Write(house, a, id);
        await See(house, b, id);
        await house.To(house.Clock.Moment + ExchangeRules.TellAfter);
        Assert.Equal(2, await LettersTo(house, b));
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        await Write(house, a, id);
        await house.Get<OwnSettings, bool>(async s => { await s.SetWantsTalk(Id(b), false, default); return true; });
        await house.To(house.Clock.Moment + ExchangeRules.TellAfter);
        Assert.Equal(2, await LettersTo(house, b));
    }

    static async Task<bool> Unread(House house, SpaceReader of) =>
        (await house.Get<MemberReader, HomeFacts>(r => r.Home(Id(of), false, house.Clock.Moment, default))).Unread;

    [Fact]
    public async Task Whether_it_was_read_shows_only_of_those_who_let_it()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b)).Value;
        await See(house, b, id);
        Assert.Null((await See(house, a, id))!.ReadAt);
        await Card(house, b, read: true);
        Assert.Equal(house.Clock.Moment, (await See(house, a, id))!.ReadAt);
    }

    [Fact]
    public async Task What_is_reported_comes_into_the_inbox_and_nothing_else_does()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b, "Buy my **honey**")).Value;
        var message = (await See(house, b, id))!.Messages[0].Id;
        Task<Result> Report(SpaceReader by, long of, string why) => house.Get<Exchanges, Result>(e => e.Report(new(Id(by), true), id, of, why, default));
        Assert.Equal("Why", (await Report(b, message, " ")).Field);
        Assert.Equal("Why", (await Report(b, message, new string('x', TalkReport.MostWhy + 1))).Field);
        // One's own isn't reported, nor what isn't there.
        Assert.False((await Report(a, message, "Selling")).Ok);
        Assert.False((await Report(b, message + 1, "Selling")).Ok);
        Assert.True((await Report(b, message, "They sell to everybody.")).Ok);
        var (_, view, _) = (await house.Get<Correspond, (Core.Members.Member, DialogueView, IReadOnlyList<SavedAnswer>)?>(
            c => c.ForTeam(house.Owner, Id(b), default)))!.Value;
        var said = Assert.Single(view.Messages).Body;
        Assert.Contains("Buy my honey", said, StringComparison.Ordinal);
        Assert.Contains("They sell to everybody.", said, StringComparison.Ordinal);
        Assert.Contains("<blockquote>", said, StringComparison.Ordinal);
    }

    static async Task<long> Picture(House house, Uploader by, int wide = 30, string name = "frame.png") => (await house.Get<TalkPictures,
        Result<IReadOnlyList<long>>>(t => t.Take(by, null, [new(name, 1, () => new MemoryStream(FileTests.Png(wide, 4)))], default))).Value![0];
    static async Task<bool> IsKept(House house, string address)
    {
        await using var stream = await house.Services.GetRequiredService<IFileStore>().Open(address, default);
        return stream is not null;
    }

    [Fact]
    public async Task Pictures_go_with_messages_and_a_report_shows_them_to_the_team()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b)).Value;
        Task<Result> Send(SpaceReader by, string body, params long[] those) => house.Get<Exchanges, Result>(e => e.Write(By(house, by), new(Id(by), true), id,
            body, default, new(those, "A frame of brood")));
        var mine = await Picture(house, a);
        // Before a yes they stand nowhere.
        Assert.False((await Send(a, "", mine)).Ok);
        Assert.NotNull(await house.Get<Exchanges, Result?>(e => e.Refused(new(Id(a), true), id, default)));
        Assert.True((await Agree(house, b, id)).Ok);
        Assert.Null(await house.Get<Exchanges, Result?>(e => e.Refused(new(Id(a), true), id, default)));
        Assert.NotNull(await house.Get<Exchanges, Result?>(e => e.Refused(new(Id(a), false), id, default)));
        Assert.Equal("Body", (await Send(a, " ")).Field);
        Assert.Equal("Pictures", (await Send(a, "Many", [.. Enumerable.Range(1, TalkPicture.Most + 1)])).Field);
        Assert.True((await Send(a, "", mine)).Ok);
        Assert.Equal("A picture or a file", (await List(house, b))[0].LastWords);
        // Neither somebody else’s nor one that stands somewhere goes along with another.
        var theirs = await Picture(house, b, 31);
        Assert.True((await Send(a, "Once more", mine, theirs)).Ok);
        var view = (await See(house, b, id))!;
        var (shows, words) = (view.Messages[1].Id, view.Messages[2].Id);
        var shown = Assert.Single(view.Pictures[shows]);
        Assert.Equal((mine, "A frame of brood"), (shown.Id, shown.Alt));
        Assert.Empty(view.Pictures[words]);
        // What stands in a message isn't forgotten; what stands nowhere is.
        await house.To(house.Clock.Moment + TalkPicture.WaitsFor + Duration.FromMinutes(1));
        Assert.True(await IsKept(house, shown.Address));
        Assert.False(await house.Ask(db => db.TalkPictures.AnyAsync(p => p.Id == theirs)));

        Assert.True((await house.Get<Exchanges, Result>(e => e.Report(new(Id(b), true), id, shows, "Not what I asked for", default))).Ok);
        var (_, inbox, _) = (await house.Get<Correspond, (Core.Members.Member, DialogueView, IReadOnlyList<SavedAnswer>)?>(
            c => c.ForTeam(house.Owner, Id(b), default)))!.Value;
        Assert.Contains("A picture or a file", Assert.Single(inbox.Messages).Body, StringComparison.Ordinal);
        Assert.Equal((shown.Address, shown.Alt), Assert.Single(inbox.Pictures[inbox.Messages[0].Id]) is var copy ? (copy.Address, copy.Alt) : default);
        await house.To(house.Clock.Moment + TalkPicture.WaitsFor + Duration.FromMinutes(1));
        Assert.Single(await house.Ask(db => db.TalkPictures.Where(p => p.MessageId != null).ToListAsync()));
    }

    [Fact]
    public async Task With_whoever_is_deleted_their_pictures_go_from_messages_too()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b)).Value;
        Assert.True((await Agree(house, b, id)).Ok);
        var (theirs, kept, toTeam, byTeam) = (await Picture(house, a, 41), await Picture(house, b, 42), await Picture(house, a, 43),
            await Picture(house, new Uploader(house.Owner.AccountId, true), 44));
        foreach (var (by, those) in new[] { (a, theirs), (b, kept) })
            Assert.True((await house.Get<Exchanges, Result>(e => e.Write(By(house, by), new(Id(by), true), id, "Look", default, new([those], null)))).Ok);
        Assert.True((await house.Get<Correspond, Result>(c => c.Write(Id(a), true, "", default, shown: new([toTeam], "The label")))).Ok);
        Assert.True((await house.Get<Correspond, Result>(c => c.Answer(house.Owner, Id(a), "", true, default, new([byTeam], null)))).Ok);
        var dialogue = await house.Get<Correspond, DialogueView>(c => c.View(Id(a), false, default));
        Assert.Equal([toTeam, byTeam], dialogue.Messages.Select(m => dialogue.Pictures[m.Id].Single().Id));
        await house.Deliver();
        var letter = await House.Letter((await house.Member(Id(a))).Email, $"{house.Owner.Name} wrote to you");
        Assert.Contains("A picture or a file", await House.Raw(letter.GetProperty("id").GetInt64()), StringComparison.Ordinal);
        var before = await house.Ask(db => db.TalkPictures.ToDictionaryAsync(p => p.Id, p => p.Address));

        foreach (var h in await house.Holdings(Id(a)))
            Assert.True((await house.Get<App.Billing.EndPlan, Result>(e => e.Do(house.Owner, Id(a), h.Id, default))).Ok);
        var email = (await house.Member(Id(a))).Email;
        var gone = await house.Get<ForgetMember, Result>(f => f.Do(house.Owner, Id(a), email, default));
        Assert.True(gone.Ok, gone.Refusal);
        await house.To(house.Clock.Moment + Duration.FromMinutes(1));
        Assert.Equal([kept], await house.Ask(db => db.TalkPictures.Select(p => p.Id).ToListAsync()));
        foreach (var (picture, address) in before) Assert.Equal(picture == kept, await IsKept(house, address));
        var left = (await See(house, b, id))!;
        Assert.Equal([kept], left.Messages.SelectMany(m => left.Pictures[m.Id]).Select(p => p.Id));
    }

    [Fact]
    public async Task Two_who_ask_one_another_at_once_have_one_exchange()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var both = await Task.WhenAll(Ask(house, a, b), Ask(house, b, a), Ask(house, a, b));
        Assert.Single(both.Select(r => r.Value).Distinct());
        Assert.Equal(1, await house.Ask(db => db.Exchanges.CountAsync()));
        Assert.Equal(2, await house.Ask(db => db.ExchangePeople.CountAsync()));
    }

    [Fact]
    public async Task Whoever_is_deleted_leaves_the_others_words_and_none_of_their_own()
    {
        await using var house = await House.Open();
        var (a, b, _) = await Two(house);
        var id = (await Ask(house, a, b)).Value;
        await Agree(house, b, id);
        await Write(house, b, id);
        foreach (var h in await house.Holdings(Id(a)))
            Assert.True((await house.Get<App.Billing.EndPlan, Result>(e => e.Do(house.Owner, Id(a), h.Id, default))).Ok);
        var email = (await house.Member(Id(a))).Email;
        var gone = await house.Get<ForgetMember, Result>(f => f.Do(house.Owner, Id(a), email, default));
        Assert.True(gone.Ok, gone.Refusal);
        var seen = (await See(house, b, id))!;
        Assert.Equal(["", "<p>Yes, come on Saturday.</p>"], seen.Messages.Select(m => m.Body));
        Assert.Null(seen.Messages[0].MemberId);
        Assert.Equal((ExchangeState.Shut, (long?)null), (seen.State, seen.With));
    }
}
