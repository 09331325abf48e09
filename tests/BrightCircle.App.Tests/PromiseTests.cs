using BrightCircle.App.Access;
using BrightCircle.App.Billing;
using BrightCircle.App.Due;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>A promise that is changed: for those who join from now, or for everyone, and back.</summary>
public sealed class PromiseTests
{
    static readonly Inclusion All = new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing());
    static readonly Inclusion Latest = new(new Coverage.Everything(), new Reach.LastEditions(1), new Keep.ForPeriod(Core.Time.Period.Days(10)),
        new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), Lead: 2), Core.Time.Period.Months(6));

    static Task<Result<int>> Save(House house, PlanId plan, int basedOn, params Inclusion[] lines) =>
        house.Get<SavePromise, Result<int>>(s => s.Do(house.Owner, plan, new(lines, PromiseVersion.NoPaces, basedOn), default));

    static PlanId PlanOf(House house) => house.Now.PriceById[house.Monthly].PlanId;

    [Fact]
    public async Task While_nobody_held_it_there_is_only_the_one_and_then_versions()
    {
        await using var house = await House.Open();
        var plan = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Apiary", 5, "", []), default))).Value;
        Assert.Equal(1, (await Save(house, plan, 1, All)).Value);
        Assert.Equal((1, 0), (house.Now.PlanById[plan].PromiseNumber, house.Now.PlanById[plan].Earlier.Count));

        plan = PlanOf(house);
        var before = house.Now.PlanById[plan].Promise;
        var early = await house.Join(house.Monthly);
        Assert.Equal(2, (await Save(house, plan, 1, Latest)).Value);
        var late = await house.Join(house.Monthly, email: "late@tests.example");
        Assert.Equal([1, 2], await house.Ask(db => db.Holdings.Where(h => h.PlanId == plan).OrderBy(h => h.Id).Select(h => h.PromiseNumber).ToListAsync()));
        var now = house.Now.PlanById[plan];
        // All of it comes back as it was written.
        Assert.Equal([Latest], now.Promise);
        Assert.Equal(before, Assert.Single(now.Earlier).Promise);
        Assert.Equal(before, now.PromiseOf(1));
        Assert.Equal([(2, 1), (1, 1)], (await house.Get<PromiseHistory, PromisePast>(h => h.Of(plan, default))).Live);
        // The same once more is no new version; from an old window it is refused; what isn't there can't be promised.
        Assert.Equal(2, (await Save(house, plan, 2, Latest)).Value);
        Assert.Contains("meanwhile", (await Save(house, plan, 1, All)).Refusal, StringComparison.Ordinal);
        Assert.Contains("gone", (await Save(house, plan, 2, All with { Covers = new Coverage.OnePiece(new(12)) })).Refusal, StringComparison.Ordinal);
        Assert.Contains("gone", (await Save(house, plan, 2, All with { Needs = [new Need.HoldingPlan(new(12))] })).Refusal, StringComparison.Ordinal);
        Assert.Contains("from 1 to", (await Save(house, plan, 2, All with { Reach = new Reach.LastEditions(101) })).Refusal, StringComparison.Ordinal);
        Assert.Contains("from 1 to", (await Save(house, plan, 2, All with { Pace = new Pace.Steps(0, PaceUnit.Days) })).Refusal, StringComparison.Ordinal);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SavePromise, Result<int>>(s =>
            s.Do(house.Owner with { Role = TeamRole.Editor }, plan, new([All], PromiseVersion.NoPaces, 2), default)));
        Assert.NotEqual(early, late);
    }

    [Fact]
    public async Task Everybody_is_moved_in_batches_with_a_line_in_each_journal_and_back()
    {
        await using var house = await House.Open();
        var plan = PlanOf(house);
        // One lives by version 2 already, one has left.
        var people = new List<MemberId>();
        for (var i = 0; i < 4; i++) people.Add(await house.Join(house.Monthly, email: $"m{i}@tests.example"));
        await Save(house, plan, 1, All);
        var newcomer = await house.Join(house.Monthly, email: "new@tests.example");
        var gone = people[3];
        var holding = (await HoldingOf(house, gone)).Id;
        await house.Get<EndPlan, Result>(e => e.Do(house.Owner, gone, holding, default));

        var piece = house.Now.Pieces[0].Id;
        Assert.True((await house.Get<MovePromise, Result>(m => m.Do(house.Owner, plan, 2, default))).Ok);
        Assert.Null(await house.Ask(db => db.DueWork.Where(d => d.Kind == DueKind.MovePromise).Select(d => d.LastError).FirstOrDefaultAsync()));
        Assert.Equal([(2, 4)], (await house.Get<PromiseHistory, PromisePast>(h => h.Of(plan, default))).Live);
        foreach (var p in people.Take(3))
            Assert.Equal(new Event.PromiseMoved((await HoldingOf(house, p)).Id, plan, 1, 2, (await TheMove(house)).Id),
                Assert.Single(await Told(house, p)) with { });
        Assert.Empty(await Told(house, newcomer));
        Assert.Empty(await Told(house, gone));
        var move = await TheMove(house);
        Assert.Equal((3, true, (Instant?)null), (move.Moved, move.Done, move.TakenBackAt));
        Assert.True(house.Now.Book.Decide(await house.FactsOf(people[0]), piece, house.Clock.Moment) is { Rule: AccessRule.EverythingReleased });

        // Taken back: they are where they were; the newcomer never was elsewhere.
        Assert.True((await house.Get<MovePromise, Result>(m => m.TakeBack(house.Owner, move.Id, default))).Ok);
        Assert.Equal([(2, 1), (1, 3)], (await house.Get<PromiseHistory, PromisePast>(h => h.Of(plan, default))).Live);
        Assert.Contains("already", (await house.Get<MovePromise, Result>(m => m.TakeBack(house.Owner, move.Id, default))).Refusal, StringComparison.Ordinal);
        Assert.Contains("no such", (await house.Get<MovePromise, Result>(m => m.Do(house.Owner, plan, 7, default))).Refusal, StringComparison.Ordinal);
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.MovePromise)));
    }

    static Task<Core.Members.Holding> HoldingOf(House house, MemberId member) => house.Ask(db => db.Holdings.SingleAsync(h => h.MemberId == member));
    static Task<PromiseMove> TheMove(House house) => house.Ask(db => db.PromiseMoves.AsNoTracking().SingleAsync());
    static async Task<Event[]> Told(House house, MemberId member) =>
        [.. (await house.Ask(db => db.Journal.Where(j => j.MemberId == member && j.Kind == "promise-moved").OrderBy(j => j.Seq).ToListAsync()))
            .Select(j => j.Event)];

    [Fact]
    public async Task What_a_change_does_to_members_is_known_before_it_is_saved()
    {
        await using var house = await House.Open();
        var plan = PlanOf(house);
        var member = await house.Join(house.Monthly);
        async Task<EffectOnMembers> Effect(params Inclusion[] lines)
        {
            var p = house.Now.PlanById[plan];
            var edited = new Plan
            {
                Id = plan,
                Kind = p.Kind,
                Name = p.Name,
                Rank = p.Rank,
                Promise = lines,
                PromiseNumber = 2,
                Earlier = [new(plan, 1, p.PromiseFrom, p.Promise, p.PaceOf)]
            };
            var after = house.Now.BookWith([.. house.Now.Plans.Where(x => x.Id != plan), edited]);
            return await house.Get<WhatChanges, EffectOnMembers>(w => w.Of(after, [plan], new HashSet<PlanId> { plan }, default));
        }
        var same = await Effect([.. house.Now.PlanById[plan].Promise]);
        Assert.Equal((1, 0), (same.Looked, same.Changed));
        var nothing = await Effect();
        Assert.Equal((1, 1, 0), (nothing.Changed, nothing.Closes.Count, nothing.Opens.Count));
        Assert.Equal(member, Assert.Single(nothing.Closes.Named).Id);
        // What is told before is what is so after.
        var open = house.Now.Pieces.Count(p => house.Now.Book.Decide(MemberFacts.Nobody, p.Id, house.Clock.Moment).IsOpen);
        Assert.True(nothing.Closes.Mostly > open);
        await Save(house, plan, 1);
        await house.Get<MovePromise, Result>(m => m.Do(house.Owner, plan, 2, default));
        var facts = await house.FactsOf(member);
        Assert.DoesNotContain(house.Now.Pieces, p => house.Now.Book.Decide(facts, p.Id, house.Clock.Moment).IsOpen);
    }
}
