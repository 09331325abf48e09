using BrightCircle.App.Community;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Spaces, and people in them, for the tests of talk.</summary>
static class TalkHelp
{
    public static async Task<SpaceId> Space(House house, string name = "The bench", SpaceKind kind = SpaceKind.Talk, bool forGuests = true,
        PieceId? piece = null)
    {
        var made = await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, null, SpaceDraft.Empty with
        {
            Name = name,
            ForGuests = forGuests,
            Kind = kind,
            Piece = piece?.Value,
        }, default));
        Assert.True(made.Ok, made.Refusal);
        return made.Value;
    }

    /// <summary>Null where the space isn't open to them.</summary>
    public static async Task<SpaceReader?> Reader(House house, long account, SpaceId space, bool looking = false)
    {
        var person = (await house.Get<MemberReader, SignedIn?>(r => r.Load(account, default)))!;
        return SpaceReader.For(house.Now, person, person.IsTeam ? MemberFacts.Team : person.FactsAt(house.Clock.Moment), space, house.Clock.Moment, looking);
    }

    public static async Task<SpaceReader> Of(House house, long account, SpaceId space, bool looking = false) =>
        (await Reader(house, account, space, looking))!;
    public static Task<SpaceReader> Of(House house, MemberId member, SpaceId space) => Of(house, member.Value, space);
    public static Task<SpaceReader> Team(House house, SpaceId space) => Of(house, house.Owner.AccountId, space);
    public static async Task<SpaceReader> Somebody(House house, SpaceId space) => await Of(house, (await house.JoinProved()).Value, space);
}
