using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

/// <summary>What the form of a piece's facts offers: pictures for its cover, and patterns for its lessons.</summary>
public sealed class PieceChoices(BrightContext db)
{
    /// <param name="chosen">This picture comes along whatever its age.</param>
    public async Task<(IReadOnlyList<StoredFile> Pictures, IReadOnlyList<LessonPattern> Patterns)> Do(FileId? chosen, int most, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var newest = trip.List(db.Files.AsNoTracking().Where(f => f.Kind == FileKind.Picture).OrderByDescending(f => f.Id).Take(most));
        var own = trip.First(db.Files.AsNoTracking().Where(f => f.Id == chosen));
        var patterns = trip.List(LessonPatterns.InOrder(db));
        await trip.Ask(ct);
        return (newest.Value.Exists(f => f.Id == chosen) || own.Value is not { } cover ? newest.Value : [cover, .. newest.Value], patterns.Value);
    }
}
