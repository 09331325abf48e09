using System.Text.Json;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>What a list would do, before anything is done.</summary>
/// <param name="New">So many people who aren't here yet.</param>
/// <param name="Gets">So many who are here and get something.</param>
/// <param name="Already">So many for whom there is nothing to do.</param>
public sealed record MoveInLook(int Rows, int New, int Gets, int Already, int Refused, IReadOnlyList<(MoveInRow Row, string Says)> Shown);

/// <summary>Rights for many people: gifts to a list, and people moving in from elsewhere. What is begun goes on in batches, away from the page.</summary>
public sealed class PeopleBatches(BrightContext db, Ids ids, Catalogue catalogue, MemberList members, RunDue due, Deeds deeds, IClock clock)
{
    /// <summary>So many batches are done before the page answers.</summary>
    const int AtOnce = 2;

    /// <summary>How many a gift to a list is for, how many of them hold the plan already, and the first names.</summary>
    public async Task<(int All, int Already, IReadOnlyList<string> Names)> Look(MemberFilter filter, PlanId plan, CancellationToken ct)
    {
        var query = members.Query(filter);
        var trip = new OneTrip(db);
        var all = trip.Count(query);
        var already = trip.Count(query.Where(m => db.Holdings.Any(h => h.MemberId == m.Id && h.PlanId == plan && !h.IsOver)));
        var names = trip.List(query.OrderBy(m => m.Name).Take(10).Select(m => m.Name));
        await trip.Ask(ct);
        return (all.Value, already.Value, names.Value);
    }

    public async Task<Result<long>> Give(TeamActor by, MemberFilter filter, Grant grant, CancellationToken ct)
    {
        by.NeedSupport();
        if (grant.Wrong(catalogue.Now) is { } wrong) return wrong;
        var people = await members.Query(filter).OrderBy(m => m.Id).Select(m => m.Id).ToListAsync(ct);
        if (people.Count == 0) return Result.Refused("Nobody is in this list.");
        return await Begin(by, PeopleBatchKind.Gifts, JsonSerializer.Serialize(grant, CoreJson.Options), [.. people.Select(p => p.Value)], "",
            people.Count, ct);
    }

    public async Task<Result<long>> MoveIn(TeamActor by, string text, MoveInTerms terms, CancellationToken ct)
    {
        by.NeedOwner();
        var reading = new MoveInReading(text);
        if (Wrong(reading, terms) is { } wrong) return wrong;
        return await Begin(by, PeopleBatchKind.MoveIn, JsonSerializer.Serialize(terms, CoreJson.Options), [], text, reading.Count, ct);
    }

    static Result? Wrong(MoveInReading reading, MoveInTerms terms) =>
        reading.Count == 0 ? Result.Refused("There are no people in this list: the first line names the columns, and each line after it is a person.", "Upload")
        : reading.Count > MoveInReading.MostRows ? Result.Refused($"{MoveInReading.MostRows:N0} people are the most at once. Divide the list.", "Upload")
        : !terms.Columns.Contains(MoveInColumn.Email) ? Result.Refused("Say in which column the addresses are.", "Columns")
        : terms.Columns.Where(c => c != MoveInColumn.Nothing).GroupBy(c => c).Any(g => g.Count() > 1) ? Result.Refused("Two columns say the same.", "Columns")
        : null;

    /// <summary>What a list would do, line by line; nothing is done.</summary>
    public async Task<Result<MoveInLook>> Look(string text, MoveInTerms terms, int page, int pageSize, CancellationToken ct)
    {
        var reading = new MoveInReading(text);
        if (Wrong(reading, terms) is { } wrong) return wrong;
        var (known, held) = await Known([.. reading.Read(terms, catalogue.Now).Where(r => r.Wrong is null).Select(r => EmailAddress.Normalise(r.Email))], ct);
        var (seen, fresh, gets, already, refused) = (new HashSet<string>(), 0, 0, 0, 0);
        var shown = new List<(MoveInRow, string)>();
        var n = 0;
        foreach (var row in reading.Read(terms, catalogue.Now))
        {
            var normal = EmailAddress.Normalise(row.Email);
            string says;
            if (row.Wrong is { } why) (says, refused) = (why, refused + 1);
            else if (known.TryGetValue(normal, out var who) && who.Team) (says, refused) = ("This is the address of somebody of the team.", refused + 1);
            else
            {
                var isNew = who == default && seen.Add(normal);
                var has = row.Plan is { } p && held.Contains((normal, p));
                var plan = row.Plan is { } id && !has ? $"{catalogue.Now.PlanName(id)}{Dates(row)}" : "";
                if (row.Plan is { } q) held.Add((normal, q));
                if (isNew) (says, fresh) = ("new" + (plan.Length > 0 ? $", with {plan}" : ""), fresh + 1);
                else if (plan.Length > 0) (says, gets) = ($"is here, gets {plan}", gets + 1);
                else (says, already) = (has ? $"is here and has had {catalogue.Now.PlanName(row.Plan)} already" : "is here already", already + 1);
            }
            if (n >= page * pageSize && n < (page + 1) * pageSize) shown.Add((row, says));
            n++;
        }
        return new MoveInLook(n, fresh, gets, already, refused, shown);
    }

    string Dates(MoveInRow row)
    {
        string Day(LocalDate d) => d.ToString("d MMM uuuu", catalogue.Now.Culture);
        return (row.From is { } from ? $" from {Day(from)}" : "") + (row.Until is { } until ? $" until {Day(until)}" : "");
    }

    async Task<(Dictionary<string, (long Id, bool Team)> People, HashSet<(string, PlanId)> Held)> Known(string[] emails, CancellationToken ct)
    {
        var people = await db.Users.AsNoTracking().Where(a => emails.Contains(a.NormalizedEmail!)).Select(a => new { a.Id, a.NormalizedEmail, a.Role })
            .ToListAsync(ct);
        var by = people.ToDictionary(p => p.NormalizedEmail!, p => (p.Id, p.Role is not null));
        var names = people.ToDictionary(p => new MemberId(p.Id), p => p.NormalizedEmail!);
        var numbers = names.Keys.ToArray();
        var held = await db.Holdings.AsNoTracking().Where(h => numbers.Contains(h.MemberId) && (!h.IsOver || h.Source == HoldingSource.MovedIn))
            .Select(h => new { h.MemberId, h.PlanId }).ToListAsync(ct);
        return (by, [.. held.Select(h => (names[h.MemberId], h.PlanId))]);
    }

    async Task<long> Begin(TeamActor by, PeopleBatchKind kind, string terms, long[] people, string source, int total, CancellationToken ct)
    {
        var batch = new PeopleBatch
        {
            Id = ids.Next(),
            Kind = kind,
            At = clock.GetCurrentInstant(),
            By = by.Name,
            Terms = terms,
            Members = people,
            Source = source,
            Total = total
        };
        db.Add(batch);
        deeds.Note(by, kind == PeopleBatchKind.Gifts ? $"gave something to a list of {total}" : $"moved a list of {total} in",
            $"/desk/members/batches/{batch.Id}");
        db.PutDue(ids, DueKind.PeopleBatch, batch.Id, batch.At, PeopleBatching.Key(batch.Id, 0));
        await db.SaveChangesAsync(ct);
        for (var n = 0; n < AtOnce; n++) await due.Row(PeopleBatching.Key(batch.Id, n * PeopleBatching.Batch), ct);
        return batch.Id;
    }

    public Task<PeopleBatch?> Find(long id, CancellationToken ct) => db.PeopleBatches.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id, ct);
}

/// <summary>Some of the people of a batch.</summary>
public sealed class PeopleBatching(BrightContext db, Ids ids, Catalogue catalogue, Memberships door, Grants grants, Tell tell) : IDueHandler
{
    public const int Batch = 100, MostRefusals = 500;
    internal static string Key(long batch, int from) => $"people-{batch}-{from}";

    public DueKind Kind => DueKind.PeopleBatch;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var batch = await db.PeopleBatches.SingleAsync(b => b.Id == item.Row.SubjectId, ct);
            var done = batch.Kind switch
            {
                PeopleBatchKind.Gifts => await Gifts(batch, item.Moment, ct),
                PeopleBatchKind.MoveIn => await MoveIn(batch, item.Moment, ct),
                _ => throw new InvalidOperationException($"No such batch: {batch.Kind}"),
            };
            happened.Add("given in batches", done.Did);
            (batch.Did, batch.Already, batch.Next) = (batch.Did + done.Did, batch.Already + done.Already, Math.Min(batch.Next + Batch, batch.Total));
            if (done.Refused.Count > 0) batch.Refused = [.. batch.Refused.Concat(done.Refused).Take(MostRefusals)];
            if (batch.Next >= batch.Total) batch.DoneAt = item.Moment;
            else db.PutDue(ids, DueKind.PeopleBatch, batch.Id, item.Moment, Key(batch.Id, batch.Next));
            await db.SaveChangesAsync(ct);
        }
    }

    readonly record struct Done(int Did, int Already, IReadOnlyList<string> Refused);

    async Task<Done> Gifts(PeopleBatch batch, Instant at, CancellationToken ct)
    {
        var grant = JsonSerializer.Deserialize<Grant>(batch.Terms, CoreJson.Options)! with { Through = batch.Id };
        var people = await door.Enter([.. batch.Members.Skip(batch.Next).Take(Batch).Select(m => new MemberId(m))], ct);
        var (did, already, refused) = (0, 0, new List<string>());
        foreach (var m in people.Values)
            if (m.Held(grant.Plan, at) is not null) already++;
            else if (grants.Give(m, grant, at) is { Ok: false } no) refused.Add($"{m.Member.Name}: {no.Refusal}");
            else did++;
        await door.Leave([.. people.Values], at, ct);
        return new(did, already, refused);
    }

    async Task<Done> MoveIn(PeopleBatch batch, Instant at, CancellationToken ct)
    {
        var terms = JsonSerializer.Deserialize<MoveInTerms>(batch.Terms, CoreJson.Options)!;
        var now = catalogue.Now;
        var rows = new MoveInReading(batch.Source).Read(terms, now, batch.Next, Batch).ToArray();
        var emails = rows.Where(r => r.Wrong is null).Select(r => EmailAddress.Normalise(r.Email)).Distinct().ToArray();
        var known = await db.Users.AsNoTracking().Where(a => emails.Contains(a.NormalizedEmail!))
            .Select(a => new { a.Id, a.NormalizedEmail, a.Role }).ToDictionaryAsync(a => a.NormalizedEmail!, ct);
        var entered = await door.Enter([.. known.Values.Where(a => a.Role is null).Select(a => new MemberId(a.Id))], ct);
        var people = known.Values.Where(a => a.Role is null && entered.ContainsKey(new(a.Id))).ToDictionary(a => a.NormalizedEmail!, a => entered[new(a.Id)]);
        var (did, already, refused) = (0, 0, new List<string>());
        foreach (var row in rows)
        {
            var normal = EmailAddress.Normalise(row.Email);
            if (row.Wrong is { } wrong || known.TryGetValue(normal, out var who) && who.Role is not null)
            {
                refused.Add($"Line {row.Line}: {row.Wrong ?? "This is the address of somebody of the team."}");
                continue;
            }
            var isNew = !people.TryGetValue(normal, out var m);
            if (isNew)
            {
                people[normal] = m = grants.Arrive(row.Name, row.Email, at, row.Plan);
                tell.Of(m.Member, new Event.Added(), at);
            }
            var gave = false;
            if (row.Plan is { } plan && m!.Held(plan, at) is null && !m.Holdings.Any(h => h.PlanId == plan && h.Source == HoldingSource.MovedIn))
            {
                var given = grants.Give(m, new(plan, HoldingSource.MovedIn, row.From, row.Until, terms.AllAtOnce, row.Note, batch.Id,
                    Quietly: !terms.Letters), at);
                if (!given.Ok) refused.Add($"Line {row.Line}: {given.Refusal}");
                gave = given.Ok;
            }
            await Finish(m!, row.Finished, at, isNew, ct);
            if (isNew || gave) did++;
            else already++;
        }
        await door.Leave([.. people.Values], at, ct);
        return new(did, already, refused);
    }

    /// <summary>What they have had counts as done; what they did here stays as it is.</summary>
    async Task Finish(Membership m, IReadOnlyList<PieceId> pieces, Instant at, bool isNew, CancellationToken ct)
    {
        if (pieces.Count == 0) return;
        var lessons = pieces.SelectMany(p => catalogue.Now.PieceById[p].Outline.Lessons).Where(l => l.ReleasedAt is not null).Select(l => l.Id).ToArray();
        var has = isNew ? [] : await db.Openings.Where(o => o.MemberId == m.Member.Id && lessons.Contains(o.LessonId)).ToListAsync(ct);
        foreach (var lesson in lessons)
            if (has.FirstOrDefault(o => o.LessonId == lesson) is { } opened) opened.DoneAt ??= at;
            else if (!db.Openings.Local.Any(o => o.MemberId == m.Member.Id && o.LessonId == lesson))
                db.Openings.Add(new() { MemberId = m.Member.Id, LessonId = lesson, FirstAt = at, LastAt = at, DoneAt = at });
    }
}
