namespace BrightCircle.Core.Routines;

/// <summary>What happens where somebody would begin a routine whom it had before.</summary>
public enum Again
{
    /// <summary>Nothing: each goes through it once.</summary>
    Never,
    /// <summary>They begin anew once they are through; meanwhile nothing.</summary>
    WhenThrough,
    /// <summary>They begin anew at once, and what they were in the middle of ends.</summary>
    FromTheStart,
}

/// <summary>What a routine does: when it begins and for whom, step by step, and what it is for.</summary>
/// <param name="And">Only for those who belong to this audience at that moment; null for everybody.</param>
/// <param name="Goal">Whoever does this is through at once, wherever they stand; null for none.</param>
/// <param name="LastId">The highest number a step ever had.</param>
/// <param name="Gone">For each step that was taken out: the one that followed it; 0 for the end.</param>
public sealed record Script(Trigger When, AudienceId? And, Again Again, Trigger? Goal, IReadOnlyList<Step> Steps, int LastId, IReadOnlyDictionary<int,
    int> Gone)
{
    public const int MostSteps = 60, MostDeep = 4;

    public static Script Of(Trigger when, params IReadOnlyList<Step> steps) =>
        new(when, null, Again.WhenThrough, null, steps, steps.SelectMany(s => s.All()).Select(s => s.Id).DefaultIfEmpty().Max(), new Dictionary<int, int>());

    /// <summary>Every step, in reading order.</summary>
    public IEnumerable<Step> All() => Steps.SelectMany(s => s.All());

    /// <summary>The first step; 0 where there is none.</summary>
    public int First => Steps.Count == 0 ? 0 : Steps[0].Id;

    /// <summary>Where somebody stands who stood before a step: there, or, where it was taken out, before what followed it. 0 for the end.</summary>
    public int Standing(int step)
    {
        // Numbers aren't used twice, and what followed a step was there when it went: the chain ends.
        while (step != 0 && Find(step) is null) step = Gone.GetValueOrDefault(step);
        return step;
    }

    public Step? Find(int id) => All().FirstOrDefault(s => s.Id == id);

    /// <summary>The step that follows one, past all that stands in it; 0 for the end.</summary>
    public int After(int id) => After(Steps, id, 0) ?? 0;

    static int? After(IReadOnlyList<Step> steps, int id, int beyond)
    {
        for (var i = 0; i < steps.Count; i++)
        {
            var next = i + 1 < steps.Count ? steps[i + 1].Id : beyond;
            if (steps[i].Id == id) return next;
            if (steps[i] is Step.Fork f && (After(f.Then, id, next) ?? After(f.Else, id, next)) is { } found) return found;
        }
        return null;
    }

    /// <summary>What those who are in it wait for, or are through by.</summary>
    public IEnumerable<Trigger> Awaited() => All().OfType<Step.WaitFor>().Select(w => w.What).Concat(Goal is { } g ? [g] : []);

    /// <summary>All that it listens for.</summary>
    public IEnumerable<Trigger> Triggers() => Awaited().Append(When);

    // ---- What it rests on, asked before that is taken away. ----

    public bool Names(AudienceId audience) => And == audience || All().Any(s => s is Step.Branch b && b.Who == audience);

    public bool Names(TagId tag) => Triggers().Any(c => c is Trigger.GetsTag t && t.Tag == tag)
        || All().Any(s => s is Step.PutTag p && p.Tag == tag || s is Step.TakeTag t && t.Tag == tag);

    public bool Names(OwnFieldId field) => Triggers().Any(c => c is Trigger.DayOf d && d.Field == field)
        || All().Any(s => s is Step.FillField f && f.Field == field);

    // ---- Changes. Each gives a new script; who stands in the old one goes on by the rules above. ----

    /// <summary>A step put in behind another, or first in a list.</summary>
    /// <param name="behind">0 for the beginning; a fork's number with a way for the beginning of that way.</param>
    /// <param name="way">Null for behind the step itself; true for the one way of a fork, false for the other.</param>
    /// <param name="make">Makes it with its number.</param>
    public Script Add(int behind, bool? way, Func<int, Step> make)
    {
        var step = make(LastId + 1);
        var steps = behind == 0 ? [step, .. Steps] : Change(Steps, behind, s => way is null ? [s, step]
            : s is Step.Fork f ? [way.Value ? f with { Then = [step, .. f.Then] } : f with { Else = [step, .. f.Else] }] : [s, step]);
        return this with { Steps = steps, LastId = LastId + 1 };
    }

    /// <summary>A step changed in its place; the ways of a fork stay.</summary>
    public Script Replace(Step step) => this with
    {
        Steps = Change(Steps, step.Id, s => [step is Step.Fork f && s is Step.Fork old ? f with { Then = old.Then, Else = old.Else } : step]),
    };

    /// <summary>A step taken out, with all that stands in it. Whoever stands there goes on with what followed it.</summary>
    public Script Remove(int id)
    {
        if (Find(id) is not { } step) return this;
        var after = After(id);
        var gone = new Dictionary<int, int>(Gone);
        foreach (var s in step.All()) gone[s.Id] = after;
        return this with { Steps = Change(Steps, id, _ => []), Gone = gone };
    }

    /// <summary>A step moved by one among those beside it; at the edge it stays.</summary>
    public Script Move(int id, bool up) => this with { Steps = Move(Steps, id, up) };

    static IReadOnlyList<Step> Move(IReadOnlyList<Step> steps, int id, bool up)
    {
        var at = steps.ToList().FindIndex(s => s.Id == id);
        if (at < 0) return [.. steps.Select(s => s is Step.Fork f ? f with { Then = Move(f.Then, id, up), Else = Move(f.Else, id, up) } : s)];
        var to = at + (up ? -1 : 1);
        if (to < 0 || to >= steps.Count) return steps;
        var moved = steps.ToArray();
        (moved[at], moved[to]) = (moved[to], moved[at]);
        return moved;
    }

    static IReadOnlyList<Step> Change(IReadOnlyList<Step> steps, int id, Func<Step, IReadOnlyList<Step>> to) =>
        [.. steps.SelectMany(s => s.Id == id ? to(s) : s is Step.Fork f ? [f with { Then = Change(f.Then, id, to), Else = Change(f.Else, id, to) }] : [s])];

    /// <summary>How many forks stand around its deepest step.</summary>
    public int Depth() => Depth(Steps);

    static int Depth(IReadOnlyList<Step> steps) =>
        steps.Select(s => s is Step.Fork f ? 1 + Math.Max(Depth(f.Then), Depth(f.Else)) : 0).DefaultIfEmpty().Max();
}
