using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Files;

public sealed record FileFilter(string? Search = null, FileKind? Kind = null, bool UnusedOnly = false, int Page = 1,
    IReadOnlyCollection<FileKind>? Kinds = null);
public sealed record FileRow(StoredFile File, int Uses);

/// <summary>The site’s files as the Desk lists them, and where one is used.</summary>
public sealed class FileList(BrightContext db)
{
    public const int PageSize = 40;

    public async Task<(IReadOnlyList<FileRow> Rows, int Total)> List(FileFilter filter, CancellationToken ct)
    {
        var q = db.Files.AsNoTracking();
        if (filter.Kind is { } kind) q = q.Where(f => f.Kind == kind);
        if (filter.Kinds is { Count: > 0 } kinds) q = q.Where(f => kinds.Contains(f.Kind));
        if (!string.IsNullOrWhiteSpace(filter.Search))
        {
            var like = Like.Containing(filter.Search);
            q = q.Where(f => EF.Functions.ILike(f.Name, like, Like.Escape) || EF.Functions.ILike(f.Alt, like, Like.Escape));
        }
        if (filter.UnusedOnly) q = q.Where(f => !db.FileUses.Any(u => u.FileId == f.Id));
        var trip = new OneTrip(db);
        var total = trip.Count(q);
        var rows = trip.List(q.OrderByDescending(f => f.Id).Skip((filter.Page - 1) * PageSize).Take(PageSize)
            .Select(f => new FileRow(f, db.FileUses.Count(u => u.FileId == f.Id))));
        await trip.Ask(ct);
        return (rows.Value, total.Value);
    }

    /// <summary>A file and what uses it.</summary>
    public async Task<(StoredFile? File, IReadOnlyList<FileUse> Uses)> Load(FileId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var file = trip.First(db.Files.AsNoTracking().Where(f => f.Id == id));
        var uses = trip.List(db.FileUses.AsNoTracking().Where(u => u.FileId == id));
        await trip.Ask(ct);
        return (file.Value, uses.Value);
    }
}
