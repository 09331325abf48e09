using NodaTime;

namespace BrightCircle.Core;

/// <summary>A member's computed state. It is derived from facts, never typed in.</summary>
public enum Standing
{
    /// <summary>An account; no tier was ever held, though perhaps passes.</summary>
    Guest,
    Trial,
    Active,
    /// <summary>A payment failed, access is still open.</summary>
    Grace,
    /// <summary>Left; the paid time still runs.</summary>
    Ending,
    /// <summary>Held a tier once; none now.</summary>
    Lapsed,
    /// <summary>For a stated time nothing is charged.</summary>
    Paused,
}

/// <summary>What a list of members is narrowed to; whatever is null asks nothing.</summary>
/// <param name="Search">Letters in a row of the name or the address, large or small.</param>
/// <param name="Plan">Who holds it now, beside whatever else they hold.</param>
/// <param name="From">Joined on this day of the site or later.</param>
/// <param name="To">Joined on this day of the site or before.</param>
/// <param name="Tag">Who bears it.</param>
/// <param name="Audience">Who belongs to it.</param>
public sealed record MemberFilter(string? Search = null, Standing? Standing = null, PlanId? Plan = null, LocalDate? From = null, LocalDate? To = null,
    TagId? Tag = null, AudienceId? Audience = null)
{
    /// <summary>It narrows nothing: everybody fits.</summary>
    public bool IsEverybody => string.IsNullOrWhiteSpace(Search) && Standing is null && Plan is null && From is null && To is null
        && Tag is null && Audience is null;
}
