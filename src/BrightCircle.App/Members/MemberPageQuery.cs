using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Members;

public sealed record MemberFile(Member Member, IReadOnlyList<Holding> Holdings, IReadOnlyList<Payment> Payments, IReadOnlyList<Letter> Letters, int LetterCount, IReadOnlyList<JournalEntry> Journal, IReadOnlyDictionary<LessonId, OpeningState> Openings, TallyCounts Tallies);

/// <summary>Everything the team sees of one member.</summary>
public sealed class MemberPageQuery(BrightContext db)
{
    /// <summary>In one round trip.</summary>
    public async Task<MemberFile?> Load(MemberId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var member = trip.First(db.Members.AsNoTracking().Where(m => m.Id == id));
        var holdings = trip.List(db.Holdings.AsNoTracking().Where(h => h.MemberId == id).Include(h => h.Facts.OrderBy(f => f.Id)).OrderBy(h => h.StartsAt));
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.MemberId == id).OrderByDescending(p => p.At));
        var letters = trip.List(db.Letters.AsNoTracking().Where(l => l.MemberId == id).OrderByDescending(l => l.Id).Take(12));
        var letterCount = trip.Count(db.Letters.Where(l => l.MemberId == id));
        var journal = trip.List(db.Journal.AsNoTracking().Where(j => j.MemberId == id).OrderByDescending(j => j.At).ThenByDescending(j => j.Id).Take(14));
        var (openings, tallies) = MemberReader.OpeningsAndTallies(trip, id);
        await trip.Ask(ct);
        return member.Value is { } m ? new(m, holdings.Value, payments.Value, letters.Value, letterCount.Value, journal.Value, openings.Value, tallies.Value) : null;
    }
}
