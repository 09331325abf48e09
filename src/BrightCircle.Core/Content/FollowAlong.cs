using System.Text.Json.Serialization;

namespace BrightCircle.Core.Content;

/// <summary>One step of a follow-along: for a time, or a number of times.</summary>
/// <param name="Seconds">How long it takes, 1 to 7,200; null for a counted step.</param>
/// <param name="Times">How often it is done, 1 to 1,000; null for a timed step.</param>
/// <param name="Picture">A picture or a short clip of it.</param>
/// <param name="RestSeconds">The rest after it, 0 to 3,600; there is none after the very last step.</param>
public sealed record FollowStep(string Title, string Note, int? Seconds, int? Times, int RestSeconds, FileId? Picture)
{
    [JsonIgnore] public bool IsTimed => Seconds is not null;
}

public enum MomentKind { LeadIn, Timed, Counted, Rest }

/// <summary>One stretch of a run as it is played.</summary>
/// <param name="Seconds">How long it lasts; for a counted step an estimate.</param>
public sealed record RunMoment(MomentKind Kind, int Step, int Round, int Seconds);

/// <summary>A step-by-step run: timed and counted steps, rests, rounds, and a countdown that leads into each timed step.</summary>
/// <param name="Rounds">How often the steps are gone through, 1 to 50.</param>
/// <param name="LeadInSeconds">The countdown before each timed step, 0 to 60.</param>
/// <param name="RoundRestSeconds">The rest between rounds, in the place of the last step's own; 0 to 3,600.</param>
/// <param name="SecondsEach">The pace taken for one time of a counted step, for the estimate only; 1 to 600.</param>
/// <param name="Tally">What finishing it offers to mark.</param>
public sealed record FollowAlong(string Title, IReadOnlyList<FollowStep> Steps, int Rounds, int LeadInSeconds, int RoundRestSeconds, int SecondsEach,
    bool Sounds, TallyId? Tally = null)
{
    /// <summary>As many of its rounds and steps as a run can have, whatever is stored.</summary>
    [JsonIgnore]
    public int PlayedRounds => Math.Clamp(
        Rounds, 0, Math.Min(ContentLimits.MostRounds, ContentLimits.MostMoments / 3 / Math.Max(1, PlayedSteps.Count)));
    IReadOnlyList<FollowStep> PlayedSteps => Steps.Count <= ContentLimits.MostSteps ? Steps : [.. Steps.Take(ContentLimits.MostSteps)];

    /// <summary>All that is played, in order.</summary>
    public IReadOnlyList<RunMoment> Unroll()
    {
        var (list, steps, rounds) = (new List<RunMoment>(), PlayedSteps, PlayedRounds);
        for (var round = 1; round <= rounds; round++)
            for (var i = 0; i < steps.Count; i++)
            {
                var s = steps[i];
                if (s.Seconds is { } seconds)
                {
                    if (LeadInSeconds > 0) list.Add(new(MomentKind.LeadIn, i, round, LeadInSeconds));
                    list.Add(new(MomentKind.Timed, i, round, seconds));
                }
                else list.Add(new(MomentKind.Counted, i, round, Counted(s)));
                if (RestAfter(i, round == rounds) is > 0 and var rest) list.Add(new(MomentKind.Rest, i, round, rest));
            }
        return list;
    }

    int Counted(FollowStep s) => (s.Times ?? 1) * SecondsEach;
    int RestAfter(int step, bool lastRound) => step < PlayedSteps.Count - 1 ? PlayedSteps[step].RestSeconds : lastRound ? 0 : RoundRestSeconds;

    /// <summary>Σ timed steps + counted steps at the stated pace + rests + lead-ins, in seconds: one round times their number, less the rest that the last one
    /// doesn't have.</summary>
    [JsonIgnore]
    public int TotalSeconds
    {
        get
        {
            var (steps, rounds) = (PlayedSteps, PlayedRounds);
            if (steps.Count == 0 || rounds == 0) return 0;
            long round = 0;
            for (var i = 0; i < steps.Count; i++)
            {
                round += steps[i].Seconds is { } timed ? timed + Math.Max(0, LeadInSeconds) : Counted(steps[i]);
                round += Math.Max(0, RestAfter(i, lastRound: false));
            }
            return (int)Math.Clamp(round * rounds - Math.Max(0, RoundRestSeconds), 0, int.MaxValue);
        }
    }
}
