using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App.Insight;

/// <summary>Counts how many members each tier had when a month began. It reads every change of standing, so it is done in the background, once.</summary>
public sealed class CountMonth(BrightContext db, Catalogue catalogue) : IDueHandler
{
    static readonly LocalDatePattern Written = LocalDatePattern.Iso;
    public DueKind Kind => DueKind.CountMonth;

    /// <summary>Has a month counted, where nobody has asked for it yet.</summary>
    public static Task Ask(BrightContext db, Ids ids, LocalDate month, Instant at, CancellationToken ct) =>
        db.PutDueOnce(ids, DueKind.CountMonth, at, $"count-month-{Written.Format(month)}", $"\"{Written.Format(month)}\"", ct);

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var month in items.Select(i => Written.Parse(i.Row.Payload!.Trim('"')).Value).Distinct())
        {
            if (await db.MonthBeginnings.AnyAsync(m => m.Month == month, ct)) continue;
            var began = catalogue.Now.Calendar.At(month.AtMidnight());
#pragma warning disable EF1002, EF1003 // The standings are words of an enum.
            var members = await db.Database.SqlQueryRaw<OfTier>($$"""
                select plan_id as tier, count(*)::int as members from (select distinct on (member_id) "to", plan_id from standing_changes where at < {0}
                  order by member_id, at desc, id desc) s where "to" in ({{MovedMembers.Members}}) and plan_id is not null group by plan_id
                """, began).ToListAsync(ct);
#pragma warning restore EF1002, EF1003
            db.Add(new MonthBeginning
            {
                Month = month,
                Members = members.ToDictionary(m => m.Tier.ToString(System.Globalization.CultureInfo.InvariantCulture), m => m.Members)
            });
        }
    }

    sealed record OfTier(long Tier, int Members);
}
