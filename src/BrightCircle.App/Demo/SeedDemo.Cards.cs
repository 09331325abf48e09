using BrightCircle.App.Community;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Demo;

/// <summary>Who of Tansy Lane wants to be found; and a space beside the course.</summary>
public sealed partial class SeedDemo
{
    const string Beside = "Beside the winter checks";

    /// <summary>What stands on cards: a line, a place, what is drawn for a picture.</summary>
    static readonly (string Line, string Place, string? Shows)[] CardsHeld =
    [
        ("Two hives and a shed that leans. I take newcomers along on Saturdays.", "by the canal", "row"),
        ("First winter. I ask a lot and write it all down.", "the north side of town", null),
        ("Bees since my grandmother’s skep; wax more than honey by now.", "up on the moor", "candles"),
        ("I keep them on a roof, four floors up. The lift knows me.", "the old harbour", "orchard"),
        ("Weather watcher. If it will freeze, I’ll have said so.", "", "snow"),
        ("Too many jars, never enough lids.", "a valley with one road", "jars"),
        ("Carpenter. My boxes fit; my bees don’t care.", "behind the station", null),
        ("I came for the reading and stayed for the people.", "by the sea", "comb"),
        ("Top-bar, on purpose.", "three fields from here", null),
        ("Nurse on nights, bees by day. Write to me before noon and I’ll miss it.", "the hill", "guard"),
    ];

    async Task Cards(CancellationToken ct)
    {
        await Do<SavePersonCard>(async s => MustBe(await s.Switch(owner, true, ct)));
        await Do<SavePersonCard>(async s => MustBe(await s.SwitchWriting(owner, true, ct)));
        List<long> talkers = [];
        var mirela = await FindMember(MemberEmail);
        await Do<BrightContext>(async db => talkers = await db.TalkPosts.Where(p => p.AccountId != null && !p.ByTeam && p.GoneAt == null)
            .GroupBy(p => p.AccountId!.Value).OrderByDescending(g => g.Count()).ThenBy(g => g.Key).Select(g => g.Key).Take(CardsHeld.Length + 1)
            .ToListAsync(ct));
        var people = talkers.Where(t => t != mirela?.Value).Take(CardsHeld.Length - 1).ToList();
        if (mirela is { } first) people.Insert(0, first.Value);
        foreach (var (account, (line, place, shows)) in people.Zip(CardsHeld))
            await Do<SavePersonCard>(async s => MustBe(await s.Do(account, true, new(true, line, place, false, false, Line(line) % 3 != 2, Line(line) % 2 == 0),
                Drawn(shows), ct)));
        await Do<SavePersonCard>(async s => MustBe(await s.Do(owner.AccountId, true, new(true, "I run the lane, and answer in the evening.", "the lane",
            false), Drawn("label"), ct)));

        await Words(people, ct);

        var course = catalogue.Now.Pieces.Single(p => p.Title == "Three quiet winter checks");
        await Do<SaveSpace>(async s => spaces[Beside] = MustBe(await s.Do(owner, null, SpaceDraft.Empty with
        {
            Name = Beside,
            Kind = SpaceKind.Questions,
            Colour = 2,
            Door = "For everybody who is doing the three checks: ask before you knock.",
            Piece = course.Id.Value,
        }, ct)));
        await Do<SaveSeries>(async s =>
        {
            if (catalogue.Now.Community.Ahead(clock.Moment).Select(x => catalogue.Now.Community.SeriesById[x.SeriesId])
                .FirstOrDefault(x => x.Hours is null) is { } series)
                MustBe(await s.Do(owner, series.Id, SeriesDraft.Of(series) with { Piece = course.Id.Value }, ct));
        });
        await Do<Offer.SavePlan>(async s =>
        {
            var p = catalogue.Now.PlanById[plans["Keeper"]];
            MustBe(await s.Do(owner, p.Id, new(p.Name, p.Rank, p.Description, [], GroupLink: "https://rides.example/tansy-lane",
                GroupWords: "The Saturday round: who drives whom"), ct));
        });
        var had = new List<long>();
        if (await Speaker(Beside, false, had, 3, ct) is not { } asks || await Speaker(Beside, false, had, 5, ct) is not { } answers) return;
        await Do<Talk>(async t =>
        {
            var thread = MustBe(await t.Begin(asks, "How hard do you knock?", "The second check says: knock once with a knuckle. On the wall or on the lid?",
                ct)).Id;
            MustBe(await t.Answer(answers, thread, null, "The wall, low down. On the lid they answer the lid.", ct));
        });
    }

    static int Line(string line) => Array.FindIndex(CardsHeld, c => c.Line == line);

    /// <summary>What members write to one another: the first with the second, and somebody who asks.</summary>
    async Task Words(List<long> people, CancellationToken ct)
    {
        if (people.Count < 5) return;
        async Task<(PeopleReader By, Writer Who)> As(long account)
        {
            SignedIn? person = null;
            await Do<MemberReader>(async r => person = await r.Load(account, ct));
            var facts = person!.FactsAt(clock.Moment);
            return (PeopleReader.For(catalogue.Now, [.. catalogue.Now.Spaces.Select(s => SpaceReader.For(catalogue.Now, person, facts, s.Id, clock.Moment))
                .OfType<SpaceReader>()])!, new(new(account), true));
        }
        var (mirela, friend, asks) = (await As(people[0]), await As(people[1]), await As(people[3]));
        var id = 0L;
        await Do<Exchanges>(async e => id = MustBe(await e.Ask(friend.By, friend.Who, mirela.Who.Member,
            "You wrote that you take newcomers along. Would a Saturday in January do?", ct)));
        await Do<Exchanges>(async e => MustBe(await e.Agree(mirela.Who.Member, id, true, ct)));
        await Do<Exchanges>(async e => MustBe(await e.Write(mirela.By, mirela.Who, id,
            "Gladly. The second one, if it doesn’t blow. Bring a hat and no perfume.", ct)));
        await Do<Exchanges>(async e => MustBe(await e.Write(friend.By, friend.Who, id, "The second it is. I’ll bring tea.", ct)));
        await Do<Exchanges>(async e => MustBe(await e.Ask(asks.By, asks.Who, mirela.Who.Member,
            "Is it you with the shed that leans? I have a jack it could lean on.", ct)));
        await Do<SaveSpace>(async s => MustBe(await s.Do(owner, null, SpaceDraft.Empty with
        {
            Name = "The month’s table",
            Colour = 7,
            Door = "What you think of this month’s pieces, and what came of them.",
            ForGuests = true,
            ByEdition = true,
        }, ct)));
    }

    static PictureUpload? Drawn(string? shows) => shows is null ? null : new(shows + ".png", 1, () => new MemoryStream(DemoMedia.Shown(shows)));

    /// <summary>Some choose in a thread that asks for it.</summary>
    async Task Choose(Thread thread, long id, CancellationToken ct)
    {
        var had = new List<long>();
        for (var i = 0; i < 11; i++)
            if (await Speaker(thread.Space, false, had, i, ct) is { } by)
                await Do<Choosing>(async c => MustBe(await c.Do(by, id, i * i % 7 % thread.Choices!.Split('\n').Length, ct)));
    }
}
