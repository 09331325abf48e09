using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A trigger as it is typed. What its kind doesn't need is left alone.</summary>
public sealed class TriggerInput
{
    public string? Kind { get; set; }
    public List<long> Plans { get; set; } = [];
    public long Price { get; set; }
    public string? Returning { get; set; }
    public long Piece { get; set; }
    public long Lesson { get; set; }
    public string? Passed { get; set; }
    public long Tag { get; set; }
    public long Field { get; set; }
    public string? Days { get; set; }
    public bool EveryYear { get; set; }
    public long Tally { get; set; }
    public bool Missed { get; set; }
    public string? Name { get; set; }

    /// <summary>What there is, with the words that follow "somebody".</summary>
    /// <param name="days">Also what is looked for every morning.</param>
    public static IEnumerable<(string Key, string Words)> Kinds(bool days)
    {
        (string, string)[] all =
        [
            ("joins", "joins a plan"), ("gets", "is given a plan"), ("pays", "pays"), ("payment-fails", "has a payment fail"),
            ("recovers", "pays after one failed"), ("leaves", "decides to leave"), ("plan-ends", "no longer holds a plan"), ("opens", "opens something"),
            ("finishes", "finishes a lesson"), ("hands-in", "hands something in"), ("gets-tag", "gets a tag"), ("signs-in", "signs in"),
            ("reported", "is reported by another program"),
        ];
        return days ? all.Concat([("edition-opens", "has an edition open for them"), ("day-of", "has a day of their own"),
            ("not-seen", "wasn’t here for a while"),
            ("tally-week", "met or missed a tally’s week")]) : all;
    }

    public bool IsOfPlans => Kind is "joins" or "gets" or "pays" or "payment-fails" or "recovers" or "leaves" or "plan-ends";

    static bool? Either(string? typed) => typed switch { "yes" => true, "no" => false, _ => null };
    static string? Either(bool? value) => value switch { true => "yes", false => "no", null => null };

    /// <returns>Null where the kind is none, or a number isn't one.</returns>
    public Trigger? Read()
    {
        IReadOnlyList<PlanId> plans = [.. Plans.Distinct().Select(p => new PlanId(p))];
        var days = int.TryParse(Days, System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : string.IsNullOrWhiteSpace(Days) ? 0 : -1;
        return Kind switch
        {
            "joins" => new Trigger.Joins(plans, Price > 0 ? new PriceId(Price) : null, Either(Returning)),
            "gets" => new Trigger.Gets(plans),
            "pays" => new Trigger.Pays(plans),
            "payment-fails" => new Trigger.PaymentFails(plans),
            "recovers" => new Trigger.Recovers(plans),
            "leaves" => new Trigger.Leaves(plans),
            "plan-ends" => new Trigger.PlanEnds(plans),
            "opens" => new Trigger.Opens(Piece > 0 ? new(Piece) : null),
            "finishes" => new Trigger.Finishes(new(Lesson)),
            "hands-in" => new Trigger.HandsIn(new(Lesson), Either(Passed)),
            "gets-tag" => new Trigger.GetsTag(new(Tag)),
            "signs-in" => new Trigger.SignsIn(),
            "reported" => new Trigger.Reported(Name?.Trim() ?? ""),
            "edition-opens" => new Trigger.EditionOpens(),
            "day-of" => new Trigger.DayOf(new(Field), days, EveryYear),
            "not-seen" => new Trigger.NotSeen(days),
            "tally-week" => new Trigger.TallyWeek(new(Tally), !Missed),
            _ => null,
        };
    }

    public static TriggerInput Of(Trigger? trigger)
    {
        var i = new TriggerInput();
        if (trigger is Trigger.OfPlans plans) i.Plans = [.. plans.Plans.Select(p => p.Value)];
        static string Number(int n) => n.ToString(System.Globalization.CultureInfo.InvariantCulture);
        switch (trigger)
        {
            case null: i.Kind = ""; break;
            case Trigger.Joins t: (i.Kind, i.Price, i.Returning) = ("joins", t.Price?.Value ?? 0, Either(t.Returning)); break;
            case Trigger.Gets: i.Kind = "gets"; break;
            case Trigger.Pays: i.Kind = "pays"; break;
            case Trigger.PaymentFails: i.Kind = "payment-fails"; break;
            case Trigger.Recovers: i.Kind = "recovers"; break;
            case Trigger.Leaves: i.Kind = "leaves"; break;
            case Trigger.PlanEnds: i.Kind = "plan-ends"; break;
            case Trigger.Opens t: (i.Kind, i.Piece) = ("opens", t.Piece?.Value ?? 0); break;
            case Trigger.Finishes t: (i.Kind, i.Lesson) = ("finishes", t.Lesson.Value); break;
            case Trigger.HandsIn t: (i.Kind, i.Lesson, i.Passed) = ("hands-in", t.Lesson.Value, Either(t.Passed)); break;
            case Trigger.GetsTag t: (i.Kind, i.Tag) = ("gets-tag", t.Tag.Value); break;
            case Trigger.SignsIn: i.Kind = "signs-in"; break;
            case Trigger.Reported t: (i.Kind, i.Name) = ("reported", t.Name); break;
            case Trigger.EditionOpens: i.Kind = "edition-opens"; break;
            case Trigger.DayOf t: (i.Kind, i.Field, i.Days, i.EveryYear) = ("day-of", t.Field.Value, Number(t.DaysBefore), t.EveryYear); break;
            case Trigger.NotSeen t: (i.Kind, i.Days) = ("not-seen", Number(t.Days)); break;
            case Trigger.TallyWeek t: (i.Kind, i.Tally, i.Missed) = ("tally-week", t.Tally.Value, !t.Met); break;
            default: throw new InvalidOperationException($"No such trigger: {trigger}");
        }
        return i;
    }
}
