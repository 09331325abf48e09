using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>The two letters of each week.</summary>
public sealed partial class SeedDemo
{
    static readonly (int Series, int Week, string Subject, string Preheader, string Body)[] weekly =
    [
        (0, 0, "The quiet weeks are work, too", "Nothing to do is something to do.",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>This is the time of year in which the best beekeepers do nothing, and know "
                + "why. Leave the lids "
            + "on. What you see at the entrance on a mild noon tells you enough: a few fliers, a little sweeping, and they go in "
                + "again.<br><br>Walk past once this "
            + "week, with a cup of tea, and look. That is all.<br><br>Ines</div>"),
        (1, 0, "Hefting in three steps", "Ten seconds a hive.",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>Ten seconds a hive are enough:</div><ol><li>Lift one side a finger’s "
                + "breadth. Put it down "
            + "softly.</li><li>Lift the other side. Is one lighter? They have moved.</li><li>Write down “heavy”, “so-so” or “light”, and the "
                + "day.</li></ol><div>Three "
            + "numbers next spring are worth more than one good memory.<br><br>Ines</div>"),
        (0, 1, "What you did right in August", "It shows now.",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>If your hives are heavy now, that wasn’t this month. That was August, when "
                + "it was hot and you "
            + "carried syrup all the same. Nobody thanked you then, so here it is.<br><br>Ines</div>"),
        (1, 1, "A roof that stays on", "Before the first real storm.",
            "<div>Dear {{ first_name | default: \"friend\" }},</div><ol><li>One strap around box and floor, tight enough to hum.</li><li>A brick "
                + "on top is a brick "
            + "in the grass: strap it.</li><li>Turn the entrance away from the west, by a hand’s breadth at a time.</li></ol><div>Half an hour, "
                + "and you sleep when it "
            + "blows.<br><br>Ines</div>"),
        (0, 2, "Still here, still humming", "Put an ear to the box.",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>Put an ear to the side of a hive this week, on a cold evening. That low, "
                + "even sound is several "
            + "thousand of them shivering together so that one of them stays warm. I never get used to it.<br><br>Ines</div>"),
        (1, 2, "Before the frost on Friday", "Ten minutes tomorrow are worth an hour in January.",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>Friday will be the first hard night. Ten minutes tomorrow are worth an hour "
                + "in January:</div>"
            + "<ol><li>Heft both sides. Light on one? They have moved.</li><li>Look at the entrance, not inside.</li><li>Lay the fondant on if you "
                + "have not.</li></ol>"
            + "<div><strong><a href=\"{0}\">Making fondant at home</a></strong></div><div>Ines</div>"),
        (0, 3, "The year turns before the weather does", "",
            "<div>Dear {{ first_name | default: \"friend\" }},<br><br>In four weeks the days grow again.</div>"),
    ];

    void PlanLetters(CancellationToken ct)
    {
        var monday = new LocalDate(2026, 11, 9);
        var series = new long[2];
        At(Calendar.At(monday.At(new(9, 30))), async () =>
        {
            AudienceId current = default;
            await Do<Audiences>(async s => current = MustBe(await s.Save(owner, null, "Current members", new Condition.AllOf([
                new Condition.InStanding([Standing.Trial, Standing.Active, Standing.Grace, Standing.Ending]),
                new Condition.Holds([plans["Keeper"], plans["Apiary"]])]), ct)));
            await Do<SeriesOfLetters>(async s =>
            {
                series[0] = MustBe(await s.Save(owner, null, "to encourage", 1, new(18, 0), current, ct));
                series[1] = MustBe(await s.Save(owner, null, "step by step", 4, new(7, 30), current, ct));
            });
        });
        foreach (var letter in weekly)
        {
            var week = monday.PlusWeeks(letter.Week);
            // Each is written some hours before it goes; what would go after the demo's present is written already.
            var goes = SeriesOfLetters.Usual(new() { Day = letter.Series == 0 ? 1 : 4, At = letter.Series == 0 ? new(18, 0) : new(7, 30) }, new IsoWeek(week));
            var written = Instant.Min(Calendar.At(goes.PlusHours(-6)), end - Duration.FromHours(2) + Duration.FromMinutes(letter.Week));
            At(written, () => Do<Mailings>(async s =>
            {
                var id = MustBe(await s.New(owner, null, series[letter.Series], week, ct));
                var stored = (await s.Find(id, ct))!;
                var fondant = catalogue.Now.Pieces.First(p => p.Title == "Making fondant at home").Id.Value;
                MustBe(await s.Save(owner, id, new(letter.Subject, letter.Preheader,
                    letter.Body.Replace("{0}", $"/read/{fondant}", StringComparison.Ordinal), stored.AudienceId, false, null, stored.Version), ct));
                // The one of next week is a draft still.
                if (letter.Week < 3) await Do<SendMailing>(async x => MustBe(await x.Do(owner, id, goes, whereTheyLive: false, ct)));
            }));
        }
    }
}
