using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Somebody to whom one space is open, decided just now. Whatever is read or done in a space takes one, so that nothing can be in a closed
/// one.</summary>
public sealed class SpaceReader
{
    SpaceReader(SignedIn who, Space space, bool mayWrite, bool isOnlyLooking) =>
        (Account, Name, IsTeam, Role, Confirmed, Space, MayWrite, IsOnlyLooking) =
            (who.AccountId, who.Name, who.IsTeam, who.Role, who.Confirmed, space, mayWrite, isOnlyLooking);

    public long Account { get; }
    public string Name { get; }
    public bool IsTeam { get; }
    TeamRole? Role { get; }
    public bool Confirmed { get; }
    public Space Space { get; }
    /// <summary>To answer and to agree.</summary>
    public bool MayWrite { get; }
    /// <summary>The team looks through somebody’s eyes: nothing is kept of it.</summary>
    public bool IsOnlyLooking { get; }
    public bool MayBegin => MayWrite && Space.TakesThreads(IsTeam);
    /// <summary>Of the team, and keeps the talk here: pins, closes, takes away.</summary>
    public bool Keeps => !IsOnlyLooking && Space.IsKeptBy(Role, Account);

    /// <returns>Null where there is no such space, or it isn't open to them.</returns>
    /// <param name="facts">Theirs, as of the moment.</param>
    public static SpaceReader? For(CatalogueSnapshot now, SignedIn who, MemberFacts facts, SpaceId id, Instant moment, bool isOnlyLooking = false) =>
        now.SpaceById.TryGetValue(id, out var space) && space.OpenTo(now.Book, facts, moment) is { Reads: true } open
            ? new(who, space, !isOnlyLooking && open.Writes, isOnlyLooking) : null;
}
