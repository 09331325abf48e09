using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Files;

/// <summary>Keeps where files are used, in the transaction of whoever uses them: a file in use isn't thrown away.</summary>
public sealed class FileUsing(BrightContext db)
{
    /// <summary>What something uses from now on. Files that aren't here any more are left out.</summary>
    public async Task Set(FileUser user, long id, IEnumerable<FileId> files, CancellationToken ct)
    {
        var (who, list) = (user.ToString(), files.Select(f => f.Value).Distinct().ToArray());
        await db.Database.ExecuteSqlAsync($"""delete from file_uses where "user" = {who} and user_id = {id} and not file_id = any({list})""", ct);
        if (list.Length > 0)
            await db.Database.ExecuteSqlAsync(
                $"""insert into file_uses (file_id, "user", user_id) select f.id, {who}, {id} from files f where f.id = any({list}) on conflict do nothing""",
                ct);
    }

    public Task OfSite(Site site, CancellationToken ct) => Set(FileUser.Site, site.Id, Some([site.Logo], site.Doorway), ct);

    /// <summary>Those that are chosen, and those a doorway names.</summary>
    public static IEnumerable<FileId> Some(FileId?[] chosen, DoorwayWish? doorway = null) => chosen.OfType<FileId>().Concat(doorway?.UsedFiles() ?? []);
}
