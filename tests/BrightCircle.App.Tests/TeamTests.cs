using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Who is in the team: asked in by letter, what each may do, and let in no longer.</summary>
public class TeamTests
{
    static Task<Result<long>> Invite(House house, TeamActor by, string name, string email, TeamRole role) =>
        house.Get<TeamAccounts, Result<long>>(s => s.Invite(by, name, email, role, default));
    static Task<Account> Find(House house, long id) => house.Ask(db => db.Users.AsNoTracking().SingleAsync(a => a.Id == id));

    [Fact]
    public async Task A_helper_comes_in_by_the_letters_link_and_by_none_when_it_is_over()
    {
        await using var house = await House.Open();
        var address = House.NewAddress();
        var made = await Invite(house, house.Owner, "Bo Tarn", address, TeamRole.Host);
        Assert.True(made.Ok, made.Refusal);
        await house.Deliver();
        var letter = (await House.Letter(address, "asks you into the team")).GetProperty("text").GetString()!;
        Assert.Contains("answers questions and reads practice sheets", letter, StringComparison.Ordinal);
        var token = System.Text.RegularExpressions.Regex.Match(letter, "/in/([A-Za-z0-9_-]+)").Groups[1].Value;
        var row = (await house.Get<TeamAccounts, IReadOnlyList<TeamRow>>(s => s.List(default))).Single(r => r.Id == made.Value);
        Assert.Equal((TeamRole.Host, false, false), (row.Role, row.CameIn, row.Shut));
        var came = await house.Get<SignInByLink, (Account Account, string ReturnPath)?>(s => s.Use(token, default));
        Assert.Equal((made.Value, "/desk"), (came!.Value.Account.Id, came.Value.ReturnPath));
        // Once they have been here there is nothing to write again about.
        Assert.False((await house.Get<TeamAccounts, Result>(s => s.InviteAgain(house.Owner, made.Value, default))).Ok);
        var stamp = (await Find(house, made.Value)).SecurityStamp;
        await house.Do<SignInByLink>(s => s.Request(address, "/desk", default));
        Assert.True((await house.Get<TeamAccounts, Result>(s => s.Shut(house.Owner, made.Value, default))).Ok);
        var shut = await Find(house, made.Value);
        Assert.True(shut.IsShut);
        Assert.NotEqual(stamp, shut.SecurityStamp);
        // The link that was on its way is good for nothing, and no other is written.
        Assert.Equal(0, await house.Ask(db => db.SignInLinks.CountAsync(l => l.AccountId == made.Value && l.UsedAt == null)));
        await house.Do<SignInByLink>(s => s.Request(address, "/desk", default));
        Assert.Equal(0, await house.Ask(db => db.SignInLinks.CountAsync(l => l.AccountId == made.Value && l.UsedAt == null)));
        Assert.True((await house.Get<TeamAccounts, Result>(s => s.LetIn(house.Owner, made.Value, default))).Ok);
        await house.Do<SignInByLink>(s => s.Request(address, "/desk", default));
        Assert.Equal(1, await house.Ask(db => db.SignInLinks.CountAsync(l => l.AccountId == made.Value && l.UsedAt == null)));
        Assert.Equal(["invited Bo Tarn into the team (host)", "let Bo Tarn in no longer", "let Bo Tarn in again"],
            await house.Ask(db => db.Deeds.Where(d => d.Path == "/desk/settings/team").OrderBy(d => d.Id).Select(d => d.What).ToListAsync()));
    }

    [Fact]
    public async Task What_cant_be_is_said_and_one_owner_stays()
    {
        await using var house = await House.Open();
        var member = (await house.Member(await house.Join(house.Free))).Email;
        Assert.Contains("A member has this address", (await Invite(house, house.Owner, "Bo", member.ToUpperInvariant(), TeamRole.Editor)).Refusal,
            StringComparison.Ordinal);
        Assert.Equal("Email", (await Invite(house, house.Owner, "Bo", "no address", TeamRole.Editor)).Field);
        Assert.Equal("Name", (await Invite(house, house.Owner, " ", House.NewAddress(), TeamRole.Editor)).Field);
        Assert.Equal("Role", (await Invite(house, house.Owner, "Bo", House.NewAddress(), (TeamRole)77)).Field);
        var address = House.NewAddress();
        var first = (await Invite(house, house.Owner, "Bo", address, TeamRole.Editor)).Value;
        Assert.Contains("in the team already", (await Invite(house, house.Owner, "Bo again", address, TeamRole.Editor)).Refusal, StringComparison.Ordinal);
        Assert.True((await house.Get<TeamAccounts, Result>(s => s.InviteAgain(house.Owner, first, default))).Ok);
        Task<Result> Role(long who, TeamRole role) => house.Get<TeamAccounts, Result>(s => s.SetRole(house.Owner, who, role, default));
        Assert.Equal("One owner has to stay.", (await Role(house.Owner.AccountId, TeamRole.Editor)).Refusal);
        Assert.Equal("You can’t shut yourself out. Another owner can.",
            (await house.Get<TeamAccounts, Result>(s => s.Shut(house.Owner, house.Owner.AccountId, default))).Refusal);
        Assert.True((await Role(first, TeamRole.Owner)).Ok);
        Assert.True((await Role(house.Owner.AccountId, TeamRole.Editor)).Ok);
        // Now the other is the last one; somebody who is shut out is no owner.
        Assert.Equal("One owner has to stay.", (await Role(first, TeamRole.Support)).Refusal);
        Assert.False((await Role(4711, TeamRole.Support)).Ok);
    }

    [Fact]
    public async Task Of_two_owners_who_shut_each_other_out_at_once_one_stays()
    {
        await using var house = await House.Open();
        var second = (await Invite(house, house.Owner, "Bo", House.NewAddress(), TeamRole.Owner)).Value;
        var bo = new TeamActor(second, "Bo", TeamRole.Owner);
        await Task.WhenAll(house.Get<TeamAccounts, Result>(s => s.Shut(house.Owner, second, default)),
            house.Get<TeamAccounts, Result>(s => s.Shut(bo, house.Owner.AccountId, default)));
        Assert.Single(await house.Get<TeamAccounts, IReadOnlyList<TeamRow>>(s => s.List(default)), r => r is { Role: TeamRole.Owner, Shut: false });
    }

    [Fact]
    public async Task Only_an_owner_asks_in_and_changes_the_team()
    {
        await using var house = await House.Open();
        var helper = (await Invite(house, house.Owner, "Bo", House.NewAddress(), TeamRole.Support)).Value;
        foreach (var role in new[] { TeamRole.Editor, TeamRole.Host, TeamRole.Support })
        {
            var by = house.Owner with { Role = role };
            await Assert.ThrowsAsync<NotAllowedException>(() => Invite(house, by, "Ann", House.NewAddress(), TeamRole.Host));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<TeamAccounts, Result>(s => s.SetRole(by, helper, TeamRole.Owner, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<TeamAccounts, Result>(s => s.Shut(by, helper, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<TeamAccounts, Result>(s => s.LetIn(by, helper, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<TeamAccounts, Result>(s => s.InviteAgain(by, helper, default)));
        }
        Assert.Equal(TeamRole.Support, (await Find(house, helper)).Role);
    }
}
