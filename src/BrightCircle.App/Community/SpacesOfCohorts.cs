using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Spaces for those who start a piece together: each is open to its cohort by itself, as the piece is.</summary>
public sealed class SpacesOfCohorts(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    /// <returns>The one that is there, where there is one.</returns>
    public async Task<Result<SpaceId>> Make(TeamActor by, CohortId id, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (now.Paces.CohortById.GetValueOrDefault(id) is not { } cohort) return Result.Refused("This cohort isn’t here any more.");
        if (now.Community.SpaceOf(id) is { } there) return there.Id;
        var (piece, day) = (now.PieceById[cohort.Piece], now.Calendar.Date(cohort.StartsAt).ToString("d MMMM uuuu", now.Culture));
        // Two of one name: the second says the day they begin.
        if (new[] { cohort.Name, day }.Select(one => Space.NameOf(piece.Title, one)).FirstOrDefault(name => !now.Community.HasSpaceCalled(name))
            is not { } free)
            return Result.Refused($"There is a space called {Space.NameOf(piece.Title, day)} already. Give one of them another name first.");
        var space = db.Add(new Space
        {
            Id = ids.Next<SpaceId>(),
            Name = free,
            Door = Bounded.To($"For everybody who starts {piece.Title} together on {day}.", Space.MostDoor),
            Colour = now.ShelfById[piece.ShelfId].Colour,
            PieceId = piece.Id,
            CohortId = id,
            Order = now.Community.NextOrder,
            MadeAt = clock.GetCurrentInstant(),
        }).Entity;
        deeds.Note(by, $"made the space {free}", $"/desk/spaces/{space.Id.Value}");
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody made it at the same moment. Look again.");
        }
        await catalogue.Changed(ct);
        return space.Id;
    }
}
