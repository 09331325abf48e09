using BrightCircle.App.Community;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Hours with a host alone: booked once, whoever is quicker; moved, given back, cancelled, reminded of.</summary>
public class HourTests
{
    static readonly string?[] Weekdays = ["9-12", "9-12", "9-12", "9-12", "9-12", "9-12", "9-12"];

    static async Task<LiveSeriesId> Series(House house, string name = "An hour at the bench", bool forGuests = true)
    {
        var made = await house.Get<SaveSeries, Result<LiveSeriesId>>(s => s.Do(house.Owner, null, new(name, "", "Ines", "https://room.example/ines", "60", "",
            forGuests), default));
        Assert.True(made.Ok, made.Refusal);
        return made.Value;
    }

    static HoursDraft Draft(House house, string buffer = "0", string most = "1") => new(Weekdays, "", buffer, "24", "14", most, house.Owner.AccountId);

    static Task<Result> Save(House house, LiveSeriesId id, HoursDraft draft) => house.Get<SaveHours, Result>(s => s.Do(house.Owner, id, draft, default));

    static async Task<HourReader?> Reader(House house, long account, LiveSeriesId id, bool looking = false)
    {
        var person = (await house.Get<MemberReader, SignedIn?>(r => r.Load(account, default)))!;
        return HourReader.For(house.Now, person, person.IsTeam ? MemberFacts.Team : person.FactsAt(house.Clock.Moment), id, house.Clock.Moment, looking);
    }

    static async Task<HourReader> Somebody(House house, LiveSeriesId id) => (await Reader(house, (await house.JoinProved()).Value, id))!;
    static async Task<IReadOnlyList<Instant>> Free(House house, HourReader by) =>
        (await house.Get<BookHours, (IReadOnlyList<Instant> Free, IReadOnlyList<HourBooking>)>(b => b.Look(by, default))).Free;
    static async Task<IReadOnlyList<HourBooking>> Own(House house, HourReader by) =>
        (await house.Get<BookHours, (IReadOnlyList<Instant>, IReadOnlyList<HourBooking> Own)>(b => b.Look(by, default))).Own;
    static Task<Result<long>> Book(House house, HourReader by, Instant start, string about = "") =>
        house.Get<BookHours, Result<long>>(b => b.Book(by, start, about, default));
    static Task<List<Letter>> Letters(House house, HourReader by) =>
        house.Ask(db => db.Letters.Where(l => l.MemberId == by.Member && l.Kind == LetterKind.Session).OrderBy(l => l.Id).ToListAsync());

    [Fact]
    public async Task What_is_typed_wrong_is_refused_at_its_field_and_nobody_books_where_nothing_is_free()
    {
        await using var house = await House.Open();
        var id = await Series(house);
        Assert.Null(await Reader(house, (await house.JoinProved()).Value, id));
        var good = Draft(house);
        foreach (var (draft, field) in new (HoursDraft, string)[]
        {
            (good with { Week = [.. Weekdays[..3], "12-9"] }, "Week3"), (good with { Week = [] }, "Week0"), (good with { Days = "Christmas" }, "Days"),
            (good with { Days = "2026-12-24: ten" }, "Days"), (good with { Days = "2026-12-24\n2026-12-24: 9-10" }, "Days"), (good with { Buffer = "241" },
                "Buffer"),
            (good with { Buffer = "" }, "Buffer"), (good with { Notice = "721" }, "Notice"), (good with { Notice = "-1" }, "Notice"),
            (good with { Ahead = "0" }, "Ahead"), (good with { Ahead = "181" }, "Ahead"), (good with { MostEach = "0" }, "MostEach"),
            (good with { MostEach = "11" }, "MostEach"), (good with { HostId = 1 }, "HostId"), (good with { HostId = null }, "HostId"),
        })
            Assert.Equal(field, (await Save(house, id, draft)).Field);
        Assert.True((await Save(house, id, good with
        {
            Buffer = "240",
            Notice = "720",
            Ahead = "180",
            MostEach = "10",
            Days = "2026-12-24\n2026-12-27: 10-12"
        })).Ok);
        var kept = HoursDraft.Of(house.Now.Community.SeriesById[id], 0);
        Assert.Equal(("2026-12-24\n2026-12-27: 10:00-12:00", "240", "720", "180", "10", house.Owner.AccountId, "09:00-12:00"),
            (kept.Days, kept.Buffer, kept.Notice, kept.Ahead, kept.MostEach, kept.HostId, kept.Week![0]));
        Assert.NotNull(await Reader(house, (await house.JoinProved()).Value, id));
        // Whoever it isn't promised to books nothing; nor does the team, or somebody who only looks.
        var closed = await Series(house, "For nobody", forGuests: false);
        Assert.True((await Save(house, closed, good)).Ok);
        var member = await house.JoinProved();
        Assert.Null(await Reader(house, member.Value, closed));
        var owner = (await Reader(house, house.Owner.AccountId, id))!;
        Assert.False((await Book(house, owner, (await Free(house, owner))[0])).Ok);
        var looking = (await Reader(house, member.Value, id, looking: true))!;
        Assert.False((await Book(house, looking, (await Free(house, looking))[0])).Ok);
        Assert.True((await house.Get<SaveHours, Result>(s => s.End(house.Owner, id, default))).Ok);
        Assert.Null(await Reader(house, member.Value, id));
    }

    [Fact]
    public async Task An_hour_is_booked_moved_and_given_back_and_its_calendar_file_follows()
    {
        await using var house = await House.Open();
        var id = await Series(house);
        await Save(house, id, Draft(house));
        var one = await Somebody(house, id);
        var free = await Free(house, one);
        Assert.All(free, f => Assert.True(f >= house.Clock.Moment + Duration.FromHours(24)));
        Assert.Equal("About", (await Book(house, one, free[0], new string('x', 501))).Field);
        Assert.False((await Book(house, one, free[0] + Duration.FromMinutes(1))).Ok);
        var hour = (await Book(house, one, free[0], " Two hives ")).Value;
        Assert.Equal(("Two hives", free[0]), ((await Own(house, one))[0].About, (await Own(house, one))[0].StartsAt));
        Assert.DoesNotContain(free[0], await Free(house, one));
        // One at a time, by the host's rule.
        Assert.False((await Book(house, one, free[1])).Ok);
        // What is somebody else's isn't moved or given back.
        var two = await Somebody(house, id);
        Assert.False((await house.Get<BookHours, Result>(b => b.Move(two, hour, free[2], default))).Ok);
        Assert.False((await house.Get<BookHours, Result>(b => b.GiveBack(two, hour, default))).Ok);
        Assert.True((await house.Get<BookHours, Result>(b => b.Move(one, hour, free[2], default))).Ok);
        Assert.Contains(free[0], await Free(house, two));
        Assert.False((await Book(house, two, free[2])).Ok);
        // To where it overlaps only itself it can be moved.
        Assert.True((await house.Get<BookHours, Result>(b => b.Move(one, hour, free[2], default))).Ok);
        var feed = await house.Get<BookHours, IReadOnlyList<CalendarHour>>(b => b.InCalendar(one.Member!.Value, default));
        Assert.Equal((1, false, "An hour at the bench with Ines", ""), (feed[0].Sequence, feed[0].Cancelled, feed[0].Title, feed[0].Place));
        Assert.True((await house.Get<BookHours, Result>(b => b.GiveBack(one, hour, default))).Ok);
        Assert.False((await house.Get<BookHours, Result>(b => b.GiveBack(one, hour, default))).Ok);
        Assert.Empty(await Own(house, one));
        Assert.True((await Book(house, two, free[2])).Ok);
        Assert.Equal(["Booked", "HourMoved", "GaveBack"], (await Letters(house, one)).Select(l => l.Fields["what"]));
        await house.Deliver();
        var raw = await house.Ask(db => db.Letters.Where(l => l.MemberId == one.Member && l.Kind == LetterKind.Session).Select(l => l.State).ToListAsync());
        Assert.All(raw, s => Assert.Equal(LetterState.Sent, s));
        var feeds = await house.Get<Feeds, string>(f => Task.FromResult(f.Hour(new(7, "A title", free[0], 60, 2, "In the shed", "/sessions/hours/9", true),
            house.Clock.Moment).Text.ReplaceLineEndings("\n")));
        foreach (var line in new[] { "METHOD:CANCEL", "SEQUENCE:2", "STATUS:CANCELLED", "LOCATION:In the shed", "SUMMARY:A title (cancelled)" })
            Assert.Contains(line + "\n", feeds, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Of_many_who_want_the_same_hour_one_gets_it_and_a_host_is_nowhere_twice_at_once()
    {
        await using var house = await House.Open();
        var (id, other) = (await Series(house), await Series(house, "Another hour"));
        await Save(house, id, Draft(house, buffer: "30"));
        await Save(house, other, Draft(house));
        var people = new List<HourReader>();
        for (var n = 0; n < 6; n++) people.Add(await Somebody(house, id));
        var start = (await Free(house, people[0]))[0];
        // Whoever is too late is told so: what the database can't settle between two isn't their concern.
        for (var round = 0; round < 8; round++)
        {
            var got = await Task.WhenAll(people.Select(p => Book(house, p, start)));
            var first = people[Assert.Single(Enumerable.Range(0, people.Count), n => got[n].Ok)];
            var hers = (await Own(house, first))[0].Id;
            Assert.True((await house.Get<BookHours, Result>(b => b.GiveBack(first, hers, default))).Ok);
        }
        var came = await Task.WhenAll(people.Select(p => Book(house, p, start)));
        Assert.Single(came, c => c.Ok);
        Assert.Equal(1, await house.Ask(db => db.HourBookings.CountAsync(h => h.StartsAt == start && h.CancelledAt == null)));
        // In the other series the host's time is taken too, with the time between; and beside it there is some.
        var elsewhere = (await Reader(house, people[0].Member!.Value.Value, other))!;
        var free = await Free(house, elsewhere);
        Assert.DoesNotContain(start, free);
        Assert.DoesNotContain(start + Duration.FromHours(1), free);
        Assert.Contains(start + Duration.FromHours(2), free);
        // The database holds it, whatever is asked of it.
        var wrong = await Record.ExceptionAsync(() => house.Do<BrightContext>(async db =>
        {
            var there = await db.HourBookings.AsNoTracking().FirstAsync(h => h.CancelledAt == null);
            db.Add(new HourBooking
            {
                Id = there.Id + 1,
                SeriesId = other,
                HostId = there.HostId,
                MemberId = people.First(p => p.Member != there.MemberId).Member!.Value,
                StartsAt = there.FreeAt - Duration.FromMinutes(1),
                EndsAt = there.FreeAt + Duration.FromHours(1),
                FreeAt = there.FreeAt + Duration.FromHours(1),
                At = there.At
            });
            await db.SaveChangesAsync();
        }));
        Assert.Equal("ex_hour_bookings_host", Unique.Overlaps(wrong!));
        // One of them who books twice at once has one.
        var fresh = people.Where(p => !came[people.IndexOf(p)].Ok).ToArray();
        var times = await Free(house, fresh[0]);
        var both = await Task.WhenAll(Book(house, fresh[0], times[0]), Book(house, fresh[0], times[^1]));
        Assert.Single(both, b => b.Ok);
        // Two who change places with a third at once: nobody is lost.
        var at = (await Own(house, fresh[0]))[0];
        var target = (await Free(house, fresh[1]))[1];
        var moved = await Task.WhenAll(house.Get<BookHours, Result>(b => b.Move(fresh[0], at.Id, target, default)),
            Book(house, fresh[1], target).ContinueWith(t => t.Result.Ok ? Result.Done : Result.Refused("no"), TaskScheduler.Default));
        Assert.Single(moved, m => m.Ok);
        Assert.Single(await Own(house, fresh[0]));
    }

    [Fact]
    public async Task Whoever_has_an_hour_is_reminded_let_in_and_told_when_the_team_cant()
    {
        await using var house = await House.Open();
        var id = await Series(house);
        await Save(house, id, Draft(house, most: "2"));
        var one = await Somebody(house, id);
        var free = await Free(house, one);
        var hour = (await Book(house, one, free[3])).Value;
        var second = (await Book(house, one, free[4])).Value;
        Assert.False((await Book(house, one, free[5])).Ok);
        Assert.Contains("https://", (await Own(house, one))[0].Place, StringComparison.Ordinal);
        Assert.False((await house.Get<BookHours, Result<Uri>>(b => b.Arrive(one, hour, default))).Ok);
        Assert.False((await house.Get<BookHours, Result>(b => b.Mark(house.Owner, hour, true, default))).Ok);
        Assert.True((await house.Get<BookHours, Result>(b => b.Cancel(house.Owner, second, "I am ill.", default))).Ok);
        Assert.False((await house.Get<BookHours, Result>(b => b.Cancel(house.Owner, second, "", default))).Ok);
        await house.To(free[3] - LiveSession.DayBefore - Duration.FromMinutes(1));
        Assert.Equal(["Booked", "Booked", "Cancelled"], (await Letters(house, one)).Select(l => l.Fields["what"]));
        Assert.Equal("I am ill.", (await Letters(house, one))[^1].Fields["words"]);
        await house.To(free[3] - LiveSession.DayBefore);
        Assert.Equal("Tomorrow", (await Letters(house, one))[^1].Fields["what"]);
        await house.To(free[3] - LiveSession.SoonBefore);
        Assert.Equal(["Tomorrow", "Soon"], (await Letters(house, one)).Skip(3).Select(l => l.Fields["what"]));
        Assert.Equal("https://room.example/ines", (await house.Get<BookHours, Result<Uri>>(b => b.Arrive(one, hour, default))).Value!.AbsoluteUri);
        await house.To(free[3]);
        // It has begun: nobody moves it or gives it back any more.
        Assert.False((await house.Get<BookHours, Result>(b => b.GiveBack(one, hour, default))).Ok);
        Assert.False((await house.Get<BookHours, Result>(b => b.Cancel(house.Owner, hour, "", default))).Ok);
        Assert.False((await house.Get<SaveHours, Result>(s => s.End(house.Owner, id, default))).Ok);
        await house.To(free[3] + Duration.FromHours(2));
        Assert.False((await house.Get<BookHours, Result<Uri>>(b => b.Arrive(one, hour, default))).Ok);
        var (ahead, were, team) = await house.Get<BookHours, (IReadOnlyList<HourForTeam>, IReadOnlyList<HourForTeam>, IReadOnlyList<(long, string)>)>(
            b => b.ForTeam(id, 10, default));
        Assert.Empty(ahead);
        Assert.NotNull(were.Single().Hour.CameAt);
        Assert.NotEmpty(team);
        Assert.True((await house.Get<BookHours, Result>(b => b.Mark(house.Owner, hour, false, default))).Ok);
        Assert.Null((await house.Ask(db => db.HourBookings.AsNoTracking().SingleAsync(h => h.Id == hour))).CameAt);
        Assert.True((await house.Get<SaveHours, Result>(s => s.End(house.Owner, id, default))).Ok);
        Assert.Equal(1, await house.Ask(db => db.HourBookings.CountAsync(h => h.CancelledAt == null)));
    }

    [Fact]
    public async Task The_host_is_written_to_of_what_members_do_and_home_shows_the_next_hours()
    {
        await using var house = await House.Open();
        var id = await Series(house);
        await Save(house, id, Draft(house, most: "4"));
        var one = await Somebody(house, id);
        var free = await Free(house, one);
        async Task<List<(string Title, string Lines, string Path)>> ToHost()
        {
            await house.To(house.Clock.Moment + Duration.FromSeconds(1));
            return await house.Ask(async db => (await db.Letters.Where(l => l.Kind == LetterKind.OwnerNews).OrderBy(l => l.Id).ToListAsync())
                .ConvertAll(l => (l.Fields["title"], l.Fields["lines"], l.Fields["desk_path"])));
        }
        async Task<IReadOnlyList<(LiveSeriesId, Instant At)>> OnHome() =>
            (await house.Get<MemberReader, HomeFacts>(r => r.Home(one.Member!.Value, false, house.Clock.Moment, default))).Hours;
        Assert.Empty(await OnHome());
        var hour = (await Book(house, one, free[0], "Two\nhives")).Value;
        var letter = Assert.Single(await ToHost());
        var name = (await house.Member(one.Member!.Value)).Name;
        Assert.StartsWith($"{name} booked An hour at the bench: {house.Now.Calendar.Local(free[0]).ToString("dddd, d MMMM, HH:mm", house.Now.Culture)}",
            letter.Title);
        Assert.Contains("About: Two hives", letter.Lines);
        Assert.Equal($"/desk/sessions/series/{id.Value}/hours", letter.Path);
        Assert.True((await house.Get<BookHours, Result>(b => b.Move(one, hour, free[2], default))).Ok);
        Assert.Equal((id, free[2]), Assert.Single(await OnHome()));
        Assert.True((await house.Get<BookHours, Result>(b => b.GiveBack(one, hour, default))).Ok);
        Assert.Empty(await OnHome());
        Assert.Equal(["booked", "moved", "gave back"], (await ToHost()).Select(l => l.Title[(name.Length + 1)..l.Title.IndexOf(" An hour",
            StringComparison.Ordinal)]));
        // What the team cancels it knows; and of four hours home shows the next three, until they are over.
        var last = 0L;
        for (var n = 3; n >= 0; n--) last = (await Book(house, one, free[n])).Value;
        Assert.Equal(free.Take(3), (await OnHome()).Select(h => h.At));
        Assert.Equal(7, (await ToHost()).Count);
        Assert.True((await house.Get<BookHours, Result>(b => b.Cancel(house.Owner, last, "Ill", default))).Ok);
        Assert.Equal(7, (await ToHost()).Count);
        house.Clock.StandAt(free[1] + Duration.FromHours(1) - Duration.FromSeconds(1));
        Assert.Equal(free[1], (await OnHome())[0].At);
        house.Clock.StandAt(free[1] + Duration.FromHours(1));
        Assert.Equal(free[2], (await OnHome())[0].At);
    }
}
