using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Learning;

public sealed record TallyDraft(string? Name, string? Description, int AWeek);

/// <summary>What the team sees of a tally: one week over all members.</summary>
public sealed record TallyTeamWeek(IsoWeek Week, int Marks, int Members, int Met);

/// <summary>A member's week in the list of a tally.</summary>
public sealed record TallyMember(MemberId Id, string Name, int Done, Instant Last);

/// <summary>Tallies: made by the team, marked by members.</summary>
public sealed class Tallies(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, MemberReader reader)
{
    CatalogueSnapshot Now => catalogue.Now;

    public async Task<Result<TallyId>> Save(TeamActor by, TallyId? id, TallyDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var name = draft.Name?.Trim() ?? "";
        var about = draft.Description?.Trim() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused("A tally needs a name of 80 letters at most.", "Name");
        if (Now.Tallies.Any(t => t.Id != id && string.Equals(t.Name, name, StringComparison.CurrentCultureIgnoreCase)))
            return Result.Refused($"There is a tally called {name} already.", "Name");
        if (about.Length > 400) return Result.Refused("400 letters are the most.", "Description");
        if (draft.AWeek is < 1 or > Tally.MostAWeek) return Result.Refused($"The aim is from 1 to {Tally.MostAWeek} times a week.", "AWeek");
        var tally = id is { } known ? await db.Tallies.SingleOrDefaultAsync(t => t.Id == known, ct) : db.Add(new Tally { Id = ids.Next<TallyId>() }).Entity;
        if (tally is null) return Result.Refused("This tally isn’t here any more.");
        (tally.Name, tally.Description) = (name, about);
        tally.Aim(draft.AWeek, IsoWeek.Of(Now.Calendar.Date(clock.GetCurrentInstant())));
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return tally.Id;
    }

    /// <summary>Closes a tally for new marks, or opens it again. What was marked stays.</summary>
    public async Task<Result> Archive(TeamActor by, TallyId id, bool archived, CancellationToken ct)
    {
        by.NeedEditor();
        var at = archived ? clock.GetCurrentInstant() : (Instant?)null;
        if (await db.Tallies.Where(t => t.Id == id).ExecuteUpdateAsync(u => u.SetProperty(t => t.ArchivedAt, at), ct) == 0)
            return Result.Refused("This tally isn’t here any more.");
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes away a tally that nobody ever marked and nothing names.</summary>
    public async Task<Result> Remove(TeamActor by, TallyId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (Now.PlansNaming(new Coverage.OneTally(id)).Any())
            return Result.Refused("A tier’s promise names this tally. Change the promise first.");
        if (await db.TallyMarks.AnyAsync(m => m.TallyId == id, ct)) return Result.Refused("Members have marked it: it can be closed, and what they did stays.");
        if ((await UsedIn(id, ct)).Count > 0) return Result.Refused("A follow-along offers it. Change that lesson first.");
        await db.Tallies.Where(t => t.Id == id).ExecuteDeleteAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>The lessons with a follow-along that offers it.</summary>
    async Task<IReadOnlyList<Lesson>> UsedIn(TallyId id, CancellationToken ct) => Known(await Using(id).ToListAsync(ct));

    IQueryable<long> Using(TallyId id) => db.Database.SqlQuery<long>(
        $"""
        select lesson_id as "Value" from lesson_contents
        where blocks @> jsonb_build_array(jsonb_build_object('run', jsonb_build_object('tally', {id.Value})))
        """);

    Lesson[] Known(IEnumerable<long> lessons) => [.. lessons.Select(l => Now.LessonById.GetValueOrDefault(new(l))).OfType<Lesson>()];

    /// <summary>The lessons with a follow-along that offers a tally; its last weeks over all members, by their own days, the newest first; and who marked it in
    /// the week under way, most first.</summary>
    public async Task<(IReadOnlyList<Lesson> UsedIn, IReadOnlyList<TallyTeamWeek> Weeks, IReadOnlyList<TallyMember> ThisWeek)> Figures(
        Tally tally, int weeks, CancellationToken ct)
    {
        var under = IsoWeek.Of(Now.Calendar.Date(clock.GetCurrentInstant()));
        var list = Enumerable.Range(0, weeks).Select(i => under.Plus(-i)).ToArray();
        var (id, mondays, aims, monday) = (tally.Id.Value, list.Select(w => w.Monday).ToArray(), list.Select(tally.AimIn).ToArray(), under.Monday);
        var trip = new OneTrip(db);
        var lessons = trip.List(Using(tally.Id));
        var byWeek = trip.List(db.Database.SqlQuery<WeekRow>($"""
            select w.monday, coalesce(sum(d.done), 0)::int as marks, count(d.member_id)::int as members, (count(*) filter (where d.done >= w.aim))::int as met
            from unnest({mondays}, {aims}) as w(monday, aim)
            left join lateral (select member_id, count(*) as done from tally_marks where tally_id = {id} and day between w.monday and w.monday + 6
                group by member_id) d on true
            group by w.monday
            """));
        var members = trip.List(db.Database.SqlQuery<MemberRow>($"""
            select m.id, m.name, count(*)::int as done, max(t.at) as last from tally_marks t join members m on m.id = t.member_id
            where t.tally_id = {id} and t.day between {monday} and {monday} + 6 group by m.id, m.name order by done desc, last desc limit 50
            """));
        await trip.Ask(ct);
        var rows = byWeek.Value.ToDictionary(r => r.Monday);
        return (Known(lessons.Value), [.. list.Select(w => rows[w.Monday]).Select(r => new TallyTeamWeek(new(r.Monday), r.Marks, r.Members, r.Met))],
            [.. members.Value.Select(m => new TallyMember(new(m.Id), m.Name, m.Done, m.Last))]);
    }

    /// <summary>The week under way of every tally.</summary>
    public async Task<IReadOnlyDictionary<TallyId, TallyTeamWeek>> UnderWay(CancellationToken ct)
    {
        var under = IsoWeek.Of(Now.Calendar.Date(clock.GetCurrentInstant()));
        var (ids, aims, monday) = (Now.Tallies.Select(t => t.Id.Value).ToArray(), Now.Tallies.Select(t => t.AimIn(under)).ToArray(), under.Monday);
        var rows = await db.Database.SqlQuery<TallyRow>($"""
            select w.tally, coalesce(sum(d.done), 0)::int as marks, count(d.member_id)::int as members, (count(*) filter (where d.done >= w.aim))::int as met
            from unnest({ids}, {aims}) as w(tally, aim)
            left join lateral (select member_id, count(*) as done from tally_marks where tally_id = w.tally and day between {monday} and {monday} + 6
                group by member_id) d on true
            group by w.tally
            """).ToListAsync(ct);
        return rows.ToDictionary(r => new TallyId(r.Tally), r => new TallyTeamWeek(under, r.Marks, r.Members, r.Met));
    }

    sealed record TallyRow(long Tally, int Marks, int Members, int Met);
    sealed record WeekRow(LocalDate Monday, int Marks, int Members, int Met);
    sealed record MemberRow(long Id, string Name, int Done, Instant Last);

    /// <summary>"I did it."</summary>
    /// <param name="run">The run of a follow-along it was done with: a run counts once, however often it is sent.</param>
    public async Task<Result<TallyStanding>> Mark(TallyReader by, (BlockId Block, int Number)? run, CancellationToken ct)
    {
        var (member, id, tally) = (by.Member, by.Tally.Id, by.Tally);
        var at = clock.GetCurrentInstant();
        var day = Now.Calendar.Of(by.ZoneId).Date(at);
        var (block, number) = run is { } r ? (r.Block.Value, r.Number) : ((long?)null, (int?)null);
        var most = Tally.MostADay;
        var added = await db.Database.ExecuteSqlAsync($"""
            insert into tally_marks (id, tally_id, member_id, at, day, block_id, run)
            select {ids.Next()}, {id.Value}, {member.Value}, {at}, {day}, {block}::bigint, {number}::int
            where (select count(*) from tally_marks where member_id = {member.Value} and tally_id = {id.Value} and day = {day}) < {most}
            on conflict (member_id, block_id, run) do nothing
            """, ct);
        var standing = TallyStanding.Of(tally, (await reader.Tallies(member, ct)).Of(id), IsoWeek.Of(day));
        return added == 0 && run is null ? Result.Refused($"{most} times in a day is the most that is counted.") : standing;
    }

    /// <summary>Takes the last mark back, as long as it is of today or yesterday.</summary>
    public async Task<Result> TakeBack(MemberId member, string? zoneId, TallyId id, CancellationToken ct)
    {
        var from = Now.Calendar.Of(zoneId).Date(clock.GetCurrentInstant()).PlusDays(-1);
        var gone = await db.Database.ExecuteSqlAsync($"""
            delete from tally_marks where id = (select id from tally_marks where member_id = {member.Value} and tally_id = {id.Value} and day >= {from}
                order by at desc, id desc limit 1)
            """, ct);
        return gone > 0 ? Result.Done : Result.Refused("There is nothing of today or yesterday to take back.");
    }
}
