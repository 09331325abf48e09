using BrightCircle.App.Catalogues;
using BrightCircle.Core.Events;
using BrightCircle.Data;

namespace BrightCircle.App.Letters;

/// <summary>Which events the owner hears of by letter, and when.</summary>
public static class OwnerEvents
{
    /// <summary>Each kind of event, and which setting says when the owner hears of it.</summary>
    static readonly Dictionary<string, Func<OwnerLetters, OwnerLetterWhen>> Set = new()
    {
        ["joined"] = s => s.Sale,
        ["order-placed"] = s => s.Sale,
        ["voucher-bought"] = s => s.Sale,
        ["payment-failed"] = s => s.Failure,
        ["charged-back"] = s => s.Dispute,
        ["dispute-decided"] = s => s.Dispute,
    };

    /// <summary>When the owner hears of an event, as the site is set; never where it is none of those.</summary>
    public static OwnerLetterWhen When(Event e, CatalogueSnapshot now) =>
        // What is joined for nothing is no sale.
        e is Event.Joined joined && (joined.Price is not { } price || !now.PriceById[price].Terms.NeedsCard) ? OwnerLetterWhen.Never
            : Set.TryGetValue(e.Kind, out var when) ? when(now.Site!.OwnerLetters) : OwnerLetterWhen.Never;

    /// <summary>What a host hears of: members book their hours, move them, give them back. What the team does itself it knows.</summary>
    public static bool IsForHost(Event e) => e is Event.HourNews { What: HourNewsKind.Booked or HourNewsKind.Moved or HourNewsKind.GaveBack };

    /// <summary>The kinds of them that are told of in a way.</summary>
    public static string[] Kinds(OwnerLetters set, OwnerLetterWhen when) => [.. Set.Where(k => k.Value(set) == when).Select(k => k.Key)];
}
