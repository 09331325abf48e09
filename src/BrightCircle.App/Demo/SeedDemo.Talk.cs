using BrightCircle.App.Community;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>What Tansy Lane’s people say to each other, over fourteen months.</summary>
public sealed partial class SeedDemo
{
    public const string Bench = "The Keepers’ bench";
    const string Gate = "At the gate", Notices = "From the lane";
    readonly Dictionary<string, SpaceId> spaces = [];

    async Task MakeSpaces(CancellationToken ct)
    {
        async Task Make(string name, SpaceKind kind, int colour, string door, string manners, bool forGuests) => await Do<SaveSpace>(async s =>
            spaces[name] = MustBe(await s.Do(owner, null, new(name, kind, door, manners, colour, forGuests, [.. Space.UsualNods]), ct)));
        await Make(Bench, SpaceKind.Talk, 1, "Where Keepers and Apiaries talk over the month. Ask before you open a hive, tell us afterwards.",
            "Say where you keep bees, the weather decides half of it. No selling.", false);
        await Make(Gate, SpaceKind.Introductions, 3, "Say hello: where you are, what you keep, what you hope for.", "", true);
        await Make(Window, SpaceKind.Showcase, 6, "Show us: a frame, a jar, a view. Pictures first, words if you like.", "", true);
        await Make(Notices, SpaceKind.Announcements, 5, "What is new on the lane. Ines writes, everybody answers.", "", true);
    }

    /// <param name="After">Hours after the post before it.</param>
    /// <param name="To">The post of the thread it answers, from 1; 0 for the whole.</param>
    /// <param name="Shows">What is drawn for it, with what it shows.</param>
    sealed record Said(string Words, int After = 3, bool Team = false, int To = 0, string[]? Shows = null, string? Alt = null);

    sealed record Thread(string Space, LocalDate Day, string Title, Said[] Posts, bool First = false, string? Choices = null);

    /// <summary>Threads begin in the evening of their day.</summary>
    static IReadOnlyList<Thread> Threads { get; } =
    [
        new(Gate, new(2025, 10, 12), "Introduce yourself, and your first hive",
        [
            new("Hello, I’m Ines, and this is my lane. My first hive stood behind the coal shed and faced north, because nobody had told me. It lived.\n\n"
                + "Where are you, and what do you keep?", Team: true),
            new("Two hives at the edge of an orchard, the second by accident: it moved in.", 5),
            new("None yet. I come for the smell of the workshop and stay until spring.", 20),
            new("One hive on a shed roof in a town. The neighbours count the bees for me.", 40),
            new("Hello from the coast. Two hives, and a lot of wind.", 90),
            new("How do you keep the lids on?", 4, To: 5),
            new("A stone each, and a strap since the stones learnt to fly.", 7, To: 5),
        ], true),
        new(Notices, new(2025, 11, 2), "The bench is open",
        [
            new("From today there is a bench to sit on: the talk of the month has its own room, "
                + "for Keepers and Apiaries. Questions under lessons stay where they are.",
                Team: true),
            new("Lovely. I was about to write a letter about nothing.", 6),
        ]),
        new(Bench, new(2025, 11, 9), "When do you put the mouse guards on?",
        [
            new("Ours went on yesterday and somebody was in already. I heard her before I saw her. When do you do it?"),
            new("First frost, whatever the calendar says.", 4),
            new("With us it is the day the clocks change, because then I remember it.", 9),
            new("Early. A guard that is on too soon costs you nothing; one too late costs a comb.", 12, true),
        ]),
        new(Bench, new(2026, 1, 17), "Heard a low hum at the back wall, then nothing",
        [
            new("I put my ear to the back wall this morning. A low hum, then a knock from my boot, then nothing for a minute. Is that bad?"),
            new("Same here last week, and they were flying on Sunday.", 5),
            new("They go quiet to listen. So would you. If it comes back within a few minutes, all is well.", 8, true),
            new("It came back. I went in and had toast.", 14),
        ]),
        new(Bench, new(2026, 2, 21), "First pollen",
        [
            new("Yellow legs at half past eleven, from the snowdrops, I think. Who else?"),
            new("Hazel here, since Thursday.", 3),
            new("Nothing yet, but the crocuses have opinions.", 20),
            new("Four degrees and sleet. I am happy for you all.", 6),
        ]),
        new(Bench, new(2026, 4, 18), "Queen cells, and I leave on Friday",
        [
            new("Three cells with larvae in the big hive. I’m away for nine days from Friday. Split now, or ask somebody to look on Tuesday?"),
            new("Split. Whoever looks on Tuesday will wish you had.", 2),
            new("What you have and what you can lift decides it. If there is a box and a floor, take the queen and three frames into it, stand it aside, and "
                + "leave the cells where they are. Then give the old place a week of *not looking*.", 5, true),
            new("Done, in the rain, with a torch. Nobody stung me, I think from surprise.", 26),
            new("How did it go?", 240, To: 4),
            new("Both are there. The little one is cross.", 8, To: 4),
        ]),
        new(Bench, new(2026, 6, 6), "How full is full?",
        [
            new("The upper box is heavy at the sides and empty in the middle. Do you give the next one now or wait until the middle is drawn?"),
            new("Now. They never wait when the lime flowers.", 3),
            new("I swap the outer frames into the middle first. It looks silly and works.", 5),
            new("Both are right. Swap, look again in three days, then give it.", 12, true),
        ]),
        new(Bench, new(2026, 8, 1), "Your jars, and what you wrote on them",
        [
            new("I’ve written *from here* on every label since the second year. What is on yours?"),
            new("The day and the weather.", 6),
            new("My daughter draws each of them. There are forty-one different bees.", 9),
            new("The hive’s name. People ask for Gladys again.", 3),
            new("Nothing. I know whose it is by the lid.", 30),
        ]),
        new(Bench, new(2026, 9, 12), "Wasps at the east hive",
        [
            new("A steady stream of them, and the guards look tired. Entrance is down to a finger already."),
            new("Look under the floor. Mine came in there.", 2),
            new("If the colony is weak, close it for an evening and move it a mile. If it is strong, leave it the finger and take every drop of syrup away.",
                6, true),
            new("It was the floor. A gap like a letterbox. Thank you.", 20),
        ]),
        new(Notices, new(2026, 10, 4), "A year of the lane",
        [
            new("A year ago there were nine of you. Thank you for staying, for asking, and for telling me where I was wrong about fondant.", Team: true),
            new("You weren’t wrong. It was the pan.", 5),
            new("Here is to the next one.", 8),
        ]),
        new(Bench, new(2026, 10, 24), "Who has built the nucleus box from one board?",
        [
            new("Half built. The drawing wants 18 mm, I had 15. Does it matter?"),
            new("Only to the frames. Take 3 mm off the rebate and they hang.", 5),
            new("Mine is out of an old wardrobe. It has a keyhole for an entrance.", 18),
        ]),
        new(Bench, new(2026, 11, 12), "Draught test: what did the candle say?",
        [
            new("I went round the inside with a candle as the piece says. It leaned at the back left corner of the floor. What did yours do?"),
            new("Left corner of the floor, as you thought.", 4),
            new("Went out. Then I found the hole.", 10),
            new("Straight as a post. I was almost disappointed.", 22),
        ]),
        new(Bench, new(2026, 11, 16), "Which evening for the winter clinic?",
        [
            new("Ines asks which evening suits us from January on. I said I would count. Choose one, and say here if none does."),
            new("Not Wednesdays, we have bells.", 3),
            new("Anything after the little one is asleep.", 20),
        ], Choices: "Tuesday at seven\nWednesday at seven\nSunday at five"),
        new(Bench, new(2026, 11, 21), "A smell like pear drops at the entrance",
        [
            new("Only when the sun is on the box, and only since Thursday. They look calm. Has anybody had that?"),
        ]),
        new(Bench, new(2026, 11, 22), "Is dry sugar enough if fondant runs out?",
        [
            new("Minus four tonight and I have used my last block on hive two. Shop opens Thursday. Sugar over the crown board?"),
            new("Did that last winter. They carried the dry grains out of the door, one by one. I laughed, then I didn’t.", 1),
            new("Same here. Wet it.", 9),
            new("It will do for a week. Wet the edge, or they carry it out. And heft first: two may be lighter than you think.", 12, true),
            new("Hefted. Two is lighter than I thought.", 3),
        ]),
    ];

    void PlanTalk(CancellationToken ct)
    {
        foreach (var thread in Threads.Concat(ShownThreads))
        {
            var (id, posts, people) = (0L, new List<long>(), new List<long>());
            var at = Calendar.At(thread.Day.At(new LocalTime(18, 40)));
            foreach (var (said, n) in thread.Posts.Select((s, n) => (s, n)))
            {
                if (n > 0) at += Duration.FromHours(said.After);
                At(at, async () =>
                {
                    if (n > 0 && id == 0 || await Speaker(thread.Space, said.Team, people,
                        n + (said.Shows is null ? 0 : thread.Day.DayOfYear), ct) is not { } by) return;
                    Shown? shown = null;
                    if (said.Shows is { } shows)
                        await Do<TalkPictures>(async p => shown = new(MustBe(await p.Take(by, null,
                            [.. shows.Select(s => new PictureUpload(s + ".png", 1, () => new MemoryStream(DemoMedia.Shown(s))))], ct)), said.Alt));
                    await Do<Talk>(async t =>
                    {
                        if (n == 0) id = MustBe(await t.Begin(by, thread.Title, said.Words, ct, shown, thread.Choices)).Id;
                        else posts.Add(MustBe(await t.Answer(by, id, said.To > 0 && said.To <= posts.Count ? posts[said.To - 1] : null, said.Words, ct,
                            shown)).Id);
                    });
                    if (n == 0)
                    {
                        await Do<BrightContext>(async db => posts.Add(await db.TalkPosts.Where(p => p.ThreadId == id).Select(p => p.Id).FirstAsync(ct)));
                        if (thread.First) await Do<KeepTalk>(async k => MustBe(await k.Pin(owner, id, true, ct)));
                    }
                    else if (thread.Choices is not null && n == thread.Posts.Length - 1) await Choose(thread, id, ct);
                    else await Agree(thread.Space, posts[^1], n, ct);
                });
            }
        }
    }

    /// <summary>Somebody who may write there now, each time another; whoever began comes back at the end.</summary>
    async Task<SpaceReader?> Speaker(string space, bool team, List<long> had, int turn, CancellationToken ct)
    {
        if (team) return await ReaderOf(owner.AccountId, space, ct);
        List<long> members = [];
        await Do<BrightContext>(async db => members = await db.Members.OrderBy(m => m.Id).Select(m => m.Id.Value).ToListAsync(ct));
        for (var i = 0; i < members.Count; i++)
        {
            var one = members[(i * 7 + turn * 11 + space.Length + had.Count) % members.Count];
            if (had.Contains(one) || await ReaderOf(one, space, ct) is not { MayWrite: true } by) continue;
            had.Add(one);
            if (by.Confirmed) return by;
            // They came in by a letter's link.
            await Do<BrightContext>(db => db.Users.Where(a => a.Id == one).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed, true), ct));
            return await ReaderOf(one, space, ct);
        }
        return null;
    }

    async Task<SpaceReader?> ReaderOf(long account, string space, CancellationToken ct) =>
        await reader.Load(account, ct) is { } person
            ? SpaceReader.For(catalogue.Now, person, person.IsTeam ? Core.Access.MemberFacts.Team : Facts(person), spaces[space], clock.Moment) : null;

    /// <summary>A few agree in a word.</summary>
    async Task Agree(string space, long post, int turn, CancellationToken ct)
    {
        var had = new List<long>();
        for (var i = 0; i < turn % 4; i++)
            if (await Speaker(space, false, had, turn * 3 + i, ct) is { } by) await Do<Talk>(t => t.Nod(by, post, (turn + i) % 3, ct));
    }
}
