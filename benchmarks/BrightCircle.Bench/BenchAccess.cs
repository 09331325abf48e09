using System.Diagnostics;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Bench;

/// <summary>Paces, versions, and what a change does over very many.</summary>
public static partial class BenchMain
{
    const int Parts = 2000, People = 100_000;

    /// <summary>What a buyer will pay and when, for each kind of terms: a year ahead, or all of it.</summary>
    static void Schedules()
    {
        static Money Pounds(int n) => new(n * 100, new("GBP"));
        var london = SiteCalendar.For("Europe/London");
        var start = Instant.FromUtc(2026, 1, 31, 9, 0);
        var trial = new Trial(Period.Days(7), Pounds(1));
        (string Name, PriceTerms Terms)[] all =
        [
            ("one payment", new PriceTerms.OnePayment(Pounds(69)) { Access = new AccessLength.For(Period.Months(12)) }),
            ("3 instalments", new PriceTerms.Instalments(Pounds(26), 3, Period.Months(1), trial)),
            ("60 instalments", new PriceTerms.Instalments(Pounds(26), 60, Period.Months(1))),
            ("by the month", new PriceTerms.Recurring(Pounds(18), Period.Months(1), trial, Pounds(9)) { JoiningFee = Pounds(5) }),
            ("by the week", new PriceTerms.Recurring(Pounds(5), Period.Days(7))),
            ("by the year", new PriceTerms.Recurring(Pounds(180), Period.Years(1))),
        ];
        var slowest = all.Select(x =>
        {
            void Some(int n) { for (var i = 0; i < n; i++) GC.KeepAlive(PaymentSchedule.For(x.Terms, start, london)); }
            Some(5000);
            var watch = Stopwatch.StartNew();
            Some(20_000);
            return (x.Name, Micro: watch.Elapsed.TotalMicroseconds / 20_000);
        }).MaxBy(x => x.Micro);
        Row("a payment schedule, of six kinds of terms", $"{slowest.Micro:0.0} µs at most ({slowest.Name})", aim: "under 20 µs");
    }

    static void Paced()
    {
        var london = SiteCalendar.For("Europe/London");
        var start = Instant.FromUtc(2025, 1, 1, 9, 0);
        var now = start + Duration.FromDays(700);
        // 100 courses of 20 lessons, each out on a day of its own.
        var pieces = Enumerable.Range(0, Parts / 20).Select(i =>
        {
            var p = new Piece { Id = new(i + 1), ShelfId = new(i % 6), Ready = true };
            p.Release(start + Duration.FromDays(6 * i));
            p.Attach(Outline.Of([], Enumerable.Range(0, 20).Select(n =>
            {
                var l = new Lesson { Id = new(i * 20 + n + 1), PieceId = p.Id, Position = n, Ready = true };
                l.Release(p.ReleasedAt!.Value);
                return l;
            })));
            return p;
        }).ToArray();
        var weekly = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0));
        Plan PlanOf(long id, int number, Inclusion[] promise, params PromiseVersion[] earlier) =>
            new() { Id = new(id), Rank = (int)id, Promise = promise, PromiseNumber = number, Earlier = earlier };
        Inclusion Line(Coverage covers, Reach reach, Pace? pace = null) => new(covers, reach, new Keep.WhatHadOpened(), pace);
        Inclusion[] all = [Line(new Coverage.Everything(), new Reach.FromJoining(), weekly)],
            shelf = [Line(new Coverage.OnShelf(new(2)), new Reach.EverythingReleased())];
        AccessBook Book(Plan first) => new([first, PlanOf(2, 1, shelf)], pieces, [], [], london);
        var before = Book(PlanOf(1, 1, all));
        var daily = new Pace.Steps(2, PaceUnit.Days, new LocalTime(9, 0));
        var after =
            Book(PlanOf(1, 2, [Line(new Coverage.Everything(), new Reach.EverythingReleased(), daily)],
            new PromiseVersion(new(1), 1, start, all, PromiseVersion.NoPaces)));
        MemberFacts Person(int n)
        {
            var at = start + Duration.FromDays(n % 690) + Duration.FromMinutes(n % 1440);
            Holding Of(long plan)
            {
                var h = new Holding { Id = new(plan), PlanId = new(plan), StartsAt = at, Agreement = Agreement.ForNothing(at, "Europe/London") };
                h.Given(at);
                return h;
            }
            return MemberFacts.From(n % 7 == 0 ? [Of(1), Of(2)] : [Of(1)], now);
        }
        LessonId[] lessons = [.. pieces.SelectMany(p => p.Outline.Lessons).Select(l => l.Id)];
        var facts = Person(650);
        int Round() { var open = 0; foreach (var l in lessons) if (after.Decide(facts, l, now).IsOpen) open++; return open; }
        for (var i = 0; i < 500; i++) Round();
        var bytes = GC.GetAllocatedBytesForCurrentThread();
        var watch = Stopwatch.StartNew();
        var rounds = 0;
        while (watch.Elapsed < TimeSpan.FromSeconds(2)) { Round(); rounds++; }
        Row("paced decisions by an older version, one core", $"{rounds * (double)Parts / watch.Elapsed.TotalSeconds / 1e6:0.0} million/s, "
            + $"{(GC.GetAllocatedBytesForCurrentThread() - bytes) / ((double)rounds * Parts):0.##} B each", "", "", "over 2 million/s, 0 B");

        watch.Restart();
        var difference = new AccessDifference(before, after, now, new HashSet<PlanId> { new(1) });
        var changed = 0;
        for (var n = 0; n < People; n++) if (!difference.Of(Person(n)).IsNone) changed++;
        Row($"what changes for whom: {People} members × {difference.Things} parts",
            $"{watch.Elapsed.TotalSeconds:0.0} s, {changed} changed, {difference.Decided} decided",
            "", "", "under 3 s");
        watch.Restart();
        var thing = lessons[777];
        var can = before.WhoCanOpen(Enumerable.Range(0, People), Person, thing, now).Count();
        Row($"who can open this, of {People}", $"{watch.Elapsed.TotalSeconds:0.00} s, {can} can", "", "", "under 3 s");
        watch.Restart();
        for (var i = 0; i < 200; i++) before.OpeningsOf(facts, now);
        Row("a member’s opening calendar over all parts", $"{watch.Elapsed.TotalMilliseconds / 200:0.00} ms, {before.OpeningsOf(facts, now).Count} openings",
            "", "", "under 5 ms");
    }
}
