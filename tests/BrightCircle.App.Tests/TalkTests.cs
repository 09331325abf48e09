using BrightCircle.App.Community;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>Spaces and what is said in them: to whom they are open, who may do what, and what is new to whom.</summary>
public class TalkTests
{
    static Task<SpaceId> Made(House house, string name = "The bench", bool forGuests = false, SpaceKind kind = SpaceKind.Talk) =>
        Space(house, name, kind, forGuests);

    static Task<SpaceReader> Owner(House house, SpaceId space) => Team(house, space);
    static Task<Result<long>> Begin(House house, SpaceReader by, string title = "Wasps", string body = "A stream of them.") =>
        House.Number(house.Get<Talk, Result<Said>>(t => t.Begin(by, title, body, default)));
    static Task<Result<long>> Answer(House house, SpaceReader by, long thread, string body = "Look below.", long? answers = null) =>
        House.Number(house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, answers, body, default)));
    static Task<ThreadView?> Read(House house, SpaceReader by, long thread, int page = 1, int size = 50) =>
        house.Get<ReadTalk, ThreadView?>(r => r.Thread([by], thread, page, size, house.Clock.Moment, default));
    static Task<SpaceView> List(House house, SpaceReader by) => house.Get<ReadTalk, SpaceView>(r => r.Space(by, 1, 30, house.Clock.Moment, default));

    static async Task<IReadOnlyList<SpaceSeenFromOutside>> Outside(House house, SpaceReader by) =>
        (await house.Get<ReadTalk, (IReadOnlyList<SpaceSeenFromOutside> Spaces, IReadOnlyList<Begun>)>(r => r.Spaces([by], default))).Spaces;

    [Fact]
    public async Task A_space_is_open_to_whoever_is_promised_it_and_to_nobody_else()
    {
        await using var house = await House.Open();
        var (bench, gate) = (await Made(house), await Made(house, "The gate", forGuests: true));
        var member = await house.JoinProved();
        Assert.Null(await Reader(house, member.Value, bench));
        Assert.NotNull(await Reader(house, member.Value, gate));
        var plan = house.Now.PlanById[house.Now.PriceById[house.Free].PlanId];
        Assert.True((await house.Get<SavePromise, Result<int>>(s => s.Do(house.Owner, plan.Id,
            new([.. plan.Promise, new(new Coverage.OneSpace(bench), new Reach.EverythingReleased(), new Keep.Nothing())], plan.PaceOf, plan.PromiseNumber),
                default))).Ok);
        // Whoever joined before lives by the promise they were given.
        Assert.Null(await Reader(house, member.Value, bench));
        var later = await house.JoinProved();
        Assert.True((await Of(house, later, bench)).MayBegin);
        // Nobody takes away what is promised, nor what was talked in.
        Assert.False((await house.Get<SaveSpace, Result>(s => s.Remove(house.Owner, bench, default))).Ok);
        Assert.True((await Begin(house, await Of(house, later, gate))).Ok);
        Assert.False((await house.Get<SaveSpace, Result>(s => s.Remove(house.Owner, gate, default))).Ok);
        // A name is given once, whatever its letters.
        Assert.Equal("Name", (await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, null, SpaceDraft.Empty with { Name = "the BENCH" },
            default))).Field);
        // Closed it can be read.
        Assert.True((await house.Get<SaveSpace, Result>(s => s.Close(house.Owner, gate, true, default))).Ok);
        var closed = await Of(house, later, gate);
        Assert.Equal((false, false), (closed.MayWrite, closed.MayBegin));
        Assert.False((await Begin(house, closed)).Ok);
    }

    [Fact]
    public async Task What_is_said_stands_in_order_with_what_answers_it_one_level_deep()
    {
        await using var house = await House.Open();
        var gate = await Made(house, forGuests: true);
        var (one, two) = (await Of(house, await house.JoinProved(), gate), await Of(house, await house.JoinProved(), gate));
        Assert.Equal("Title", (await Begin(house, one, " ")).Field);
        Assert.Equal("Body", (await Begin(house, one, body: " \n ")).Field);
        var thread = (await Begin(house, one, body: "First line\nsecond *line*\n\n- a\n- b\n\n<script>alert(1)</script>"
            + "<img src=x onerror=y> ![p](https://else.example/x.png)")).Value;
        var first = (await Read(house, one, thread))!.Posts[0].Post;
        Assert.Contains("First line<br", first.Body, StringComparison.Ordinal);
        Assert.Contains("<em>line</em>", first.Body, StringComparison.Ordinal);
        Assert.Contains("<li>a</li>", first.Body, StringComparison.Ordinal);
        Assert.DoesNotContain("script", first.Body, StringComparison.Ordinal);
        Assert.DoesNotContain("<img", first.Body, StringComparison.Ordinal);
        // To be changed it is as it was written.
        Assert.StartsWith("First line\nsecond *line*", Talk.Written(first), StringComparison.Ordinal);

        var a = (await Answer(house, two, thread)).Value;
        var b = (await Answer(house, two, thread, "Or above.")).Value;
        // What is said to the beginning is said to all; an answer to an answer stands beside it.
        var c = (await Answer(house, one, thread, "Where below?", a)).Value;
        var d = (await Answer(house, two, thread, "Under the floor.", c)).Value;
        await Answer(house, two, thread, "To you all.", first.Id);
        var view = (await Read(house, one, thread))!;
        Assert.Equal([first.Id, a, c, d, b], view.Posts.Take(5).Select(p => p.Post.Id));
        Assert.Equal([a, a], view.Posts.Where(p => p.Post.AnswersId is not null).Select(p => p.Post.AnswersId!.Value));
        Assert.Equal((6, 5), (view.Count, view.Thread.Answers));
        // Page by page it is the same.
        Assert.Equal(view.Posts.Select(p => p.Post.Id), [.. (await Read(house, one, thread, 1, 4))!.Posts.Concat((await Read(house, one, thread, 2, 4))!.Posts)
            .Select(p => p.Post.Id)]);
        foreach (var (p, place) in view.Posts.Select((p, n) => (p.Post.Id, n)))
            Assert.Equal(place, await house.Get<ReadTalk, int>(r => r.Before(p, default)));
        Assert.False((await Answer(house, two, thread, answers: -3)).Ok);
        Assert.False((await Answer(house, two, thread + 1)).Ok);
    }

    [Fact]
    public async Task Only_ones_own_words_are_changed_or_taken_away_and_the_place_stays()
    {
        await using var house = await House.Open();
        var gate = await Made(house, forGuests: true);
        var (one, two) = (await Of(house, await house.JoinProved(), gate), await Of(house, await house.JoinProved(), gate));
        var thread = (await Begin(house, one)).Value;
        var post = (await Answer(house, two, thread)).Value;
        Assert.False((await house.Get<Talk, Result>(t => t.Edit(one, post, "Mine now", default))).Ok);
        Assert.False((await house.Get<Talk, Result>(t => t.TakeAway(one, post, default))).Ok);
        Assert.True((await house.Get<Talk, Result>(t => t.Edit(two, post, "Look below.", default))).Ok);
        Assert.Null((await Read(house, one, thread))!.Posts[1].Post.EditedAt);
        await house.To(house.Clock.Moment + Duration.FromMinutes(31));
        Assert.True((await house.Get<Talk, Result>(t => t.Edit(two, post, "Look *above*.", default))).Ok);
        Assert.NotNull((await Read(house, one, thread))!.Posts[1].Post.EditedAt);
        // The team takes words away and puts them back; what somebody took away themselves stays so.
        Assert.True((await house.Get<KeepTalk, Result>(k => k.HidePost(house.Owner, post, true, default))).Ok);
        Assert.False((await house.Get<Talk, Result>(t => t.Edit(two, post, "Again", default))).Ok);
        Assert.False((await Answer(house, one, thread, answers: post)).Ok);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.HidePost(house.Owner, post, false, default))).Ok);
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(two, post, default))).Ok);
        Assert.Equal(("", true), ((await Read(house, one, thread))!.Posts[1].Post.Body, (await Read(house, one, thread))!.Posts[1].Post.GoneAt is not null));
        Assert.False((await house.Get<KeepTalk, Result>(k => k.HidePost(house.Owner, post, false, default))).Ok);
    }

    [Fact]
    public async Task A_word_of_agreement_is_said_once_by_others_and_taken_back()
    {
        await using var house = await House.Open();
        var (gate, other) = (await Made(house, forGuests: true), await Made(house, "Elsewhere", forGuests: true));
        var (m1, m2) = (await house.JoinProved(), await house.JoinProved());
        var (one, two) = (await Of(house, m1, gate), await Of(house, m2, gate));
        var thread = (await Begin(house, one)).Value;
        var post = (await Read(house, one, thread))!.Posts[0].Post.Id;
        Task<Result> Nod(SpaceReader by, int word) => house.Get<Talk, Result>(t => t.Nod(by, post, word, default));
        Assert.False((await Nod(one, 0)).Ok);
        Assert.False((await Nod(two, 3)).Ok);
        Assert.False((await Nod(two, -1)).Ok);
        Assert.False((await Nod(await Of(house, m2, other), 0)).Ok);
        Assert.True((await Nod(two, 2)).Ok);
        await Task.WhenAll(Nod(await Owner(house, gate), 2), Nod(await Owner(house, gate), 0));
        var seen = (await Read(house, two, thread))!.Posts[0];
        Assert.Equal((2, 1, true, false), (seen.Nods[2], seen.Nods[0], seen.Own.Contains(2), seen.Own.Contains(0)));
        Assert.True((await Nod(two, 2)).Ok);
        Assert.Equal(1, (await Read(house, two, thread))!.Posts[0].Nods[2]);
    }

    [Fact]
    public async Task What_is_new_is_new_to_each_since_they_were_there_and_looking_keeps_nothing()
    {
        await using var house = await House.Open();
        var gate = await Made(house, forGuests: true);
        var (m1, m2) = (await house.JoinProved(), await house.JoinProved());
        var (one, two) = (await Of(house, m1, gate), await Of(house, m2, gate));
        var thread = (await Begin(house, one)).Value;
        // The first time nothing is new: all of it is.
        Assert.Null((await List(house, two)).Before);
        Assert.Equal(0, (await Read(house, two, thread))!.SeenTo);
        var first = house.Clock.Moment;
        house.Clock.StandAt(first + Duration.FromHours(2));
        var answer = (await Answer(house, one, thread)).Value;
        var outside = Assert.Single(await Outside(house, two));
        Assert.Equal((1, "Wasps", thread), (outside.News, outside.LastTitle, outside.LastThread));
        // Through somebody's eyes, twice: nothing is kept of it.
        var looking = (await Reader(house, m2.Value, gate, looking: true))!;
        Assert.False(looking.MayWrite);
        await List(house, looking);
        await Read(house, looking, thread);
        var back = await List(house, two);
        Assert.Equal(first.ToUnixTimeSeconds(), back.Before!.Value.ToUnixTimeSeconds());
        Assert.True(back.Threads[0].LastAt > back.Before);
        var view = (await Read(house, two, thread))!;
        Assert.Equal(answer, Assert.Single(view.Posts, p => p.Post.Id > view.SeenTo).Post.Id);
        Assert.Equal(answer, (await Read(house, two, thread))!.SeenTo);
        Assert.Equal(0, Assert.Single(await Outside(house, two)).News);
        // Within half an hour it is the same visit.
        house.Clock.StandAt(first + Duration.FromHours(2) + Duration.FromMinutes(29));
        Assert.Equal(back.Before, (await List(house, two)).Before);
    }

    [Fact]
    public async Task Nothing_of_a_space_is_found_by_whom_it_isnt_open_to_and_what_the_team_took_away_by_nobody_else()
    {
        await using var house = await House.Open();
        var (bench, gate) = (await Made(house), await Made(house, "The gate", forGuests: true));
        var member = await house.JoinProved();
        var owner = await Owner(house, bench);
        var thread = (await Begin(house, owner, "Among us")).Value;
        var at = await Of(house, member, gate);
        Assert.Null(await Read(house, at, thread));
        Assert.False((await Answer(house, at, thread)).Ok);
        Assert.Equal(0, await house.Ask(db => db.TalkSeen.CountAsync(s => s.AccountId == member.Value)));
        var open = (await Begin(house, at, "Hello")).Value;
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, open, true, default))).Ok);
        Assert.Null(await Read(house, at, open));
        Assert.False((await Answer(house, at, open)).Ok);
        Assert.Equal((0, 0), ((await List(house, at)).Count, (await List(house, at)).Threads.Count));
        var team = await Owner(house, gate);
        Assert.NotNull(await Read(house, team, open));
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, open, false, default))).Ok);
        Assert.NotNull(await Read(house, at, open));
        // Closed, only the team answers.
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Close(house.Owner, open, true, default))).Ok);
        Assert.False((await Answer(house, at, open)).Ok);
        Assert.True((await Answer(house, team, open)).Ok);
    }

    [Fact]
    public async Task An_unproved_address_and_a_flood_are_turned_away_and_two_at_once_are_both_counted()
    {
        await using var house = await House.Open();
        var gate = await Made(house, forGuests: true);
        var unproved = await house.Join(house.Free);
        Assert.Equal("Body", (await Begin(house, await Of(house, unproved, gate))).Field);
        var (m1, m2) = (await house.JoinProved(), await house.JoinProved());
        var (one, two) = (await Of(house, m1, gate), await Of(house, m2, gate));
        var thread = (await Begin(house, one)).Value;
        await Task.WhenAll(Enumerable.Range(0, 8).Select(i => Answer(house, i % 2 == 0 ? one : two, thread)));
        Assert.Equal(8, (await Read(house, one, thread))!.Thread.Answers);
        for (var i = await house.Ask(db => db.TalkPosts.CountAsync(p => p.AccountId == m1.Value)); i < Talk.MostAnHour; i++) Assert.True((await Answer(house,
            one, thread)).Ok);
        Assert.False((await Answer(house, one, thread)).Ok);
        Assert.True((await Answer(house, two, thread)).Ok);
        house.Clock.StandAt(house.Clock.Moment + Duration.FromMinutes(61));
        Assert.True((await Answer(house, one, thread)).Ok);
    }

    [Fact]
    public async Task The_team_announces_and_others_answer_and_an_answer_is_marked_as_the_one_that_helped()
    {
        await using var house = await House.Open();
        var (news, asks) = (await Made(house, "News", true, SpaceKind.Announcements), await Made(house, "Questions", true, SpaceKind.Questions));
        var member = await house.JoinProved();
        Assert.False((await Begin(house, await Of(house, member, news))).Ok);
        var thread = (await Begin(house, await Owner(house, news))).Value;
        Assert.True((await Answer(house, await Of(house, member, news), thread)).Ok);
        var question = (await Begin(house, await Of(house, member, asks))).Value;
        var first = (await Read(house, await Of(house, member, asks), question))!.Posts[0].Post.Id;
        var answer = (await Answer(house, await Owner(house, asks), question)).Value;
        Assert.False((await house.Get<KeepTalk, Result>(k => k.Helped(house.Owner, question, first, default))).Ok);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Helped(house.Owner, question, answer, default))).Ok);
        Assert.Equal(answer, (await Read(house, await Of(house, member, asks), question))!.Thread.HelpedId);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Pin(house.Owner, question, true, default))).Ok);
        await Begin(house, await Of(house, member, asks), "Later");
        Assert.Equal(question, (await List(house, await Of(house, member, asks))).Threads[0].Id);
    }
}
