using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Routines;

/// <summary>Where one member is in a routine.</summary>
/// <param name="Step">The step they stand before; 0 when they are through.</param>
/// <param name="Until">While a wait is under way: its end.</param>
/// <param name="Came">What the wait is for has happened.</param>
/// <param name="Turn">How many steps they have done.</param>
public readonly record struct RunState(int Step, Instant? Until = null, bool Came = false, int Turn = 0)
{
    public bool IsThrough => Step == 0;
}

/// <summary>A step as it was done.</summary>
/// <param name="Turn">With run and step its key: the same thing is never done twice.</param>
/// <param name="Way">For a fork: the way that was gone.</param>
public readonly record struct Done(Step Step, int Turn, Instant At, bool? Way = null);

/// <summary>How far a run came.</summary>
/// <param name="Asks">Whether the member belongs to this audience has to be answered before it goes on, after what was done; null where nothing is
/// asked.</param>
public sealed record Progress(RunState State, IReadOnlyList<Done> Did, AudienceId? Asks);

/// <summary>
/// Works through a routine: the script, where a member is, and a moment give what is done and where they are then. It reads no clock and changes nothing.
/// </summary>
public static class Interpreter
{
    /// <param name="run">The run's number, by which chance falls: the same run falls the same way each time.</param>
    /// <param name="answer">For the question it stopped at last: whether the member belongs to that audience; null where nothing was asked.</param>
    public static Progress Advance(Script script, RunState state, Instant now, SiteCalendar calendar, long run, bool? answer = null)
    {
        var did = new List<Done>();
        var at = script.Standing(state.Step);
        // A wait that was taken out is over.
        if (at != state.Step) state = state with { Step = at, Until = null, Came = false };
        while (script.Find(state.Step) is { } step)
        {
            bool? way = null;
            if (step.WaitsUntil(now, calendar) is { } ends)
            {
                var until = state.Until ?? ends;
                if (step is Step.WaitFor && state.Came) way = true;
                else if (until > now) return new(state with { Until = until }, did, null);
                else if (step is Step.WaitFor) way = false;
            }
            else if (step is Step.Branch b)
            {
                if (answer is null) return new(state, did, b.Who);
                (way, answer) = (answer, null);
            }
            else if (step is Step.Split s) way = Chance(run, step.Id) < s.Percent;
            did.Add(new(step, state.Turn, now, way));
            state = new(Next(script, step, way), Turn: state.Turn + 1);
        }
        return new(state with { Step = 0, Until = null, Came = false }, did, null);
    }

    static int Next(Script script, Step step, bool? way)
    {
        if (step is Step.Stop) return 0;
        if (step is Step.Fork f && (way == true ? f.Then : f.Else) is [{ } first, ..]) return first.Id;
        return script.After(step.Id);
    }

    /// <summary>What a run waits for just now; null where it waits for nothing that happens.</summary>
    public static Trigger? WaitsFor(Script script, RunState state) => state.Until is not null && script.Find(state.Step) is Step.WaitFor w ? w.What : null;

    /// <summary>Evenly from 0 to 99, the same for the same run and step.</summary>
    /// <remarks>The finaliser of SplitMix64 (Steele, Lea and Flood 2014, "Fast splittable pseudorandom number generators").</remarks>
    public static int Chance(long run, int step)
    {
        var z = unchecked((ulong)run * 0x9E3779B97F4A7C15UL + (ulong)step);
        z = unchecked((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9UL);
        z = unchecked((z ^ (z >> 27)) * 0x94D049BB133111EBUL);
        return (int)((z ^ (z >> 31)) % 100);
    }

    /// <summary>What would happen to somebody who began now, and when, up to the end.</summary>
    /// <param name="belongs">Whether they belong to an audience; asked as they are today.</param>
    /// <param name="comes">What is waited for comes at once (true), or never (false).</param>
    public static IReadOnlyList<Done> Rehearse(Script script, Instant now, SiteCalendar calendar, long run, Func<AudienceId, bool> belongs, bool comes)
    {
        var all = new List<Done>();
        var state = new RunState(script.First);
        bool? answer = null;
        while (!state.IsThrough)
        {
            if (comes && WaitsFor(script, state) is not null) state = state with { Came = true };
            else if (state.Until is { } until) now = Instant.Max(now, until);
            var next = Advance(script, state, now, calendar, run, answer);
            all.AddRange(next.Did);
            answer = next.Asks is { } who ? belongs(who) : null;
            state = next.State;
        }
        return all;
    }
}
