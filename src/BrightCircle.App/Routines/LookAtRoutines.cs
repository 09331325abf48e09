using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>How many are, and were, in a routine.</summary>
public sealed record RoutineFigures(int In, int Through, int Goal, int Left, int BegunLately);

/// <summary>A step with its figures.</summary>
/// <param name="Here">So many stand before it just now.</param>
/// <param name="Did">So often it was done.</param>
/// <param name="LeftOut">So often it was left out.</param>
public sealed record StepFigures(int Here, int Did, int LeftOut);

/// <summary>A letter of a routine.</summary>
public sealed record RoutineLetter(long Id, string Subject, bool IsEmpty);

/// <summary>One way through a routine, as it stands in a list.</summary>
public sealed record RunRow(long Id, long Routine, MemberId Member, string Name, Instant BegunAt, int Step, Instant? Until, Instant? EndedAt, RunEnd? End);

/// <summary>A line of what would happen.</summary>
public sealed record RehearsedLine(Instant At, string Says, bool IsWait);

/// <summary>One routine with all that is shown of it.</summary>
/// <param name="Already">So many are already what it begins with; null where that can't be said.</param>
/// <param name="TriedOn">On whom it was tried; null for nobody, or where there is nobody of that address.</param>
public sealed record RoutineView(RoutineFigures Figures, IReadOnlyDictionary<int, StepFigures> Steps, IReadOnlyDictionary<long, RoutineLetter> Letters,
    int? Already, Member? TriedOn, IReadOnlyList<RehearsedLine>? Rehearsed);

/// <summary>Routines as they are looked at: what they say, who is in them, what was done, what would happen.</summary>
public sealed class LookAtRoutines(BrightContext db, Catalogue catalogue, ConditionSql sql, RoutineDays days, IClock clock)
{
    public const int PageSize = 50;

    /// <summary>The figures of all.</summary>
    public async Task<IReadOnlyDictionary<long, RoutineFigures>> Figures(CancellationToken ct, long? only = null)
    {
        var lately = clock.GetCurrentInstant() - Duration.FromDays(30);
        return (await Counted(only, lately).ToListAsync(ct)).ToDictionary(f => f.Routine, f => f.Figures);
    }

    sealed record Count(long Routine, RoutineFigures Figures);

    IQueryable<Count> Counted(long? only, Instant lately) => db.RoutineRuns.Where(r => only == null || r.RoutineId == only).GroupBy(r => r.RoutineId)
        .Select(g => new Count(g.Key, new RoutineFigures(g.Count(r => r.EndedAt == null), g.Count(r => r.End == RunEnd.Through),
            g.Count(r => r.End == RunEnd.Goal),
            g.Count(r => r.End == RunEnd.TakenOut || r.End == RunEnd.BegunAnew), g.Count(r => r.BegunAt > lately))));

    /// <summary>One routine with the figures of its steps, its letters, how many are there already, and what would happen to somebody; all in one
    /// trip.</summary>
    /// <param name="tryOn">The address of a member; null for nobody.</param>
    /// <param name="comes">What is waited for comes at once; otherwise it never does.</param>
    public async Task<RoutineView> Open(Routine routine, string? tryOn, bool comes, CancellationToken ct)
    {
        var now = catalogue.Now;
        var trip = new OneTrip(db);
        var figures = trip.List(Counted(routine.Id, clock.GetCurrentInstant() - Duration.FromDays(30)));
        var here = trip.List(db.RoutineRuns.Where(r => r.RoutineId == routine.Id && r.EndedAt == null).GroupBy(r => r.Step)
            .Select(g => new { g.Key, Count = g.Count() }));
        var did = trip.List(db.RoutineDone.Where(d => db.RoutineRuns.Any(r => r.Id == d.RunId && r.RoutineId == routine.Id)).GroupBy(d => d.Step)
            .Select(g => new { g.Key, Did = g.Count(d => !d.LeftOut), LeftOut = g.Count(d => d.LeftOut) }));
        var letters = trip.List(db.Mailings.AsNoTracking().Where(m => m.RoutineId == routine.Id));
        var already = days.Already(routine) is { } those ? trip.Count(those) : null;
        var address = tryOn is null ? null : EmailAddress.Normalise(tryOn.Trim());
        var them = db.Members.FromSql($"select * from members where id = (select id from accounts where normalized_email = {address})").AsNoTracking();
        var member = address is null ? null : trip.First(them);
        var answers = address is null ? [] : routine.Script.All().OfType<Step.Branch>().Select(b => b.Who).Distinct().Where(now.People.AudienceById.ContainsKey)
            .Select(a => (a, Belongs: trip.Count(sql.Members(now.People.AudienceById[a].Condition)
                .Where(m => them.Any(t => t.Id == m.Id))))).ToArray();
        await trip.Ask(ct);
        // Who stands before a step that was taken out stands where they will go on.
        var stands = here.Value.GroupBy(h => routine.Script.Standing(h.Key)).ToDictionary(g => g.Key, g => g.Sum(h => h.Count));
        var done = did.Value.ToDictionary(d => d.Key);
        var steps = routine.Script.All().ToDictionary(s => s.Id,
            s => new StepFigures(stands.GetValueOrDefault(s.Id), done.GetValueOrDefault(s.Id)?.Did ?? 0, done.GetValueOrDefault(s.Id)?.LeftOut ?? 0));
        var known = letters.Value.ToDictionary(m => m.Id, m => new RoutineLetter(m.Id, m.Subject, Letters.Mailings.IsEmpty(m)));
        var belongs = answers.ToDictionary(a => a.a, a => a.Belongs.Value > 0);
        return new(figures.Value.Count == 0 ? new(0, 0, 0, 0, 0) : figures.Value[0].Figures, steps, known, already?.Value, member?.Value,
            member?.Value is { } who ? Rehearse(routine, who.Id, comes, known, belongs) : null);
    }

    /// <summary>What would happen to a member who began now, as they are today; nothing is done.</summary>
    IReadOnlyList<RehearsedLine> Rehearse(Routine routine, MemberId member, bool comes, Dictionary<long, RoutineLetter> letters,
        Dictionary<AudienceId, bool> belongs) =>
        [.. Interpreter.Rehearse(routine.Script, clock.GetCurrentInstant(), catalogue.Now.Calendar, member.Value, a => belongs.GetValueOrDefault(a), comes)
            .Select(d => new RehearsedLine(d.At, RoutineDeeds.Did(d.Step, d.Way, catalogue.Now, id => letters.GetValueOrDefault(id)?.Subject ?? ""),
                d.Step.IsWait))];

    /// <summary>Who is or was in a routine, the latest first; those who are in it before the others.</summary>
    /// <param name="step">Only who stands before this step.</param>
    public async Task<(IReadOnlyList<RunRow> Rows, int Count)> People(Routine routine, int? step, int page, CancellationToken ct)
    {
        // Whoever stands before a step that was taken out stands where they will go on.
        int[] here = step is { } asked ? [asked, .. routine.Script.Gone.Keys.Where(gone => routine.Script.Standing(gone) == asked)] : [];
        var those = db.RoutineRuns.AsNoTracking().Where(r => r.RoutineId == routine.Id && (step == null || r.EndedAt == null && here.Contains(r.Step)));
        var trip = new OneTrip(db);
        var count = trip.Count(those);
        var rows = trip.List(Rows(those.OrderBy(r => r.EndedAt != null).ThenByDescending(r => r.BegunAt).ThenByDescending(r => r.Id)
            .Skip((page - 1) * PageSize).Take(PageSize)));
        await trip.Ask(ct);
        return (rows.Value, count.Value);
    }

    IQueryable<RunRow> Rows(IQueryable<RoutineRun> those) => those.Select(r => new RunRow(r.Id, r.RoutineId, r.MemberId,
        db.Members.Where(m => m.Id == r.MemberId).Select(m => m.Name).First(), r.BegunAt, r.Step, r.Until, r.EndedAt, r.End));

    /// <summary>A member's ways through routines, the latest first.</summary>
    public IQueryable<RunRow> Of(MemberId member, int most) =>
        Rows(db.RoutineRuns.AsNoTracking().Where(r => r.MemberId == member).OrderByDescending(r => r.BegunAt).ThenByDescending(r => r.Id).Take(most));

    /// <summary>One way with all that was done in it; null where there is none.</summary>
    public async Task<(RunRow Run, Event? Because, IReadOnlyList<RoutineDone> Done)?> Run(long id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var run = trip.First(Rows(db.RoutineRuns.AsNoTracking().Where(r => r.Id == id)));
        var because = trip.First(db.Journal.AsNoTracking().Where(j => db.RoutineRuns.Any(r => r.Id == id && r.Because == j.Id)));
        var done = trip.List(db.RoutineDone.AsNoTracking().Where(d => d.RunId == id).OrderBy(d => d.Turn));
        await trip.Ask(ct);
        return run.Value is { } found ? (found, because.Value is { } j ? new Event(j.At, EventWords.Of(j.Event, catalogue.Now)) : null, done.Value) : null;
    }

    /// <summary>What a run began with.</summary>
    public sealed record Event(Instant At, string Says);
}
