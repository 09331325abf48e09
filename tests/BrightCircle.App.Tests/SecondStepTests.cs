using BrightCircle.App.Clock;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>The second step of signing in: codes from an app and spare ones, each good once.</summary>
public class SecondStepTests
{
    sealed class Wall : IWallClock
    {
        public Instant Moment { get; set; } = SystemClock.Instance.GetCurrentInstant();
    }

    /// <summary>The other way round from what the page shows.</summary>
    public static byte[] Bytes(string letters)
    {
        var bits = string.Concat(letters.Replace(" ", "", StringComparison.Ordinal)
            .Select(c => Convert.ToString("ABCDEFGHIJKLMNOPQRSTUVWXYZ234567".IndexOf(c, StringComparison.Ordinal), 2).PadLeft(5, '0')));
        return [.. Enumerable.Range(0, bits.Length / 8).Select(i => Convert.ToByte(bits.Substring(i * 8, 8), 2))];
    }

    readonly Wall clock = new();
    string Code(byte[] key, int ahead = 0) => OneTimePassword.At(key, OneTimePassword.StepOf(clock.Moment) + ahead);
    Task<House> Open() => House.Open(s => s.AddSingleton<IWallClock>(clock));
    static Task<Result> Check(House house, long account, string code) => house.Get<SecondSteps, Result>(s => s.Check(account, code, default));
    static async Task<byte[]> Begin(House house, TeamActor by) =>
        Bytes((await house.Get<SecondSteps, Result<SecondStepKey>>(s => s.Begin(by, default))).Value!.Letters);
    static Task<Result<string[]>> TurnOn(House house, TeamActor by, string code) => house.Get<SecondSteps, Result<string[]>>(s => s.TurnOn(by, code, default));
    static Task<bool> Has(House house, TeamActor by) => house.Get<SecondSteps, bool>(s => s.Has(by.AccountId, default));

    [Fact]
    public async Task It_is_on_once_a_code_has_shown_that_the_app_has_the_key()
    {
        await using var house = await Open();
        var me = house.Owner;
        Assert.Equal("Begin with the picture.", (await TurnOn(house, me, "123456")).Refusal);
        var key = await Begin(house, me);
        Assert.Equal(key, await Begin(house, me));
        Assert.False(await Has(house, me));
        Assert.Equal("Code", (await TurnOn(house, me, Code(key, 3))).Field);
        Assert.False((await Check(house, me.AccountId, Code(key))).Ok);
        var on = await TurnOn(house, me, Code(key));
        Assert.Equal(SecondSteps.Spares, on.Value!.Distinct().Count());
        Assert.All(on.Value!, c => Assert.Matches("^[a-z2-7]{5}-[a-z2-7]{5}$", c));
        Assert.True(await Has(house, me));
        Assert.False((await TurnOn(house, me, Code(key, 1))).Ok);
        Assert.False((await house.Get<SecondSteps, Result<SecondStepKey>>(s => s.Begin(me, default))).Ok);
        // The code that turned it on lets nobody in; the next one does, once, also of two who type it at the same moment.
        Assert.False((await Check(house, me.AccountId, Code(key))).Ok);
        var both = await Task.WhenAll(Check(house, me.AccountId, Code(key, 1)), Check(house, me.AccountId, Code(key, 1)));
        Assert.Single(both, r => r.Ok);
        // Neither the key nor the spare codes stand in the database as they are.
        var row = await house.Ask(db => db.SecondSteps.AsNoTracking().SingleAsync());
        Assert.DoesNotContain(Convert.ToBase64String(key), row.Key, StringComparison.Ordinal);
        Assert.DoesNotContain(on.Value!, c => row.Spare.Any(s => s.Contains(c.Replace("-", "", StringComparison.Ordinal), StringComparison.Ordinal)));
    }

    [Fact]
    public async Task A_spare_code_is_good_once_however_it_is_typed_and_only_its_owner()
    {
        await using var house = await Open();
        var me = house.Owner;
        var key = await Begin(house, me);
        var spare = (await TurnOn(house, me, Code(key))).Value!;
        Assert.True((await Check(house, me.AccountId, $" {spare[0].ToUpperInvariant().Replace("-", " ", StringComparison.Ordinal)} ")).Ok);
        Assert.False((await Check(house, me.AccountId, spare[0])).Ok);
        Assert.Equal(9, (await house.Get<SecondSteps, SecondStepState>(s => s.Of(me.AccountId, default))).SpareLeft);
        Assert.Single(await Task.WhenAll(Check(house, me.AccountId, spare[1]), Check(house, me.AccountId, spare[1])), r => r.Ok);
        clock.Moment += Duration.FromMinutes(5);
        Assert.Equal("Code", (await house.Get<SecondSteps, Result<string[]>>(s => s.RenewSpares(me, "000 000", default))).Field);
        var anew = (await house.Get<SecondSteps, Result<string[]>>(s => s.RenewSpares(me, Code(key), default))).Value!;
        Assert.False((await Check(house, me.AccountId, spare[5])).Ok);
        Assert.True((await Check(house, me.AccountId, anew[5])).Ok);
    }

    [Fact]
    public async Task Wrong_codes_lock_as_wrong_passwords_do()
    {
        await using var house = await Open();
        var me = house.Owner;
        var key = await Begin(house, me);
        await TurnOn(house, me, Code(key));
        for (var i = 0; i < 8; i++) Assert.Equal("Code", (await Check(house, me.AccountId, "000000")).Field);
        Assert.Contains("Too many tries", (await Check(house, me.AccountId, Code(key, 1))).Refusal, StringComparison.Ordinal);
        await house.Ask(db => db.Users.Where(a => a.Id == me.AccountId).ExecuteUpdateAsync(u => u.SetProperty(a => a.LockoutEnd, (DateTimeOffset?)null)));
        Assert.True((await Check(house, me.AccountId, Code(key, 1))).Ok);
    }

    [Fact]
    public async Task Who_must_have_it_cant_turn_it_off_and_an_owner_helps_whose_phone_is_lost()
    {
        await using var house = await Open();
        var me = house.Owner;
        Assert.Contains("your own up first", (await house.Get<SecondSteps, Result>(s => s.Require(me, true, default))).Refusal, StringComparison.Ordinal);
        var key = await Begin(house, me);
        await TurnOn(house, me, Code(key));
        Assert.True((await house.Get<SecondSteps, Result>(s => s.Require(me, true, default))).Ok);
        Assert.True(house.Catalogue.Now.Site!.TeamNeedsSecondStep);
        clock.Moment += Duration.FromMinutes(5);
        Assert.Contains("Everybody in the team needs it", (await house.Get<SecondSteps, Result>(s => s.TurnOff(me, Code(key), default))).Refusal,
            StringComparison.Ordinal);
        Assert.True((await house.Get<SecondSteps, Result>(s => s.Require(me, false, default))).Ok);
        Assert.False((await house.Get<SecondSteps, Result>(s => s.TurnOff(me, "111111", default))).Ok);
        Assert.True((await house.Get<SecondSteps, Result>(s => s.TurnOff(me, Code(key), default))).Ok);
        Assert.False(await Has(house, me));
        // Somebody else's.
        var other = (await house.Get<TeamAccounts, Result<long>>(s => s.Invite(me, "Bo Tarn", House.NewAddress(), TeamRole.Support, default))).Value;
        var bo = new TeamActor(other, "Bo Tarn", TeamRole.Support);
        await TurnOn(house, bo, Code(await Begin(house, bo)));
        Assert.True((await house.Get<TeamAccounts, IReadOnlyList<TeamRow>>(s => s.List(default))).Single(r => r.Id == other).SecondStep);
        Assert.False((await house.Get<SecondSteps, Result>(s => s.TakeOff(me, me.AccountId, default))).Ok);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SecondSteps, Result>(s => s.TakeOff(bo, me.AccountId, default)));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SecondSteps, Result>(s => s.Require(bo, true, default)));
        Assert.True((await house.Get<SecondSteps, Result>(s => s.TakeOff(me, other, default))).Ok);
        Assert.False((await house.Get<SecondSteps, Result>(s => s.TakeOff(me, other, default))).Ok);
        Assert.False(await Has(house, bo));
    }
}
