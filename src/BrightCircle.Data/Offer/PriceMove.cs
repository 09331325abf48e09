using BrightCircle.Core;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>An act by which all who have a price are moved to another one of the same plan, with notice.</summary>
public sealed class PriceMove
{
    public long Id { get; init; }
    public PriceId FromPriceId { get; init; }
    public PriceId ToPriceId { get; init; }
    /// <summary>From the first payment on or after this day the other one counts.</summary>
    public LocalDate On { get; init; }
    public Instant MadeAt { get; init; }
    public string By { get; init; } = "";
    /// <summary>How many were told so far, and how many are moved.</summary>
    public int Told { get; set; }
    public int Moved { get; set; }
    /// <summary>When nobody was left; null as long as somebody is.</summary>
    public Instant? DoneAt { get; set; }
    public Instant? TakenBackAt { get; set; }
}
