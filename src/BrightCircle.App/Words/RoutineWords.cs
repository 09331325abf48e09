using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Routines;
using NodaTime;

namespace BrightCircle.App.Words;

/// <summary>Routines in sentences: what begins them, and each step. What can be changed of a sentence stands between two marks where they are asked
/// for.</summary>
public static class RoutineWords
{
    /// <summary>Before and after what can be changed of a sentence.</summary>
    public const char Open = '\u0002', Close = '\u0003';

    static string Slot(string words, bool marked) => marked ? Open + words + Close : words;

    /// <summary>What follows "When": "somebody joins Keeper".</summary>
    public static string When(Trigger trigger, CatalogueSnapshot now, bool marked = false) => "somebody " + Slot(Does(trigger, now), marked);

    /// <summary>What follows "until they": "joins Keeper".</summary>
    public static string Does(Trigger trigger, CatalogueSnapshot now) => trigger switch
    {
        Trigger.Joins c => (c.Returning == true ? "comes back to " : "joins ") + Plans(c, now) + (c.Returning == false ? " for the first time" : "")
            + (c.Price is { } p ? $" by the price {(now.PriceById.TryGetValue(p, out var price) ? price.Name : "that is gone")}" : ""),
        Trigger.Gets c => $"is given {Plans(c, now)}",
        Trigger.Pays c => $"pays for {Plans(c, now)}",
        Trigger.PaymentFails c => $"has a payment fail for {Plans(c, now)}",
        Trigger.Recovers c => $"pays, after a payment failed, for {Plans(c, now)}",
        Trigger.Leaves c => $"decides to leave {Plans(c, now)}",
        Trigger.PlanEnds c => $"no longer holds {Plans(c, now)}",
        Trigger.Opens c => "opens " + Piece(c, now, "anything"),
        Trigger.Finishes c => $"finishes {Lesson(c.Lesson, now)}",
        Trigger.HandsIn c => c.Passed switch { true => "passes ", false => "doesn’t pass ", null => "hands something in of " } + Lesson(c.Lesson, now),
        Trigger.GetsTag c => $"gets the tag {Tag(c.Tag, now)}",
        Trigger.SignsIn => "signs in",
        Trigger.Reported c => $"is reported by another program as “{c.Name}”",
        Trigger.EditionOpens => "has an edition open for them",
        Trigger.DayOf c => (c.DaysBefore == 0 ? "has the day in " : $"is {Say.Count(c.DaysBefore, "day")} before the day in ")
            + $"“{now.People.FieldById.GetValueOrDefault(c.Field)?.Name ?? "a field that is gone"}”" + (c.EveryYear ? ", every year" : ""),
        Trigger.NotSeen c => $"wasn’t here for {Say.Count(c.Days, "day")}",
        Trigger.TallyWeek c => $"{(c.Met ? "met" : "missed")} the aim of {now.TallyById.GetValueOrDefault(c.Tally)?.Name ?? "a tally that is gone"} in a week",
        _ => throw new InvalidOperationException($"No such trigger: {trigger}"),
    };

    /// <summary>What follows "because", for the foot of a letter: "you joined Keeper".</summary>
    public static string Because(Trigger trigger, CatalogueSnapshot now) => trigger switch
    {
        Trigger.Joins { Returning: true } c => $"you came back to {Mine(c, now)}",
        Trigger.Joins c => $"you joined {Mine(c, now)}",
        Trigger.Gets c => $"you were given {Mine(c, now)}",
        Trigger.Pays c => $"you paid for {Mine(c, now)}",
        Trigger.PaymentFails => "a payment of yours failed",
        Trigger.Recovers => "a payment of yours came in",
        Trigger.Leaves c => $"you decided to leave {Mine(c, now)}",
        Trigger.PlanEnds c => $"you held {Mine(c, now)}",
        Trigger.Opens c => "you opened " + Piece(c, now, "something here"),
        Trigger.Finishes c => $"you finished {Lesson(c.Lesson, now)}",
        Trigger.HandsIn c => $"you handed something in of {Lesson(c.Lesson, now)}",
        Trigger.GetsTag => "you are a member here",
        Trigger.SignsIn => "you signed in",
        Trigger.Reported => "you are a member here",
        Trigger.EditionOpens => "an edition opened for you",
        Trigger.DayOf c => $"you told us the day in “{now.People.FieldById.GetValueOrDefault(c.Field)?.Name ?? "a field"}”",
        Trigger.NotSeen => "you weren’t here for a while",
        Trigger.TallyWeek c => $"you keep the tally {now.TallyById.GetValueOrDefault(c.Tally)?.Name ?? "here"}",
        _ => throw new InvalidOperationException($"No such trigger: {trigger}"),
    };

    static string Plans(Trigger.OfPlans trigger, CatalogueSnapshot now) => trigger.Plans.Count == 0 ? "any plan"
        : ConditionWords.Listed(trigger.Plans.Select(p => now.PlanName(p) is { Length: > 0 } n ? n : "a plan that is gone"), "or", "any plan");

    static string Mine(Trigger.OfPlans trigger, CatalogueSnapshot now) => trigger.Plans.Count == 0 ? now.Site!.Name : Plans(trigger, now);

    static string Lesson(LessonId id, CatalogueSnapshot now) => now.LessonById.TryGetValue(id, out var l)
        ? now.PieceOf(l) is var piece && piece.Outline.Lessons.Count > 1 ? $"“{l.Title}” of {piece.Title}" : $"“{now.PieceOf(l).Title}”"
            : "a lesson that is gone";

    static string Piece(Trigger.Opens opens, CatalogueSnapshot now, string any) => opens.Piece is not { } id ? any
        : now.PieceById.GetValueOrDefault(id) is { } p ? $"“{p.Title}”" : "a piece that is gone";

    static string Tag(TagId id, CatalogueSnapshot now) => now.TagById.GetValueOrDefault(id)?.Name ?? "that is gone";

    static string Audience(AudienceId id, CatalogueSnapshot now) => now.People.AudienceById.GetValueOrDefault(id)?.Name ?? "an audience that is gone";

    /// <summary>A step as a sentence: "Wait 3 days".</summary>
    /// <param name="letter">The subject of a letter; empty for one that isn't written yet.</param>
    public static string Says(Step step, CatalogueSnapshot now, Func<long, string> letter, bool marked = false)
    {
        string S(string words) => Slot(words, marked);
        return step switch
        {
            Step.SendLetter s => letter(s.Mailing) is { Length: > 0 } subject ? $"Send the letter {S(subject)}"
                : $"Send {S("a letter that isn’t written yet")}",
            Step.PutTag s => $"Put on the tag {S(Tag(s.Tag, now))}",
            Step.TakeTag s => $"Take off the tag {S(Tag(s.Tag, now))}",
            Step.Give s => $"Give {S(Plan(s.Plan, now))} {(s.Days is { } d ? $"for {S(Say.Count(d, "day"))}" : "for good")}",
            Step.EndGift s => $"End {S(Plan(s.Plan, now))} where it was given",
            Step.FillField s => s.Text.Length == 0 ? $"Empty the field {S(Field(s.Field, now))}" : $"Write {S(s.Text)} into the field {S(Field(s.Field, now))}",
            Step.AddTask s => $"Put on Today for the team: {S(s.Text)}",
            Step.AddNote s => $"Note of them: {S(s.Text)}",
            Step.TellProgram s => $"Tell another program: {S(s.Url.Length == 0 ? "no address yet" : s.Url)}",
            Step.Wait s => "Wait " + S(s.Days == 0 ? Say.Count(s.Hours, "hour") : s.Hours == 0 ? Say.Count(s.Days, "day")
                : $"{Say.Count(s.Days, "day")} and {Say.Count(s.Hours, "hour")}"),
            Step.WaitForTime s => "Wait until it is " + S((s.Weekday is { } w ? now.Culture.DateTimeFormat.GetDayName((DayOfWeek)(w % 7)) + ", " : "")
                + s.At.ToString("HH:mm", now.Culture)),
            Step.WaitForDay s => $"Wait until {S(s.At.ToString("d MMMM uuuu, HH:mm", now.Culture))}",
            Step.WaitFor s => $"Wait until somebody {S(Does(s.What, now))}, or {S(Say.Count(s.Days, "day"))} at most",
            Step.Branch s => $"Do they belong to {S(Audience(s.Who, now))}?",
            Step.Split s => $"By chance {S($"{s.Percent} of 100")} go one way",
            Step.Stop => "It ends here",
            _ => throw new InvalidOperationException($"No such step: {step}"),
        };
    }

    static string Plan(PlanId id, CatalogueSnapshot now) => now.PlanName(id) is { Length: > 0 } n ? n : "a plan that is gone";
    static string Field(OwnFieldId id, CatalogueSnapshot now) => now.People.FieldById.GetValueOrDefault(id)?.Name ?? "that is gone";

    /// <summary>What stands over the two ways of a fork.</summary>
    public static (string Then, string Else) Ways(Step.Fork fork) => fork switch
    {
        Step.WaitFor => ("When it happens", "If the time goes by"),
        Step.Branch => ("Those who do", "Everybody else"),
        Step.Split s => ($"{s.Percent} of 100", $"The other {100 - s.Percent}"),
        _ => throw new InvalidOperationException($"No such fork: {fork}"),
    };

    /// <summary>Which way was gone, for the log.</summary>
    public static string Went(Step.Fork fork, bool way) => fork switch
    {
        Step.WaitFor => way ? "it happened" : "the time went by",
        Step.Branch => way ? "they do" : "they don’t",
        Step.Split => way ? "the one way" : "the other way",
        _ => throw new InvalidOperationException($"No such fork: {fork}"),
    };

    public static string Words(this Again again) => again switch
    {
        Again.Never => "never: each goes through it once",
        Again.WhenThrough => "once they are through",
        Again.FromTheStart => "at once, from the top",
        _ => throw new ArgumentOutOfRangeException(nameof(again), again, "No such rule."),
    };
}
