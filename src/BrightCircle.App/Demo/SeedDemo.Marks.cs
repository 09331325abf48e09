using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Demo;

/// <summary>What Tansy Lane tells its members apart by: tags, fields of its own, notes, audiences.</summary>
public sealed partial class SeedDemo
{
    async Task Marks(CancellationToken ct)
    {
        async Task<TagId> Tag(string name, string group, int colour, Condition? follows = null, bool badge = false)
        {
            TagId id = default;
            await Do<MemberTags>(async s => id = MustBe(await s.Save(owner, null, name, group, colour, follows, ct, badge)));
            return id;
        }
        async Task<OwnFieldId> Field(string name, OwnFieldKind kind, bool asked, bool theirs, string? choices = null)
        {
            OwnFieldId id = default;
            await Do<OwnFields>(async s => id = MustBe(await s.Save(owner, null, new(name, kind, choices, asked, theirs, theirs), ct)));
            return id;
        }
        var hives = await Field("How many hives", OwnFieldKind.Number, true, true);
        var kind = await Field("What kind of hive", OwnFieldKind.Choice, false, true, "National\nLangstroth\nTop-bar\nSomething else");
        var heard = await Field("How you heard of us", OwnFieldKind.Choice, true, false, "A friend\nThe autumn fair\nA talk\nThe radio\nBy chance");
        var since = await Field("Bees since", OwnFieldKind.Date, false, true);
        await Tag("mentor", "Who helps", 3, badge: true);
        await Tag("swarm list", "Who helps", 2);
        await Tag("call in January", "To do", 6);
        await Tag("at it every week", "By themselves", 4, new Condition.MetTally(tally, 1));
        await Tag("many hives", "By themselves", 5, new Condition.Field(hives, new FieldTest.AtLeast(5)));

        // Its own dice, so that nothing else falls otherwise for it.
        var dice = new Random(1127);
        var people = readers.OrderBy(r => r.Value).ToArray();
        string?[] kinds = ["National", "National", "Langstroth", "Top-bar", "Something else", null], ways = ["A friend", "A friend", "The autumn fair",
            "A talk", "The radio", "By chance", null];
        var answers = people.Where((_, i) => i % 3 != 1).Select(m => (Member: m, Said: new Dictionary<OwnFieldId, string?>
        {
            [hives] = $"{1 + dice.Next(4) * dice.Next(4) / 2}",
            [kind] = kinds[dice.Next(kinds.Length)],
            [heard] = ways[dice.Next(ways.Length)],
            [since] = dice.Next(3) == 0 ? null : Calendar.Date(clock.Moment).PlusDays(-200 - dice.Next(4000)).ToString("uuuu-MM-dd", null),
        })).ToArray();
        await Parallel.ForEachAsync(answers, new ParallelOptions { MaxDegreeOfParallelism = 4, CancellationToken = ct }, async (a, _) =>
            await Do<OwnFields>(async s => MustBe(await s.FillOwn(a.Member, a.Said, ct))));
        foreach (var (member, i) in people.Where((_, i) => i % 17 == 3).Select((m, i) => (m, i)))
            await Do<MemberTags>(async s => MustBe(await s.PutOn(owner, member, i % 3 == 0 ? "mentor, swarm list" : i % 3 == 1 ? "swarm list"
                : "call in January", ct)));
        if (await FindMember(MemberEmail) is { } mirela)
        {
            await Do<MemberTags>(async s => MustBe(await s.PutOn(owner, mirela, "mentor", ct)));
            await Do<TeamNotes>(async s => MustBe(await s.Add(owner, mirela, "Offered to take two newcomers along on her Saturday round in spring. Ask her in "
                + "February.", ct)));
            await Do<TeamNotes>(async s => MustBe(await s.Add(owner, mirela, "Her sister may want to join; would share the hives.", ct)));
        }

        async Task Audience(string name, Condition condition) =>
            await Do<Audiences>(async s => MustBe(await s.Save(owner, null, name, condition, ct)));
        var (keeper, apiary) = (plans["Keeper"], plans["Apiary"]);
        var current = new Condition.InStanding([Standing.Trial, Standing.Active, Standing.Grace, Standing.Ending]);
        if (catalogue.Now.CurrentEdition is { } edition)
            await Audience($"Haven’t opened {edition.Month.ToString("MMMM", catalogue.Now.Culture)} yet", new Condition.AllOf([current,
                new Condition.Holds([keeper, apiary]), new Condition.Not(new Condition.OpenedEdition(edition.Id))]));
        await Audience("Quiet for a month", new Condition.AllOf([new Condition.InStanding([Standing.Trial, Standing.Active]),
            new Condition.Not(new Condition.Seen(new When.InLast(30)))]));
        await Audience("Lapsed within half a year", new Condition.Lapsed(new When.InLast(183)));
        await Audience("Could help newcomers", new Condition.AllOf([new Condition.InStanding([Standing.Active]),
            new Condition.AnyOf([new Condition.Field(hives, new FieldTest.AtLeast(4)), new Condition.Joined(new When.LongerAgo(365))])]));

        if (catalogue.Now.Pieces.FirstOrDefault(p => p.Title == "Your first page of the season") is { } first)
            await Do<SavePlan>(async s =>
            {
                var p = catalogue.Now.PlanById[plans["Meadow"]];
                MustBe(await s.Do(owner, p.Id, new(p.Name, p.Rank, p.Description, [], StartPiece: first.Id.Value), ct));
            });
        var newest = new List<MemberId>();
        await Do<BrightContext>(async db => newest = await db.Members.Where(m => m.Standing == Standing.Active).OrderByDescending(m => m.JoinedAt)
            .ThenByDescending(m => m.Id).Select(m => m.Id).Take(2).ToListAsync(ct));
        foreach (var (member, words) in newest.Zip(["Two hives since April, at the end of an allotment. I lost one to wasps and want to know what I did.",
            "None yet! My neighbour is giving me a colony in spring, and I have the whole winter to read."]))
            await Do<TakeFirstSteps>(async s => MustBe(await s.SayHello(member, words, ct)));

        // Nobody of the demo comes with a browser: they were here when they last opened something.
        await Do<BrightContext>(db => db.Database.ExecuteSqlAsync($"""
            insert into last_seen (member_id, at) select member_id, max(last_at) from openings group by 1 on conflict do nothing
            """, ct));
    }
}
