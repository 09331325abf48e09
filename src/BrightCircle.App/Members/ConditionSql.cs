using System.Linq.Expressions;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>A condition over members, as the database is asked for it: the one place where conditions are worked out.</summary>
/// <remarks>Each kind becomes a subquery over an index; groups join them. What a condition names and is gone fits nobody.</remarks>
public sealed class ConditionSql(BrightContext db, Catalogue catalogue, IClock clock)
{
    /// <summary>The members that fit.</summary>
    public IQueryable<Member> Members(Condition condition) => db.Members.AsNoTracking().Where(Of(condition));

    public Expression<Func<Member, bool>> Of(Condition condition) => new Translation(db, catalogue.Now, clock.GetCurrentInstant()).Of(condition);

    sealed class Translation(BrightContext db, CatalogueSnapshot now, Instant moment)
    {
        readonly LocalDate today = now.Calendar.Date(moment);
        static readonly Expression<Func<Member, bool>> Everybody = m => true, Nobody = m => false;

        public Expression<Func<Member, bool>> Of(Condition condition) => condition switch
        {
            Condition.AllOf g => Joined(g.Of, Expression.AndAlso, Everybody),
            Condition.AnyOf g => Joined(g.Of, Expression.OrElse, Nobody),
            Condition.NoneOf g => Negated(Joined(g.Of, Expression.OrElse, Nobody)),
            Condition.Not n => Negated(Of(n.Of)),
            Condition.InStanding s => Standing([.. s.Standings]),
            Condition.Holds h => Holds(h),
            Condition.Held h => Held(h),
            Condition.Tagged t => Tagged(t.Tag),
            Condition.Field f => Field(f),
            Condition.Joined j => JoinedAt(j.When),
            Condition.Lapsed l => Lapsed(l.When),
            Condition.Seen s => Seen(s.When),
            Condition.OpenedPiece p => now.PieceById.TryGetValue(p.Piece, out var piece) ? Opened([.. piece.Outline.Lessons.Select(l => l.Id)]) : Nobody,
            Condition.OpenedEdition e => Opened([.. now.PartsOf[e.Edition].SelectMany(p => p.Outline.Lessons).Concat(now.LessonPartsOf[e.Edition])
                .Select(l => l.Id)]),
            Condition.OpenedLink l => OpenedLink(l.When),
            Condition.Done d => Done(d),
            Condition.StoppedIn s => Stopped(s),
            Condition.MetTally t => MetTally(t),
            Condition.Spent s => Spent(s.AtLeast),
            Condition.InCohort c => m => db.CohortMembers.Any(x => x.MemberId == m.Id && x.CohortId == c.Cohort),
            Condition.Named n => Named(Like.Containing(n.Text)),
            Condition.WantsNews => m => m.WantsNews,
            Condition.Reads r => m => m.Reads == r.Language,
            _ => throw new InvalidOperationException($"No such condition: {condition}"),
        };

        Expression<Func<Member, bool>> Joined(IReadOnlyList<Condition> of, Func<Expression, Expression, Expression> with, Expression<Func<Member, bool>> none)
        {
            if (of.Count == 0) return none;
            var member = Expression.Parameter(typeof(Member), "m");
            return Expression.Lambda<Func<Member, bool>>(of.Select(c => In(Of(c), member)).Aggregate(with), member);
        }

        static Expression<Func<Member, bool>> Negated(Expression<Func<Member, bool>> of) => Expression.Lambda<Func<Member, bool>>(Expression.Not(of.Body),
            of.Parameters);

        static Expression In(Expression<Func<Member, bool>> of, ParameterExpression member) => new Instead(of.Parameters[0], member).Visit(of.Body);

        sealed class Instead(ParameterExpression of, ParameterExpression by) : ExpressionVisitor
        {
            protected override Expression VisitParameter(ParameterExpression node) => node == of ? by : node;
        }

        static Expression<Func<Member, bool>> Standing(Core.Standing[] standings) => m => standings.Contains(m.Standing);

        Expression<Func<Member, bool>> Holds(Condition.Holds h)
        {
            var plans = h.Plans.ToArray();
            var held = db.Holdings.Where(x => !x.IsOver && x.StartsAt <= moment);
            if (plans.Length > 0) held = held.Where(x => plans.Contains(x.PlanId));
            if (h.Price is { } price) held = held.Where(x => x.PriceId == price);
            if (h.Source is { } source) held = held.Where(x => x.Source == source);
            return m => held.Any(x => x.MemberId == m.Id);
        }

        Expression<Func<Member, bool>> Held(Condition.Held h)
        {
            var plans = h.Plans.ToArray();
            var of = db.Holdings.Where(x => x.StartsAt <= moment);
            if (plans.Length > 0) of = of.Where(x => plans.Contains(x.PlanId));
            return m => of.Any(x => x.MemberId == m.Id && x.IsOver) && !of.Any(x => x.MemberId == m.Id && !x.IsOver);
        }

        Expression<Func<Member, bool>> Tagged(TagId id) => now.TagById.GetValueOrDefault(id) is { Follows: { } follows } ? Of(follows)
            : m => db.MemberTags.Any(t => t.MemberId == m.Id && t.TagId == id);

        Expression<Func<Member, bool>> Field(Condition.Field f)
        {
            var values = db.OwnFieldValues.Where(v => v.FieldId == f.OwnField);
            values = f.Test switch
            {
                FieldTest.Filled => values,
                FieldTest.Is t => values.Where(v => EF.Functions.ILike(v.Text, Like.Exactly(t.Text), Like.Escape)),
                FieldTest.AtLeast n => values.Where(v => v.Number >= n.Number),
                FieldTest.AtMost n => values.Where(v => v.Number <= n.Number),
                FieldTest.OnDays d => On(values, d.When),
                _ => throw new InvalidOperationException($"No such test: {f.Test}"),
            };
            return m => values.Any(v => v.MemberId == m.Id);
        }

        IQueryable<OwnFieldValue> On(IQueryable<OwnFieldValue> values, When when)
        {
            var (from, to) = when.Span(today);
            values = values.Where(v => v.Date != null);
            if (from is { } f) values = values.Where(v => v.Date >= f);
            if (to is { } t) values = values.Where(v => v.Date <= t);
            return values;
        }

        Expression<Func<Member, bool>> JoinedAt(When when)
        {
            var (from, before) = when.Moments(today, now.Calendar);
            return (from, before) switch
            {
                ({ } f, { } b) => m => m.JoinedAt >= f && m.JoinedAt < b,
                ({ } f, null) => m => m.JoinedAt >= f,
                (null, { } b) => m => m.JoinedAt < b,
                (null, null) => Everybody,
            };
        }

        Expression<Func<Member, bool>> Lapsed(When when)
        {
            var (from, before) = when.Moments(today, now.Calendar);
            var (f, b) = (from ?? Instant.MinValue, before ?? Instant.MaxValue);
            return m => m.Standing == Core.Standing.Lapsed && m.StandingSince >= f && m.StandingSince < b;
        }

        Expression<Func<Member, bool>> Seen(When when)
        {
            var (from, before) = when.Moments(today, now.Calendar);
            var (f, b) = (from ?? Instant.MinValue, before ?? Instant.MaxValue);
            return m => db.LastSeen.Any(s => s.MemberId == m.Id && s.At >= f && s.At < b);
        }

        Expression<Func<Member, bool>> OpenedLink(When when)
        {
            var (from, before) = when.Moments(today, now.Calendar);
            var (f, b) = (from ?? Instant.MinValue, before ?? Instant.MaxValue);
            return m => db.OpenedLinks.Any(o => o.MemberId == m.Id && o.At >= f && o.At < b);
        }

        Expression<Func<Member, bool>> Opened(LessonId[] lessons) => lessons.Length == 0 ? Nobody
            : m => db.Openings.Any(o => o.MemberId == m.Id && lessons.Contains(o.LessonId));

        Expression<Func<Member, bool>> Done(Condition.Done d)
        {
            var lessons = now.PieceById.TryGetValue(d.Piece, out var piece)
                ? piece.Outline.Lessons.Where(l => now.Book.ReleaseOf(l.Id) is { } at && at <= moment).Select(l => l.Id).ToArray() : [];
            var need = d.Lessons ?? lessons.Length;
            if (need == 0 || need > lessons.Length) return Nobody;
            var done = db.Openings.Where(o => o.DoneAt != null && lessons.Contains(o.LessonId)).GroupBy(o => o.MemberId)
                .Where(g => g.Count() >= need).Select(g => g.Key);
            return m => done.Contains(m.Id);
        }

        Expression<Func<Member, bool>> Stopped(Condition.StoppedIn s)
        {
            if (!now.PieceById.TryGetValue(s.Piece, out var piece)) return Nobody;
            var (lessons, last) = (piece.Outline.Lessons.Select(l => l.Id).ToArray(), moment - Duration.FromDays(s.Days));
            var begun = db.Openings.Where(o => lessons.Contains(o.LessonId)).GroupBy(o => o.MemberId).Where(g => g.Max(o => o.LastAt) < last)
                .Select(g => g.Key);
            Expression<Func<Member, bool>> stopped = m => begun.Contains(m.Id);
            var member = Expression.Parameter(typeof(Member), "m");
            return Expression.Lambda<Func<Member, bool>>(Expression.AndAlso(In(stopped, member), In(Of(new Condition.Not(new Condition.Done(s.Piece, null))),
                member)), member);
        }

        Expression<Func<Member, bool>> MetTally(Condition.MetTally t)
        {
            if (!now.TallyById.TryGetValue(t.Tally, out var tally)) return Nobody;
            var week = IsoWeek.Of(today).Plus(-t.WeeksAgo);
            var (monday, sunday, aim) = (week.Monday, week.Sunday, tally.AimIn(week));
            var met = db.TallyMarks.Where(x => x.TallyId == t.Tally && x.Day >= monday && x.Day <= sunday).GroupBy(x => x.MemberId)
                .Where(g => g.Count() >= aim).Select(g => g.Key);
            return m => met.Contains(m.Id);
        }

        Expression<Func<Member, bool>> Spent(Money atLeast)
        {
            var (minor, currency) = (atLeast.Minor, atLeast.Currency);
            var paid = db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved && !p.ChargedBack && p.Amount.Currency == currency)
                .GroupBy(p => p.MemberId).Where(g => g.Sum(p => p.Amount.Minor - p.RefundedMinor) >= minor).Select(g => g.Key);
            return m => paid.Contains(m.Id);
        }

        static Expression<Func<Member, bool>> Named(string like) => m => EF.Functions.ILike(m.Name + " " + m.Email, like, Like.Escape);
    }
}
