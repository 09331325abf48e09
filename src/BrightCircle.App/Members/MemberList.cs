using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>What the member list is filtered and sorted by; all of it stands in the address of the page.</summary>
public sealed record MemberListing(MemberFilter Filter, string Sort = "joined", bool Down = true);

public sealed record MemberRow(MemberId Id, string Name, string Email, Standing Standing, PlanId? PlanId, Instant StandingSince, Instant JoinedAt);

public sealed class MemberList(BrightContext db, Catalogue catalogue, IClock clock, ConditionSql sql)
{
    public const int PageSize = 50;

    public async Task<(IReadOnlyList<MemberRow> Rows, int Count)> Page(MemberListing listing, int page, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var query = Query(listing.Filter);
        var count = trip.Count(query);
        var rows = trip.List(Sorted(query, listing).Skip((Math.Max(1, page) - 1) * PageSize).Take(PageSize).Select(Row));
        await trip.Ask(ct);
        return (rows.Value, count.Value);
    }

    /// <summary>The first of the list, uncounted.</summary>
    public async Task<IReadOnlyList<MemberRow>> First(MemberListing listing, int most, CancellationToken ct) =>
        await Sorted(Query(listing.Filter), listing).Take(most).Select(Row).ToListAsync(ct);

    internal static readonly System.Linq.Expressions.Expression<Func<Member, MemberRow>> Row =
        m => new(m.Id, m.Name, m.Email, m.Standing, m.StandingPlanId, m.StandingSince, m.JoinedAt);

    public Task<int> Count(MemberFilter filter, CancellationToken ct) => Query(filter).CountAsync(ct);

    /// <summary>The same as <see cref="Buyer.Fits"/>, asked of the database.</summary>
    public IQueryable<Member> Query(MemberFilter f)
    {
        var query = db.Members.AsNoTracking();
        if (!string.IsNullOrWhiteSpace(f.Search)) query = query.Where(m => EF.Functions.ILike(m.Name + " " + m.Email, Like.Containing(f.Search), Like.Escape));
        if (f.Standing is { } standing) query = query.Where(m => m.Standing == standing);
        if (f.Plan is { } plan)
        {
            var at = clock.GetCurrentInstant();
            query = query.Where(m => db.Holdings.Any(h => h.MemberId == m.Id && h.PlanId == plan && !h.IsOver && h.StartsAt <= at));
        }
        var calendar = catalogue.Now.Calendar;
        if (f.From is { } from)
        {
            var start = calendar.At(from.AtMidnight());
            query = query.Where(m => m.JoinedAt >= start);
        }
        if (f.To is { Year: < 9999 } to)
        {
            var end = calendar.At(to.PlusDays(1).AtMidnight());
            query = query.Where(m => m.JoinedAt < end);
        }
        if (f.Tag is { } tag) query = query.Where(sql.Of(new Condition.Tagged(tag)));
        // An audience that is gone is nobody's.
        if (f.Audience is { } audience)
            query = query.Where(sql.Of(catalogue.Now.People.AudienceById.TryGetValue(audience, out var a) ? a.Condition : new Condition.AnyOf([])));
        return query;
    }

    static IQueryable<Member> Sorted(IQueryable<Member> query, MemberListing f) => (f.Sort, f.Down) switch
    {
        ("name", false) => query.OrderBy(m => m.Name).ThenBy(m => m.Id),
        ("name", true) => query.OrderByDescending(m => m.Name).ThenBy(m => m.Id),
        ("standing", false) => query.OrderBy(m => m.Standing).ThenBy(m => m.Name),
        ("standing", true) => query.OrderByDescending(m => m.Standing).ThenBy(m => m.Name),
        ("since", false) => query.OrderBy(m => m.StandingSince).ThenBy(m => m.Id),
        ("since", true) => query.OrderByDescending(m => m.StandingSince).ThenBy(m => m.Id),
        (_, false) => query.OrderBy(m => m.JoinedAt).ThenBy(m => m.Id),
        _ => query.OrderByDescending(m => m.JoinedAt).ThenBy(m => m.Id),
    };

    /// <summary>The filtered list as CSV (RFC 4180, UTF-8 with BOM), streamed row by row. Cells that a spreadsheet would run as a formula are made
    /// harmless.</summary>
    public async Task WriteCsv(MemberListing listing, Stream to, CancellationToken ct)
    {
        var now = catalogue.Now;
        await using var text = new StreamWriter(to, new System.Text.UTF8Encoding(true), leaveOpen: true);
        await using var csv = Csv.Writer(text);
        csv.WriteRecord(["name", "email", "standing", "tier", "standing since", "joined"]);
        await foreach (var m in Sorted(Query(listing.Filter), listing).Select(Row).AsAsyncEnumerable().WithCancellation(ct))
            csv.WriteRecord([m.Name, m.Email, m.Standing.Word(), now.PlanName(m.PlanId), Iso(m.StandingSince), Iso(m.JoinedAt)]);
        await csv.FlushAsync(ct);

        string Iso(Instant at) => now.Calendar.Date(at).ToString("uuuu-MM-dd", CultureInfo.InvariantCulture);
    }
}
