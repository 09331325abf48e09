using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>Hosts keep the spaces whose hosts they are; and with an edition a space of its own opens.</summary>
public class KeepingTests
{
    static async Task<TeamActor> Host(House house, string name)
    {
        var account = house.Services.GetService(typeof(Ids)) is Ids ids ? ids.Next() : 0;
        await house.Ask(async db =>
        {
            db.Users.Add(PeopleData.NewAccount(account, name, House.NewAddress(), TeamRole.Host));
            return await db.SaveChangesAsync();
        });
        return new(account, name, TeamRole.Host);
    }

    static async Task Hosted(House house, SpaceId space, params long[] hosts) => Assert.True((await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner,
        space, SpaceDraft.Of(house.Now.SpaceById[space]) with { Hosts = hosts }, default))).Ok);

    static async Task<(long Thread, long Post)> Talked(House house, SpaceReader by)
    {
        var thread = (await house.Get<Talk, Result<Said>>(t => t.Begin(by, "Wasps", "A stream of them.", default))).Value!.Id;
        return (thread, (await house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, null, "More of them.", default))).Value!.Id);
    }

    [Fact]
    public async Task A_host_keeps_their_own_spaces_and_no_others()
    {
        await using var house = await House.Open();
        var (one, other) = (await Host(house, "Ada"), await Host(house, "Bo"));
        var (hers, his) = (await Space(house, "Hers"), await Space(house, "His"));
        // Every host keeps every space, until some are named.
        Assert.True((await Of(house, one.AccountId, his)).Keeps);
        await Hosted(house, hers, one.AccountId);
        // Whoever is no host isn’t one by being named.
        await Hosted(house, his, other.AccountId, house.Owner.AccountId, 12345);
        Assert.Equal([other.AccountId], house.Now.SpaceById[his].HostIds);
        Assert.Equal((true, false), ((await Of(house, one.AccountId, hers)).Keeps, (await Of(house, one.AccountId, his)).Keeps));
        Assert.True((await Of(house, house.Owner.AccountId, his)).Keeps);

        var (a, b) = (await Talked(house, await Somebody(house, hers)), await Talked(house, await Somebody(house, his)));
        // What is taken away in a space is seen by whoever keeps it, also where they read in others.
        SpaceReader[] inBoth = [await Of(house, one.AccountId, hers), await Of(house, one.AccountId, his)];
        Task<ThreadView?> Sees(IEnumerable<SpaceReader> open, long thread) =>
            house.Get<ReadTalk, ThreadView?>(r => r.Thread([.. open], thread, 1, 50, house.Clock.Moment, default));
        await house.Ask(db => db.TalkPosts.Where(p => !p.IsFirst).ExecuteUpdateAsync(u => u.SetProperty(p => p.Held, HoldReason.Link)
            .SetProperty(p => p.GoneAt, house.Clock.Moment)));
        foreach (var order in new[] { inBoth, inBoth.Reverse() })
            Assert.Equal((2, 1), ((await Sees(order, a.Thread))!.Posts.Count, (await Sees(order, b.Thread))!.Posts.Count));
        await house.Ask(db => db.TalkThreads.ExecuteUpdateAsync(u => u.SetProperty(t => t.HiddenAt, house.Clock.Moment)));
        foreach (var order in new[] { inBoth, inBoth.Reverse() })
            Assert.Equal((true, false), (await Sees(order, a.Thread) is not null, await Sees(order, b.Thread) is not null));
        await house.Ask(db => db.TalkThreads.ExecuteUpdateAsync(u => u.SetProperty(t => t.HiddenAt, (Instant?)null)));
        await house.Ask(db => db.TalkPosts.ExecuteUpdateAsync(u => u.SetProperty(p => p.Held, (HoldReason?)null).SetProperty(p => p.GoneAt, (Instant?)null)));
        Task No(Func<KeepTalk, Task> act) => Assert.ThrowsAsync<NotAllowedException>(() => house.Do(act));
        await No(k => k.Pin(one, b.Thread, true, default));
        await No(k => k.Close(one, b.Thread, true, default));
        await No(k => k.Hide(one, b.Thread, true, default));
        await No(k => k.HidePost(one, b.Post, true, default));
        await No(k => k.Helped(one, b.Thread, b.Post, default));
        await No(k => k.Split(one, b.Post, "Apart", default));
        // Neither into what isn’t theirs, nor out of it.
        await No(k => k.Move(one, a.Thread, his, default));
        await No(k => k.Move(one, b.Thread, hers, default));
        await No(k => k.Merge(one, a.Thread, $"{b.Thread}", default));
        await No(k => k.Merge(one, b.Thread, $"{a.Thread}", default));
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Pin(one, a.Thread, true, default))).Ok);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.HidePost(one, a.Post, true, default))).Ok);
        Assert.True((await house.Get<KeepTalk, Result>(k => k.Move(house.Owner, a.Thread, his, default))).Ok);

        // What is reported and what waits is looked at by whoever keeps it; to keep somebody from writing anywhere takes all of them.
        var reader = await Somebody(house, his);
        await house.Get<CareTalk, Result>(c => c.Report(reader, b.Post, "Unkind", default));
        await house.Get<CareTalk, Result>(c => c.SaveHolds(house.Owner, false, false, "psst", default));
        await house.Get<Talk, Result<Said>>(t => t.Answer(reader, b.Thread, null, "psst, cheap", default));
        Task<ToCareFor> Look(TeamActor by) => house.Get<CareTalk, ToCareFor>(c => c.Look(by, false, 1, 20, default));
        Assert.Equal((0, 0), ((await Look(one)).InAll, (await Look(one)).WaitInAll));
        var his2 = await Look(other);
        Assert.Equal((1, 1), (his2.InAll, his2.WaitInAll));
        Assert.Equal((1, 1), ((await Look(house.Owner)).InAll, (await Look(house.Owner)).WaitInAll));
        // What waits is said to whoever sees to it: beside the place, and on Today.
        Task<int> Waits(TeamActor by) => house.Get<Insight.Waiting, int>(async w => { w.Forget(); return (await w.Counts(by, default)).Reports; });
        async Task<int> Needs(TeamActor by) => (await house.Get<Insight.TodayQuery, Insight.TodayView>(q => q.Load(by, house.Clock.Moment, default))).Needs
            .Count(n => n.Link == "/desk/talk");
        Assert.Equal((0, 2, 2, 0), (await Waits(one), await Waits(other), await Waits(house.Owner), await Waits(house.Owner with { Role = TeamRole.Support })));
        Assert.Equal((0, 2, 2), (await Needs(one), await Needs(other), await Needs(house.Owner)));
        await house.To(house.Clock.Moment + Core.Community.TalkRules.After);
        Assert.Empty((await Look(one)).Unanswered);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<CareTalk, Result>(c => c.Settle(one, his2.Reports[0].Report.Id,
            ReportOutcome.LeftStanding,
            "", default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<CareTalk, Result>(c => c.LetStand(one, his2.Waits[0].Post.Id, default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<CareTalk, Result>(c => c.LetGo(one, his2.Waits[0].Post.Id, "", default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<CareTalk, Result>(c => c.Bar(one, new(reader.Account), 3, "Unkind", default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SavePersonCard, Result>(c => c.TakeDown(one, reader.Account, default)));
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetStand(other, his2.Waits[0].Post.Id, default))).Ok);
        Assert.True((await house.Get<CareTalk, Result>(c => c.Settle(other, his2.Reports[0].Report.Id, ReportOutcome.LeftStanding, "", default))).Ok);
        // Nobody named any more, every host does again.
        await Hosted(house, hers);
        await Hosted(house, his);
        Assert.True((await house.Get<CareTalk, Result>(c => c.Bar(one, new(reader.Account), 3, "Unkind", default))).Ok);
    }

    static async Task<EditionId> Scheduled(House house, LocalDate day, EditionSpan span = EditionSpan.Month, bool empty = false)
    {
        var made = await house.Get<SaveEdition, Result<EditionId>>(s => s.Do(house.Owner, null, new(span, day, null, "", null, false), default));
        Assert.True(made.Ok, made.Refusal);
        if (!empty)
            await house.Do<SavePiece>(s => s.New(house.Owner, new($"Part of {day}", null, made.Value, "", [Course.Text(house, "<p>x</p>")], 5, true), default));
        await house.Do<SaveEdition>(s => s.Schedule(house.Owner, made.Value, true, default));
        return made.Value;
    }

    [Fact]
    public async Task With_each_edition_a_space_opens_and_in_the_one_before_nothing_new_begins()
    {
        await using var house = await House.Open();
        var like = await Space(house, "The month’s table", forGuests: true);
        async Task<Result<SpaceId>> Save(bool byEdition, long? piece = null) => await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, like,
            SpaceDraft.Of(house.Now.SpaceById[like]) with { ByEdition = byEdition, Piece = piece }, default));
        Assert.True((await Save(true)).Ok);
        // Nobody but the team sees what the others are made like.
        var member = (await house.JoinProved()).Value;
        Assert.Null(await Reader(house, member, like));
        Assert.False((await Team(house, like)).MayBegin);

        var day = house.Now.Calendar.Date(house.Clock.Moment).PlusMonths(2).With(DateAdjusters.StartOfMonth);
        var (first, between, second, empty) = (await Scheduled(house, day), await Scheduled(house, day.PlusDays(10), EditionSpan.Day),
            await Scheduled(house, day.PlusMonths(1)), await Scheduled(house, day.PlusMonths(2), empty: true));
        Space? For(EditionId edition) => house.Now.Spaces.SingleOrDefault(s => s.EditionId == edition);
        await house.To(house.Now.EditionById[first].ReleaseAt - Duration.FromSeconds(1));
        Assert.Null(For(first));
        await house.To(house.Now.EditionById[first].ReleaseAt);
        var one = For(first)!;
        Assert.Equal(($"The month’s table, {house.Now.EditionById[first].Title}", like, (Instant?)null), (one.Name, one.LikeId!.Value, one.FullAt));
        var reader = await Of(house, member, one.Id);
        Assert.True(reader.MayBegin);
        var (thread, _) = await Talked(house, reader);
        Assert.StartsWith("Nobody talks in that one", (await house.Get<KeepTalk, Result>(k => k.Move(house.Owner, thread, like, default))).Refusal,
            StringComparison.Ordinal);
        // A day between has none; an edition in which nothing came out neither.
        await house.To(house.Now.EditionById[empty].ReleaseAt);
        Assert.Null(For(between));
        Assert.Null(For(empty));
        var two = For(second)!;
        Assert.Equal(house.Now.EditionById[second].ReleasedAt, For(first)!.FullAt);
        reader = await Of(house, member, one.Id);
        Assert.Equal((false, true), (reader.MayBegin, reader.MayWrite));
        Assert.StartsWith("Nothing new begins here", (await house.Get<Talk, Result<Said>>(t => t.Begin(reader, "More", "More", default))).Refusal,
            StringComparison.Ordinal);
        Assert.True((await house.Get<Talk, Result<Said>>(t => t.Answer(reader, thread, null, "Still here", default))).Ok);
        Assert.True((await Of(house, member, two.Id)).MayBegin);
        var naming = await house.Get<Offer.SavePromise, Result<int>>(s => s.Do(house.Owner, house.Keeper, new([.. house.Now.PlanById[house.Keeper].Promise,
            new(new Core.Offer.Coverage.OneSpace(two.Id), new Core.Offer.Reach.EverythingReleased(), new Core.Offer.Keep.Nothing())],
            Core.Offer.PromiseVersion.NoPaces, house.Now.PlanById[house.Keeper].PromiseNumber), default));
        Assert.Contains("opened with an edition", naming.Refusal, StringComparison.Ordinal);
        // Who comes in is said where it is promised, for all of them.
        Assert.True((await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, like,
            SpaceDraft.Of(house.Now.SpaceById[like]) with { ForGuests = false }, default))).Ok);
        Assert.Null(await Reader(house, member, one.Id));
        Assert.Null(await Reader(house, member, two.Id));
        Assert.StartsWith("Spaces of editions", (await house.Get<SaveSpace, Result>(s => s.Remove(house.Owner, like, default))).Refusal,
            StringComparison.Ordinal);
        // Done twice, or by two, there is still one for each.
        await house.Ask(async db =>
        {
            App.Due.DueRows.PutDue(db, (Ids)house.Services.GetService(typeof(Ids))!, DueKind.SpaceOfEdition, second.Value, house.Clock.Moment, "once-more");
            return await db.SaveChangesAsync();
        });
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        Assert.Equal(two.Id, For(second)!.Id);
    }

    [Fact]
    public async Task A_space_in_which_people_talk_doesnt_become_the_pattern_of_others()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        await Talked(house, await Somebody(house, space));
        var done = await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, space, SpaceDraft.Of(house.Now.SpaceById[space]) with
        {
            ByEdition = true
        },
            default));
        Assert.Equal("ByEdition", done.Field);
        var piece = house.Now.Pieces[0].Id;
        Assert.Equal("Piece", (await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, null, SpaceDraft.Empty with
        {
            Name = "Both",
            ByEdition = true,
            Piece = piece.Value,
        }, default))).Field);
    }
}
