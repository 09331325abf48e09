using NodaTime;

namespace BrightCircle.Core.Routines;

/// <summary>"When this happens, and this holds, do these steps", under a name.</summary>
public sealed class Routine
{
    public const int MostName = 80;

    public long Id { get; init; }
    public string Name { get; set; } = "";
    public required Script Script { get; set; }
    /// <summary>Since when people begin it; null while it is off. Whoever is in it goes on either way.</summary>
    public Instant? OnSince { get; set; }
    public bool IsOn => OnSince is not null;
    /// <summary>Counts up with each change: two people at once are told.</summary>
    public int Version { get; set; } = 1;
    public Instant MadeAt { get; init; }
}

/// <summary>How a member's way through a routine ended.</summary>
public enum RunEnd
{
    /// <summary>At its last step.</summary>
    Through,
    /// <summary>They did what it is for.</summary>
    Goal,
    /// <summary>They began it anew.</summary>
    BegunAnew,
    /// <summary>The team took them out.</summary>
    TakenOut,
}
