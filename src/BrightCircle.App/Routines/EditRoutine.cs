using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>Makes routines and changes them, turns them on and off. A change counts at once, also for those who are in the middle of one.</summary>
public sealed class EditRoutine(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, RunRoutines runs, RoutineDays days, IClock clock, Wake wake)
{
    public const int MostRoutines = 100;

    public static void NeedRole(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor);

    /// <summary>A new one, off, from a pattern; null for an empty one.</summary>
    public async Task<Result<long>> New(TeamActor by, RoutinePattern? pattern, CancellationToken ct)
    {
        NeedRole(by);
        var now = catalogue.Now;
        if (now.People.Routines.Count >= MostRoutines) return Result.Refused($"{MostRoutines} routines are the most.");
        var at = clock.GetCurrentInstant();
        var routine = new Routine
        {
            Id = ids.Next(),
            Name = FreeName(pattern?.Name ?? "New routine", now),
            Script = Script.Of(new Trigger.Joins([])),
            MadeAt = at,
        };
        if (pattern is not null)
            routine.Script = pattern.Make(now, (subject, body) =>
            {
                var letter = Letter(by, routine.Id, subject, body, at);
                db.Add(letter);
                return letter.Id;
            });
        db.Add(routine);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody did the same just now. Try again.");
        }
        await catalogue.Changed(ct);
        return routine.Id;
    }

    Mailing Letter(TeamActor by, long routine, string subject, string body, Instant at) => new()
    {
        Id = ids.Next(),
        Subject = subject,
        Body = body,
        RoutineId = routine,
        MadeAt = at,
        ChangedAt = at,
        ChangedBy = by.Name,
    };

    static string FreeName(string name, CatalogueSnapshot now)
    {
        var taken = now.People.Routines.Select(r => r.Name).ToArray();
        return taken.Contains(name, StringComparer.CurrentCultureIgnoreCase) ? NextName.After(name, taken) : name;
    }

    /// <summary>A letter for a new step.</summary>
    public async Task<long> NewLetter(TeamActor by, long routine, CancellationToken ct)
    {
        NeedRole(by);
        var letter = Letter(by, routine, "", "<div>Dear {{ first_name | default: \"friend\" }},</div>", clock.GetCurrentInstant());
        db.Add(letter);
        await db.SaveChangesAsync(ct);
        return letter.Id;
    }

    /// <summary>Changes a routine. Whoever stands in it goes on by what it says then.</summary>
    /// <param name="basedOn">The version that was looked at.</param>
    /// <param name="name">Null to leave it.</param>
    public async Task<Result> Change(TeamActor by, long id, int basedOn, string? name, Func<Script, Script> change, CancellationToken ct)
    {
        NeedRole(by);
        if (await db.Routines.FirstOrDefaultAsync(r => r.Id == id, ct) is not { } routine) return Result.Refused("This routine isn’t here any more.");
        if (routine.Version != basedOn) return Result.Refused("Somebody changed it meanwhile. Look at it as it is now.", "Overtaken");
        name = name?.Trim();
        if (name is { Length: 0 or > Routine.MostName }) return Result.Refused($"A routine needs a name of {Routine.MostName} letters at most.", "Name");
        var was = routine.Script;
        var script = change(was);
        // What is wrong already (something it rests on is gone) doesn't keep anybody from mending something else.
        if (RoutineRules.WrongWith(script, catalogue.Now) is { } wrong && RoutineRules.WrongWith(was, catalogue.Now) != wrong) return Result.Refused(wrong,
            "Step");
        (routine.Script, routine.Version, routine.Name) = (script, routine.Version + 1, name ?? routine.Name);
        await Listen(routine, ct);
        return await Save(routine, ct) is { Ok: false } refused ? refused : await LookForDays(routine, ct);
    }

    /// <summary>The kinds of events it has to hear of: what begins it only while it is on, what ends a wait also for those who are in it.</summary>
    async Task Listen(Routine routine, CancellationToken ct)
    {
        var kinds = routine.Script.Awaited().Concat(routine.IsOn ? [routine.Script.When] : []).SelectMany(t => t.Kinds).Distinct().ToArray();
        await db.RoutineTriggers.Where(c => c.RoutineId == routine.Id).ExecuteDeleteAsync(ct);
        db.AddRange(kinds.Select(k => new RoutineTrigger { RoutineId = routine.Id, Kind = k }));
    }

    async Task<Result> Save(Routine routine, CancellationToken ct)
    {
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Result.Refused("Somebody changed it meanwhile. Look at it as it is now.", "Overtaken");
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a routine called {routine.Name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>From now on people begin it; or from now on nobody does, and whoever is in it goes on to its end.</summary>
    public async Task<Result> Turn(TeamActor by, long id, bool on, CancellationToken ct)
    {
        NeedRole(by);
        if (await db.Routines.FirstOrDefaultAsync(r => r.Id == id, ct) is not { } routine) return Result.Refused("This routine isn’t here any more.");
        if (routine.IsOn == on) return Result.Done;
        if (on)
        {
            if (RoutineRules.WrongWith(routine.Script, catalogue.Now) is { } wrong) return Result.Refused(wrong);
            if (routine.Script.Steps.Count == 0) return Result.Refused("It has no step yet.");
            if (routine.Script.All().OfType<Step.TellProgram>().ToArray() is { Length: > 0 } told)
            {
                if (told.Any(t => t.Url.Length == 0)) return Result.Refused("One of its steps tells another program and has no address yet.");
                if (catalogue.Now.Site!.ProgramKey is null)
                    return Result.Refused("It tells another program, and there is no key for other programs yet. Make one first, under “Other programs”.");
            }
            var letters = routine.Script.All().OfType<Step.SendLetter>().Select(s => s.Mailing).ToArray();
            var written = await db.Mailings.AsNoTracking().Where(m => letters.Contains(m.Id)).ToListAsync(ct);
            if (written.Count < letters.Distinct().Count() || written.Any(Mailings.IsEmpty)) return Result.Refused("One of its letters isn’t written yet.");
        }
        var at = clock.GetCurrentInstant();
        (routine.OnSince, routine.Version) = (on ? at : null, routine.Version + 1);
        await Listen(routine, ct);
        deeds.Note(by, $"turned the routine “{routine.Name}” {(on ? "on" : "off")}", $"/desk/routines/{id}");
        return await Save(routine, ct) is { Ok: false } refused ? refused : await LookForDays(routine, ct);
    }

    /// <summary>What rests on a day is looked for from the next morning on.</summary>
    async Task<Result> LookForDays(Routine routine, CancellationToken ct)
    {
        if (routine is { IsOn: true, Script.When: Trigger.OfDays }) await RoutineDawn.PutNext(db, ids, catalogue.Now.Calendar, clock.GetCurrentInstant(), ct);
        return Result.Done;
    }

    /// <summary>Those who are already what it begins with begin it now.</summary>
    /// <returns>How many were put in.</returns>
    public async Task<Result<int>> FillIn(TeamActor by, long id, CancellationToken ct)
    {
        NeedRole(by);
        if (!catalogue.Now.People.RoutineById.TryGetValue(id, out var routine)) return Result.Refused("This routine isn’t here any more.");
        if (!routine.IsOn) return Result.Refused("Turn it on first.");
        if (days.Already(routine) is not { } those) return Result.Refused("Who is there already can’t be said of this beginning.");
        var members = await those.OrderBy(m => m.Id).Select(m => m.Id).ToListAsync(ct);
        RoutineBegins.Put(db, ids, id, members, clock.GetCurrentInstant());
        deeds.Note(by, $"began the routine “{routine.Name}” for {members.Count:N0} who were there already", $"/desk/routines/{id}");
        await db.SaveChangesAsync(ct);
        wake.Up();
        return members.Count;
    }

    /// <summary>Takes everybody out who is in it, or one of them.</summary>
    /// <param name="run">Null for everybody.</param>
    public async Task<Result<int>> TakeOut(TeamActor by, long id, long? run, CancellationToken ct)
    {
        NeedRole(by);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var open = db.RoutineRuns.Where(r => r.RoutineId == id && r.EndedAt == null && (run == null || r.Id == run));
        await runs.Lock(await open.Select(r => r.MemberId).ToListAsync(ct), ct);
        var those = await open.ToListAsync(ct);
        await db.EndRuns(those, RunEnd.TakenOut, clock.GetCurrentInstant(), ct);
        if (run is null && catalogue.Now.People.RoutineById.TryGetValue(id, out var routine))
            deeds.Note(by, $"took everybody out of the routine “{routine.Name}”", $"/desk/routines/{id}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return those.Count;
    }

    /// <summary>Throws away one that nobody was ever in.</summary>
    public async Task<Result> Remove(TeamActor by, long id, CancellationToken ct)
    {
        NeedRole(by);
        if (await db.RoutineRuns.AnyAsync(r => r.RoutineId == id, ct)) return Result.Refused("People went through it: it stays, and can be turned off.");
        try
        {
            if (await db.Routines.Where(r => r.Id == id && r.OnSince == null).ExecuteDeleteAsync(ct) == 0)
                return Result.Refused("Turn it off first.");
        }
        catch (Npgsql.PostgresException e) when (e.SqlState == Npgsql.PostgresErrorCodes.ForeignKeyViolation)
        {
            return Result.Refused("People went through it: it stays, and can be turned off.");
        }
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
