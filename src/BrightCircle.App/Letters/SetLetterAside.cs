using BrightCircle.App.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Somebody of the team has seen to letters that couldn’t be delivered: they don’t stand on Today any more.</summary>
public sealed class SetLetterAside(BrightContext db, IClock clock)
{
    /// <param name="id">One letter; null for all that wait.</param>
    public async Task<Result<int>> Do(TeamActor by, long? id, CancellationToken ct)
    {
        by.NeedSupport();
        var at = clock.GetCurrentInstant();
        return await db.Letters.Where(l => l.State == LetterState.Refused && l.SetAsideAt == null && (id == null || l.Id == id))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.SetAsideAt, at).SetProperty(l => l.SetAsideBy, by.Name), ct);
    }
}
