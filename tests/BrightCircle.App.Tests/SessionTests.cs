using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Live sessions: planned, come to, moved, cancelled, kept; who is told what, and when.</summary>
public class SessionTests
{
    static async Task<LiveSeriesId> Series(House house, bool forGuests = true, string seats = "", string place = "https://room.example/hive")
    {
        var made = await house.Get<SaveSeries, Result<LiveSeriesId>>(s => s.Do(house.Owner, null,
            new("Hive clinic", "Bring a question.", "Ines", place, "60", seats, forGuests), default));
        Assert.True(made.Ok, made.Refusal);
        return made.Value;
    }

    static Task<Result<int>> Plan(House house, LiveSeriesId series, LocalDateTime at, SessionRepeat repeat = SessionRepeat.Once, int count = 1) =>
        house.Get<PlanSessions, Result<int>>(p => p.Make(house.Owner, series, new("", LocalInput.Write(at), repeat,
            count.ToString(System.Globalization.CultureInfo.InvariantCulture)), default));

    static LocalDateTime InDays(House house, int days) => house.Now.Calendar.Date(house.Clock.Moment).PlusDays(days).At(new LocalTime(19, 30));

    static async Task<LiveSession> One(House house, string seats = "", int days = 7, string place = "https://room.example/hive")
    {
        var series = await Series(house, seats: seats, place: place);
        Assert.True((await Plan(house, series, InDays(house, days))).Ok);
        return Assert.Single(house.Now.Community.Sessions);
    }

    static async Task<SessionReader?> Reader(House house, long account, LiveSessionId id, bool looking = false)
    {
        var person = (await house.Get<MemberReader, SignedIn?>(r => r.Load(account, default)))!;
        return SessionReader.For(house.Now, person, person.IsTeam ? MemberFacts.Team : person.FactsAt(house.Clock.Moment), id, house.Clock.Moment, looking);
    }

    static async Task<SessionReader> Of(House house, MemberId member, LiveSession s) => (await Reader(house, member.Value, s.Id))!;
    static async Task<Result<bool>> Come(House house, MemberId member, LiveSession s)
    {
        var by = await Of(house, member, s);
        return await house.Get<Attend, Result<bool>>(a => a.Come(by, default));
    }

    static async Task<Result> Away(House house, MemberId member, LiveSession s)
    {
        var by = await Of(house, member, s);
        return await house.Get<Attend, Result>(a => a.StayAway(by, default));
    }

    static async Task<Result<Uri>> Arrive(House house, MemberId member, LiveSession s)
    {
        var by = await Of(house, member, s);
        return await house.Get<Attend, Result<Uri>>(a => a.Arrive(by, default));
    }

    static async Task<SessionFigures> Figures(House house, LiveSession s, MemberId? member = null) =>
        (await house.Get<ReadSessions, IReadOnlyDictionary<LiveSessionId, SessionFigures>>(r => r.Of([s.Id], member, default)))[s.Id];

    static Task<List<SessionNewsKind>> Told(House house, MemberId member) => house.Ask(async db => (await db.Journal.Where(j => j.MemberId == member)
        .OrderBy(j => j.Id).ToListAsync()).Select(j => j.Event).OfType<Event.SessionNews>().Select(e => e.What).ToList());

    [Fact]
    public async Task A_year_of_sessions_is_planned_in_one_act_at_the_same_local_time()
    {
        await using var house = await House.Open();
        var series = await Series(house);
        var first = InDays(house, 10);
        var made = await Plan(house, series, first, SessionRepeat.Monthly, 12);
        Assert.Equal(12, made.Value);
        Assert.Equal(SessionDays.From(first, SessionRepeat.Monthly, 12), house.Now.Community.Sessions.Select(s => house.Now.Calendar.Local(s.StartsAt)));
        Assert.All(house.Now.Community.Sessions, s => Assert.Equal((60, "https://room.example/hive", null), (s.Minutes, s.Place, s.Seats)));
        // Two reminders each.
        Assert.Equal(24, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.SessionNear)));
        // Not twice at the same time, not in the past, and not in a closed series.
        Assert.Equal("StartsAt", (await Plan(house, series, first.PlusMonths(0))).Field);
        Assert.Equal("StartsAt", (await Plan(house, series, InDays(house, -1))).Field);
        Assert.Equal("Count", (await Plan(house, series, InDays(house, 3), SessionRepeat.Weekly, SessionDays.Most + 1)).Field);
        Assert.False((await house.Get<SaveSeries, Result>(s => s.Close(house.Owner, series, true, default))).Ok);
    }

    // RFC 5545: what a calendar program makes of the same rule, by Ical.Net.
    [Theory]
    [InlineData(2026, 12, 3, "FREQ=MONTHLY;BYDAY=1TH"), InlineData(2026, 12, 12, "FREQ=MONTHLY;BYDAY=2SA"), InlineData(2026, 11, 30, "FREQ=MONTHLY;BYDAY=-1MO")]
    [InlineData(2027, 1, 29, "FREQ=MONTHLY;BYDAY=-1FR"), InlineData(2026, 12, 28, "FREQ=MONTHLY;BYDAY=4MO")]
    public void Monthly_days_are_those_of_a_calendar_program(int year, int month, int day, string rule)
    {
        var e = new Ical.Net.CalendarComponents.CalendarEvent
        {
            Start = new Ical.Net.DataTypes.CalDateTime(year, month, day, 19, 30, 0),
            RecurrenceRule = new Ical.Net.DataTypes.RecurrencePattern(rule + ";COUNT=30"),
        };
        var theirs = e.GetOccurrences().Take(30).Select(o => LocalDateTime.FromDateTime(o.Period.StartTime.Value)).ToArray();
        Assert.Equal(30, theirs.Length);
        Assert.Equal(theirs, SessionDays.From(new(year, month, day, 19, 30), SessionRepeat.Monthly, 30));
    }

    [Fact]
    public async Task It_is_open_to_whoever_is_promised_it_and_nobody_else_learns_of_it()
    {
        await using var house = await House.Open();
        var series = await Series(house, forGuests: false);
        await Plan(house, series, InDays(house, 7));
        var session = house.Now.Community.Sessions[0];
        var member = await house.JoinProved();
        Assert.Null(await Reader(house, member.Value, session.Id));
        Assert.NotNull(await Reader(house, house.Owner.AccountId, session.Id));
        var plan = house.Now.PlanById[house.Keeper];
        var saved = await house.Get<SavePromise, Result>(async s => (await s.Do(house.Owner, house.Keeper,
            new([.. plan.Promise, new(new Coverage.OneSeries(series), new Reach.EverythingReleased(), new Keep.Nothing())], plan.PaceOf, plan.PromiseNumber),
            default)) is var r && r.Ok ? Result.Done : Result.Refused(r.Refusal!));
        Assert.True(saved.Ok, saved.Refusal);
        var joined = await house.JoinProved();
        Assert.NotNull(await Reader(house, joined.Value, session.Id));
        Assert.Contains("The live sessions Hive clinic", house.Now.Gives(house.Now.PlanById[house.Keeper]));
        // What a promise names can't be taken away.
        Assert.False((await house.Get<SaveSeries, Result>(s => s.Remove(house.Owner, series, default))).Ok);
        // In the calendar of whoever may come, and in nobody else's; the room's address is in neither.
        var feeds = house.Services.GetRequiredService<Feeds>();
        var mine = feeds.OpeningsCalendar(await house.FactsOf(joined), house.Clock.Moment, []);
        Assert.Equal($"session-{session.Id.Value}@site.example", Ical.Net.Calendar.Load(mine)!.Events.Single(e => e.Summary == "Hive clinic").Uid);
        Assert.DoesNotContain("room.example", mine);
        Assert.DoesNotContain("Hive clinic", feeds.OpeningsCalendar(await house.FactsOf(member), house.Clock.Moment, []));
    }

    [Fact]
    public async Task Of_two_who_want_the_last_seat_one_gets_it_and_the_other_waits_until_it_is_free()
    {
        await using var house = await House.Open();
        var session = await One(house, seats: "1");
        var (a, b, c) = (await house.JoinProved(), await house.JoinProved(), await house.JoinProved());
        await using var other = await house.AnotherNode();
        other.Clock.StandAt(house.Clock.Moment);
        var both = await Task.WhenAll(Come(house, a, session), Come(other, b, session));
        Assert.Equal([false, true], both.Select(r => r.Value).Order());
        var (has, waits) = both[0].Value ? (a, b) : (b, a);
        Assert.False((await Come(house, c, session)).Value);
        // Said twice, it stays as it is.
        Assert.True((await Come(house, has, session)).Value);
        Assert.Equal(new(1, 2, 0, 0, new(true, null)), await Figures(house, session, waits));
        Assert.True((await Away(house, has, session)).Ok);
        Assert.True((await Away(house, has, session)).Ok);
        Assert.Equal(new(1, 1, 0, 0, new(false, null)), await Figures(house, session, waits));
        Assert.Equal([SessionNewsKind.GotSeat], await Told(house, waits));
        // Who comes back stands last.
        Assert.False((await Come(house, has, session)).Value);
        // With more seats everybody who waits moves up.
        var draft = new SessionDraft("", LocalInput.Write(house.Now.Calendar.Local(session.StartsAt)), "60", session.Place, "3");
        Assert.True((await house.Get<PlanSessions, Result>(p => p.Change(house.Owner, session.Id, draft, default))).Ok);
        Assert.Equal(new(3, 0, 0, 0, null), await Figures(house, session));
        Assert.Equal(0, house.Now.Community.Sessions[0].Sequence);
    }

    [Fact]
    public async Task Whoever_comes_is_reminded_a_day_and_ten_minutes_before_and_nobody_else()
    {
        await using var house = await House.Open();
        var session = await One(house);
        var (comes, stays, silent) = (await house.JoinProved(), await house.JoinProved(), await house.JoinProved());
        await Come(house, comes, session);
        await Come(house, stays, session);
        await Away(house, stays, session);
        await house.To(session.StartsAt - Duration.FromHours(24) - Duration.FromSeconds(1));
        Assert.Empty(await Told(house, comes));
        await house.To(session.StartsAt - Duration.FromHours(24));
        Assert.Equal([SessionNewsKind.Tomorrow], await Told(house, comes));
        await house.To(session.StartsAt - Duration.FromMinutes(10));
        Assert.Equal([SessionNewsKind.Tomorrow, SessionNewsKind.Soon], await Told(house, comes));
        Assert.Empty(await Told(house, stays));
        Assert.Empty(await Told(house, silent));
        await house.Deliver();
        var email = (await house.Member(comes)).Email;
        var letter = await House.Letter(email, "Hive clinic is tomorrow");
        var raw = await House.Raw(letter.GetProperty("id").GetInt64());
        // The entry for calendars goes with it (RFC 6047), read back with MimeKit and Ical.Net.
        using var stream = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(raw));
        var message = await MimeKit.MimeMessage.LoadAsync(stream);
        var part = Assert.IsType<MimeKit.TextPart>(message.Attachments.Single());
        Assert.Equal(("text/calendar", "PUBLISH"), (part.ContentType.MimeType, part.ContentType.Parameters["method"]));
        var entry = Ical.Net.Calendar.Load(part.Text)!.Events.Single();
        Assert.Equal((session.StartsAt.ToDateTimeUtc(), session.EndsAt.ToDateTimeUtc(), 0), (entry.Start!.AsUtc, entry.End!.AsUtc, entry.Sequence));
        Assert.DoesNotContain("room.example", raw);
    }

    [Fact]
    public async Task Who_can_come_no_longer_is_not_reminded()
    {
        await using var house = await House.Open();
        var session = await One(house);
        var member = await house.JoinProved();
        await Come(house, member, session);
        await house.Ask(db => db.LiveSeries.ExecuteUpdateAsync(u => u.SetProperty(s => s.ForGuests, false)));
        await house.Catalogue.Load();
        await house.To(session.StartsAt);
        Assert.Empty(await Told(house, member));
    }

    [Fact]
    public async Task Moved_it_reminds_by_its_new_time_and_calendars_follow()
    {
        await using var house = await House.Open();
        var session = await One(house);
        var member = await house.JoinProved();
        await Come(house, member, session);
        var later = house.Now.Calendar.Local(session.StartsAt).PlusDays(2);
        Task<Result> Change(string at, string place, string minutes = "60") => house.Get<PlanSessions, Result>(p =>
            p.Change(house.Owner, session.Id, new("", at, minutes, place, ""), default));
        // A new title or seat isn’t told of.
        Assert.True((await house.Get<PlanSessions, Result>(p => p.Change(house.Owner, session.Id,
            new("Varroa", LocalInput.Write(house.Now.Calendar.Local(session.StartsAt)), "60", session.Place, "9"), default))).Ok);
        Assert.Empty(await Told(house, member));
        Assert.True((await Change(LocalInput.Write(later), session.Place)).Ok);
        Assert.Equal([SessionNewsKind.Moved], await Told(house, member));
        var feeds = house.Services.GetRequiredService<Feeds>();
        var file = feeds.Session(session.Id, house.Clock.Moment)!;
        Assert.Equal(1, Ical.Net.Calendar.Load(file.Text)!.Events.Single().Sequence);
        // The reminders of the old time say nothing any more.
        await house.To(session.StartsAt);
        Assert.Equal([SessionNewsKind.Moved], await Told(house, member));
        await house.To(session.StartsAt + Duration.FromDays(2) - Duration.FromMinutes(10));
        Assert.Equal([SessionNewsKind.Moved, SessionNewsKind.Tomorrow, SessionNewsKind.Soon], await Told(house, member));
        Assert.True((await Change(LocalInput.Write(later), "The barn")).Ok);
        Assert.Equal(SessionNewsKind.Moved, (await Told(house, member))[^1]);
        Assert.Equal("The barn", Ical.Net.Calendar.Load(feeds.Session(session.Id, house.Clock.Moment)!.Text)!.Events.Single().Location);
        foreach (var (wrong, minutes, field) in new[] { ("", "60", "StartsAt"), ("2020-01-01T10:00", "60", "StartsAt"), (LocalInput.Write(later), "0",
            "Minutes"),
            (LocalInput.Write(later), "1441", "Minutes") })
            Assert.Equal(field, (await Change(wrong, "The barn", minutes)).Field);
    }

    [Fact]
    public async Task Cancelled_everybody_who_comes_is_told_why_and_nothing_can_be_done_any_more()
    {
        await using var house = await House.Open();
        var session = await One(house, seats: "1");
        var (has, waits) = (await house.JoinProved(), await house.JoinProved());
        await Come(house, has, session);
        await Come(house, waits, session);
        Assert.True((await house.Get<PlanSessions, Result>(p => p.Cancel(house.Owner, session.Id, "I have a cold.", default))).Ok);
        Assert.Equal([SessionNewsKind.Cancelled], await Told(house, has));
        Assert.Equal([SessionNewsKind.Cancelled], await Told(house, waits));
        await house.Deliver();
        var letter = await House.Letter((await house.Member(has)).Email, "Hive clinic doesn’t take place");
        Assert.Contains("I have a cold.", await House.Raw(letter.GetProperty("id").GetInt64()));
        var file = house.Services.GetRequiredService<Feeds>().Session(session.Id, house.Clock.Moment)!;
        Assert.Equal(("CANCEL", "CANCELLED", 1), (file.Method, Ical.Net.Calendar.Load(file.Text)!.Events.Single().Status!.ToUpperInvariant(),
            Ical.Net.Calendar.Load(file.Text)!.Events.Single().Sequence));
        session = house.Now.Community.Sessions[0];
        Assert.False((await Come(house, await house.JoinProved(), session)).Ok);
        Assert.False((await Away(house, has, session)).Ok);
        Assert.False((await house.Get<PlanSessions, Result>(p => p.Cancel(house.Owner, session.Id, "", default))).Ok);
        await house.To(session.StartsAt);
        Assert.Single(await Told(house, has));
        Assert.False((await Arrive(house, has, session)).Ok);
    }

    [Fact]
    public async Task The_way_in_is_for_those_who_may_come_and_only_near_the_time()
    {
        await using var house = await House.Open();
        var session = await One(house, seats: "1");
        var (has, waits) = (await house.JoinProved(), await house.JoinProved());
        await Come(house, has, session);
        await Come(house, waits, session);
        await house.To(session.StartsAt - Duration.FromMinutes(15) - Duration.FromSeconds(1));
        Assert.False((await Arrive(house, has, session)).Ok);
        Assert.False((await house.Get<Attend, Result>(a => a.Mark(house.Owner, session.Id, has, true, default))).Ok);
        await house.To(session.StartsAt - Duration.FromMinutes(15));
        Assert.Equal("https://room.example/hive", (await Arrive(house, has, session)).Value!.AbsoluteUri);
        Assert.False((await Arrive(house, waits, session)).Ok);
        Assert.Equal(1, (await Figures(house, session)).Came);
        // Going in again is the same coming.
        Assert.True((await Arrive(house, has, session)).Ok);
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == has && j.Kind == Event.KindOf<Event.CameLive>())));
        // The team only looks through somebody’s eyes: nothing is noted, and nothing opens.
        var looking = (await Reader(house, has.Value, session.Id, looking: true))!;
        Assert.False((await house.Get<Attend, Result<Uri>>(a => a.Arrive(looking, default))).Ok);
        // The host goes in without being counted.
        var host = (await Reader(house, house.Owner.AccountId, session.Id))!;
        Assert.True((await house.Get<Attend, Result<Uri>>(a => a.Arrive(host, default))).Ok);
        Assert.Equal(1, (await Figures(house, session)).Came);
        await house.To(session.EndsAt);
        Assert.False((await Arrive(house, has, session)).Ok);
        // By hand: who was there on the telephone, and who wasn’t after all.
        Assert.True((await house.Get<Attend, Result>(a => a.Mark(house.Owner, session.Id, waits, true, default))).Ok);
        Assert.True((await house.Get<Attend, Result>(a => a.Mark(house.Owner, session.Id, has, false, default))).Ok);
        var (people, count, _) = await house.Get<ReadSessions, (IReadOnlyList<SessionGuest>, int, IReadOnlyList<AskedAtSession>)>(r => r.ForTeam(session.Id,
            default));
        Assert.Equal(2, count);
        Assert.Equal([(waits, true), (has, false)], people.OrderByDescending(p => p.CameAt is not null).Select(p => (p.Id, p.CameAt is not null)));
        Assert.Equal(house.Owner.Name, people.Single(p => p.Id == waits).MarkedBy);
    }

    [Fact]
    public async Task Questions_are_brought_by_members_and_read_by_the_team()
    {
        await using var house = await House.Open();
        var session = await One(house);
        var (member, unproved) = (await house.JoinProved(), await house.Join(house.Free));
        Task<Result> Ask(SessionReader by, string text) => house.Get<Attend, Result>(a => a.Ask(by, text, default));
        var by = await Of(house, member, session);
        Assert.True((await Ask(by, " Is <b>foam</b> normal? ")).Ok);
        Assert.Equal("Text", (await Ask(by, "  ")).Field);
        Assert.Equal("Text", (await Ask(by, new string('x', SessionQuestion.MostText + 1))).Field);
        Assert.Equal("Text", (await Ask(await Of(house, unproved, session), "Me too")).Field);
        Assert.False((await Come(house, unproved, session)).Ok);
        Assert.False((await Ask((await Reader(house, house.Owner.AccountId, session.Id))!, "Mine")).Ok);
        for (var i = 1; i < Attend.MostQuestions; i++) Assert.True((await Ask(by, $"Question {i}")).Ok);
        Assert.False((await Ask(by, "One too many")).Ok);
        var (_, own) = await house.Get<ReadSessions, (SessionFigures, IReadOnlyList<SessionQuestion>)>(r => r.One(by, default));
        Assert.Equal("Is <b>foam</b> normal?", own[0].Text);
        // Others can't take it back, whoever asked can.
        var other = await Of(house, await house.JoinProved(), session);
        Assert.False((await house.Get<Attend, Result>(a => a.TakeBack(other, own[0].Id, default))).Ok);
        Assert.True((await house.Get<Attend, Result>(a => a.TakeBack(by, own[0].Id, default))).Ok);
        var (figures, left) = await house.Get<ReadSessions, (SessionFigures, IReadOnlyList<SessionQuestion>)>(r => r.One(other, default));
        Assert.Equal((Attend.MostQuestions - 1, 0), (figures.Questions, left.Count));
        await house.To(session.EndsAt);
        Assert.False((await Ask(by, "Too late")).Ok);
    }

    [Fact]
    public async Task What_stays_of_it_is_a_lesson_made_in_one_step()
    {
        await using var house = await House.Open();
        var session = await One(house);
        var member = await house.JoinProved();
        var reader = await Of(house, member, session);
        await house.Get<Attend, Result>(a => a.Ask(reader, "Is <foam> normal?", default));
        var shelf = (await house.Get<SaveShelf, Result<ShelfId>>(s => s.Do(house.Owner, null, new("Clinics", "CL", 1, ""), default))).Value;
        var piece = (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("The clinics", shelf), default))).Value;
        Task<Result<LessonId>> Keep(string recording, PieceId? into = null) => house.Get<KeepSession, Result<LessonId>>(k =>
            k.Do(house.Owner, session.Id, into ?? piece, recording, "We looked at *three* hives.", true, default));
        Assert.False((await Keep("https://video.example/1")).Ok);
        await house.To(session.StartsAt);
        Assert.Equal("Recording", (await Keep("javascript:alert(1)")).Field);
        Assert.Equal("Piece", (await Keep("", new(1))).Field);
        var made = await Keep("https://video.example/1");
        Assert.True(made.Ok, made.Refusal);
        var lesson = house.Now.LessonById[made.Value];
        Assert.StartsWith("Hive clinic, ", lesson.Title, StringComparison.Ordinal);
        Assert.Null(lesson.ReleasedAt);
        Assert.Equal(made.Value, house.Now.Community.Sessions[0].LessonId);
        var blocks = await house.Ask(async db => (await db.LessonContents.SingleAsync(c => c.LessonId == made.Value)).Blocks);
        Assert.Equal("https://video.example/1", Assert.IsType<Block.Video>(blocks[0]).Recording.Url);
        var text = Assert.IsType<Block.Text>(blocks[1]).Html;
        Assert.Contains("<em>three</em>", text);
        Assert.Contains("Is &lt;foam&gt; normal?", text);
        // Once.
        Assert.False((await Keep("")).Ok);
    }

    [Fact]
    public async Task A_series_has_bounds_and_goes_only_where_nothing_was()
    {
        await using var house = await House.Open();
        var series = await Series(house);
        Task<Result<LiveSeriesId>> Save(SeriesDraft draft, LiveSeriesId? id = null) =>
            house.Get<SaveSeries, Result<LiveSeriesId>>(s => s.Do(house.Owner, id, draft, default));
        var fine = SeriesDraft.Empty with { Name = "Evening" };
        foreach (var (draft, field) in new[] { (fine with { Name = " " }, "Name"), (fine with { Name = new('x', 81) }, "Name"),
            (fine with { Name = "hive CLINIC" },
            "Name"), (fine with { About = new('x', 1001) }, "About"), (fine with { Host = new('x', 81) }, "Host"), (fine with { Place = new('x', 401) },
                "Place"),
            (fine with { Minutes = "0" }, "Minutes"), (fine with { Minutes = "1441" }, "Minutes"), (fine with { Minutes = "an hour" }, "Minutes"),
            (fine with { Seats = "0" }, "Seats"), (fine with { Seats = "10001" }, "Seats"), (fine with { Seats = "-1" }, "Seats") })
            Assert.Equal(field, (await Save(draft)).Field);
        Assert.True((await Save(fine with { Minutes = "1440", Seats = "10000" })).Ok);
        // Saved under its own name it isn't taken.
        Assert.True((await Save(SeriesDraft.Of(house.Now.Community.SeriesById[series]), series)).Ok);
        Assert.True((await Plan(house, series, InDays(house, 5))).Ok);
        Assert.False((await house.Get<SaveSeries, Result>(s => s.Remove(house.Owner, series, default))).Ok);
        var session = house.Now.Community.Sessions[0];
        var member = await house.JoinProved();
        await Come(house, member, session);
        Assert.False((await house.Get<PlanSessions, Result>(p => p.Remove(house.Owner, session.Id, default))).Ok);
        await house.Ask(db => db.SessionPeople.ExecuteDeleteAsync());
        Assert.True((await house.Get<PlanSessions, Result>(p => p.Remove(house.Owner, session.Id, default))).Ok);
        Assert.True((await house.Get<SaveSeries, Result>(s => s.Close(house.Owner, series, true, default))).Ok);
        Assert.False((await Plan(house, series, InDays(house, 5))).Ok);
        Assert.True((await house.Get<SaveSeries, Result>(s => s.Close(house.Owner, series, false, default))).Ok);
        Assert.True((await house.Get<SaveSeries, Result>(s => s.Remove(house.Owner, series, default))).Ok);
        Assert.DoesNotContain(house.Now.Community.Series, s => s.Id == series);
    }
}
