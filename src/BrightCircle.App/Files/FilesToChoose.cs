using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Files;

/// <summary>The files a field offers: the newest of a kind, and those that are chosen already.</summary>
public sealed class FilesToChoose(BrightContext db)
{
    /// <param name="chosen">These come along whatever their age and kind.</param>
    /// <returns>The newest first.</returns>
    public async Task<IReadOnlyList<StoredFile>> Do(IReadOnlyCollection<FileId> chosen, FileKind? kind, int most, CancellationToken ct) =>
        await Query(chosen, kind, most).ToListAsync(ct);

    /// <summary>The same, for a trip that asks others too.</summary>
    public Answer<List<StoredFile>> On(OneTrip trip, IReadOnlyCollection<FileId> chosen, FileKind? kind, int most) => trip.List(Query(chosen, kind, most));

    /// <summary>The same where what is chosen is asked for along with it.</summary>
    public Answer<List<StoredFile>> On(OneTrip trip, IQueryable<FileId?> chosen, FileKind? kind, int most) => trip.List(
        db.Files.AsNoTracking().Where(f => chosen.Contains(f.Id)).Union(Newest(kind, most)).OrderByDescending(f => f.Id));

    IQueryable<StoredFile> Newest(FileKind? kind, int most) => db.Files.Where(f => kind == null || f.Kind == kind).OrderByDescending(f => f.Id).Take(most);

    IQueryable<StoredFile> Query(IReadOnlyCollection<FileId> chosen, FileKind? kind, int most) => db.Files.AsNoTracking().Where(f => chosen.Contains(f.Id))
        .Union(Newest(kind, most))
        .OrderByDescending(f => f.Id);
}
