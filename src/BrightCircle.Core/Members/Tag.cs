using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>A word that members bear, for the team's own order: put on by hand, or following a condition by itself.</summary>
public sealed class Tag
{
    public const int MostName = 40, MostGroup = 40;

    public TagId Id { get; init; }
    public string Name { get; set; } = "";
    /// <summary>Tags with the same word here stand together; empty for none.</summary>
    public string Group { get; set; } = "";
    /// <summary>1 to 8, one of the shelves' colours.</summary>
    public int Colour { get; set; } = 1;
    /// <summary>Whoever fits this bears it, and nobody else; null where it is put on and taken off. It names no other tag of this kind.</summary>
    public Condition? Follows { get; set; }
    public bool IsByItself => Follows is not null;
    /// <summary>Members see it beside the name of whoever bears it. Only what is put on can be one: what comes by itself goes by itself.</summary>
    public bool IsBadge { get; set; }
}

public enum OwnFieldKind { Text, Number, Date, Choice }

/// <summary>Something the owner wants to know of members that the house has no place for.</summary>
public sealed class OwnField
{
    public const int MostName = 60, MostText = 400, MostChoices = 40;

    public OwnFieldId Id { get; init; }
    public string Name { get; set; } = "";
    /// <summary>It stays what it was made as: values rest on it.</summary>
    public OwnFieldKind Kind { get; init; }
    /// <summary>What can be chosen; empty for the other kinds.</summary>
    public IReadOnlyList<string> Choices { get; set; } = [];
    /// <summary>Asked of whoever joins.</summary>
    public bool AskedAtJoining { get; set; }
    /// <summary>Members see and change it themselves.</summary>
    public bool ByMembers { get; set; }
    /// <summary>Other members read it on the card of whoever wants to be found.</summary>
    public bool OnCards { get; set; }
    public int Order { get; set; }
    /// <summary>Members have a say in it, and not the team alone.</summary>
    public bool IsTheirs => AskedAtJoining || ByMembers;
}

/// <summary>A condition over members under a name, always counted live.</summary>
public sealed class Audience
{
    public const int MostName = 80;

    public AudienceId Id { get; init; }
    public string Name { get; set; } = "";
    public required Condition Condition { get; set; }
    public Instant MadeAt { get; init; }
}
