using BrightCircle.App.Billing;
using BrightCircle.App.Content;
using BrightCircle.App.Insight;
using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>Doorways of every kind, and rights that nobody paid for here.</summary>
public sealed partial class SeedDemo
{
    void PlanRights(CancellationToken ct)
    {
        var november = new YearMonth(2026, 11);
        Instant Day(int day, int hour, int minute) => Calendar.At(november.OnDayOfMonth(day).At(new LocalTime(hour, minute)));
        At(Day(16, 19, 40), () => Doorways(ct));
        // Who begins the winter together gets a look at the latest editions with it.
        At(Day(17, 9, 10), () => Promise("Winter together", new Dictionary<PriceId, Pace>(),
        [
            .. catalogue.Now.PlanById[plans["Winter together"]].Promise,
            new(new Coverage.WhatAPlanOpens(plans["A look in"]), new Reach.EverythingReleased(), new Keep.Nothing()),
        ], ct));
        At(Day(18, 11, 15), () => KeyForTheFair(ct));
        At(Day(19, 16, 5), () => Allotments(ct));
        At(Day(21, 10, 30), () => MoveIn(ct));
        At(Day(22, 15, 0), () => Gifts(ct));
        At(Day(23, 20, 30), () => OwnWords(ct));
    }

    async Task Doorways(CancellationToken ct)
    {
        var now = catalogue.Now;
        Task Door(DoorwayPlace place, DoorwayWish wish) => Do<SaveDoorway>(async s => MustBe(await s.Do(owner, place, wish, ct)));
        await Door(default, new(DoorwayKind.Shown, Strangers: "This is read and done by people who keep a few hives, month by month.",
            NotYet: "Take your time: the bees do, too."));
        await Door(new(null, now.Shelves.Single(s => s.Mark == "HW").Id), new(DoorwayKind.Extract, ExtractWords: 60));
        var out_ = now.Pieces.Where(p => p.ReleasedAt is not null && !p.IsCourse).ToArray();
        await Door(new(out_.Last(p => now.ShelfById[p.ShelfId].Mark == "KW").Id), new(DoorwayKind.AnotherPage, Page: "/tiers"));
        await Door(new(out_.Where(p => now.ShelfById[p.ShelfId].Mark == "FP").ElementAt(2).Id), new(DoorwayKind.NotFound));
        await Do<DoorwayCounts>(counts =>
        {
            foreach (var (piece, i) in out_.Where(p => now.DoorwayOf(p).Kind != DoorwayKind.NotFound).TakeLast(8).Select((p, i) => (p.Id, i)))
            {
                for (var n = 0; n < 7 + 5 * i; n++) counts.Met(piece);
                for (var n = 0; n < 1 + i / 2; n++) counts.Clicked(piece);
            }
            return counts.Write(ct);
        });
    }

    async Task<MemberId> Person(string name, string email, CancellationToken ct)
    {
        MemberId id = default;
        await Do<AddMember>(async s => id = MustBe(await s.Do(owner, name, email, ct)));
        return id;
    }

    async Task KeyForTheFair(CancellationToken ct)
    {
        long key = 0;
        await Do<KeyLinks>(async s => key = MustBe(await s.Make(owner, new(plans["A look in"], "Harvest fair", "12 in cash at the table", 25,
            new LocalDate(2026, 12, 31), null, false), ct)));
        foreach (var (name, email) in new[] { ("Ivo Larkspur", "ivo.larkspur@post.example"), ("Maud Tennick", "maud.tennick@post.example") })
            await Do<KeyLinks>(async s => MustBe(await s.Use((await s.Find(key, ct))!.Value.Link, name, email, ct)));
    }

    /// <summary>A group: one holds it, others sit in it.</summary>
    async Task Allotments(CancellationToken ct)
    {
        var host = await Person("Hedda Wrenfield", "hedda.wrenfield@post.example", ct);
        await Do<GivePlan>(async s => MustBe(await s.Do(owner, host, new(plans["Keeper"], HoldingSource.Gift, Note: "The allotments’ group, paid by transfer",
            Seats: 4), ct)));
        HoldingId group = default;
        await Do<BrightContext>(async db => group = await db.Holdings.Where(h => h.MemberId == host && h.Seats != null).Select(h => h.Id).SingleAsync(ct));
        foreach (var (name, email) in new[] { ("Casper Holm", "casper.holm@post.example"), ("Petra Ashgrove", "petra.ashgrove@post.example"), ("",
            "fern.hale@post.example") })
        {
            await Do<GroupSeats>(async s => MustBe(await s.Invite(host, group, email, ct)));
            if (name.Length == 0) continue;
            await Do<GroupSeats>(async s => MustBe(await s.Take((await s.Find(host, group, ct))!.Seats.Single(x => x.Email == email).Code, null, name, ct)));
        }
    }

    /// <summary>Some people of an older list.</summary>
    Task MoveIn(CancellationToken ct) => Do<PeopleBatches>(async s =>
    {
        const string list = """
            Name,E-mail,Level,Since,Paid until
            Agnes Thole,agnes.thole@post.example,Keeper,2026-05-02,2027-05-01
            Bram Ostler,bram.ostler@post.example,Keeper,2026-07-11,2027-01-10
            Clea Winterbourne,clea.winterbourne@post.example,Keeper,2025-11-01,2026-10-31
            Dorian Pell,dorian.pell@post.example,Friends,2026-09-20,
            """;
        var reading = new MoveInReading(list);
        MustBe(await s.MoveIn(owner, list, new(reading.Guess(), null, new Dictionary<string, PlanId> { ["Friends"] = plans["Meadow"] }, DateOrder.DayFirst,
            false,
            false), ct));
    });

    /// <summary>A page of the owner's own for the course, one about the place, and words before and after joining.</summary>
    async Task OwnWords(CancellationToken ct)
    {
        Block Text(string markdown) => new Block.Text(rich.FromMarkdown(markdown));
        async Task Page(SitePageKind kind, string? plan, string? price, string? title, string slug, string about, params Block[] sections)
        {
            long id = 0;
            await Do<SitePages>(async s => id = MustBe(await s.Make(owner, kind, plan is null ? null : plans[plan], price is null ? null : prices[price], ct)));
            var made = catalogue.Now.Pages.Single(p => p.Id == id);
            await Do<SitePages>(async s => MustBe(await s.Save(owner, id, new(title ?? made.Title, slug, about, null,
                [.. sections.Select(b => b with { Id = new(services.GetRequiredService<Ids>().Next()) })], true, made.Version), ct)));
        }
        await Page(SitePageKind.Plan, "First Winter", null, null, "", "Three quiet checks that bring a first colony through the winter.",
            Text("## Your first winter with bees\n\nThe bees know what to do. What you need is to know when to leave them alone, and the three moments "
                + "when you don’t.\n\n"
                + "* **For you** if you have one or two hives and it is their first winter with you.\n"
                + "* **Not for you** if you look for treatments or for a large apiary."),
            new Block.Inside(null), new Block.Voices([new("I stopped opening the hive to see whether they were alive. I listened instead.",
                "Tove, first winter 2026"),
                new("An hour a week, and in March they flew.", "Anselm, two hives")]),
            new Block.Faq([new("Do I need to be a member?", "No. It is bought once, and stays yours."),
                new("What if I fall behind?", "It waits for you. Nothing closes."), new("Can I get my money back?",
                    "Within fourteen days, by a letter to us.")]),
            new Block.Prices(null));
        await Page(SitePageKind.Free, null, null, "About Tansy Lane", "about", "Who writes here, and why month by month.",
            Text("Tansy Lane is a lane with nine hives at its end. **Ines Maren** has kept them for fourteen years and writes down "
                + "what they ask for, when they ask for it.\n\n"
                + "Every edition is walked through at the hive before you read it."));
        await Page(SitePageKind.Free, null, null, "Terms of sale", "terms", "What we agree on when you buy here.",
            Text("## What you buy\n\nA membership goes on until you leave it; you can leave at any time, and what is paid stays open to its end. A "
                + "course is bought "
                + "once.\n\n## Money back\n\nWithin fourteen days all of it goes back, by a letter to us.\n\n## Questions\n\nWrite to us, and a person "
                + "answers."));
        await Page(SitePageKind.Join, "Apiary", null, null, "", "",
            Text("After the week to look around you can leave with one press. We’ll write before anything is charged."));
        await Page(SitePageKind.Confirmation, null, "First Winter once", null, "", "",
            Text("Begin with the first check, on a mild and windless day. You need ten minutes, and no smoke."));
        await Do<SaveMenu>(async s => MustBe(await s.Do(owner, [.. MenuItem.Usual.Take(2), new("About", "/pages/about", MenuFor.SignedOut),
            .. MenuItem.Usual.Skip(2)], ct)));
    }

    async Task Gifts(CancellationToken ct)
    {
        // A single piece, and something for a later day.
        var piece = catalogue.Now.Pieces.Last(p => p.ReleasedAt is not null && catalogue.Now.ShelfById[p.ShelfId].Mark == "HW");
        var runa = await Person("Runa Fairlie", "runa.fairlie@post.example", ct);
        await Do<GivePlan>(async s => MustBe(await s.Do(owner, runa, piece.Id, new(default, HoldingSource.Gift, Note: "Won at the harvest fair"), ct)));
        var soon = await Person("Ned Osgood", "ned.osgood@post.example", ct);
        await Do<GivePlan>(async s => MustBe(await s.Do(owner, soon, new(plans["Apiary"], HoldingSource.Gift, From: new(2026, 12, 24), Until: new(2027, 12, 23),
            Note: "A present from his daughter"), ct)));
    }
}
