using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>
/// Hears of what happened: whoever waits for it goes on, whoever reached what a routine is for is through, whoever it is about begins. The database puts each
/// entry of the journal in that some routine listens for, in the transaction that writes it.
/// </summary>
public sealed class RoutineHears(BrightContext db, Catalogue catalogue, RunRoutines routines) : IDueHandler
{
    public DueKind Kind => DueKind.RoutineHears;

    sealed record Heard(long Entry);

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var entries = items.Select(i => JsonSerializer.Deserialize<Heard>(i.Row.Payload!, JsonSerializerOptions.Web)!.Entry).ToArray();
        var heard = await db.Journal.AsNoTracking().Where(j => entries.Contains(j.Id)).ToDictionaryAsync(j => j.Id, ct);
        await routines.Lock(heard.Values.Select(h => h.MemberId!.Value), ct);
        // Of one member one thing after the other.
        var left = items.Select((item, i) => (item.Moment, Entry: heard.GetValueOrDefault(entries[i]))).Where(l => l.Entry is not null).ToList();
        while (left.Count > 0)
        {
            var wave = left.DistinctBy(l => l.Entry!.MemberId).ToArray();
            left = [.. left.Except(wave)];
            // A batch lies within some hours; each thing is heard at its own moment.
            foreach (var together in wave.GroupBy(w => w.Moment))
                await Hear([.. together.Select(t => t.Entry!)], together.Key, happened, ct);
        }
    }

    async Task Hear(IReadOnlyList<JournalEntry> entries, Instant at, Happenings happened, CancellationToken ct)
    {
        var byMember = entries.ToDictionary(e => e.MemberId!.Value);
        var members = byMember.Keys.ToArray();
        var all = catalogue.Now.People.RoutineById;
        var open = await db.RoutineRuns.Where(r => r.EndedAt == null && members.Contains(r.MemberId)).ToListAsync(ct);
        var goOn = new List<RoutineRun>();
        var ended = new List<RoutineRun>();
        foreach (var run in open)
        {
            var (what, script) = (byMember[run.MemberId].Event, all[run.RoutineId].Script);
            if (script.Goal?.Hears(what) == true) ended.Add(run);
            else if (Interpreter.WaitsFor(script, run.State)?.Hears(what) == true)
            {
                run.Came = true;
                goOn.Add(run);
            }
        }
        await db.EndRuns(ended, RunEnd.Goal, at, ct);
        if (goOn.Count > 0)
        {
            var numbers = goOn.Select(r => r.Id).ToArray();
            await db.DueWork.Where(d => d.Kind == DueKind.RoutineStep && numbers.Contains(d.SubjectId)).ExecuteDeleteAsync(ct);
            await routines.GoOn(goOn, at, ct);
        }
        await db.SaveChangesAsync(ct);
        foreach (var routine in catalogue.Now.People.Routines.Where(r => r.IsOn))
        {
            var those = entries.Where(e => e.At >= routine.OnSince && routine.Script.When.Hears(e.Event)).Select(e => (e.MemberId!.Value, (long?)e.Id))
                .ToArray();
            if (those.Length > 0) happened.Add("routines begun", await routines.Begin(routine, those, at, ct));
        }
    }
}

/// <summary>Goes on where a wait is over.</summary>
public sealed class RoutineSteps(BrightContext db, RunRoutines routines) : IDueHandler
{
    public DueKind Kind => DueKind.RoutineStep;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        var members = await db.RoutineRuns.Where(r => numbers.Contains(r.Id)).Select(r => r.MemberId).ToListAsync(ct);
        await routines.Lock(members, ct);
        // Read after the lock: what was heard meanwhile counts.
        var runs = await db.RoutineRuns.Where(r => numbers.Contains(r.Id) && r.EndedAt == null).ToDictionaryAsync(r => r.Id, ct);
        foreach (var together in items.Where(i => runs.ContainsKey(i.Row.SubjectId)).GroupBy(i => i.Moment))
        {
            await routines.GoOn([.. together.Select(i => runs[i.Row.SubjectId])], together.Key, ct);
            happened.Add("routine steps", together.Count());
        }
    }
}

/// <summary>Members who begin a routine by no event of theirs: those who are there already, and those whose day has come.</summary>
public sealed class RoutineBegins(Catalogue catalogue, RunRoutines routines) : IDueHandler
{
    public const int AtOnce = 200;
    public DueKind Kind => DueKind.RoutineBegin;

    internal sealed record Those(long[] Members);

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            if (!catalogue.Now.People.RoutineById.TryGetValue(item.Row.SubjectId, out var routine) || !routine.IsOn) continue;
            var members = JsonSerializer.Deserialize<Those>(item.Row.Payload!, JsonSerializerOptions.Web)!.Members.Select(m => new MemberId(m)).ToArray();
            await routines.Lock(members, ct);
            happened.Add("routines begun", await routines.Begin(routine, [.. members.Select(m => (m, (long?)null))], item.Moment, ct));
        }
    }

    /// <summary>Puts members in, so many to a row.</summary>
    public static void Put(BrightContext db, Ids ids, long routine, IEnumerable<MemberId> members, Instant at)
    {
        foreach (var some in members.Chunk(AtOnce))
            db.PutDue(ids, DueKind.RoutineBegin, routine, at, $"routine-begin-{routine}-{ids.Next()}",
                JsonSerializer.Serialize(new Those([.. some.Select(m => m.Value)]), JsonSerializerOptions.Web));
    }
}

/// <summary>Every morning: who begins a routine because of the day it is.</summary>
public sealed class RoutineMorning(BrightContext db, Ids ids, Catalogue catalogue, RoutineDays days) : IDueHandler
{
    public DueKind Kind => DueKind.RoutineDay;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var those = catalogue.Now.People.Routines.Where(r => r.IsOn && r.Script.When is Trigger.OfDays).ToArray();
            foreach (var routine in those)
                RoutineBegins.Put(db, ids, routine.Id, await days.Of(routine, item.Row.DueAt).OrderBy(m => m.Id).Select(m => m.Id).ToListAsync(ct),
                    item.Moment);
            if (those.Length > 0) await RoutineDawn.PutNext(db, ids, catalogue.Now.Calendar, item.Row.DueAt, ct);
        }
    }
}

/// <summary>An edition has come out: for whomever it opens something begins what begins with that.</summary>
public sealed class RoutineEditions(BrightContext db, Ids ids, Catalogue catalogue, EditionReaders readers) : IDueHandler
{
    public DueKind Kind => DueKind.RoutineEdition;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var those = catalogue.Now.People.Routines.Where(r => r is { IsOn: true, Script.When: Trigger.EditionOpens }).ToArray();
        if (those.Length == 0) return;
        foreach (var item in items)
        {
            var members = new List<MemberId>();
            await foreach (var (who, _) in readers.Of(new(item.Row.SubjectId), item.Moment, ct)) members.Add(who.Id);
            foreach (var routine in those) RoutineBegins.Put(db, ids, routine.Id, members, item.Moment);
        }
    }
}
