using BrightCircle.App.Access;
using BrightCircle.App.Community;
using BrightCircle.App.Learning;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>Tansy Lane’s challenges, one over and one in its third week, and what members write to Ines.</summary>
public sealed partial class SeedDemo
{
    const string Challenge = "Six weeks to the longest night";
    static readonly LocalDate ChallengeBegins = new(2026, 11, 9);
    /// <summary>One that is over: who did all of it has a certificate.</summary>
    const string ChallengeBefore = "Three evenings of listening";
    static readonly LocalDate ChallengeBeforeBegins = new(2026, 9, 14);
    ChallengeId challenge, before;
    readonly List<MemberId> together = [], listening = [];

    void PlanTogether(CancellationToken ct)
    {
        At(Calendar.At(new LocalDateTime(2026, 9, 5, 18, 30)), () => Do<Challenges>(async c => before = MustBe(await c.Make(owner, new(ChallengeBefore,
            "Three evenings with your ear at the wall of a hive, for as long as a pot of tea takes.", LocalInput.Write(ChallengeBeforeBegins), "1",
            "You listened, and wrote a word about it.", "3", "", false), ct))));
        At(Calendar.At(new LocalDateTime(2026, 9, 10, 19, 0)), () => TakePart(before, 5, listening, ct));
        foreach (var day in new[] { 1, 3, 5 })
            At(Calendar.At(ChallengeBeforeBegins.PlusDays(day).At(new LocalTime(20, 15))), async () =>
            {
                // One of them stays away once.
                for (var i = day == 5 ? 1 : 0; i < listening.Count; i++) await MarkOnce(listening[i], before, ct);
            });
        At(Calendar.At(new LocalDateTime(2026, 10, 26, 18, 30)), () => Do<Challenges>(async c => challenge = MustBe(await c.Make(owner, new(Challenge,
            "Three times a week you go to a hive, whatever the weather: lift, listen, look. It takes five minutes, and in six weeks "
                + "you know your hives by heart.",
            LocalInput.Write(ChallengeBegins), "6", "You stood at a hive and lifted, listened or looked.", "3", "", true), ct))));
        At(Calendar.At(new LocalDateTime(2026, 11, 2, 19, 0)), () => TakePart(challenge, 18, together, ct));
        // Some do it on every day that is one, some on a few, some never.
        for (var day = ChallengeBegins; Calendar.At(day.At(new LocalTime(17, 20))) < end; day = day.PlusDays(1))
        {
            var (weekday, week) = ((int)day.DayOfWeek, NodaTime.Period.DaysBetween(ChallengeBegins, day) / 7);
            At(Calendar.At(day.At(new LocalTime(17, 20))), () => MarkTogether(weekday, week, ct));
        }
        PlanMessages(ct);
    }

    async Task TakePart(ChallengeId id, int most, List<MemberId> people, CancellationToken ct)
    {
        var of = catalogue.Now.Community.ChallengeById[id];
        var mirela = await FindMember(MemberEmail) ?? default;
        foreach (var member in readers.OrderBy(r => r.Value).Where((r, i) => i % 3 == 0 && r != mirela).Take(most).Append(mirela))
        {
            if (member == default) continue;
            await Do<GivePlan>(async s => MustBe(await s.Do(owner, member, new(of.PlanId, HoldingSource.Gift, Note: "Takes part"), ct)));
            people.Add(member);
        }
    }

    async Task MarkTogether(int weekday, int week, CancellationToken ct)
    {
        for (var i = 0; i < together.Count; i++)
        {
            // One never begins, one begins and stops, one does more; Mirela, the last, does hers and a half.
            var does = i == together.Count - 1 ? weekday is 1 or 3 or 6 : i switch
            {
                4 => false,
                9 => week == 0 && weekday == 2,
                13 => week < 2 && weekday is 2 or 4,
                2 => weekday is 1 or 2 or 4 or 6,
                _ => (weekday + i) % 7 is 1 or 3 or 5 && (i + week) % 5 != 0,
            };
            if (does) await MarkOnce(together[i], challenge, ct);
        }
    }

    async Task MarkOnce(MemberId who, ChallengeId id, CancellationToken ct)
    {
        if (await reader.Load(who.Value, ct) is { } person
            && TallyReader.For(catalogue.Now, who, null, Facts(person), catalogue.Now.Community.ChallengeById[id].TallyId, clock.Moment) is { } may)
            await Do<Tallies>(async s => MustBe(await s.Mark(may, null, ct)));
    }

    /// <param name="HoursBefore">Before the demo’s end.</param>
    sealed record Written(string By, int HoursBefore, string Text, string? Answer, int AnswerAfter = 5, bool Done = true);

    static IReadOnlyList<Written> Messages { get; } =
    [
        new("", 700, "I moved house and my card with it. Do I have to do anything?",
            "Nothing, as long as the card is the same. If the bank sends a new one, put it in on "
            + "your account page, and nothing is interrupted."),
        new("", 410, "Is there a way to get the autumn pieces on paper? My mother keeps the bees, and she keeps no screens.",
            "Yes: each piece has *Print* at its foot. Or I put the three into an envelope, if you tell me where to."),
        new("", 180, "I can’t find the lesson about the crown board any more.",
            "It moved with its piece to *Kit & workshop*. I have put a link where it was.", 9),
        new("", 52, "Would Apiary make sense for somebody with one hive?",
            "Honestly: for the clinic, yes; for the rest, Keeper is plenty. Try a week for a pound and see.", 4, false),
        new("", 15, "The clinic in December is full of snow here. May I come by telephone?", null),
        new("", 3, "I marked my third check twice by mistake. Can you take one off?\n\nIt was dark.", null),
    ];

    void PlanMessages(CancellationToken ct)
    {
        for (var i = 0; i < Messages.Count; i++)
        {
            var (m, which) = (Messages[i], i);
            MemberId who = default;
            At(end - Duration.FromHours(m.HoursBefore), async () =>
            {
                who = readers.OrderBy(r => r.Value).ElementAt(which * 5 % readers.Count);
                await Do<Correspond>(async c => MustBe(await c.Write(who, true, m.Text, ct)));
            });
            if (m.Answer is { } answer)
                At(end - Duration.FromHours(m.HoursBefore - m.AnswerAfter), () => Do<Correspond>(async c => MustBe(await c.Answer(owner, who, answer, m.Done,
                    ct))));
        }
        At(end - Duration.FromHours(300), () => Do<Correspond>(async c => MustBe(await c.Keep(owner, "A new card",
            "You can put in another card on your account page, under *Card*. Nothing is interrupted, and nothing is charged for it.", ct))));
        // Something that doesn't belong, and somebody who says so.
        At(end - Duration.FromHours(6), async () =>
        {
            var had = new List<long>();
            if (await Speaker(Bench, false, had, 5, ct) is not { } seller || await Speaker(Bench, false, had, 8, ct) is not { } other) return;
            long thread = 0;
            await Do<BrightContext>(async db => thread = await db.TalkThreads.Where(t => t.SpaceId == spaces[Bench]).OrderByDescending(t =>
                t.LastAt).Select(t => t.Id)
                .FirstAsync(ct));
            long post = 0;
            await Do<Talk>(async t => post = MustBe(await t.Answer(seller, thread, null, "I have six nucs for sale, cheap, collect this week. Write to me.",
                ct)).Id);
            await Do<CareTalk>(async c => MustBe(await c.Report(other, post, "We said no selling here.", ct)));
        });
    }
}
