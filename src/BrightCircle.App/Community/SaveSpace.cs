using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A space as it is typed.</summary>
public sealed record SpaceDraft(string? Name, SpaceKind Kind, string? Door, string? Manners, int Colour, bool ForGuests, IReadOnlyList<string?>? Nods,
    long? Piece = null, IReadOnlyList<long>? Hosts = null, bool ByEdition = false)
{
    public static SpaceDraft Empty { get; } = new("", SpaceKind.Talk, "", "", 1, false, [.. Space.UsualNods]);
    public static SpaceDraft Of(Space s) => new(s.Name, s.Kind, s.Door, s.Manners, s.Colour, s.ForGuests, [.. s.Nods], s.PieceId?.Value,
        s.HostIds, s.ByEdition);
}

/// <summary>Spaces: made, changed, closed and taken away by the team.</summary>
public sealed class SaveSpace(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    public async Task<Result<SpaceId>> Do(TeamActor by, SpaceId? id, SpaceDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var (name, door, manners) = (draft.Name?.Trim() ?? "", draft.Door?.Trim() ?? "", draft.Manners?.Trim() ?? "");
        if (name.Length is 0 or > Space.MostName) return Result.Refused($"A space needs a name of {Space.MostName} letters at most.", "Name");
        if (door.Length > Space.MostDoor) return Result.Refused($"{Space.MostDoor} letters are the most.", "Door");
        if (manners.Length > Space.MostManners) return Result.Refused($"{Space.MostManners} letters are the most.", "Manners");
        if (!Enum.IsDefined(draft.Kind)) return Result.Refused("Choose what it is for.", "Kind");
        if (draft.Colour is < 1 or > 8) return Result.Refused("Choose one of the colours.", "Colour");
        string[] nods = [.. (draft.Nods ?? []).Select(n => n?.Trim() ?? "")];
        if (nods.Length != Space.Words || nods.Any(n => n.Length is 0 or > Space.MostWord) ||
            nods.Distinct(StringComparer.CurrentCultureIgnoreCase).Count() < Space.Words)
            return Result.Refused($"Three different words to agree with, of {Space.MostWord} letters at most.", "Nods");
        if (catalogue.Now.Community.HasSpaceCalled(name, id))
            return Result.Refused($"There is a space called {name} already.", "Name");
        PieceId? piece = draft.Piece is { } of ? new(of) : null;
        if (piece is { } p && !catalogue.Now.PieceById.ContainsKey(p)) return Result.Refused("This piece isn’t here any more.", "Piece");
        if (draft.ByEdition && piece is not null) return Result.Refused("It belongs to a piece, or one opens with each edition: choose one of them.", "Piece");
        if (draft.ByEdition && id is { } open && catalogue.Now.SpaceById.GetValueOrDefault(open) is { ByEdition: false }
            && await db.TalkThreads.AnyAsync(t => t.SpaceId == open, ct))
            return Result.Refused("People have talked in it. Make a new space for the editions.", "ByEdition");
        if (draft.Hosts?.Count > Space.MostHosts) return Result.Refused($"{Space.MostHosts} hosts are the most.", "Hosts");
        long[] named = [.. (draft.Hosts ?? []).Distinct()];
        // Whoever isn’t a host any more isn’t one here.
        long[] hosts = named.Length == 0 ? [] : [.. await Hosts.Where(h => named.Contains(h.Id)).Select(h => h.Id).ToListAsync(ct)];
        var at = clock.GetCurrentInstant();
        var space = id is { } known ? await db.Spaces.FirstOrDefaultAsync(s => s.Id == known, ct) : db.Add(new Space
        {
            Id = ids.Next<SpaceId>(),
            MadeAt = at,
            Order = catalogue.Now.Community.NextOrder,
        }).Entity;
        if (space is null) return Gone;
        // The space of a cohort stays with its piece, and opens by that alone.
        if (space.CohortId is not null) (piece, draft) = (space.PieceId, draft with { ForGuests = false, ByEdition = false });
        (space.Name, space.Kind, space.Door, space.Manners, space.Colour, space.ForGuests, space.Nods, space.PieceId, space.HostIds, space.ByEdition) =
            (name, draft.Kind, door, manners, draft.Colour, draft.ForGuests, nods, piece, hosts,
                draft.ByEdition && space.LikeId is null);
        deeds.Note(by, $"{(id is null ? "made" : "changed")} the space {name}", $"/desk/spaces/{space.Id.Value}");
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a space called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return space.Id;
    }

    IQueryable<Account> Hosts => db.Users.AsNoTracking().Where(a => a.Role == TeamRole.Host).OrderBy(a => a.Name).ThenBy(a => a.Id);

    /// <summary>The hosts of the team, of whom a space can have some to itself.</summary>
    public async Task<IReadOnlyList<(long Id, string Name)>> TeamHosts(CancellationToken ct) =>
        [.. (await Hosts.Take(Space.MostHosts).Select(a => new { a.Id, a.Name }).ToListAsync(ct)).Select(a => (a.Id, a.Name))];

    /// <summary>Nothing is written in it any more, or again.</summary>
    public async Task<Result> Close(TeamActor by, SpaceId id, bool closed, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Spaces.FirstOrDefaultAsync(s => s.Id == id, ct) is not { } space) return Gone;
        if (space.ClosedAt is not null == closed) return Result.Done;
        space.ClosedAt = closed ? clock.GetCurrentInstant() : null;
        deeds.Note(by, $"{(closed ? "closed" : "opened")} the space {space.Name}", $"/desk/spaces/{id.Value}");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>One place up or down among the others.</summary>
    public async Task<Result> Move(TeamActor by, SpaceId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        var all = await db.Spaces.OrderBy(s => s.Order).ThenBy(s => s.Id).ToListAsync(ct);
        var at = all.FindIndex(s => s.Id == id);
        if (at < 0) return Gone;
        var to = Math.Clamp(at + Math.Sign(step), 0, all.Count - 1);
        (all[at], all[to]) = (all[to], all[at]);
        for (var i = 0; i < all.Count; i++) all[i].Order = i + 1;
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes away a space in which nobody ever wrote and which nothing names.</summary>
    public async Task<Result> Remove(TeamActor by, SpaceId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (catalogue.Now.PlansNaming(id).Any())
            return Result.Refused("A promise names this space. Change the promise first.");
        if (catalogue.Now.Spaces.Any(s => s.LikeId == id)) return Result.Refused("Spaces of editions were made like it, and it says who comes into them.");
        if (await db.TalkThreads.AnyAsync(t => t.SpaceId == id,
            ct)) return Result.Refused("People have talked in it: it can be closed, and what they said stays.");
        if (await db.Spaces.Where(s => s.Id == id).ExecuteDeleteAsync(ct) == 0) return Gone;
        await catalogue.Changed(ct);
        return Result.Done;
    }

    static Result Gone => Result.Refused("This space isn’t here any more.");
}
