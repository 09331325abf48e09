using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;

namespace BrightCircle.App.Offer;

/// <summary>What a promise may say.</summary>
static class PromiseRules
{
    const int MostLines = 200, MostNeeds = 5;

    /// <summary>A sentence about the first thing that is wrong; null where nothing is.</summary>
    /// <param name="of">The plan it is the promise of; null for one that isn't there yet.</param>
    public static string? Wrong(CatalogueSnapshot now, IReadOnlyList<Inclusion> lines, PlanId? of)
    {
        if (lines.Count > MostLines) return $"A promise has {MostLines} lines at most.";
        foreach (var line in lines)
        {
            if (Gone(now, line.Covers) is { } gone) return $"{gone} Choose again.";
            if (line.Covers is Coverage.WhatAPlanOpens own && own.Plan == of) return "A plan isn’t its own bonus. Choose another one.";
            if (line.Pace is { } pace && PaceLimits.Wrong(pace) is { } wrong) return wrong;
            if (line.Reach is Reach.LastEditions { Count: < 1 or > Reach.LastEditions.Most })
                return $"The latest editions are a number from 1 to {Reach.LastEditions.Most}.";
            if (line.Needs is { Count: > MostNeeds }) return $"A line asks for {MostNeeds} other things at most.";
            foreach (var need in line.Needs ?? [])
                if (Gone(now, need) is { } missing) return missing;
        }
        return null;
    }

    static string? Gone(CatalogueSnapshot now, Coverage covers) => covers switch
    {
        Coverage.Everything => null,
        Coverage.OnShelf s => now.ShelfById.ContainsKey(s.Shelf) ? null : "One of the shelves is gone.",
        Coverage.OnePiece p => now.PieceById.ContainsKey(p.Piece) ? null : "One of the pieces is gone.",
        Coverage.OneModule m => now.Content.ModuleById.ContainsKey(m.Module) ? null : "One of the modules is gone.",
        Coverage.OneLesson l => now.LessonById.ContainsKey(l.Lesson) ? null : "One of the lessons is gone.",
        Coverage.OneSeries s => now.Community.SeriesById.ContainsKey(s.Series) ? null : "Some of the live sessions are gone.",
        Coverage.OneSpace s => !now.SpaceById.TryGetValue(s.Space, out var space) ? "One of the spaces is gone."
            : space.LikeId is null ? null : $"{space.Name} opened with an edition: promise the space it is made like.",
        Coverage.OneTally t => now.TallyById.ContainsKey(t.Tally) ? null : "One of the tallies is gone.",
        Coverage.WhatAPlanOpens p => now.PlanById.ContainsKey(p.Plan) ? null : "The plan that comes along is gone.",
        _ => throw new InvalidOperationException($"No such coverage: {covers}"),
    };

    static string? Gone(CatalogueSnapshot now, Need need) => need switch
    {
        Need.HoldingPlan p => now.PlanById.ContainsKey(p.Plan) ? null : "The other plan that a line asks for is gone.",
        Need.DoneLesson l => now.LessonById.ContainsKey(l.Lesson) ? null : "The lesson that a line asks for is gone.",
        Need.DonePiece p => now.PieceById.ContainsKey(p.Piece) ? null : "The piece that a line asks for is gone.",
        _ => throw new InvalidOperationException($"No such need: {need}"),
    };
}
