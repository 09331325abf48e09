using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Routines;

namespace BrightCircle.App.Routines;

/// <summary>What is checked of a routine before it is kept.</summary>
public static class RoutineRules
{
    /// <returns>What is wrong with it, in a sentence; null where nothing is.</returns>
    public static string? WrongWith(Script script, CatalogueSnapshot now)
    {
        if (WrongWith(script.When, now) is { } when) return when;
        if (script.And is { } and && !now.People.AudienceById.ContainsKey(and)) return "This audience isn’t there any more.";
        if (script.Goal is { } goal && (goal is Trigger.NoEvent ? "What a routine is for is something that somebody does, not a day."
            : WrongWith(goal, now)) is { } g) return g;
        var all = script.All().ToArray();
        if (all.Length > Script.MostSteps) return $"A routine has {Script.MostSteps} steps at most.";
        if (script.Depth() > Script.MostDeep) return $"Ways stand in each other {Script.MostDeep} deep at most.";
        return all.Select(s => WrongWith(s, now)).FirstOrDefault(w => w is not null);
    }

    public static string? WrongWith(Trigger trigger, CatalogueSnapshot now) => trigger switch
    {
        Trigger.OfPlans c when c.Plans.Any(p => !now.PlanById.ContainsKey(p)) => "One of the plans isn’t there any more.",
        Trigger.Joins { Price: { } price } => now.PriceById.ContainsKey(price) ? null : "This price isn’t there any more.",
        Trigger.OfPlans or Trigger.SignsIn or Trigger.EditionOpens => null,
        Trigger.Reported c => c.Name.Trim().Length is 0 or > Trigger.Reported.MostName ? $"Give it a name, {Trigger.Reported.MostName} letters at most." : null,
        Trigger.Opens c => c.Piece is not { } piece || now.PieceById.ContainsKey(piece) ? null : "This piece isn’t there any more.",
        Trigger.Finishes c => now.LessonById.ContainsKey(c.Lesson) ? null : "Choose a lesson.",
        Trigger.HandsIn c => now.LessonById.ContainsKey(c.Lesson) ? null : "Choose a lesson.",
        Trigger.GetsTag c => !now.TagById.TryGetValue(c.Tag, out var tag) ? "Choose a tag."
            : tag.IsByItself ? $"{tag.Name} follows a condition: nobody puts it on." : null,
        Trigger.DayOf c => !now.People.FieldById.TryGetValue(c.Field, out var field) || field.Kind != Core.Members.OwnFieldKind.Date ? "Choose a field of days."
            : c.DaysBefore is < 0 or > Trigger.MostDays ? $"0 to {Trigger.MostDays} days before." : null,
        Trigger.NotSeen c => c.Days is < 1 or > Trigger.MostDays ? $"1 to {Trigger.MostDays} days." : null,
        Trigger.TallyWeek c => now.TallyById.ContainsKey(c.Tally) ? null : "Choose a tally.",
        _ => throw new InvalidOperationException($"No such trigger: {trigger}"),
    };

    public static string? WrongWith(Step step, CatalogueSnapshot now) => step switch
    {
        Step.SendLetter or Step.Stop => null,
        Step.PutTag s => WrongWithTag(s.Tag, now),
        Step.TakeTag s => WrongWithTag(s.Tag, now),
        Step.Give s => !now.PlanById.ContainsKey(s.Plan) ? "Choose a plan." : s.Days is < 1 or > 3660 ? "1 to 3660 days." : null,
        Step.EndGift s => now.PlanById.ContainsKey(s.Plan) ? null : "Choose a plan.",
        Step.FillField s => !now.People.FieldById.TryGetValue(s.Field, out var field) ? "Choose a field." : OwnFields.Read(field, s.Text, now.Culture).Refusal,
        Step.AddTask s => WrongWithText(s.Text),
        Step.AddNote s => WrongWithText(s.Text),
        Step.TellProgram s => CallAddress.WrongWith(s.Url),
        Step.Wait s => s.Days is < 0 or > Step.MostDays || s.Hours is < 0 or > 23 || s.Days + s.Hours == 0
            ? $"A wait is up to {Step.MostDays} days, and up to 23 hours." : null,
        Step.WaitForTime s => s.Weekday is < 1 or > 7 ? "Choose a day of the week." : null,
        Step.WaitForDay s => s.At.Year is < 2000 or > 2200 ? "Choose a day within reason." : null,
        Step.WaitFor s => s.What is Trigger.NoEvent ? "What is waited for is something that somebody does, not a day." : s.Days is < 1 or > Step.MostDays
            ? $"1 to {Step.MostDays} days." : WrongWith(s.What, now),
        Step.Branch s => now.People.AudienceById.ContainsKey(s.Who) ? null : "Choose an audience.",
        Step.Split s => s.Percent is < 1 or > 99 ? "1 to 99 of 100." : null,
        _ => throw new InvalidOperationException($"No such step: {step}"),
    };

    static string? WrongWithTag(TagId id, CatalogueSnapshot now) => !now.TagById.TryGetValue(id, out var tag) ? "Choose a tag."
        : tag.IsByItself ? $"{tag.Name} follows a condition: it is put on and taken off by itself." : null;

    static string? WrongWithText(string text) => text.Trim().Length is 0 or > Step.MostText ? $"Write a sentence, {Step.MostText} letters at most." : null;
}
