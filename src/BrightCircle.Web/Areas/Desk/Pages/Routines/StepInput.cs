using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A step as it is typed. What its kind doesn't need is left alone.</summary>
public sealed class StepInput
{
    public long Tag { get; set; }
    public long Plan { get; set; }
    public string? Days { get; set; }
    public string? Hours { get; set; }
    public int Weekday { get; set; }
    public string? At { get; set; }
    public string? Moment { get; set; }
    public string? Text { get; set; }
    public long Field { get; set; }
    public long Audience { get; set; }
    public string? Percent { get; set; }
    public TriggerInput What { get; set; } = new();

    /// <summary>What can be put in, and how it is called.</summary>
    public static IReadOnlyList<(string Key, string Words)> Kinds { get; } =
    [
        ("letter", "send a letter"), ("wait", "wait for a time"), ("wait-time", "wait until a time of day"), ("wait-day", "wait until a day"),
        ("wait-for", "wait until something happens"), ("branch", "ask whether they belong to an audience"), ("split", "split by chance"),
        ("put-tag", "put on a tag"), ("take-tag", "take off a tag"), ("give", "give a plan"), ("end-gift", "end a gift"), ("fill", "fill in a field"),
        ("task", "put something on Today"), ("note", "make a note"), ("tell", "tell another program"), ("stop", "end here"),
    ];

    public static string Icon(Step step) => step switch
    {
        Step.SendLetter => "bi-envelope",
        Step.PutTag or Step.TakeTag => "bi-tag",
        Step.TellProgram => "bi-plug",
        Step.Give => "bi-gift",
        Step.EndGift => "bi-x-lg",
        Step.FillField => "bi-input-cursor-text",
        Step.AddTask => "bi-check2-square",
        Step.AddNote => "bi-sticky",
        Step.Wait or Step.WaitForTime or Step.WaitForDay or Step.WaitFor => "bi-hourglass-split",
        Step.Branch or Step.Split => "bi-signpost-split",
        Step.Stop => "bi-flag",
        _ => throw new InvalidOperationException($"No such step: {step}"),
    };

    /// <summary>A new step as it is put in, to be changed in place.</summary>
    /// <param name="letter">The letter made for it.</param>
    public static Step? New(CatalogueSnapshot now, string? kind, int id, long letter, NodaTime.Instant at) => kind switch
    {
        "letter" => new Step.SendLetter(id, letter),
        "wait" => new Step.Wait(id, 3, 0),
        "wait-time" => new Step.WaitForTime(id, null, new(9, 0)),
        "wait-day" => new Step.WaitForDay(id, now.Calendar.Date(at).PlusDays(7).At(new NodaTime.LocalTime(9, 0))),
        "wait-for" => new Step.WaitFor(id, new Trigger.SignsIn(), 3, [], []),
        "branch" => new Step.Branch(id, now.Audiences.FirstOrDefault()?.Id ?? default, [], []),
        "split" => new Step.Split(id, 50, [], []),
        "put-tag" => new Step.PutTag(id, ByHand(now)),
        "take-tag" => new Step.TakeTag(id, ByHand(now)),
        "give" => new Step.Give(id, now.Plans.FirstOrDefault()?.Id ?? default, 14),
        "end-gift" => new Step.EndGift(id, now.Plans.FirstOrDefault()?.Id ?? default),
        "fill" => new Step.FillField(id, now.OwnFields.FirstOrDefault()?.Id ?? default, ""),
        "task" => new Step.AddTask(id, "Have a look at this."),
        "note" => new Step.AddNote(id, "Went through this routine."),
        "tell" => new Step.TellProgram(id, ""),
        "stop" => new Step.Stop(id),
        _ => null,
    };

    static TagId ByHand(CatalogueSnapshot now) => now.Tags.FirstOrDefault(t => !t.IsByItself)?.Id ?? default;

    /// <summary>What would be missing for a new step of a kind, in a sentence; null where nothing is.</summary>
    public static string? Missing(string? kind, CatalogueSnapshot now) => kind switch
    {
        "branch" when now.Audiences.Count == 0 => "There is no audience yet: make one first.",
        "put-tag" or "take-tag" when ByHand(now) == default => "There is no tag yet that is put on by hand: make one first.",
        "give" or "end-gift" when now.Plans.Count == 0 => "There is no plan yet: make one first.",
        "fill" when now.OwnFields.Count == 0 => "There is no own field yet: make one first.",
        _ => null,
    };

    /// <summary>The step changed as typed; a refusal where something can't be read.</summary>
    public Result<Step> Read(Step step)
    {
        static int? Whole(string? typed) => string.IsNullOrWhiteSpace(typed) ? null
            : int.TryParse(typed, System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : -1;
        switch (step)
        {
            case Step.PutTag s: return s with { Tag = new(Tag) };
            case Step.TakeTag s: return s with { Tag = new(Tag) };
            case Step.Give s: return s with { Plan = new(Plan), Days = Whole(Days) };
            case Step.EndGift s: return s with { Plan = new(Plan) };
            case Step.FillField s: return s with { Field = new(Field), Text = Text?.Trim() ?? "" };
            case Step.AddTask s: return s with { Text = Text?.Trim() ?? "" };
            case Step.AddNote s: return s with { Text = Text?.Trim() ?? "" };
            case Step.TellProgram s: return s with { Url = Text?.Trim() ?? "" };
            case Step.Wait s: return s with { Days = Whole(Days) ?? 0, Hours = Whole(Hours) ?? 0 };
            case Step.WaitForTime s:
                if (!LocalInput.TryReadTime(At, out var at)) return Result.Refused($"“{At}” isn’t a time of day.", "Step");
                return s with { At = at, Weekday = Weekday == 0 ? null : Weekday };
            case Step.WaitForDay s:
                if (!LocalInput.TryReadMoment(Moment, out var moment)) return Result.Refused("Say on which day, and when.", "Step");
                return s with { At = moment };
            case Step.WaitFor s:
                if (What.Read() is not { } what) return Result.Refused("Choose what is waited for.", "Step");
                return s with { What = what, Days = Whole(Days) ?? 0 };
            case Step.Branch s: return s with { Who = new(Audience) };
            case Step.Split s: return s with { Percent = Whole(Percent) ?? 0 };
            // There is nothing to type: a letter is written on a page of its own.
            case Step.SendLetter or Step.Stop: return step;
            default: throw new InvalidOperationException($"No such step: {step}");
        }
    }
}
