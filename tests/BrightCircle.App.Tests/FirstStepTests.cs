using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Newcomers say hello, say where they are, and begin.</summary>
public class FirstStepTests
{
    static Task<FirstStepsState> State(House house, MemberId member) => house.Get<MemberReader, FirstStepsState>(async r =>
        (await r.Home(member, true, house.Clock.Moment, default)).FirstSteps);

    [Fact]
    public async Task A_hello_is_a_task_for_the_team_once_whoever_presses_twice()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        Task<Result> Say(string? text) => house.Get<TakeFirstSteps, Result>(s => s.SayHello(member, text, default));
        Assert.False((await Say("  ")).Ok);
        Assert.False((await Say(new string('x', FirstSteps.MostHello + 1))).Ok);
        Assert.Empty((await State(house, member)).Done);
        var both = await Task.WhenAll(Say("Two hives,\nand no idea."), Say("Two hives,\nand no idea."));
        Assert.Single(both, r => r.Ok);
        var task = await house.Ask(db => db.TeamTasks.SingleAsync(t => t.MemberId == member));
        Assert.Equal("Says hello: “Two hives, and no idea.”", task.Text);
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == member && j.Kind == Event.KindOf<Event.SaidHello>())));
        Assert.Equal([FirstStep.Hello], (await State(house, member)).Done);
        Assert.True((await house.Get<TakeFirstSteps, Result>(async s =>
        {
            var other = await house.Join(house.Free);
            return await s.SayHello(other, new string('x', FirstSteps.MostHello), default);
        })).Ok);
    }

    [Fact]
    public async Task What_is_done_anywhere_is_done_here_and_what_was_put_away_can_still_be_done()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        await house.Do<TakeFirstSteps>(s => s.PutAway(member, FirstStep.Zone, default));
        Assert.Equal([FirstStep.Zone], (await State(house, member)).PutAway);
        Assert.False((await house.Get<OwnSettings, Result>(s => s.SetZone(member, "Nowhere/Town", default))).Ok);
        Assert.Equal([FirstStep.Zone], (await State(house, member)).PutAway);
        Assert.True((await house.Get<OwnSettings, Result>(s => s.SetZone(member, "Europe/Oslo", default))).Ok);
        Assert.Equal([FirstStep.Zone], (await State(house, member)).Done);
        Assert.True((await house.Get<OwnFields, Result>(s => s.FillOwn(member, new Dictionary<OwnFieldId, string?>(), default))).Ok);
        await house.Do<TakeFirstSteps>(s => s.PutAway(member, null, default));
        var state = await State(house, member);
        Assert.Equal([FirstStep.Zone, FirstStep.About], state.Done.Order());
        Assert.Equal([FirstStep.Hello, FirstStep.StartHere], state.PutAway.Order());
        // The team's filling in is no step of theirs.
        var other = await house.Join(house.Free);
        Assert.True((await house.Get<OwnFields, Result>(s => s.Fill(house.Owner, other, new Dictionary<OwnFieldId, string?>(), default))).Ok);
        Assert.Empty((await State(house, other)).Done);
    }

    [Fact]
    public async Task The_owner_chooses_the_steps_and_what_each_plan_starts_with()
    {
        await using var house = await House.Open();
        Task<Result> Save(FirstStep[] steps, string? words) => house.Get<WelcomeSettings, Result>(s => s.Save(house.Owner, steps, words, false, default));
        Assert.False((await Save([FirstStep.Hello], new string('x', WelcomeSettings.MostWords + 1))).Ok);
        Assert.False((await Save([FirstStep.StartHere], "")).Ok);
        Assert.False((await Save([(FirstStep)40], "")).Ok);
        Assert.True((await Save([FirstStep.Zone, FirstStep.Hello, FirstStep.Zone], " How many hives? ")).Ok);
        Assert.Equal([FirstStep.Hello, FirstStep.Zone], house.Catalogue.Now.Site!.FirstSteps);
        Assert.Equal("How many hives?", house.Catalogue.Now.Site.HelloWords);

        var piece = house.Catalogue.Now.Pieces[0].Id;
        var plan = house.Catalogue.Now.PriceById[house.Monthly].PlanId;
        Task<Result<PlanId>> Start(long? id)
        {
            var p = house.Catalogue.Now.PlanById[plan];
            return house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, plan, new(p.Name, p.Rank, p.Description, [], StartPiece: id), default));
        }
        Assert.Equal("StartPiece", (await Start(12345)).Field);
        Assert.True((await Start(piece.Value)).Ok);
        Assert.Equal(piece, house.Catalogue.Now.PlanById[plan].StartPieceId);
        Assert.True((await Start(null)).Ok);
        Assert.Equal(piece, house.Catalogue.Now.PlanById[plan].StartPieceId);
        Assert.True((await Start(0)).Ok);
        Assert.Null(house.Catalogue.Now.PlanById[plan].StartPieceId);
    }
}
