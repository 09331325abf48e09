using BrightCircle.App.Community;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>What somebody began to write is there when they come back, until it is sent or thrown away; and nobody else sees it.</summary>
public class TalkDraftTests
{
    static Task<Result> Keep(House house, SpaceReader by, long? thread, string? body, string? title = null, long? answers = null, Instant? since = null,
        string? choices = null) =>
        house.Get<DraftTalk, Result>(d => d.Keep(by, thread, title, body, answers, since ?? house.Clock.Moment, default, choices));
    static Task<TalkDraft?> Kept(House house, SpaceReader by, long place) => house.Get<DraftTalk, TalkDraft?>(d => d.Of(by, place, default));
    static async Task<long> Begin(House house, SpaceReader by, string title = "Wasps") =>
        (await house.Get<Talk, Result<Said>>(t => t.Begin(by, title, "A stream of them.", default))).Value!.Id;
    static async Task<long> Answer(House house, SpaceReader by, long thread, long? to = null) =>
        (await house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, to, "Look below.", default))).Value!.Id;
    static async Task<ThreadView> Read(House house, SpaceReader by, long thread, long? answers = null, int page = 1, int size = 50) =>
        (await house.Get<ReadTalk, ThreadView?>(r => r.Thread([by], thread, page, size, house.Clock.Moment, default, answers)))!;
    static async Task<IReadOnlyList<Begun>> Listed(House house, params SpaceReader[] open) =>
        (await house.Get<ReadTalk, (IReadOnlyList<SpaceSeenFromOutside>, IReadOnlyList<Begun> Begun)>(r => r.Spaces(open, default))).Begun;

    [Fact]
    public async Task What_is_typed_is_kept_in_place_of_what_was_there_and_goes_when_it_is_sent_or_emptied()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        var thread = await Begin(house, one);
        Assert.True((await Keep(house, two, thread, "Look b")).Ok);
        Assert.True((await Keep(house, two, thread, "Look below.  \n\n")).Ok);
        Assert.Equal("Look below.", (await Read(house, two, thread)).Draft!.Body);
        Assert.Null((await Read(house, one, thread)).Draft);
        Assert.Null((await Read(house, await Of(house, two.Account, space, looking: true), thread)).Draft);
        Assert.Empty(await Listed(house, await Of(house, two.Account, space, looking: true)));
        Assert.False((await Keep(house, await Of(house, two.Account, space, looking: true), thread, "Not mine")).Ok);
        await Answer(house, two, thread);
        Assert.Null((await Read(house, two, thread)).Draft);
        Assert.True((await Keep(house, two, thread, "More")).Ok);
        Assert.True((await Keep(house, two, thread, " ")).Ok);
        Assert.Null(await Kept(house, two, thread));
        // To begin a thread is another place, with a title or without.
        Assert.True((await Keep(house, two, null, "", "  Frost ")).Ok);
        Assert.Equal(("Frost", ""), await Kept(house, two, space.Value) is { } d ? (d.Title, d.Body) : default);
        await Answer(house, two, thread);
        Assert.NotNull(await Kept(house, two, space.Value));
        await Begin(house, two, "Frost");
        Assert.Null(await Kept(house, two, space.Value));
        // So is what can be chosen in it, also where there is nothing else yet.
        Assert.True((await Keep(house, two, null, "", choices: "Saturday\nSun")).Ok);
        Assert.Equal("Saturday\nSun", (await Kept(house, two, space.Value))!.Choices);
        Assert.True((await Keep(house, two, null, "", choices: new string('x', TalkDraft.MostChoices))).Ok);
        Assert.Equal("Choices", (await Keep(house, two, null, "", choices: new string('x', TalkDraft.MostChoices + 1))).Field);
        Assert.True((await Keep(house, two, null, "Snow")).Ok);
        Assert.Equal(("Snow", ""), await Kept(house, two, space.Value) is { } snow ? (snow.Body, snow.Choices) : default);
        await house.Do<DraftTalk>(t => t.Forget(two, space.Value, default));
        Assert.Null(await Kept(house, two, space.Value));
    }

    [Fact]
    public async Task What_comes_late_from_a_page_whose_words_were_sent_is_not_kept()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var one = await Somebody(house, space);
        var thread = await Begin(house, one);
        var loaded = house.Clock.Moment;
        house.Clock.StandAt(loaded + Duration.FromSeconds(3));
        await Answer(house, one, thread);
        Assert.False((await Keep(house, one, thread, "Look below.", since: loaded)).Ok);
        Assert.Null(await Kept(house, one, thread));
        Assert.True((await Keep(house, one, thread, "And then", since: house.Clock.Moment)).Ok);
        // An answer isn't what a new thread would be, nor the other way round.
        Assert.True((await Keep(house, one, null, "Frost", since: loaded)).Ok);
        var other = await Begin(house, one, "Frost");
        Assert.False((await Keep(house, one, null, "Frost", since: loaded)).Ok);
        Assert.True((await Keep(house, one, null, "Frost", since: house.Clock.Moment)).Ok);
        Assert.NotEqual(thread, other);
    }

    [Fact]
    public async Task It_says_what_it_answers_on_whichever_page_that_stands()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (one, two) = (await Somebody(house, space), await Somebody(house, space));
        var (thread, other) = (await Begin(house, one), await Begin(house, one, "Frost"));
        var (first, second) = (await Answer(house, one, thread), await Answer(house, one, thread));
        await Keep(house, two, thread, "To the second", answers: second);
        var view = await Read(house, two, thread, page: 1, size: 1);
        Assert.Equal((second, second), (view.Draft!.AnswersId, view.Answered!.Id));
        Assert.Equal(first, (await Read(house, two, thread, answers: first, page: 3, size: 1)).Answered!.Id);
        Assert.Null((await Read(house, two, thread, answers: 0)).Answered);
        Assert.Null((await Read(house, two, other, answers: first)).Answered);
        Assert.Null((await Read(house, one, thread)).Answered);
        // What it would have answered is taken away: then it is to all.
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(one, second, default))).Ok);
        view = await Read(house, two, thread);
        Assert.Equal(("To the second", null), (view.Draft!.Body, view.Answered));
    }

    [Fact]
    public async Task The_list_has_what_was_begun_in_spaces_that_are_open_and_no_more_than_so_much()
    {
        await using var house = await House.Open();
        var (space, other) = (await Space(house), await Space(house, "Swaps"));
        var one = await Somebody(house, space);
        var there = await Of(house, one.Account, other);
        var (thread, away) = (await Begin(house, one), await Begin(house, one, "Gone"));
        await Keep(house, one, thread, "An answer");
        house.Clock.StandAt(house.Clock.Moment + Duration.FromMinutes(1));
        await Keep(house, there, null, "Who has a feeder?", "Feeder");
        await Keep(house, one, away, "Lost");
        await house.Get<KeepTalk, Result>(k => k.Hide(house.Owner, away, true, default));
        Assert.Equal([(other, null, "Feeder", "Who has a feeder?"), (space, thread, "Wasps", "An answer")],
            (await Listed(house, one, there)).Select(b => (b.Space, b.Thread, b.Title, b.Words)));
        Assert.Equal([thread], (await Listed(house, one)).Select(b => b.Thread!.Value));
        Assert.False((await Keep(house, one, thread, new string('a', TalkPost.MostBody + 1))).Ok);
        Assert.True((await Keep(house, one, thread, new string('a', TalkPost.MostBody))).Ok);
        Assert.False((await Keep(house, one, null, "", new string('a', TalkThread.MostTitle + 1))).Ok);
        // The oldest makes place.
        for (var n = 0; n < TalkDraft.Most; n++)
        {
            house.Clock.StandAt(house.Clock.Moment + Duration.FromSeconds(1));
            await Keep(house, one, 1_000_000 + n, "Something");
        }
        var kept = await house.Ask(db => db.TalkDrafts.Where(d => d.AccountId == one.Account).Select(d => d.PlaceId).ToListAsync());
        Assert.Equal(TalkDraft.Most, kept.Count);
        Assert.DoesNotContain(thread, kept);
        Assert.Contains(1_000_000, kept);
    }
}
