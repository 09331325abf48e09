using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>People who start a piece together on a named day.</summary>
public sealed class Cohorts(BrightContext db, Ids ids, Catalogue catalogue)
{
    const int Most = 200;

    /// <param name="id">Null for a new one.</param>
    /// <param name="copy">A cohort whose own timeline the new one begins with.</param>
    public async Task<Result<CohortId>> Save(TeamActor by, PieceId piece, CohortId? id, string? name, LocalDateTime? starts, CohortId? copy,
        CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (!now.PieceById.ContainsKey(piece)) return Result.Refused("This piece isn’t here any more.");
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused("A cohort needs a name of 80 letters at most.", "Name");
        if (starts is not { Year: >= 2000 and <= 2200 } start) return Result.Refused("Say when it starts.", "Starts");
        if (now.Paces.CohortsOf[piece].Any(c => c.Id != id && string.Equals(c.Name, name, StringComparison.CurrentCultureIgnoreCase)))
            return Result.Refused($"There is a cohort called {name} already.", "Name");
        if (id is null && now.Paces.CohortsOf[piece].Count() >= Most) return Result.Refused($"A piece has {Most} cohorts at most.");
        var cohort = new Cohort(id ?? ids.Next<CohortId>(), piece, name, now.Calendar.At(start));
        if (id is { } known)
        {
            var changed = await db.Cohorts.Where(c => c.Id == known && c.Piece == piece).ExecuteUpdateAsync(
                u => u.SetProperty(c => c.Name, cohort.Name).SetProperty(c => c.StartsAt, cohort.StartsAt), ct);
            if (changed == 0) return Result.Refused("This cohort isn’t here any more.");
        }
        else
        {
            db.Add(cohort);
            if (copy is { } from && now.Paces.TimelinesOf[piece].FirstOrDefault(t => t.Cohort == from) is { } line)
                db.Add(new PiecePace { Id = ids.Next(), PieceId = piece, CohortId = cohort.Id, Pace = line.Pace, Moves = line.Moves });
            await db.SaveChangesAsync(ct);
        }
        await catalogue.Changed(ct);
        return cohort.Id;
    }

    /// <summary>Takes a cohort away that has no space; who was in it starts with the next.</summary>
    public async Task<Result> Remove(TeamActor by, PieceId piece, CohortId id, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // What was said among some isn't opened to all, and no space is made meanwhile.
        await db.Database.ExecuteSqlAsync($"select 1 from cohorts where id = {id.Value} for update", ct);
        if (await db.Spaces.AnyAsync(s => s.CohortId == id, ct))
            return Result.Refused("It has a space. Take that away first; if people have talked in it, close it and let the cohort be.");
        if (await db.Cohorts.Where(c => c.Id == id && c.Piece == piece).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This cohort isn’t here any more.");
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Puts somebody into a cohort, and out of any other of the same piece.</summary>
    public async Task<Result> Put(TeamActor by, PieceId piece, CohortId id, string? email, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Support);
        var address = email?.Trim() ?? "";
        if (await db.Members.Where(m => m.Email == address).Select(m => (MemberId?)m.Id).FirstOrDefaultAsync(ct) is not { } member)
            return Result.Refused($"Nobody has the address “{address}”.", "Email");
        var own = catalogue.Now.Paces.CohortsOf[piece].Select(c => c.Id).ToArray();
        if (!own.Contains(id)) return Result.Refused("This cohort isn’t here any more.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.CohortMembers.Where(c => c.MemberId == member && own.Contains(c.CohortId)).ExecuteDeleteAsync(ct);
        db.Add(new CohortMember { CohortId = id, MemberId = member });
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    public async Task<Result> Out(TeamActor by, CohortId id, MemberId member, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Support);
        await db.CohortMembers.Where(c => c.CohortId == id && c.MemberId == member).ExecuteDeleteAsync(ct);
        return Result.Done;
    }

    /// <summary>Who was put into each cohort of a piece by hand.</summary>
    public async Task<ILookup<CohortId, (MemberId Id, string Name)>> PutIn(PieceId piece, CancellationToken ct) =>
        (await db.CohortMembers.Where(c => db.Cohorts.Any(x => x.Id == c.CohortId && x.Piece == piece))
            .Join(db.Members, c => c.MemberId, m => m.Id, (c, m) => new { c.CohortId, m.Id, m.Name }).OrderBy(x => x.Name).Take(2000).ToListAsync(ct))
            .ToLookup(x => x.CohortId, x => (x.Id, x.Name));
}
