using BrightCircle.App.Community;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>Tansy Lane’s live sessions: a clinic on the first Thursday of each month, and an open evening now and then.</summary>
public sealed partial class SeedDemo
{
    const string Clinic = "Hive clinic", Evening = "Open evening", Alone = "Twenty minutes alone";
    readonly Dictionary<string, LiveSeriesId> series = [];

    async Task MakeSeries(CancellationToken ct)
    {
        async Task Make(string name, string about, string seats, bool forGuests, string minutes = "60") => await Do<SaveSeries>(async s =>
            series[name] = MustBe(await s.Do(owner, null, new(name, about, "Ines", "https://room.tansy-lane.example/" + name.Split(' ')[1], minutes, seats,
                forGuests), ct)));
        await Make(Clinic, "Bring a question, or a frame in a bag. We look at what the month brings, hive by hive.", "12", false);
        await Make(Evening, "For everybody who likes to see how we work: an hour, a cup of tea, and no question too small.", "", true);
        await Make(Alone, "Your hives, your notes, and my kettle. Bring the one question you would not ask in a round.", "", false, "20");
        await Do<SaveHours>(async s => MustBe(await s.Do(owner, series[Alone], new(["", "17-19", "", "17-19", "", "", ""], "2026-12-24\n2026-12-31", "10",
            "24", "28",
            "1", owner.AccountId), ct)));
    }

    Inclusion InTheHour => new(new Coverage.OneSeries(series[Alone]), new Reach.EverythingReleased(), new Keep.Nothing());

    Inclusion InTheClinic => new(new Coverage.OneSeries(series[Clinic]), new Reach.EverythingReleased(), new Keep.Nothing());

    void PlanSessions(CancellationToken ct)
    {
        At(Calendar.At(new LocalDateTime(2025, 9, 20, 18, 0)), () => Do<PlanSessions>(async p =>
        {
            MustBe(await p.Make(owner, series[Clinic], new("", "2025-10-02T19:30", SessionRepeat.Monthly, "21"), ct));
            foreach (var (day, title) in new[] { ("2026-02-12", "What a year with us looks like"), ("2026-08-20", "Questions before the honey comes off"),
                ("2026-12-15", "Before the longest night") })
                MustBe(await p.Make(owner, series[Evening], new(title, day + "T19:00", SessionRepeat.Once, "1"), ct));
        }));
        for (var month = new YearMonth(2025, 10); month <= new YearMonth(2026, 12); month = month.PlusMonths(1))
        {
            var (first, which) = (month.OnDayOfMonth(1), month.Month);
            var day = first.PlusDays(((int)IsoDayOfWeek.Thursday - (int)first.DayOfWeek + 7) % 7);
            var starts = Calendar.At(day.At(new LocalTime(19, 30)));
            At(Instant.Min(starts - Duration.FromDays(9), end - Duration.FromHours(30)), () => SayComing(Clinic, starts, 4 + which % 5, ct));
            if (starts + Duration.FromMinutes(4) < end) At(starts + Duration.FromMinutes(4), () => GoIn(Clinic, starts, ct));
        }
        for (var week = 0; week < 8; week++)
        {
            var n = week;
            At(end - Duration.FromDays(50 - n * 7), () => BookAnHour(n, ct));
        }
        At(end - Duration.FromHours(31), () => BookAnHour(8, ct));
        At(end - Duration.FromHours(20), () => BookAnHour(9, ct));
        foreach (var day in new[] { new LocalDate(2026, 2, 12), new(2026, 8, 20), new(2026, 12, 15) })
        {
            var starts = Calendar.At(day.At(new LocalTime(19, 0)));
            At(Instant.Min(starts - Duration.FromDays(5), end - Duration.FromHours(26)), () => SayComing(Evening, starts, 9, ct));
            if (starts + Duration.FromMinutes(3) < end) At(starts + Duration.FromMinutes(3), () => GoIn(Evening, starts, ct));
        }
    }

    static IReadOnlyList<string> Alone20 { get; } = ["Two hives, and only one is heavy.", "", "Whether I should keep bees at all, after this summer.",
        "The queen I can’t find.", ""];

    /// <summary>Somebody who may books the first time that is free, or the third.</summary>
    async Task BookAnHour(int turn, CancellationToken ct)
    {
        List<long> members = [];
        await Do<BrightContext>(async db => members = await db.Members.OrderBy(m => m.Id).Select(m => m.Id.Value).ToListAsync(ct));
        for (var i = 0; i < members.Count; i++)
        {
            var one = members[(i * 17 + turn * 5) % members.Count];
            if (await reader.Load(one, ct) is not { IsTeam: false, Confirmed: true } person
                || HourReader.For(catalogue.Now, person, Facts(person), series[Alone], clock.Moment) is not { } by) continue;
            var booked = false;
            await Do<BookHours>(async b =>
            {
                var (free, own) = await b.Look(by, ct);
                if (own.Count == 0 && free.Count > 3) booked = (await b.Book(by, free[turn % 2 * 2], Alone20[turn % Alone20.Count], ct)).Ok;
            });
            if (booked) return;
        }
    }

    static IReadOnlyList<string> Brought { get; } = ["How light is too light, if I can only lift one side?",
        "The inner cover is wet. Is that from below or from above?",
        "May I move a hive two metres in winter?", "What do you do with half-filled frames?"];

    async Task SayComing(string name, Instant starts, int many, CancellationToken ct)
    {
        var session = catalogue.Now.Community.Sessions.First(s => s.SeriesId == series[name] && s.StartsAt == starts);
        List<long> members = [];
        await Do<BrightContext>(async db => members = await db.Members.OrderBy(m => m.Id).Select(m => m.Id.Value).ToListAsync(ct));
        for (int i = 0, said = 0; i < members.Count && said < many; i++)
        {
            var one = members[(int)((i * 13 + starts.ToUnixTimeSeconds() / 86_400) % members.Count)];
            if (await SessionOf(one, session.Id, ct) is not { } by) continue;
            await Do<BrightContext>(db => db.Users.Where(a => a.Id == one && !a.EmailConfirmed).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed,
                true), ct));
            by = (await SessionOf(one, session.Id, ct))!;
            await Do<Attend>(async a => MustBe(await a.Come(by, ct)));
            if (starts > end && said < Brought.Count && name == Clinic) await Do<Attend>(async a => MustBe(await a.Ask(by, Brought[said], ct)));
            said++;
        }
    }

    async Task GoIn(string name, Instant starts, CancellationToken ct)
    {
        var session = catalogue.Now.Community.Sessions.First(s => s.SeriesId == series[name] && s.StartsAt == starts);
        List<long> coming = [];
        await Do<BrightContext>(async db => coming = [.. (await db.SessionPeople.Where(p => p.SessionId == session.Id).OrderBy(p => p.MemberId)
            .Select(p => p.MemberId).ToListAsync(ct)).Select(m => m.Value)]);
        foreach (var one in coming.Where((_, i) => i % 5 != 3))
            if (await SessionOf(one, session.Id, ct) is { } by) await Do<Attend>(a => a.Arrive(by, ct));
    }

    async Task<SessionReader?> SessionOf(long account, LiveSessionId session, CancellationToken ct) =>
        await reader.Load(account, ct) is { } person
            ? SessionReader.For(catalogue.Now, person, person.IsTeam ? MemberFacts.Team : Facts(person), session, clock.Moment) : null;
}
