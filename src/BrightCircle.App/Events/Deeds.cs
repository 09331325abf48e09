using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Events;

/// <summary>The journal of the house: who of the team changed what everybody meets, and who looked through whose eyes.</summary>
public sealed class Deeds(BrightContext db, Ids ids, IClock clock)
{
    public const int PageSize = 50;

    /// <summary>Writes a line, with whatever else the transaction writes.</summary>
    /// <param name="what">A sentence part that stands after the name: "changed what Keeper promises".</param>
    public void Note(TeamActor by, string what, string path = "") => db.Add(new Deed
    {
        Id = ids.Next(),
        At = clock.GetCurrentInstant(),
        AccountId = by.AccountId,
        By = by.Name,
        What = Bounded.To(what, 400),
        Path = path
    });

    /// <summary>The same by itself.</summary>
    public Task Write(TeamActor by, string what, string path, CancellationToken ct)
    {
        Note(by, what, path);
        return db.SaveChangesAsync(ct);
    }

    /// <summary>The newest first.</summary>
    /// <param name="search">Letters in a row of who it was or what they did, large or small; empty for all.</param>
    public async Task<(IReadOnlyList<Deed> Rows, int Count)> Page(string? search, int page, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var those = db.Deeds.AsNoTracking();
        if (!string.IsNullOrWhiteSpace(search))
        {
            var like = Like.Containing(search);
            those = those.Where(d => EF.Functions.ILike(d.By + " " + d.What, like, Like.Escape));
        }
        var count = trip.Count(those);
        var rows = trip.List(those.OrderByDescending(d => d.At).ThenByDescending(d => d.Id).Skip((Math.Max(1, page) - 1) * PageSize).Take(PageSize));
        await trip.Ask(ct);
        return (rows.Value, count.Value);
    }
}
