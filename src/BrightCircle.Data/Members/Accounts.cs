using BrightCircle.Core;
using Microsoft.AspNetCore.Identity;
using NodaTime;

namespace BrightCircle.Data;

public enum TeamRole { Owner, Editor, Host, Support }

/// <summary>Someone who can sign in. A member's account has the member's number; the team's have a role instead.</summary>
public sealed class Account : IdentityUser<long>
{
    public string Name { get; set; } = "";
    public TeamRole? Role { get; set; }
    /// <summary>Somebody of the team who isn't let in any more.</summary>
    public bool IsShut => LockoutEnd == Shut;
    /// <summary>Until then somebody is locked out who isn't let in any more; wrong passwords lock for minutes.</summary>
    public static readonly DateTimeOffset Shut = DateTimeOffset.MaxValue;
    /// <summary>Counts up when they sign out everywhere: the private addresses of their feeds change with it.</summary>
    public int FeedsVersion { get; set; }
}

/// <summary>A personal way in that works once. The secret in the link is made from the number and never stored.</summary>
public sealed class SignInLink
{
    public long Id { get; init; }
    public long AccountId { get; init; }
    public Instant CreatedAt { get; init; }
    public Instant ExpiresAt { get; init; }
    public Instant? UsedAt { get; set; }
    public string ReturnPath { get; init; } = "/me";
}

/// <summary>How many members are in each standing: kept by a trigger, so that no page counts members.</summary>
public sealed class StandingCount
{
    public Standing Standing { get; init; }
    public int Members { get; init; }
}
