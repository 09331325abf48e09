using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Members;

public sealed record MemberFile(Member Member, IReadOnlyList<Holding> Holdings, IReadOnlyList<Payment> Payments, IReadOnlyList<Letter> Letters, int LetterCount, IReadOnlyList<JournalEntry> Journal, IReadOnlyDictionary<LessonId, OpeningState> Openings, TallyCounts Tallies);

/// <summary>Everything the team sees of one member.</summary>
public sealed class MemberPageQuery(BrightContext db, MemberReader reader)
{
    public async Task<MemberFile?> Load(MemberId id, CancellationToken ct)
    {
        var member = await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);
        if (member is null) return null;
        var holdings = await db.Holdings.AsNoTracking().Where(h => h.MemberId == id).Include(h => h.Facts.OrderBy(f => f.Id)).OrderBy(h => h.StartsAt).ToListAsync(ct);
        var payments = await db.Payments.AsNoTracking().Where(p => p.MemberId == id).OrderByDescending(p => p.At).ToListAsync(ct);
        var letters = await db.Letters.AsNoTracking().Where(l => l.MemberId == id).OrderByDescending(l => l.Id).Take(12).ToListAsync(ct);
        var letterCount = await db.Letters.CountAsync(l => l.MemberId == id, ct);
        var journal = await db.Journal.AsNoTracking().Where(j => j.MemberId == id).OrderByDescending(j => j.At).ThenByDescending(j => j.Id).Take(14).ToListAsync(ct);
        var (openings, tallies) = await reader.OpeningsAndTallies(id, ct);
        return new(member, holdings, payments, letters, letterCount, journal, openings, tallies);
    }
}
