using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>Who starts a piece together with whom, and who talks about one.</summary>
public sealed partial class AccessBook
{
    /// <summary>The cohort of a piece a member is in: the one they were put into, else the next after they joined, else the last.</summary>
    static Cohort? CohortOf(MemberFacts facts, MemberFacts.Held held, in Entry thing)
    {
        if (thing.Cohorts is not { } all) return null;
        Cohort? next = null;
        for (var i = all.Length - 1; i >= 0; i--)
        {
            if (facts.Cohorts.Contains(all[i].Id)) return all[i];
            if (all[i].StartsAt >= held.PaceFrom) next = all[i];
        }
        return next ?? all[^1];
    }

    /// <summary>Whether somebody to whom a piece is open at a moment reads what is said about it, and whether they write: who has left and keeps the piece
    /// reads along.</summary>
    /// <param name="cohort">Only with what is held by which they start the piece with this cohort, from the day it is theirs on: they were put into it, or
    /// go at its pace. Null for whatever opens the piece. What is open to everybody makes nobody one of a cohort.</param>
    public (bool Reads, bool Writes) TalksAbout(MemberFacts facts, PieceId piece, CohortId? cohort, Instant moment)
    {
        if (!positions.TryGetValue(piece, out var position)) return default;
        var decision = Decide(facts, entries[position], moment);
        if (!decision.IsOpen) return default;
        if (facts.IsTeam || cohort is null && decision.Rule != AccessRule.KeptAfterLeaving) return (true, true);
        var (thing, reads) = (entries[position], false);
        foreach (var held in facts.held)
        {
            if (PromiseOf(held) is not { } promise) continue;
            foreach (var rule in promise.Rules)
            {
                if (!Covered(rule, thing) || cohort is { } with && !StartsWith(with, facts, held, promise, rule, thing)) continue;
                var opens = Opens(facts, held, promise, rule, thing);
                var by = By(facts, held, rule, thing, opens, moment);
                if (!by.Opens() || opens.At > moment) continue;
                if (by != AccessRule.KeptAfterLeaving) return (true, true);
                reads = true;
            }
        }
        return (reads, false);
    }

    /// <summary>Everybody has a next cohort; only those whose parts are counted from its start, or who were put into it, start with it.</summary>
    bool StartsWith(CohortId cohort, MemberFacts facts, MemberFacts.Held held, Promised promise, Rule rule, in Entry thing)
    {
        if (CohortOf(facts, held, thing)?.Id != cohort) return false;
        if (facts.Cohorts.Contains(cohort)) return true;
        if (!lessonsOf.TryGetValue(new(thing.Piece), out var range) || range.Count == 0) return false;
        var (pace, timeline, _) = PaceFor(facts, held, promise, rule, entries[range.From]);
        return pace is Pace.Steps { From: PaceFrom.Cohort } || timeline?.Cohort == cohort;
    }
}
