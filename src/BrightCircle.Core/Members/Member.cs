using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>A person with an account, whatever they hold.</summary>
public sealed class Member
{
    public MemberId Id { get; init; }
    public string Name { get; set; } = "";
    /// <summary>The address they sign in and get letters with, as they typed it.</summary>
    public string Email { get; set; } = "";
    /// <summary>Where no letter ever goes (RFC 2606): the addresses of those who were deleted on their request.</summary>
    public const string NobodysDomain = "@nobody.invalid";

    /// <summary>Deleted on their request: only what the books rest on is left of them.</summary>
    public bool IsForgotten => Email.EndsWith(NobodysDomain, StringComparison.Ordinal);

    /// <summary>When the account was made, UTC.</summary>
    public Instant JoinedAt { get; init; }
    /// <summary>Gets letters that aren't about their own money or access.</summary>
    public bool WantsNews { get; set; } = true;

    /// <summary>Gets letters about what is said in spaces, as often as they chose for each.</summary>
    public bool WantsTalk { get; set; } = true;

    /// <summary>Where their days begin and end, by the tz database's name; null where it is the site's own zone.</summary>
    public string? ZoneId { get; set; }

    /// <summary>What stands with their name on receipts: an address, a firm, a number; empty for nothing more than the name.</summary>
    public string BillingAddress { get; set; } = "";

    /// <summary>Where post goes to them, in lines; empty where nobody said.</summary>
    public string PostalAddress { get; set; } = "";
    /// <summary>As it was typed; empty where nobody said. See <see cref="PhoneNumber"/>.</summary>
    public string Phone { get; set; } = "";
    /// <summary>The language they would rather be written to in, by its two letters of ISO 639-1; null for the site's own.</summary>
    public string? Reads { get; set; }

    /// <summary>A projection of <see cref="Standings.At"/> for lists and counts, kept by the transaction that adds the fact.</summary>
    public Standing Standing { get; private set; }
    public PlanId? StandingPlanId { get; private set; }
    public Instant StandingSince { get; private set; }

    /// <summary>Takes over a freshly derived standing.</summary>
    /// <returns>Whether it differs from the one before.</returns>
    public bool Stand(StandingOn now, Instant moment)
    {
        if (Standing == now.Standing && StandingPlanId == now.Plan && StandingSince != default) return false;
        if (Standing != now.Standing || StandingSince == default) StandingSince = moment;
        (Standing, StandingPlanId) = (now.Standing, now.Plan);
        return true;
    }

    public string FirstName => FirstNameOf(Name);

    /// <summary>The word before the first space, for a greeting.</summary>
    public static string FirstNameOf(string name)
    {
        var trimmed = name.Trim();
        var space = trimmed.IndexOf(' ');
        return space < 0 ? trimmed : trimmed[..space];
    }

    /// <summary>One or two capital letters for a round mark.</summary>
    public static string Initials(string name)
    {
        var words = name.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return words.Length == 0 ? "?" : (words.Length == 1 ? words[0][..1] : words[0][..1] + words[^1][..1]).ToUpperInvariant();
    }
}
