using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using NodaTime;

namespace BrightCircle.App.Words;

/// <summary>Conditions over members, in sentences that read aloud: "Everybody who is active or on trial, holds Keeper, and hasn’t opened November".</summary>
public static class ConditionWords
{
    public static string Sentence(Condition condition, CatalogueSnapshot now) => condition switch
    {
        Condition.AllOf { Of.Count: 0 } or Condition.NoneOf { Of.Count: 0 } => "Everybody",
        Condition.AnyOf { Of.Count: 0 } => "Nobody",
        _ => "Everybody who " + Phrase(condition, now),
    };

    /// <summary>What follows "who".</summary>
    public static string Phrase(Condition condition, CatalogueSnapshot now, bool not = false) => condition switch
    {
        Condition.Not n => Phrase(n.Of, now, !not),
        Condition.AllOf g => not ? $"doesn’t fit all of: {Inside(g.Of, now, " and ")}" : Inside(g.Of, now, " and "),
        Condition.AnyOf g => not ? $"fits none of: {Inside(g.Of, now, " or ")}" : Inside(g.Of, now, " or "),
        Condition.NoneOf g => not ? $"fits one of: {Inside(g.Of, now, " or ")}" : $"fits none of: {Inside(g.Of, now, " or ")}",
        Condition.InStanding s => (not ? "isn’t " : "is ") + Listed(s.Standings.Select(x => x.InWords()), "or", "anything"),
        Condition.Holds h => $"{(not ? "doesn’t hold" : "holds")} {Plans(h.Plans, now)}{ByPrice(h.Price, now)}{Through(h.Source)}",
        Condition.Held h => not ? $"holds {Plans(h.Plans, now)}, or never did" : $"held {Plans(h.Plans, now)} once and doesn’t now",
        Condition.Tagged t => $"{(not ? "doesn’t bear" : "bears")} the tag {now.TagById.GetValueOrDefault(t.Tag)?.Name ?? "that is gone"}",
        Condition.Field f => Field(f, now, not),
        Condition.Joined j => (not ? "didn’t join " : "joined ") + Said(j.When, now.Culture),
        Condition.Lapsed l => (not ? "didn’t lapse " : "lapsed ") + Said(l.When, now.Culture),
        Condition.Seen s => (not ? "wasn’t here " : "was here last ") + Said(s.When, now.Culture, not),
        Condition.OpenedPiece p => (not ? "hasn’t opened " : "has opened ") + Piece(p.Piece, now),
        Condition.OpenedEdition e => $"{(not ? "hasn’t opened" : "has opened")} anything of "
            + (now.EditionById.GetValueOrDefault(e.Edition)?.Title ?? "an edition that is gone"),
        Condition.OpenedLink l => (not ? "opened no link of a letter " : "opened a link of a letter ") + Said(l.When, now.Culture),
        Condition.Done d => (not ? "hasn’t finished " : "has finished ") + (d.Lessons is { } n ? Say.Count(n, "lesson") : "all") + " of " + Piece(d.Piece, now),
        Condition.StoppedIn s => not ? $"hasn’t stopped in {Piece(s.Piece, now)}"
            : $"has begun {Piece(s.Piece, now)}, isn’t through, and wasn’t in it for {Say.Count(s.Days, "day")}",
        Condition.MetTally t => $"{(not ? "didn’t meet" : "met")} the aim of {now.TallyById.GetValueOrDefault(t.Tally)?.Name ?? "a tally that is gone"} "
            + t.WeeksAgo switch { 0 => "this week", 1 => "last week", var n => $"{n} weeks ago" },
        Condition.Spent s => (not ? "has paid less than " : "has paid at least ") + s.AtLeast.Format(now.Culture),
        Condition.InCohort c => (not ? "isn’t in " : "is in ") + (now.Paces.CohortById.GetValueOrDefault(c.Cohort) is { } cohort
            ? $"the cohort {cohort.Name}" : "a cohort that is gone"),
        Condition.Named n => $"{(not ? "doesn’t have" : "has")} “{n.Text}” in name or address",
        Condition.WantsNews => not ? "asked for no letters to many" : "takes letters to many",
        Condition.Reads { Language: null } => not ? "asked for another language" : "asked for no other language",
        Condition.Reads r => $"{(not ? "didn’t ask" : "asked")} to be written to in {Languages.NameOf(r.Language) ?? "a language that is gone"}",
        _ => throw new InvalidOperationException($"No such condition: {condition}"),
    };

    static string Inside(IReadOnlyList<Condition> of, CatalogueSnapshot now, string with)
    {
        if (of.Count == 0) return "nothing";
        var phrases = of.Select(c => c is Condition.Group ? $"({Phrase(c, now)})" : Phrase(c, now)).ToArray();
        return phrases.Length == 1 ? phrases[0] : string.Join(", ", phrases[..^1]) + "," + with + phrases[^1];
    }

    /// <summary>"Keeper or Apiary".</summary>
    public static string Listed(IEnumerable<string> words, string with, string none)
    {
        var all = words.ToArray();
        return all.Length switch { 0 => none, 1 => all[0], _ => string.Join(", ", all[..^1]) + $" {with} " + all[^1] };
    }

    static string Plans(IReadOnlyList<PlanId> plans, CatalogueSnapshot now) => Listed(plans.Select(p => now.PlanName(p) is { Length: > 0 } n ? n
        : "a plan that is gone"), "or", "anything");

    static string ByPrice(PriceId? price, CatalogueSnapshot now) => price is not { } id ? ""
        : $" by the price {(now.PriceById.TryGetValue(id, out var p) ? $"{p.Name} of {now.PlanName(p.PlanId)}" : "that is gone")}";

    static string Through(HoldingSource? source) => source switch
    {
        null => "",
        HoldingSource.Bought => ", bought",
        HoldingSource.Gift => ", as a gift",
        HoldingSource.Key => ", by a key link",
        HoldingSource.MovedIn => ", moved in",
        HoldingSource.Arrival => ", as everybody does",
        HoldingSource.Seat => ", by a seat of a group",
        HoldingSource.Routine => ", by a routine",
        _ => throw new ArgumentOutOfRangeException(nameof(source), source, "No such source."),
    };

    static string Piece(PieceId piece, CatalogueSnapshot now) => now.PieceById.TryGetValue(piece, out var p) ? p.Title : "a piece that is gone";

    static string Field(Condition.Field f, CatalogueSnapshot now, bool not)
    {
        var name = now.People.FieldById.TryGetValue(f.OwnField, out var field) ? $"“{field.Name}”" : "a field that is gone";
        return f.Test switch
        {
            FieldTest.Filled => $"{(not ? "has nothing" : "has something")} in {name}",
            FieldTest.Is t => $"{(not ? "doesn’t have" : "has")} {name} as “{t.Text}”",
            FieldTest.AtLeast n => $"{(not ? "doesn’t have" : "has")} {name} at {n.Number.ToString("0.####", now.Culture)} or more",
            FieldTest.AtMost n => $"{(not ? "doesn’t have" : "has")} {name} at {n.Number.ToString("0.####", now.Culture)} or less",
            FieldTest.OnDays d => $"{(not ? "doesn’t have" : "has")} {name} {Said(d.When, now.Culture)}",
            _ => throw new InvalidOperationException($"No such test: {f.Test}"),
        };
    }

    static string Said(When when, CultureInfo culture, bool not = false)
    {
        string Day(LocalDate d) => d.ToString("d MMMM uuuu", culture);
        return when switch
        {
            When.InLast { Days: 0 } => "today",
            When.InLast { Days: 1 } => "today or yesterday",
            When.InLast l => $"in the last {l.Days} days",
            When.LongerAgo l => $"more than {Say.Count(l.Days, "day")} ago{(not ? " or not at all" : "")}",
            When.Between { From: { } f, To: { } t } => f == t ? $"on {Day(f)}" : $"between {Day(f)} and {Day(t)}",
            When.Between { From: { } f } => $"on {Day(f)} or later",
            When.Between { To: { } t } => $"on {Day(t)} or before",
            When.Between => "at any time",
            _ => throw new InvalidOperationException($"No such time: {when}"),
        };
    }

    /// <summary>A standing as it stands in a sentence after "is".</summary>
    public static string InWords(this Standing standing) => standing switch
    {
        Standing.Guest => "a guest",
        Standing.Trial => "on trial",
        Standing.Active => "active",
        Standing.Grace => "in grace",
        Standing.Ending => "ending",
        Standing.Lapsed => "lapsed",
        Standing.Paused => "paused",
        _ => throw new ArgumentOutOfRangeException(nameof(standing), standing, "No such standing."),
    };
}
