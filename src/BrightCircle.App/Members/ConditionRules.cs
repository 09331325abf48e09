using BrightCircle.App.Catalogues;
using BrightCircle.Core.Members;

namespace BrightCircle.App.Members;

/// <summary>What is checked of a condition before it is kept, wherever it came from.</summary>
public static class ConditionRules
{
    /// <returns>What is wrong with it, in a sentence; null where nothing is.</returns>
    public static string? WrongWith(Condition condition, CatalogueSnapshot now, bool byItself = false)
    {
        var parts = condition.Parts().Take(Condition.MostParts + 1).ToArray();
        if (parts.Length > Condition.MostParts) return $"A condition has {Condition.MostParts} parts at most.";
        if (condition.Depth() > Condition.MostDeep) return $"Groups stand in each other {Condition.MostDeep} deep at most.";
        foreach (var part in parts)
            if (WrongWithPart(part, now, byItself) is { } wrong) return wrong;
        return null;
    }

    static string? WrongWithPart(Condition part, CatalogueSnapshot now, bool byItself) => part switch
    {
        Condition.AllOf or Condition.NoneOf or Condition.Not or Condition.WantsNews => null,
        Condition.AnyOf g => g.Of.Count == 0 ? "A group of which one has to fit needs a line." : null,
        Condition.InStanding s => s.Standings.Count == 0 ? "Choose at least one standing." : null,
        Condition.Holds h => h.Plans.Any(p => !now.PlanById.ContainsKey(p)) ? "One of the plans isn’t there any more."
            : h.Price is { } price && !now.PriceById.ContainsKey(price) ? "This price isn’t there any more." : null,
        Condition.Held h => h.Plans.Any(p => !now.PlanById.ContainsKey(p)) ? "One of the plans isn’t there any more." : null,
        Condition.Tagged t => !now.TagById.TryGetValue(t.Tag, out var tag) ? "Choose a tag."
            : byItself && tag.IsByItself ? $"{tag.Name} follows a condition itself: a tag that does can’t rest on another." : null,
        Condition.Field f => WrongWithField(f, now),
        Condition.Joined j => WrongWith(j.When),
        Condition.Lapsed l => WrongWith(l.When),
        Condition.Seen s => WrongWith(s.When),
        Condition.OpenedLink l => WrongWith(l.When),
        Condition.OpenedPiece p => now.PieceById.ContainsKey(p.Piece) ? null : "Choose a piece.",
        Condition.OpenedEdition e => now.EditionById.ContainsKey(e.Edition) ? null : "Choose an edition.",
        Condition.Done d => !now.PieceById.TryGetValue(d.Piece, out var piece) ? "Choose a piece."
            : d.Lessons is < 1 || d.Lessons > piece.Outline.Lessons.Count ? $"{piece.Title} has {piece.Outline.Lessons.Count} lessons." : null,
        Condition.StoppedIn s => !now.PieceById.ContainsKey(s.Piece) ? "Choose a piece."
            : s.Days is < 1 or > Condition.StoppedIn.MostStopped ? $"From 1 to {Condition.StoppedIn.MostStopped} days." : null,
        Condition.MetTally t => !now.TallyById.ContainsKey(t.Tally) ? "Choose a tally." : t.WeeksAgo is < 0 or > 52 ? "A week within a year." : null,
        Condition.Spent s => s.AtLeast.Minor <= 0 ? "An amount above nothing is needed." : s.AtLeast.Currency != now.Currency
            ? "This site counts in another currency." : null,
        Condition.InCohort c => now.Paces.CohortById.ContainsKey(c.Cohort) ? null : "Choose a cohort.",
        Condition.Named n => string.IsNullOrWhiteSpace(n.Text) ? "Type some letters of the name or address." : n.Text.Length > 120
            ? "That is too long to be in a name." : null,
        Condition.Reads r => r.Language is null || Languages.NameOf(r.Language) is not null ? null : "Choose a language.",
        _ => throw new InvalidOperationException($"No such condition: {part}"),
    };

    static string? WrongWithField(Condition.Field f, CatalogueSnapshot now)
    {
        if (!now.People.FieldById.TryGetValue(f.OwnField, out var field)) return "Choose a field.";
        return f.Test switch
        {
            FieldTest.Filled => null,
            FieldTest.Is t => field.Kind is not (OwnFieldKind.Text or OwnFieldKind.Choice) ? $"{field.Name} isn’t a field of words."
                : t.Text.Length is 0 or > OwnField.MostText ? $"Say what stands in {field.Name}." : null,
            FieldTest.AtLeast or FieldTest.AtMost => field.Kind != OwnFieldKind.Number ? $"{field.Name} isn’t a field of numbers." : null,
            FieldTest.OnDays d => field.Kind != OwnFieldKind.Date ? $"{field.Name} isn’t a field of dates." : WrongWith(d.When),
            _ => throw new InvalidOperationException($"No such test: {f.Test}"),
        };
    }

    static string? WrongWith(When when) => when switch
    {
        When.InLast { Days: < 0 or > When.MostDays } or When.LongerAgo { Days: < 0 or > When.MostDays } => "A number of days within a hundred years.",
        When.Between { From: null, To: null } => "Say from which day, or until which.",
        When.Between { From: { } f, To: { } t } when f > t => "The last day comes before the first.",
        When.InLast or When.LongerAgo or When.Between => null,
        _ => throw new InvalidOperationException($"No such time: {when}"),
    };
}
