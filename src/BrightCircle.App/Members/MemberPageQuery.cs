using BrightCircle.App.Catalogues;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

public sealed record MemberFile(Member Member, IReadOnlyList<Holding> Holdings, IReadOnlyList<Payment> Payments, IReadOnlyList<Letter> Letters,
    int LetterCount, IReadOnlyList<JournalEntry> Journal, int JournalCount, bool Confirmed, IReadOnlySet<PieceId> Places,
        IReadOnlyDictionary<LessonId, OpeningState> Openings, TallyCounts Tallies, IReadOnlySet<CohortId> Cohorts,
        IReadOnlyList<TagId> Tags, IReadOnlyDictionary<OwnFieldId, string> Fields, IReadOnlyList<TeamNote> Notes, Instant? SeenAt,
        IReadOnlyList<TaskRow> Tasks, IReadOnlyList<RoutineRun> Runs, int RunCount, IReadOnlyList<Checkout> Orders, int OrderCount,
        IReadOnlyList<LessonQuestion> Questions, int QuestionCount, IReadOnlyDictionary<long, int> OpenedLinks)
{
    /// <summary>So many orders and questions stand on the page; of more there is said how many.</summary>
    public const int Most = 50;

    /// <summary>What decisions about them rest on, as known at a moment.</summary>
    public MemberFacts FactsAt(Instant at) => MemberFacts.From(Holdings, at, Places,
        Openings.Values.Where(o => o.DoneAt is not null).ToDictionary(o => o.Lesson, o => o.DoneAt!.Value), Cohorts);
}

/// <summary>Everything the team sees of one member.</summary>
public sealed class MemberPageQuery(BrightContext db, Catalogue catalogue, ConditionSql sql, TeamTasks tasks)
{
    /// <summary>In one round trip.</summary>
    /// <summary>Who it is, and nothing more; null where there is nobody.</summary>
    public Task<Member?> Who(MemberId id, CancellationToken ct) => db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);

    public async Task<MemberFile?> Load(MemberId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var member = trip.First(db.Members.AsNoTracking().Where(m => m.Id == id));
        var holdings = trip.List(db.Holdings.AsNoTracking().Where(h => h.MemberId == id).Include(h => h.Facts.OrderBy(f => f.Seq)).OrderBy(h => h.StartsAt));
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.MemberId == id).OrderByDescending(p => p.At));
        var letters = trip.List(db.Letters.AsNoTracking().Where(l => l.MemberId == id).OrderByDescending(l => l.Id).Take(12));
        var letterCount = trip.Count(db.Letters.Where(l => l.MemberId == id));
        var journal = trip.List(db.Journal.AsNoTracking().Where(j => j.MemberId == id && !EventWords.Small.Contains(j.Kind)).OrderByDescending(j => j.Seq)
            .Take(14));
        var journalCount = trip.Count(db.Journal.Where(j => j.MemberId == id && !EventWords.Small.Contains(j.Kind)));
        var account = trip.First(db.Users.Where(a => a.Id == id.Value).Select(a => new { a.EmailConfirmed }));
        var places = trip.List(db.PiecePlaces.Where(p => p.MemberId == id && !p.Waiting).Select(p => p.PieceId));
        var cohorts = trip.List(db.CohortMembers.Where(c => c.MemberId == id).Select(c => c.CohortId));
        var (openings, tallies) = MemberReader.OpeningsAndTallies(trip, id);
        var tags = trip.List(db.MemberTags.Where(t => t.MemberId == id).Select(t => t.TagId));
        var following = catalogue.Now.Tags.Where(t => t.IsByItself)
            .Select(t => (t.Id, Fits: trip.Count(sql.Members(t.Follows!).Where(m => m.Id == id)))).ToArray();
        var fields = trip.List(db.OwnFieldValues.AsNoTracking().Where(v => v.MemberId == id));
        var notes = trip.List(db.TeamNotes.AsNoTracking().Where(n => n.MemberId == id).OrderByDescending(n => n.At).ThenByDescending(n => n.Id));
        var seen = trip.List(db.LastSeen.Where(s => s.MemberId == id).Select(s => s.At));
        var toDo = trip.List(tasks.Of(id));
        var runs = trip.List(db.RoutineRuns.AsNoTracking().Where(r => r.MemberId == id).OrderByDescending(r => r.BegunAt).ThenByDescending(r => r.Id).Take(8));
        var runCount = trip.Count(db.RoutineRuns.Where(r => r.MemberId == id));
        var ordered = db.Checkouts.AsNoTracking().Where(c => c.MemberId == id && c.Purpose == CheckoutPurpose.Join);
        var orders = trip.List(ordered.OrderByDescending(c => c.Id).Take(MemberFile.Most));
        var orderCount = trip.Count(ordered);
        var asked = db.LessonQuestions.AsNoTracking().Where(q => q.AccountId == id.Value && q.AnswersId == null);
        var questions = trip.List(asked.OrderByDescending(q => q.At).ThenByDescending(q => q.Id).Take(MemberFile.Most));
        var questionCount = trip.Count(asked);
        var links = trip.List(db.OpenedLinks.Where(o => o.MemberId == id).GroupBy(o => o.LetterId).Select(g => new { g.Key, Count = g.Count() }));
        await trip.Ask(ct);
        return member.Value is { } m ? new(m, holdings.Value, payments.Value, letters.Value, letterCount.Value, journal.Value, journalCount.Value,
            account.Value?.EmailConfirmed == true, places.Value.ToHashSet(), openings.Value, tallies.Value,
            cohorts.Value.ToHashSet(), [.. tags.Value, .. following.Where(f => f.Fits.Value > 0).Select(f => f.Id)],
            fields.Value.ToDictionary(f => f.FieldId, f => f.Text), notes.Value, seen.Value.Count > 0 ? seen.Value[0] : null,
            toDo.Value, runs.Value, runCount.Value, orders.Value, orderCount.Value,
            questions.Value, questionCount.Value, links.Value.ToDictionary(l => l.Key, l => l.Count)) : null;
    }
}
