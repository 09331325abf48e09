using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>Members' ways through routines: begun, going on, ended. All within the caller's transaction; what waits is a row of what falls due.</summary>
public sealed class RunRoutines(BrightContext db, Ids ids, Catalogue catalogue, ConditionSql sql, RoutineDeeds deeds)
{
    /// <summary>So often somebody may begin the same routine within a day: two routines that set each other off come to an end.</summary>
    public const int MostADay = 10;

    /// <summary>Locks the members, in one order for all.</summary>
    public Task Lock(IEnumerable<MemberId> members, CancellationToken ct)
    {
        var numbers = members.Select(m => m.Value).Distinct().ToArray();
        return db.Database.ExecuteSqlAsync($"select 1 from members where id = any({numbers}) order by id for no key update", ct);
    }

    /// <summary>Some members begin a routine: those who belong to its audience, and for whom its rule about beginning again allows it.</summary>
    /// <param name="those">Each once, with the journal entry it begins with.</param>
    /// <returns>How many began.</returns>
    public async Task<int> Begin(Routine routine, IReadOnlyList<(MemberId Member, long? Because)> those, Instant at, CancellationToken ct)
    {
        var script = routine.Script;
        var wanted = those.Select(t => t.Member).ToArray();
        if (script.And is { } and)
        {
            if (!catalogue.Now.People.AudienceById.TryGetValue(and, out var audience)) return 0;
            wanted = await sql.Members(audience.Condition).Where(m => wanted.Contains(m.Id)).Select(m => m.Id).ToArrayAsync(ct);
        }
        if (wanted.Length == 0) return 0;
        var dayAgo = at - Duration.FromDays(1);
        var before = await db.RoutineRuns.Where(r => r.RoutineId == routine.Id && wanted.Contains(r.MemberId)).GroupBy(r => r.MemberId)
            .Select(g => new { g.Key, Open = g.Count(r => r.EndedAt == null), OfLate = g.Count(r => r.BegunAt > dayAgo) }).ToDictionaryAsync(b => b.Key, ct);
        wanted = [.. wanted.Where(m => before.GetValueOrDefault(m) is not { } b || b.OfLate < MostADay && script.Again switch
        {
            Again.Never => false,
            Again.WhenThrough => b.Open == 0,
            Again.FromTheStart => true,
            _ => throw new InvalidOperationException($"No such rule: {script.Again}"),
        })];
        var open = wanted.Where(m => before.GetValueOrDefault(m) is { Open: > 0 }).ToArray();
        if (open.Length > 0)
        {
            var runs = await db.RoutineRuns.Where(r => r.RoutineId == routine.Id && r.EndedAt == null && open.Contains(r.MemberId)).ToListAsync(ct);
            await db.EndRuns(runs, RunEnd.BegunAnew, at, ct);
            // Nobody is in a routine twice: the old ways end before the new ones are written.
            await db.SaveChangesAsync(ct);
        }
        var who = wanted.ToHashSet();
        var made = those.Where(t => who.Contains(t.Member)).Select(t => new RoutineRun
        {
            Id = ids.Next(),
            RoutineId = routine.Id,
            MemberId = t.Member,
            BegunAt = at,
            Because = t.Because,
            Step = script.First,
        }).ToArray();
        db.AddRange(made);
        await db.SaveChangesAsync(ct);
        await GoOn(made, at, ct);
        return made.Length;
    }

    /// <summary>Goes on with some ways, as far as each comes: the same step is done for all who stand before it.</summary>
    public async Task GoOn(IReadOnlyCollection<RoutineRun> runs, Instant at, CancellationToken ct)
    {
        var now = catalogue.Now;
        var going = runs.Where(r => r.EndedAt is null && now.People.RoutineById.ContainsKey(r.RoutineId))
            .Select(r => new Going(r, now.People.RoutineById[r.RoutineId])).ToList();
        if (going.Count == 0) return;
        var numbers = going.Select(g => g.Run.MemberId).Distinct().ToArray();
        var members = await db.Members.Where(m => numbers.Contains(m.Id)).ToDictionaryAsync(m => m.Id, ct);
        var letters = await Subjects(going, ct);
        while (going.Count > 0)
        {
            foreach (var g in going)
                (g.Progress, g.Answer) = (Interpreter.Advance(g.Routine.Script, g.Run.State, at, now.Calendar, g.Run.Id, g.Answer), null);
            // First all first steps, then all second ones: what is the same for many is done at once.
            for (var i = 0; going.Any(g => g.Progress.Did.Count > i); i++)
                foreach (var same in going.Where(g => g.Progress.Did.Count > i).GroupBy(g => (g.Routine.Id, g.Progress.Did[i].Step.Id)))
                    await Do([.. same], i, members, letters, at, ct);
            foreach (var g in going) g.Run.State = g.Progress.State;
            await db.SaveChangesAsync(ct);
            foreach (var g in going.Where(g => g.Progress.Asks is null))
            {
                var (run, state) = (g.Run, g.Progress.State);
                if (state.IsThrough) (run.EndedAt, run.End) = (at, RunEnd.Through);
                else db.PutDue(ids, DueKind.RoutineStep, run.Id, state.Until!.Value, $"run-{run.Id}-{state.Turn}-{ids.Next()}");
            }
            going = [.. going.Where(g => g.Progress.Asks is not null)];
            foreach (var asked in going.GroupBy(g => g.Progress.Asks!.Value))
            {
                var whom = asked.Select(g => g.Run.MemberId).ToArray();
                var belong = now.People.AudienceById.TryGetValue(asked.Key, out var audience)
                    ? (await sql.Members(audience.Condition).Where(m => whom.Contains(m.Id)).Select(m => m.Id).ToListAsync(ct)).ToHashSet() : [];
                foreach (var g in asked) g.Answer = belong.Contains(g.Run.MemberId);
            }
        }
        await db.SaveChangesAsync(ct);
    }

    sealed class Going(RoutineRun run, Routine routine)
    {
        public RoutineRun Run { get; } = run;
        public Routine Routine { get; } = routine;
        public Progress Progress { get; set; } = null!;
        public bool? Answer { get; set; }
    }

    async Task Do(IReadOnlyList<Going> same, int i, Dictionary<MemberId, Member> members, Func<long, string> letters, Instant at, CancellationToken ct)
    {
        IReadOnlyList<DeedOutcome>? outcomes = null;
        if (same[0].Progress.Did[i].Step is Step.Deed deed)
            outcomes = await deeds.Do(deed, same[0].Routine, [.. same.Select(g => (g.Run, members[g.Run.MemberId], g.Progress.Did[i].Turn))], at, ct);
        for (var n = 0; n < same.Count; n++)
        {
            var did = same[n].Progress.Did[i];
            var why = outcomes?[n].Why;
            db.Add(new RoutineDone
            {
                RunId = same[n].Run.Id,
                Step = did.Step.Id,
                Turn = did.Turn,
                At = at,
                What = RoutineDeeds.Did(did.Step, did.Way, catalogue.Now, letters) + (why is null ? "" : Bounded.To($" · left out: {why}", 100)),
                LeftOut = why is not null,
            });
        }
    }

    async Task<Func<long, string>> Subjects(IEnumerable<Going> going, CancellationToken ct)
    {
        var wanted = going.Select(g => g.Routine).Distinct().SelectMany(r => r.Script.All()).OfType<Step.SendLetter>().Select(s => s.Mailing).ToArray();
        var found = wanted.Length == 0 ? []
            : await db.Mailings.Where(m => wanted.Contains(m.Id)).Select(m => new { m.Id, m.Subject }).ToDictionaryAsync(m => m.Id, m => m.Subject, ct);
        return id => found.GetValueOrDefault(id) ?? "";
    }
}
