using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>Who begins a routine because of a day, or could because of what they are already.</summary>
public sealed class RoutineDays(BrightContext db, Catalogue catalogue, ConditionSql sql)
{
    /// <summary>Whose day it is, on the site's calendar day of a moment.</summary>
    public IQueryable<Member> Of(Routine routine, Instant at)
    {
        var calendar = catalogue.Now.Calendar;
        var today = calendar.Date(at);
        var nobody = db.Members.AsNoTracking().Where(m => false);
        switch (routine.Script.When)
        {
            case Trigger.DayOf c:
                var day = today.PlusDays(c.DaysBefore);
                if (!c.EveryYear) return db.Members.AsNoTracking().Where(m =>
                    db.OwnFieldValues.Any(v => v.MemberId == m.Id && v.FieldId == c.Field && v.Date == day));
                var days = Trigger.DaysOfYear(day);
                var (m1, d1, m2, d2) = (days[0].Month, days[0].Day, days[^1].Month, days[^1].Day);
                // The day itself, in the year it names or later.
                return db.Members.AsNoTracking().Where(m => db.OwnFieldValues.Any(v => v.MemberId == m.Id && v.FieldId == c.Field && v.Date != null
                    && v.Date <= day
                    && (v.Date.Value.Month == m1 && v.Date.Value.Day == d1 || v.Date.Value.Month == m2 && v.Date.Value.Day == d2)));
            case Trigger.NotSeen c:
                // Those whose days are over since the routine is on, also where a morning was missed; once for each time they stay away.
                var from = calendar.Date(routine.OnSince ?? at).PlusDays(-c.Days);
                var seen = sql.Members(new Condition.Seen(new When.Between(from, today.PlusDays(-c.Days))));
                return seen.Where(m => !db.RoutineRuns.Any(r => r.RoutineId == routine.Id && r.MemberId == m.Id
                    && r.BegunAt > db.LastSeen.Where(s => s.MemberId == m.Id).Select(s => s.At).FirstOrDefault()));
            case Trigger.TallyWeek c:
                if (today.DayOfWeek != IsoDayOfWeek.Monday) return nobody;
                var met = new Condition.MetTally(c.Tally, 1);
                return c.Met ? sql.Members(met)
                    : sql.Members(new Condition.Not(met)).Where(m => db.TallyMarks.Any(t => t.MemberId == m.Id && t.TallyId == c.Tally));
            default:
                throw new InvalidOperationException($"Nobody begins {routine.Name} because of a day.");
        }
    }

    /// <summary>Who is already what a routine begins with, and was never in it; null where that can't be said.</summary>
    public IQueryable<Member>? Already(Routine routine)
    {
        Condition? fits = routine.Script.When switch
        {
            Trigger.Joins c => new Condition.Holds(c.Plans, c.Price, HoldingSource.Bought),
            Trigger.Gets c => new Condition.Holds(c.Plans),
            Trigger.Pays c => new Condition.Holds(c.Plans, null, HoldingSource.Bought),
            Trigger.PlanEnds c => new Condition.Held(c.Plans),
            Trigger.PaymentFails c => new Condition.AllOf([new Condition.InStanding([Core.Standing.Grace]), new Condition.Holds(c.Plans)]),
            Trigger.Leaves c => new Condition.AllOf([new Condition.InStanding([Core.Standing.Ending]), new Condition.Holds(c.Plans)]),
            Trigger.Opens { Piece: { } piece } => new Condition.OpenedPiece(piece),
            Trigger.GetsTag c => new Condition.Tagged(c.Tag),
            Trigger.NotSeen c => new Condition.Seen(new When.LongerAgo(c.Days - 1)),
            // What happened once, or comes on a day, isn't what somebody is.
            Trigger.Opens or Trigger.Recovers or Trigger.Finishes or Trigger.HandsIn or Trigger.SignsIn or Trigger.Reported or Trigger.DayOf
                or Trigger.TallyWeek or Trigger.EditionOpens => null,
            _ => throw new InvalidOperationException($"No such trigger: {routine.Script.When}"),
        };
        if (fits is null) return null;
        if (routine.Script.And is { } and && catalogue.Now.People.AudienceById.TryGetValue(and, out var audience))
            fits = new Condition.AllOf([fits, audience.Condition]);
        return sql.Members(fits).Where(m => !db.RoutineRuns.Any(r => r.RoutineId == routine.Id && r.MemberId == m.Id));
    }
}
