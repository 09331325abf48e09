using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

public enum BulkAction { Publish, Unpublish, Minutes, TeaserOn, TeaserOff, Delete }

/// <summary>What came of doing something to many: how many were done, and why others weren’t.</summary>
public sealed record BulkDone(int Done, IReadOnlyList<string> Left);

/// <summary>The same change to many lessons.</summary>
public sealed class ChangeLessons(BrightContext db, Catalogue catalogue, IClock clock, ReleaseContent release, Trash trash)
{
    /// <summary>The same to many lessons.</summary>
    public async Task<Result<BulkDone>> Do(TeamActor by, IReadOnlyCollection<LessonId> lessons, BulkAction action, int? minutes, CancellationToken ct)
    {
        by.NeedEditor();
        if (action == BulkAction.Minutes && minutes is < 1 or > 6000) return Result.Refused("Minutes go from 1 to 6,000.", "Minutes");
        var wanted = lessons.ToArray();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var list = await db.Lessons.Where(l => wanted.Contains(l.Id) && l.TrashedAt == null).OrderBy(l => l.Position).ToListAsync(ct);
        if (list.Count == 0) return Result.Refused("Select some lessons first.");
        var at = clock.GetCurrentInstant();
        var left = new List<string>();
        var contents = action == BulkAction.Publish
            ? await db.LessonContents.AsNoTracking().Where(c => wanted.Contains(c.LessonId)).ToDictionaryAsync(c => c.LessonId, c => c.Blocks, ct) : [];
        var pieces = await db.Pieces.Where(p => list.Select(l => l.PieceId).Contains(p.Id)).ToDictionaryAsync(p => p.Id, ct);
        foreach (var l in list)
        {
            switch (action)
            {
                case BulkAction.Publish when contents[l.Id].Count == 0: left.Add($"“{l.Title}” is empty."); continue;
                case BulkAction.Publish when BlockRules.Problems(contents[l.Id]) is [var problem, ..]: left.Add($"“{l.Title}”: {problem.Text}"); continue;
                case BulkAction.Publish:
                    l.Ready = true;
                    release.WhenLate(l, pieces[l.PieceId], at);
                    break;
                case BulkAction.Unpublish:
                    if (l.ReleasedAt is not null) l.Withdraw();
                    l.Ready = false;
                    break;
                case BulkAction.Minutes: l.Minutes = minutes; break;
                case BulkAction.TeaserOn: l.Teaser = true; break;
                case BulkAction.TeaserOff: l.Teaser = false; break;
                case BulkAction.Delete: trash.Put(l, at); break;
            }
            l.Version++;
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([.. pieces.Keys], ct);
        release.Wake();
        return new BulkDone(list.Count - left.Count, left);
    }
}
