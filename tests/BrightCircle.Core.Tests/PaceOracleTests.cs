using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Paces, versions, lengths and pauses decided once more, slowly: day by day along the calendar.</summary>
public class PaceOracleTests
{
    const int Lessons = 6;
    static readonly LocalDate First = new(2026, 1, 1);

    /// <summary>A holding as a test says it: days and minutes since 1 January, in the site's zone.</summary>
    sealed record Spec(int Plan, int Day, int Minute, int? Length, int Version, bool AllAtOnce, bool Keeps);

    sealed record World(string Zone, Inclusion[][] Versions, int[] Released, int Now, int NowMinute, Spec[] Held)
    {
        public SiteCalendar Calendar => SiteCalendar.For(Zone);
        public Instant At(int day, int minute) => Calendar.At(First.PlusDays(day).AtMidnight().PlusMinutes(minute));
        public Instant Moment => At(Now, NowMinute);
        public Instant Start(Spec s) => At(s.Day, s.Minute);
        public Instant End(Spec s) => s.Length is { } l ? At(s.Day + l, s.Minute) : Instant.MaxValue;
        public Instant Release(int lesson) => At(Released[lesson], 9 * 60);
    }

    static (AccessBook Book, MemberFacts Facts) Make(World w)
    {
        var plans = new[] { 1, 2 }.Select(id => new Plan
        {
            Id = new(id),
            Kind = PlanKind.Pass,
            Promise = w.Versions[id * 2 - 1],
            PromiseNumber = 2,
            Earlier = [new(new(id), 1, default, w.Versions[id * 2 - 2], PromiseVersion.NoPaces)],
        });
        var holdings = w.Held.Select((s, i) =>
        {
            var (start, end) = (w.Start(s), w.End(s));
            var h = new Holding
            {
                Id = new(i + 1),
                PlanId = new(s.Plan),
                StartsAt = start,
                PromiseNumber = s.Version,
                AllAtOnce = s.AllAtOnce,
                Agreement = Agreement.ForNothing(start, w.Zone),
            };
            h.Paid(start, end < Instant.MaxValue ? end : null, start);
            if (end < Instant.MaxValue) h.Ended(end, s.Keeps ? EndReason.Left : EndReason.EndedByTeam);
            return h;
        });
        return (new(plans, [PieceOf(w)], [], [], w.Calendar), MemberFacts.From(holdings, w.Moment));
    }

    /// <summary>Day by day from the anchor: a step is a day (or the days to the next such date), and where a pause begins before the next day's
    /// time the walk jumps over as many days as it has.</summary>
    static Instant Slow(World w, Pace pace, int k, Instant anchor, List<(Instant From, Instant To)> pauses)
    {
        if (pace is Pace.OnDates d) return k < d.Dates.Count ? w.Calendar.At(d.Dates[k]) : Instant.MaxValue;
        if (pace is not Pace.Steps s) return anchor;
        var local = w.Calendar.Local(anchor);
        var time = s.At ?? local.TimeOfDay;
        if (k == 0 && s.Lead == 0) return anchor;
        // The date by the calendar alone.
        var date = local.Date;
        for (var i = 0; i < s.Lead; i++) date = date.PlusDays(1);
        var first = date;
        for (var left = k * s.Every; left > 0;)
        {
            date = date.PlusDays(1);
            left -= s.Unit switch
            {
                PaceUnit.Days => 1,
                PaceUnit.Weeks => date.DayOfWeek == first.DayOfWeek ? 1 : 0,
                PaceUnit.Weekdays => date.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday ? 0 : 1,
                PaceUnit.Months => date.Day == Math.Min(first.Day, date.Calendar.GetDaysInMonth(date.Year, date.Month)) ? 1 : 0,
                _ => date.Day == 1 ? 1 : 0,
            };
        }
        foreach (var (from, to) in pauses.Where(p => p.To > anchor))
        {
            var begins = from > anchor ? from : anchor;
            if (w.Calendar.At(date + time) <= begins) continue;
            for (var day = w.Calendar.Date(begins); day < w.Calendar.Date(to); day = day.PlusDays(1)) date = date.PlusDays(1);
            while (s.Unit == PaceUnit.Weekdays && date.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday) date = date.PlusDays(1);
        }
        return w.Calendar.At(date + time);
    }

    static (AccessState State, Instant At) Slow(World w, int lesson)
    {
        var soonest = Instant.MaxValue;
        var now = w.Moment;
        foreach (var s in w.Held.Where(s => w.Start(s) <= now))
        {
            var (start, end) = (w.Start(s), w.End(s) <= now ? w.End(s) : Instant.MaxValue);
            var same = w.Held.Where(x => x.Plan == s.Plan && w.Start(x) <= now).OrderBy(w.Start).ToArray();
            var pauses = new List<(Instant, Instant)>();
            var reached = w.Start(same[0]);
            foreach (var x in same)
            {
                if (w.Start(x) > reached) pauses.Add((reached, w.Start(x)));
                var until = w.End(x) <= now ? w.End(x) : Instant.MaxValue;
                if (until > reached) reached = until;
            }
            var begun = same[0];
            foreach (var i in w.Versions[s.Plan * 2 - 3 + s.Version])
            {
                if (i.Covers is Coverage.OneLesson one && one.Lesson.Value != lesson + 1) continue;
                var released = w.Release(lesson);
                var anchor = Instant.Max(w.Start(begun), w.At(w.Released.Min(), 9 * 60));
                var opens = s.AllAtOnce || i.Pace is null ? released : Instant.Max(released, Slow(w, i.Pace, lesson, anchor, pauses));
                if (opens == Instant.MaxValue) continue;
                var stops = end;
                if (i.Ends is { } e && w.Calendar.Boundary(start, e, 1) is var b && b < stops) stops = b;
                if (opens <= now && now < stops) return (AccessState.Open, default);
                if (opens <= now && opens < stops && s.Keeps | end > now && i.Keep switch
                {
                    Keep.WhatHadOpened => true,
                    Keep.ForPeriod p => now < w.Calendar.Boundary(stops, p.Length, 1),
                    _ => false,
                }) return (AccessState.Open, default);
                if (opens > now && opens < stops && opens < soonest) soonest = opens;
            }
        }
        return soonest < Instant.MaxValue ? (AccessState.OpensAt, soonest) : (AccessState.Locked, default);
    }

    static readonly Gen<Pace?> GenPace = Gen.Select(Gen.Int[0, 7], Gen.Int[1, 9], Gen.Int[-1, 23], Gen.Int[0, 4]).Select((kind, every, hour, lead) =>
    {
        LocalTime? at = hour < 0 ? null : new LocalTime(hour, 30);
        return kind switch
        {
            0 => null,
            1 => new Pace.AtOnce(),
            2 => new Pace.OnDates([.. Enumerable.Range(0, every % 7).Select(n => First.PlusDays(40 + n * every).At(at ?? LocalTime.Noon))]),
            _ => (Pace?)new Pace.Steps(kind == 7 ? 1 : every, kind switch
            {
                3 => PaceUnit.Days,
                4 => PaceUnit.Weekdays,
                5 => PaceUnit.Weeks,
                6 => PaceUnit.Months,
                _ => PaceUnit.FirstsOfMonth,
            }, at, Lead: lead),
        };
    });

    static readonly Gen<Inclusion> GenInclusion = Gen.Select(Gen.Int[0, 8], GenPace, Gen.Int[0, 3], Gen.Int[-20, 20]).Select((covers, pace, keep, ends) =>
        new Inclusion(covers < Lessons ? new Coverage.OneLesson(new(covers + 1)) : new Coverage.OnePiece(new(1)), new Reach.EverythingReleased(),
            keep switch { 0 => new Keep.Nothing(), 1 => new Keep.ForPeriod(Period.Days(20)), _ => new Keep.WhatHadOpened() }, pace,
            ends > 0 ? Period.Days(ends * 4) : null));

    static readonly Gen<Spec> GenSpec = Gen.Select(Gen.Int[1, 2], Gen.Int[0, 300], Gen.Int[0, 1439], Gen.Int[-60, 90], Gen.Int[1, 2], Gen.Int[0, 5], Gen.Bool)
        .Select((plan, day, minute, length, version, all, keeps) => new Spec(plan, day, minute, length > 0 ? length : null, version, all == 0, keeps));

    static readonly Gen<World> Worlds = Gen.Select(Gen.OneOf([.. new[] { "Europe/London", "America/New_York", "Australia/Lord_Howe" }.Select(Gen.Const)]),
        GenInclusion.Array[0, 2].Array[4], Gen.Int[0, 200].Array[Lessons], Gen.Int[0, 340], Gen.Int[0, 1439], GenSpec.Array[1, 4])
        .Select((zone, versions, released, now, minute, held) =>
            new World(zone, versions, [.. released.Select(r => Math.Min(r, now))], now, minute, [.. held.DistinctBy(h => (h.Day, h.Minute))]));

    // Six lessons each time: more than 100 000 decisions.
    [Fact]
    public void The_book_paces_as_the_calendar_walked_day_by_day() => Worlds.Sample(w =>
    {
        var (book, facts) = Make(w);
        for (var l = 0; l < Lessons; l++)
        {
            if (w.Release(l) > w.Moment) continue;
            var d = book.Decide(facts, new LessonId(l + 1), w.Moment);
            var (state, at) = Slow(w, l);
            Assert.True((state, at) == (d.State, d.OpensAt), $"lesson {l + 1}: {d}, slowly {state} {at}");
        }
    }, iter: Core.Tests.Make.Tries(20_000));

    // ---- What always holds. ----

    [Fact]
    public void More_held_never_closes_anything_nor_makes_it_wait_longer() => Gen.Select(Worlds, GenSpec).Sample((w, more) =>
    {
        if (w.Held.Any(h => h.Plan == more.Plan)) return;
        var (book, facts) = Make(w);
        var (_, richer) = Make(w with { Held = [.. w.Held, more] });
        for (var l = 1; l <= Lessons; l++)
        {
            var (a, b) = (book.Decide(facts, new LessonId(l), w.Moment), book.Decide(richer, new LessonId(l), w.Moment));
            Assert.True(!a.IsOpen || b.IsOpen);
            if (a.State == AccessState.OpensAt) Assert.True(b.IsOpen || b.State == AccessState.OpensAt && b.OpensAt <= a.OpensAt);
        }
    }, iter: Core.Tests.Make.Tries(4_000));

    [Fact]
    public void Nothing_opens_before_it_is_out_and_what_is_said_to_open_then_does() => Worlds.Sample(w =>
    {
        var (book, facts) = Make(w);
        foreach (var o in book.OpeningsOf(facts, w.Moment))
        {
            Assert.True(o.At > w.Moment && o.At >= book.ReleaseOf(o.Thing));
            Assert.True(book.Decide(facts, o.Thing, o.At).IsOpen);
            Assert.False(book.Decide(facts, o.Thing, o.At - Duration.Epsilon).IsOpen);
        }
        // All of them, although what can't open later isn't asked about.
        Assert.Equal(Enumerable.Range(1, Lessons).Where(l => book.Decide(facts, new LessonId(l), w.Moment).State == AccessState.OpensAt),
            book.OpeningsOf(facts, w.Moment).Select(o => (int)o.Thing.Id).Order());
        Assert.Equal(book.OpeningsOf(facts, w.Moment).OrderBy(o => o.At).Select(o => o.Thing), book.OpeningsOf(facts, w.Moment).Select(o => o.Thing));
    }, iter: Core.Tests.Make.Tries(4_000));

    [Fact]
    public void The_difference_of_two_settings_is_the_sum_of_what_changes_for_each() => Gen.Select(Worlds, Worlds.Select(x => x.Held).Array[0, 6])
        .Sample((w, others) =>
    {
        var people = others.Append(w.Held).Select(held => Make(w with { Held = held }).Facts).ToArray();
        var before = Make(w).Book;
        // Those who hold plan 1 are moved to what those who hold plan 2 are promised.
        var plan = before.Plan(new(1));
        var after = new AccessBook([new Plan { Id = new(1), Kind = PlanKind.Pass, Promise = w.Versions[3], PromiseNumber = 3,
            Earlier = [.. plan.Earlier, new(new(1), 2, default, plan.Promise, PromiseVersion.NoPaces)] }, before.Plan(new(2))],
            [PieceOf(w)], [], [], w.Calendar);
        var difference = new AccessDifference(before, after, w.Moment, new HashSet<PlanId> { new(1) });
        foreach (var facts in people)
        {
            var (effect, changes) = (difference.Of(facts), difference.ChangesFor(facts).ToArray());
            Assert.Equal(changes.Length, effect.Opens + effect.Closes + effect.Moves);
            Assert.Equal(changes.Count(c => c.After.IsOpen), effect.Opens);
            Assert.Equal(changes.Count(c => c.Before.IsOpen), effect.Closes);
            Assert.Equal(effect, new AccessDifference(before, after, w.Moment, new HashSet<PlanId> { new(1) }).Of(facts));
        }
        // Nobody is touched where nobody is moved.
        Assert.All(people, facts => Assert.True(new AccessDifference(before, after, w.Moment).Of(facts).IsNone));
    }, iter: Core.Tests.Make.Tries(1_500));

    static Piece PieceOf(World w)
    {
        var piece = new Piece { Id = new(1), ShelfId = new(1), Ready = true };
        piece.Release(w.At(w.Released.Min(), 9 * 60));
        piece.Attach(Outline.Of([], Enumerable.Range(0, Lessons).Select(n =>
        {
            var l = new Lesson { Id = new(n + 1), PieceId = new(1), Position = n, Ready = true };
            l.Release(w.Release(n));
            return l;
        })));
        return piece;
    }
}
