using BrightCircle.App.Catalogues;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

public sealed record ShelfDraft(string? Name, string? Mark, int Colour, string? Description, FileId? Cover = null);

/// <summary>A proposal how to divide a shelf that holds too much: its pieces by what they have in common.</summary>
public sealed record ShelfDivision(string Name, IReadOnlyList<Piece> Pieces);

public sealed class SaveShelf(BrightContext db, Ids ids, Catalogue catalogue, IndexContent index)
{
    public async Task<Result<ShelfId>> Do(TeamActor by, ShelfId? id, ShelfDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var name = draft.Name?.Trim() ?? "";
        var mark = draft.Mark?.Trim().ToUpperInvariant() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused("A shelf needs a name of 80 letters at most.", "Name");
        if (catalogue.Now.Shelves.Any(s => s.Id != id && string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase)))
            return Result.Refused($"There is a shelf called {name} already.", "Name");
        if (mark.Length == 0) mark = MarkFor(name);
        if (mark.Length != 2 || !mark.All(char.IsLetterOrDigit)) return Result.Refused("The mark is two letters.", "Mark");
        if (draft.Colour is < 1 or > 8) return Result.Refused("Choose one of the eight colours.", "Colour");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var shelf = id is { } known ? await db.Shelves.SingleAsync(s => s.Id == known, ct)
            : db.Add(new Shelf { Id = ids.Next<ShelfId>(), Order = catalogue.Now.Shelves.Count == 0 ? 1 : catalogue.Now.Shelves.Max(s => s.Order) + 1 }).Entity;
        (shelf.Name, shelf.Mark, shelf.Colour, shelf.Description, shelf.Cover) = (name, mark, draft.Colour, draft.Description?.Trim() ?? "", draft.Cover);
        await db.SaveChangesAsync(ct);
        await index.Shelf(shelf, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return shelf.Id;
    }

    /// <summary>Puts a shelf one place up or down.</summary>
    public async Task<Result> Step(TeamActor by, ShelfId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        var shelves = await db.Shelves.OrderBy(s => s.Order).ThenBy(s => s.Id).ToListAsync(ct);
        var at = shelves.FindIndex(s => s.Id == id);
        if (at < 0) return Result.Refused("This shelf isn’t here any more.");
        var to = Math.Clamp(at + step, 0, shelves.Count - 1);
        var shelf = shelves[at];
        shelves.RemoveAt(at);
        shelves.Insert(to, shelf);
        for (var i = 0; i < shelves.Count; i++) shelves[i].Order = i + 1;
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes an empty shelf down.</summary>
    public async Task<Result> Remove(TeamActor by, ShelfId id, CancellationToken ct)
    {
        by.NeedEditor();
        var left = await db.Pieces.CountAsync(p => p.ShelfId == id, ct);
        if (left > 0)
            return Result.Refused(
            $"{Say.Count(left, "piece")} {(left == 1 ? "stands" : "stand")} on it, those in the trash counted. Move them to another shelf first.");
        if (catalogue.Now.Plans.Any(p => p.Promise.Any(i => i.Covers is Core.Offer.Coverage.OnShelf s && s.Shelf == id)))
            return Result.Refused("A tier’s promise names this shelf. Change the promise first.");
        await db.Shelves.Where(s => s.Id == id).ExecuteDeleteAsync(ct);
        await db.FileUses.Where(u => u.User == FileUser.Shelf && u.UserId == id.Value).ExecuteDeleteAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>The first letters of the first two words, or the first two letters.</summary>
    public static string MarkFor(string name)
    {
        var words = name.Split([' ', '&', '-', ','], StringSplitOptions.RemoveEmptyEntries).Where(w => char.IsLetterOrDigit(w[0])).ToArray();
        return (words.Length > 1 ? $"{words[0][0]}{words[1][0]}" : words.Length == 1 && words[0].Length > 1 ? words[0][..2] : "SH").ToUpperInvariant();
    }

    /// <summary>
    /// How a shelf that holds more than is comfortable could be divided: by the tags that bind the most pieces, as long as there are any that bind five;
    /// without tags, by the halves of the year the pieces came out in.
    /// </summary>
    public static IReadOnlyList<ShelfDivision> Divide(Shelf shelf, IReadOnlyList<Piece> pieces, Func<Piece, NodaTime.YearMonth?> monthOf)
    {
        if (pieces.Count <= Shelf.Comfortable) return [];
        var parts = new List<ShelfDivision>();
        var left = pieces.ToList();
        while (parts.Count < 4 && left.SelectMany(p => p.Tags).GroupBy(t => t).OrderByDescending(g => g.Count()).ThenBy(g => g.Key, StringComparer.Ordinal)
            .FirstOrDefault() is { } tag && tag.Count() >= 5 && tag.Count() < pieces.Count)
        {
            parts.Add(new($"{shelf.Name}: {tag.Key}", [.. left.Where(p => p.Tags.Contains(tag.Key))]));
            left.RemoveAll(p => p.Tags.Contains(tag.Key));
        }
        if (parts.Count > 0)
        {
            if (left.Count > 0) parts.Add(new(shelf.Name, left));
            return parts;
        }
        return [.. left.GroupBy(p => monthOf(p) is { } m ? (m.Year, (m.Month - 1) / 6) : (0, 0)).OrderBy(g => g.Key)
            .Select(g => new ShelfDivision(g.Key.Item1 == 0 ? $"{shelf.Name}: to come"
                : $"{shelf.Name}, {(g.Key.Item2 == 0 ? "January to June" : "July to December")} {g.Key.Item1}", [.. g]))];
    }
}
