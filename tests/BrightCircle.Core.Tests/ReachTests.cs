using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>How far back a promise reaches: editions of several spans, standing and dated content, places, and the rules said once more, slowly.</summary>
public class ReachTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9, int minute = 0, int year = 2026) => London.At(new(year, month, day, hour, minute));

    static Edition Edition(long id, EditionSpan span, LocalDate first, bool released)
    {
        var e = new Edition { Id = new(id), Span = span, FirstDay = first, ReleaseAt = London.At(first.At(new(9, 0))), Scheduled = true };
        if (released) e.Release(e.ReleaseAt);
        return e;
    }

    static Piece Piece(long id, Edition? edition = null, Instant? released = null, Instant? opensAt = null, bool dated = false, int? places = null,
        bool ready = true, long shelf = 1)
    {
        var p = new Piece
        {
            Id = new(id),
            ShelfId = new(shelf),
            EditionId = edition?.Id,
            Title = $"Piece {id}",
            Ready = ready,
            OpensAt = opensAt,
            Dated = dated,
            Places = places
        };
        if (released is { } at) p.Release(at);
        return p;
    }

    const long Oct = 10, Nov = 11, TheDay = 14, Dec = 12;

    /// <summary>Month editions of October to December and one of the single day 14 November; on 12 or 20 November December is planned.</summary>
    static AccessBook Months(Instant now, Reach reach)
    {
        (long Id, EditionSpan Span, LocalDate First)[] all =
            [(Oct, EditionSpan.Month, new(2026, 10, 1)), (Nov, EditionSpan.Month, new(2026, 11, 1)), (TheDay, EditionSpan.Day, new(2026, 11, 14)),
            (Dec, EditionSpan.Month, new(2026, 12, 1))];
        var editions = all.Select(e => Edition(e.Id, e.Span, e.First, London.At(e.First.At(new(9, 0))) <= now)).ToArray();
        return new([Make.Tier(1, 1, new Inclusion(new Coverage.Everything(), reach, new Keep.Nothing()))],
            editions.Select(e => Piece(e.Id.Value, e, e.ReleasedAt)), editions);
    }

    static string Say(AccessBook book, Instant now, Holding held) =>
        string.Join(", ", new[] { Oct, Nov, TheDay, Dec }.Select(id => book.Decide(MemberFacts.From([held], now), new PieceId(id), now) switch
    {
        { State: AccessState.OpensAt } d => $"opens {London.Date(d.OpensAt):d MMM}",
        var d => d.Rule.ToString(),
    }));

    // The table of worked cases: three joinings, four editions.
    [Fact]
    public void An_edition_is_current_until_the_next_of_its_own_span()
    {
        var (twelfth, twentieth) = (At(11, 12, 20, 15), At(11, 20));
        Assert.Equal("BeforeJoining, CurrentWhenJoining, opens 14 Nov, opens 1 Dec",
            Say(Months(twelfth, new Reach.FromJoining()), twelfth, Make.Holding(1, twelfth, facts: Make.Paid(twelfth, At(12, 12)))));
        Assert.Equal("BeforeJoining, CurrentWhenJoining, CurrentWhenJoining, opens 1 Dec",
            Say(Months(twentieth, new Reach.FromJoining()), twentieth, Make.Holding(1, twentieth, facts: Make.Paid(twentieth, At(12, 20)))));
        Assert.Equal("InPaidTime, InPaidTime, InPaidTime, opens 1 Dec",
            Say(Months(twentieth, new Reach.WhilePaid()), twentieth,
            Make.Holding(1, At(9, 12), facts: [Make.Paid(At(9, 12), At(10, 12)), Make.Paid(twentieth, At(12, 20))])));
    }

    [Fact]
    public void Whoever_pays_on_may_expect_what_comes_after_the_next_payment()
    {
        var now = At(11, 20);
        var book = Months(now, new Reach.WhilePaid());
        // Paid to 25 November, December comes on the 1st: it opens, unless they are leaving.
        var goesOn = Make.Holding(1, At(10, 25), facts: Make.Paid(At(10, 25), At(11, 25)));
        Assert.Equal(AccessState.OpensAt, book.Decide(MemberFacts.From([goesOn], now), new PieceId(Dec), now).State);
        var leaves = Make.Holding(1, At(10, 25), facts: [Make.Paid(At(10, 25), At(11, 25)), Make.Leaving(At(11, 1), At(11, 25))]);
        var decision = book.Decide(MemberFacts.From([leaves], now), new PieceId(Dec), now);
        Assert.Equal((AccessState.Locked, AccessRule.EndsBefore, At(12, 1)), (decision.State, decision.Rule, decision.OpensAt));
        Assert.True(decision.IsComing);
    }

    [Fact]
    public void Standing_content_is_for_whoever_joins_later_and_dated_content_is_not()
    {
        Piece[] pieces = [Piece(1, released: At(3, 1)), Piece(2, released: At(3, 1), dated: true), Piece(3, opensAt: At(6, 1)),
            Piece(4, opensAt: At(6, 1), ready: false)];
        var now = At(5, 10);
        var book = new AccessBook([Make.Tier(1, 1, new Inclusion(new Coverage.Everything(), new Reach.FromJoining(), new Keep.Nothing()))], pieces, []);
        AccessDecision For(long id, Instant joined) =>
            book.Decide(MemberFacts.From([Make.Holding(1, joined, facts: Make.Paid(joined, null))], now), new PieceId(id), now);
        Assert.Equal([AccessRule.StandingContent, AccessRule.BeforeJoining], new[] { For(1, At(5, 1)).Rule, For(2, At(5, 1)).Rule });
        Assert.Equal([AccessRule.SinceJoining, AccessRule.SinceJoining], new[] { For(1, At(3, 1)).Rule, For(2, At(3, 1)).Rule });
        Assert.Equal((AccessState.OpensAt, At(6, 1)), (For(3, At(5, 1)).State, For(3, At(5, 1)).OpensAt));
        Assert.Equal(AccessState.Hidden, For(4, At(5, 1)).State);
    }

    [Fact]
    public void Where_only_so_many_can_take_part_the_promise_alone_opens_nothing()
    {
        var now = At(5, 10);
        var teaser = new Lesson { Id = new(1), PieceId = new(1), Ready = true, Teaser = true };
        var lesson = new Lesson { Id = new(2), PieceId = new(1), Ready = true, Position = 1 };
        var piece = Piece(1, released: At(3, 1), places: 12);
        teaser.Release(At(3, 1));
        lesson.Release(At(3, 1));
        piece.Attach(Outline.Of([], [teaser, lesson]));
        var book = new AccessBook([Make.Tier(1, 1, new Inclusion(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.WhatHadOpened()))],
            [piece], []);
        var held = Make.Holding(1, At(4, 1), facts: Make.Paid(At(4, 1), null));
        var (without, with) = (MemberFacts.From([held], now), MemberFacts.From([held], now, new HashSet<PieceId> { new(1) }));
        Assert.Equal([AccessRule.NoPlace, AccessRule.NoPlace, AccessRule.Teaser],
            new Thing[] { piece.Id, lesson.Id, teaser.Id }.Select(t => book.Decide(without, t, now).Rule));
        Assert.Equal([AccessRule.EverythingReleased, AccessRule.EverythingReleased, AccessRule.Teaser],
            new Thing[] { piece.Id, lesson.Id, teaser.Id }.Select(t => book.Decide(with, t, now).Rule));
        // A place without a promise opens nothing either.
        Assert.Equal(AccessRule.NothingHeld, book.Decide(MemberFacts.From([], now, new HashSet<PieceId> { new(1) }), piece.Id, now).Rule);
        Assert.IsType<WouldOpen.TakingAPlace>(Assert.Single(Why.Explain(book, without, piece, now, London).WouldOpen));
    }

    // ---- The rules once more, slowly. ----

    /// <summary>What is known of one holding, as a test says it.</summary>
    sealed record Spec(int Plan, int Start, int PaidTo, int? AgainFrom, int? AgainTo, int? End, EndReason Why)
    {
        public Holding Make()
        {
            var facts = new List<HoldingFact> { Tests.Make.Paid(Day(Start), Day(PaidTo)) };
            if (AgainFrom is { } f) facts.Add(Tests.Make.Paid(Day(f), Day(AgainTo!.Value)));
            if (End is { } e) facts.Add(Tests.Make.Ended(Day(e), Why));
            return Tests.Make.Holding(Plan, Day(Start), facts: [.. facts]);
        }
    }

    static Instant Day(int n) => At(1, 1) + Duration.FromDays(n);

    sealed record Thing1(Piece Piece, int? Out, int CurrentFrom, int CurrentTo, bool Standing);

    const int Never = 100_000;

    /// <summary>Month and week editions, pieces that came with them and late, standing, dated and planned ones, and a draft, over a year.</summary>
    static (AccessBook Book, List<Thing1> Things) World(Plan[] plans, int now)
    {
        var editions = new List<Edition>();
        var things = new List<Thing1>();
        void Add(int id, Edition? e, int? release, int from, int to, bool standing, bool dated = false, bool ready = true)
        {
            // What is planned is released when its time has come.
            var isOut = ready && release is { } r && r <= now;
            things.Add(
                new(Piece(id, e, isOut ? Day(release!.Value) : null, e is null && release is { } o ? Day(o) : null, dated, ready: ready, shelf: 1 + id % 2),
                ready ? release : null, from, to, standing));
        }
        void Span(EditionSpan span, int first, int every, int count, int id)
        {
            for (var i = 0; i < count; i++)
            {
                var (from, to) = (first + i * every, i + 1 < count ? first + (i + 1) * every : Never);
                var e = new Edition { Id = new(id + i), Span = span, FirstDay = London.Date(Day(from)), ReleaseAt = Day(from), Scheduled = true };
                if (from <= now) e.Release(Day(from));
                editions.Add(e);
                Add(id + i, e, from, from, to, false);
                // A late one, after the edition came out.
                if (from + 3 <= now) Add(id + 500 + i, e, from + 3, from + 3, to, false);
            }
        }
        Span(EditionSpan.Month, 0, 30, 11, 1000);
        Span(EditionSpan.Week, 4, 7, 30, 2000);
        Add(1, null, 50, 50, 50, true);
        Add(2, null, 50, 50, 50, false, dated: true);
        Add(3, null, 200, 200, 200, true);
        Add(4, null, 60, 60, 60, true, ready: false);
        return (new(plans, things.Select(t => t.Piece), editions), things);
    }

    static (AccessState State, int? When) Slow(Plan[] plans, Thing1 thing, Spec[] held, int now)
    {
        if (thing.Out is not { } t) return (AccessState.Hidden, null);
        var opens = held.Where(h => h.Start <= now).Any(h => plans[h.Plan - 1].Promise.Any(i => Covers(i) && Opens(h, i)));
        return opens ? t <= now ? (AccessState.Open, null) : (AccessState.OpensAt, t) : (AccessState.Locked, t <= now ? null : t);

        bool Covers(Inclusion i) => i.Covers is Coverage.Everything || i.Covers is Coverage.OnShelf s && s.Shelf == thing.Piece.ShelfId
            || i.Covers is Coverage.OnePiece p && p.Piece == thing.Piece.Id;

        bool Opens(Spec h, Inclusion i)
        {
            var over = h.End is { } e && e <= now;
            var paid = new List<(int From, int To)> { (h.Start, h.PaidTo) };
            if (h.AgainFrom is { } again && again <= now) paid.Add((again, h.AgainTo!.Value));
            if (!over) paid[^1] = (paid[^1].From, Never);
            else paid = [.. paid.Where(p => p.From < h.End).Select(p => (p.From, Math.Min(p.To, h.End!.Value)))];
            var reached = i.Reach switch
            {
                Reach.EverythingReleased => true,
                Reach.FromJoining => t >= h.Start || thing.Standing || thing.CurrentFrom <= h.Start && h.Start < thing.CurrentTo,
                _ => paid.Any(p => p.From <= t && t < p.To || p.From < thing.CurrentTo && thing.CurrentFrom < p.To && thing.CurrentFrom < thing.CurrentTo
                    || thing.Standing && t < p.To),
            };
            if (!over) return reached;
            if (t > now || i.Keep is Keep.Nothing || h.Why is EndReason.Refunded or EndReason.ChargedBack or EndReason.EndedByTeam) return false;
            return reached && paid.Count > 0 && t < paid[^1].To;
        }
    }

    static readonly Gen<Spec> GenSpec = Gen.Select(Gen.Int[1, 3], Gen.Int[0, 300], Gen.Int[1, 90], Gen.Int[0, 3], Gen.Int[1, 60], Gen.Int[0, 5])
        .Select((plan, start, length, kind, more, why) => kind switch
    {
        0 => new Spec(plan, start, start + length, null, null, null, default),
        1 => new Spec(plan, start, start + length, null, null, start + length + (more % 3 == 0 ? 7 : 0), EndReason.Lapsed),
        2 => new Spec(plan, start, start + length, null, null, start + Math.Min(length, more),
            new[] { EndReason.Left, EndReason.Refunded, EndReason.ChargedBack, EndReason.EndedByTeam, EndReason.Replaced, EndReason.Left }[why]),
        _ => new Spec(plan, start, start + length, start + length + more, start + length + more + 40, why < 3 ? start + length + more + 40 : null,
            EndReason.Left),
    });

    static readonly Coverage[] Covered = [new Coverage.Everything(), new Coverage.OnShelf(new(1)), new Coverage.OnShelf(new(2)),
        new Coverage.OnePiece(new(1003))];
    static readonly Reach[] Reaches = [new Reach.EverythingReleased(), new Reach.FromJoining(), new Reach.WhilePaid()];
    static readonly Gen<Plan[]> GenPlans = Gen.Select(Gen.Int[0, 3], Gen.Int[0, 2], Gen.Bool)
        .Select((c, r, k) => new Inclusion(Covered[c], Reaches[r], k ? new Keep.WhatHadOpened() : new Keep.Nothing()))
        .Array[0, 3].Array[3].Select(all => all.Select((p, i) => Make.Tier(i + 1, i, p)).ToArray());

    // About 85 things each time: more than 100 000 decisions.
    [Fact]
    public void The_book_decides_as_the_rules_read_slowly() => Gen.Select(GenPlans, GenSpec.Array[0, 4], Gen.Int[0, 330]).Sample((plans, held, now) =>
    {
        var (book, things) = World(plans, now);
        var facts = MemberFacts.From(held.Select(h => h.Make()), Day(now));
        foreach (var t in things)
        {
            var d = book.Decide(facts, t.Piece.Id, Day(now));
            var (state, when) = Slow(plans, t, held, now);
            Assert.True((state, when is { } w ? Day(w) : default) == (d.State, d.OpensAt),
                $"piece {t.Piece.Id.Value} on day {now}: {d}, slowly {state} {when}; {string.Join(" | ", held.AsEnumerable())} {string.Join(" | "
                + $"", plans.Select(p => string.Join(" + ", p.Promise)))}");
        }
    }, iter: Make.Tries(1500));
}
