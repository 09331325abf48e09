using System.Diagnostics;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Access;

/// <summary>Those to whom a change does one thing: opens, closes, or moves something.</summary>
public sealed class Touched
{
    /// <summary>So many are named.</summary>
    public const int Most = 100;
    readonly List<(MemberId Id, string Name)> named = [];

    public int Count { get; private set; }
    /// <summary>How many things it is for whom it is fewest, and most.</summary>
    public int Fewest { get; private set; }
    public int Mostly { get; private set; }
    public IReadOnlyList<(MemberId Id, string Name)> Named => named;

    internal void Add(Holder holder, int things)
    {
        if (things == 0) return;
        (Fewest, Mostly) = (Count == 0 ? things : Math.Min(Fewest, things), Math.Max(Mostly, things));
        if (Count++ < Most) named.Add((holder.Id, holder.Name));
    }
}

/// <summary>What a change of promises or paces does to real members, worked out before it is saved.</summary>
public sealed class EffectOnMembers
{
    /// <summary>How many hold what is changed.</summary>
    public int Looked { get; private set; }
    /// <summary>For how many of them anything is another than before.</summary>
    public int Changed { get; private set; }
    public Touched Opens { get; } = new();
    public Touched Closes { get; } = new();
    public Touched Sooner { get; } = new();
    public Touched Later { get; } = new();
    /// <summary>The longest of the moves.</summary>
    public Duration Furthest { get; private set; }
    public TimeSpan Took { get; private set; }

    internal static async Task<EffectOnMembers> Of(IAsyncEnumerable<Holder> holders, AccessDifference difference, Instant at)
    {
        var (effect, watch) = (new EffectOnMembers(), Stopwatch.StartNew());
        await foreach (var holder in holders)
        {
            effect.Looked++;
            var one = difference.Of(holder.FactsAt(at));
            if (one.IsNone) continue;
            effect.Changed++;
            effect.Opens.Add(holder, one.Opens);
            effect.Closes.Add(holder, one.Closes);
            effect.Sooner.Add(holder, one.Sooner);
            effect.Later.Add(holder, one.Later);
            effect.Furthest = Duration.Max(effect.Furthest, one.Furthest);
        }
        effect.Took = watch.Elapsed;
        return effect;
    }
}

/// <summary>Asks over the members whom a change concerns.</summary>
public sealed class WhatChanges(MemberReader reader, Catalogue catalogue, IClock clock)
{
    /// <param name="after">The book as it would be.</param>
    /// <param name="plans">Whose holders are looked at; all holders where null.</param>
    /// <param name="moved">The plans whose holders would be moved to the book's present promise.</param>
    public Task<EffectOnMembers> Of(AccessBook after, IReadOnlyCollection<PlanId>? plans, IReadOnlySet<PlanId>? moved, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        return EffectOnMembers.Of(reader.Holders(plans, ct), new(catalogue.Now.Book, after, at, moved), at);
    }
}
