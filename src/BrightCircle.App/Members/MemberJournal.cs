using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Members;

public sealed record JournalPage(Member Member, IReadOnlyList<JournalEntry> Rows, int Count);

/// <summary>All that happened to a member, page by page, the last first.</summary>
public sealed class MemberJournal(BrightContext db)
{
    public const int PageSize = 100;

    /// <param name="small">With what stands there in great numbers: every opening of a lesson, every signing in.</param>
    /// <returns>Null where there is no such member.</returns>
    public async Task<JournalPage?> Page(MemberId id, bool small, int page, CancellationToken ct)
    {
        var lines = db.Journal.AsNoTracking().Where(j => j.MemberId == id);
        if (!small) lines = lines.Where(j => !EventWords.Small.Contains(j.Kind));
        var trip = new OneTrip(db);
        var member = trip.First(db.Members.AsNoTracking().Where(m => m.Id == id));
        var count = trip.Count(lines);
        var rows = trip.List(lines.OrderByDescending(j => j.Seq).Skip((page - 1) * PageSize).Take(PageSize));
        await trip.Ask(ct);
        return member.Value is { } m ? new(m, rows.Value, count.Value) : null;
    }
}
