using BrightCircle.App.Community;
using BrightCircle.App.Insight;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>What in the talk wants somebody of the team: threads nobody has answered, people nobody has greeted, members who have gone quiet.</summary>
public class TalkWantsTests
{
    static async Task<long> Begin(House house, SpaceReader by, string title = "Wasps") =>
        (await house.Get<Talk, Result<Said>>(t => t.Begin(by, title, "A stream of them.", default))).Value!.Id;
    static async Task<long> Answer(House house, SpaceReader by, long thread) =>
        (await house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, null, "Look below.", default))).Value!.Id;
    static Task<ToCareFor> Look(House house) => house.Get<CareTalk, ToCareFor>(x => x.Look(house.Owner, false, 1, 20, default));
    static async Task<long[]> Waiting(House house) => [.. (await Look(house)).Unanswered.Select(u => u.Thread)];
    static async Task<bool> IsNeed(House house) => (await house.Get<TodayQuery, TodayView>(t => t.Load(house.Owner, house.Clock.Moment, default))).Needs
        .Any(n => n.Link == "/desk/talk#unanswered");

    [Fact]
    public async Task A_thread_waits_from_a_day_after_it_began_until_a_month_after()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        var thread = await Begin(house, one);
        var began = house.Clock.Moment;
        foreach (var (after, waits) in new[] { (TalkRules.After - Duration.FromSeconds(1), false), (TalkRules.After, true), (TalkRules.Back, true),
            (TalkRules.Back + Duration.FromSeconds(1), false) })
        {
            house.Clock.StandAt(began + after);
            Assert.Equal(waits ? [thread] : [], await Waiting(house));
            Assert.Equal(waits, await IsNeed(house));
        }
        house.Clock.StandAt(began + TalkRules.After);
        var shown = Assert.Single((await Look(house)).Unanswered);
        Assert.Equal(("Wasps", space.Value, false, one.Name), (shown.Title, shown.Space, shown.IsGreeting, shown.Name));
        Assert.Empty((await house.Get<CareTalk, ToCareFor>(x => x.Look(house.Owner, true, 1, 20, default))).Unanswered);
    }

    [Fact]
    public async Task Only_what_somebody_else_said_and_still_stands_is_an_answer_and_an_agreeing_word_is_a_greeting()
    {
        await using var house = await House.Open();
        var (space, hello) = (await Space(house), await Space(house, "Hello", SpaceKind.Introductions));
        var (one, two, host) = (await Somebody(house, space), await Somebody(house, space), await Team(house, space));
        var (newcomer, greeter) = (await Of(house, one.Account, hello), await Of(house, two.Account, hello));
        var (own, answered, taken, byTeam, closed, hidden, gone) = (await Begin(house, one, "Own"), await Begin(house, one, "Answered"), await Begin(house, one,
            "Taken"), await Begin(house, host, "Team"), await Begin(house, one, "Closed"), await Begin(house, one, "Hidden"), await Begin(house, two, "Gone"));
        var (greeted, alone) = (await Begin(house, newcomer, "Here I am"), await Begin(house, greeter, "Me too"));
        await Answer(house, one, own);
        await Answer(house, host, answered);
        var away = await Answer(house, two, taken);
        await house.Get<Talk, Result>(t => t.TakeAway(two, away, default));
        await house.Get<KeepTalk, Result>(k => k.Close(house.Owner, closed, true, default));
        await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, hidden, true, default));
        async Task<long> First(long thread) =>
            await house.Ask(db => db.TalkPosts.Where(p => p.ThreadId == thread && p.IsFirst).Select(p => p.Id).SingleAsync());
        var goneFirst = await First(gone);
        await house.Get<Talk, Result>(t => t.TakeAway(two, goneFirst, default));
        var (ownFirst, greetedFirst) = (await First(own), await First(greeted));
        Assert.True((await house.Get<Talk, Result>(t => t.Nod(two, ownFirst, 0, default))).Ok);
        Assert.True((await house.Get<Talk, Result>(t => t.Nod(greeter, greetedFirst, 0, default))).Ok);
        house.Clock.StandAt(house.Clock.Moment + TalkRules.After);
        Assert.Equal([own, taken, alone], (await Waiting(house)).Order());
        Assert.Equal([alone], (await Look(house)).Unanswered.Where(u => u.IsGreeting).Select(u => u.Thread));
        // Where nothing is written any more nothing waits.
        await house.Get<SaveSpace, Result>(s => s.Close(house.Owner, space, true, default));
        Assert.Equal([alone], await Waiting(house));
    }

    [Fact]
    public async Task The_owner_who_wants_it_is_written_to_in_the_morning_where_something_waits()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        await Begin(house, one);
        Task<int> Letters() => house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.OwnerNews && l.Key!.Contains("-talk-")));
        Instant Morning(int days) => house.Now.Calendar.At(house.Now.Calendar.Date(house.Clock.Moment).PlusDays(days).At(new LocalTime(8, 0)));
        await house.To(Morning(2));
        Assert.Equal(0, await Letters());
        Assert.True((await house.Get<CareTalk, Result>(c => c.Write(house.Owner, true, default))).Ok);
        // What is set for money stays, both ways.
        Assert.True((await house.Get<MoneySettings, Result>(m => m.Save(house.Owner, m.AsSet with { Failure = OwnerLetterWhen.AtOnce }, default))).Ok);
        Assert.Equal((true, OwnerLetterWhen.AtOnce), (house.Now.Site!.OwnerLetters.Talk, house.Now.Site.OwnerLetters.Failure));
        await house.To(Morning(1));
        Assert.Equal(1, await Letters());
        await house.To(Morning(1));
        Assert.Equal(2, await Letters());
        var letter = await house.Ask(db => db.Letters.OrderBy(l => l.Id).LastAsync(l => l.Key!.Contains("-talk-")));
        Assert.Contains("“Wasps”", letter.Fields["lines"]);
        Assert.Equal("/desk/talk#unanswered", letter.Fields["desk_path"]);
        await Answer(house, await Team(house, space), await house.Ask(db => db.TalkThreads.Select(t => t.Id).SingleAsync()));
        await house.To(Morning(1));
        Assert.Equal(2, await Letters());
        await Begin(house, one, "Frost");
        Assert.True((await house.Get<CareTalk, Result>(c => c.Write(house.Owner, false, default))).Ok);
        await house.To(Morning(2));
        Assert.Equal(2, await Letters());
    }

    [Fact]
    public async Task Whoever_wrote_often_and_not_for_a_month_has_gone_quiet()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, few, host) = (await Somebody(house, space), await Somebody(house, space), await Team(house, space));
        var began = house.Clock.Moment;
        var thread = await Begin(house, one);
        for (var n = 1; n < TalkRules.Usual; n++) await Answer(house, one, thread);
        for (var n = 1; n < TalkRules.Usual; n++) await Answer(house, few, thread);
        for (var n = 0; n < TalkRules.Usual; n++) await Answer(house, host, thread);
        async Task<IReadOnlyList<GoneQuiet>> Quiet() => (await Look(house)).Quiet;
        house.Clock.StandAt(began + TalkRules.Quiet - Duration.FromSeconds(1));
        Assert.Empty(await Quiet());
        house.Clock.StandAt(began + TalkRules.Quiet);
        var quiet = Assert.Single(await Quiet());
        Assert.Equal((one.Account, one.Name, TalkRules.Usual, began), (quiet.Member, quiet.Name, quiet.Posts, quiet.Last));
        house.Clock.StandAt(began + TalkRules.Quiet + TalkRules.Before - Duration.FromSeconds(1));
        Assert.Single(await Quiet());
        house.Clock.StandAt(began + TalkRules.Quiet + TalkRules.Before);
        Assert.Empty(await Quiet());
        house.Clock.StandAt(began + TalkRules.Quiet);
        // Whoever isn't a member any more isn't waited for.
        await house.Ask(db => db.Members.Where(m => m.Id == new MemberId(one.Account))
            .ExecuteUpdateAsync(u => u.SetProperty(m => m.Standing, Standing.Lapsed)));
        Assert.Empty(await Quiet());
    }
}
