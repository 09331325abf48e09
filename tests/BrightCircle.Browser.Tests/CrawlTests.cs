using System.Net;
using System.Text.RegularExpressions;
using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Members;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Every page, every link and every form, as every kind of person: nothing that is shown leads to an error. New pages are in it by
/// themselves.</summary>
public sealed class CrawlTests
{
    static readonly Duration LinkLasts = Duration.FromHours(1);

    [Fact]
    public async Task Nothing_that_is_shown_to_anybody_leads_to_an_error()
    {
        await using var app = new LiveApp();
        using (var till = new DemoTill(TestServers.Till, TestServers.Postbox)) await ActivatorUtilities.CreateInstance<SeedDemo>(app.Services).Run(till, 34);
        var (wrong, pages, sent, kinds) = (new List<string>(), 0, 0, new List<string>());
        var led = new HashSet<string>(StringComparer.Ordinal);
        var desk = new List<DeskForm>();
        var plain = Routes(app).Where(r => !r.Contains('{')).ToArray();
        using var vnu = new Vnu();
        var people = await People(app);
        var certified = await Arrange(app);
        foreach (var (who, account) in people)
        {
            using var crawl = new Crawl(app.Url, who, vnu);
            if (account is { } id) await crawl.Press("/in/" + await Link(app, id));
            // Of the pages without a number in them each is tried by everybody; what isn't theirs says so, and never breaks.
            if (who is "owner")
                await crawl.Links(plain.Where(p => !p.StartsWith("/setup", StringComparison.Ordinal) && !p.StartsWith("/error", StringComparison.Ordinal)
                && !p.StartsWith("/me", StringComparison.Ordinal) && !p.StartsWith("/join", StringComparison.Ordinal)));
            await crawl.Links(account is null ? ["/", "/tiers", "/inside", "/sign-in", .. await GivenLinks(app)]
                : who is "owner" ? ["/desk", "/", .. await EachKind(app, people)] : who is "editor" or "host" or "support" ? ["/desk", "/"]
                : ["/me", "/shelves", "/", .. certified]);
            await crawl.Forms("sign-out", "Move on", "/desk/clock", "sign-in/out", "handler=shut");
            wrong.AddRange(crawl.Wrong);
            led.UnionWith(crawl.LedTo);
            desk.AddRange(crawl.DeskForms);
            (pages, sent) = (pages + crawl.Pages, sent + crawl.Sent);
            kinds.Add($"{who} {crawl.Pages}/{crawl.Sent}");
        }
        // What a role isn't shown isn't theirs: sent all the same, it is turned away.
        foreach (var role in Enum.GetValues<TeamRole>().Where(r => r != TeamRole.Owner))
        {
            var who = role.ToString().ToLowerInvariant();
            using var crawl = new Crawl(app.Url, who);
            await crawl.Press("/in/" + await Link(app, people.Single(p => p.Who == who).Account!.Value));
            var closed = desk.Where(f => !DeskRoles.May(role, true, f.Action)).DistinctBy(f => f.Kind).ToArray();
            Assert.True(closed.Length > 10, $"{who}: only {closed.Length} forms are closed");
            await crawl.SendClosed(closed);
            wrong.AddRange(crawl.Wrong);
        }
        wrong.AddRange(await vnu.Check());
        wrong.AddRange(Routes(app).Where(r => !IsGiven(r) && !led.Any(Like(r).IsMatch)).Select(r => $"no link and no button leads to {r}"));
        Assert.True(
            wrong.Count == 0,
            $"{wrong.Count} wrong on {pages} pages and {sent} forms ({string.Join(", ", kinds)}):\n{string.Join('\n', wrong.Distinct().Take(120))}");
        Assert.True(pages > 500 && sent > 200, $"only {pages} pages and {sent} forms");
    }

    /// <summary>
    /// Each lesson gets words of its own, and whoever can't open it finds them nowhere: on no page of the route table, by no address made from its number,
    /// by no search for them. Before its turn, after leaving, without anything.
    /// </summary>
    [Fact]
    public async Task Nothing_that_is_sent_to_anybody_tells_what_is_closed_to_them()
    {
        await using var app = new LiveApp();
        using (var till = new DemoTill(TestServers.Till, TestServers.Postbox)) await ActivatorUtilities.CreateInstance<SeedDemo>(app.Services).Run(till, 34);
        var catalogue = app.Services.GetRequiredService<App.Catalogues.Catalogue>();
        var owner = (await People(app)).Single(p => p.Who == "owner").Account!.Value;
        var lessons = catalogue.Now.Pieces.SelectMany(p => p.Outline.Lessons).Where(l => !l.Teaser).ToArray();
        static string Secret(Lesson l) => $"quincewort{l.Id.Value} belongs inside";
        foreach (var l in lessons)
        {
            await using var scope = app.Services.CreateAsyncScope();
            var blocks = (await scope.ServiceProvider.GetRequiredService<BrightContext>().LessonContents.SingleAsync(c => c.LessonId == l.Id)).Blocks;
            var id = scope.ServiceProvider.GetRequiredService<Ids>().Next<BlockId>();
            Assert.IsType<LessonSaved.Done>(await scope.ServiceProvider.GetRequiredService<SaveLesson>().Do(new(owner, "Ines Maren", TeamRole.Owner), l.Id,
                new(l.Title, l.Minutes, l.Teaser, l.DoneWhen, l.EditionId, l.Ready, [.. blocks, new Block.Text($"<p>{Secret(l)}</p>") { Id = id }], l.Version),
                    default));
        }
        var clock = app.Services.GetRequiredService<IClock>();
        var reader = app.Services.GetRequiredService<MemberReader>();
        var (wrong, closedToSome, hidden) = (new List<string>(), 0, 0);
        // What is said in a room belongs to those in it.
        var room = catalogue.Now.Spaces.First(s => !s.ForGuests);
        const string said = "quincewort said among us";
        long thread;
        await using (var scope = app.Services.CreateAsyncScope())
            thread = (await scope.ServiceProvider.GetRequiredService<Talk>().Begin(SpaceReader.For(catalogue.Now, (await reader.Load(owner, default))!,
                MemberFacts.Team, room.Id, clock.GetCurrentInstant())!, said, said, default)).Value!.Id;
        foreach (var (who, account) in (await People(app)).Where(p => p.Who is not ("owner" or "editor" or "host" or "support")))
        {
            using var crawl = new Crawl(app.Url, who);
            if (account is { } id) await crawl.Press("/in/" + await Link(app, id));
            var at = clock.GetCurrentInstant();
            var facts = account is { } a ? (await reader.Load(a, default))!.FactsAt(at) : MemberFacts.Nobody;
            var closed = lessons.Where(l => !catalogue.Now.Book.Decide(facts, l.Id, at).IsOpen).ToArray();
            var isOut = !catalogue.Now.Book.Decide(facts, room.Id, at).IsOpen;
            crawl.Secrets = [.. closed.Select(Secret), .. isOut ? [said] : Array.Empty<string>()];
            closedToSome += closed.Length;
            await crawl.Links(account is null ? ["/", "/tiers", "/inside", "/feed.xml"] : ["/me", "/shelves", "/spaces", "/me/calendar", "/me/kept"]);
            if (isOut)
                foreach (var path in new[] { $"/spaces/{room.Id.Value}", $"/spaces/{room.Id.Value}/begin", $"/spaces/threads/{thread}",
                    "/search?q=quincewort" })
                    Assert.True(await crawl.Try(HttpMethod.Get, path) is not HttpStatusCode.OK || path.StartsWith("/search", StringComparison.Ordinal),
                        $"{who}: {path}");
            else if (account is not null) Assert.Equal(HttpStatusCode.OK, await crawl.Try(HttpMethod.Get, $"/spaces/threads/{thread}"));
            // Spread over all of them, so that drafts, old and coming ones are among them, and what opens later by a pace.
            foreach (var l in closed.Where((l, i) => i % 6 == 0 || catalogue.Now.Book.Decide(facts, l.Id, at).Rule == AccessRule.Paced))
            {
                foreach (var path in new[] { $"/lessons/{l.Id.Value}", $"/lessons/{l.Id.Value}/print", $"/read/{l.PieceId.Value}",
                    $"/read/{l.PieceId.Value}/print",
                    $"/read/{l.PieceId.Value}/book.epub", $"/search?q=quincewort{l.Id.Value}", $"/desk/lessons/{l.Id.Value}",
                        $"/desk/lessons/{l.Id.Value}/history" })
                    await crawl.Try(HttpMethod.Get, path);
                await crawl.Try(HttpMethod.Head, $"/lessons/{l.Id.Value}");
                Assert.DoesNotContain($"href=\"/lessons/{l.Id.Value}/", await crawl.Open($"/search?q=quincewort{l.Id.Value}"), StringComparison.Ordinal);
                hidden++;
            }
            wrong.AddRange(crawl.Wrong.Where(w => w.Contains(" tells ", StringComparison.Ordinal)));
        }
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
        Assert.True(closedToSome > 100 && hidden > 40, $"{closedToSome} closed, {hidden} tried");
    }

    /// <summary>What nobody would type, 2,000 times with a fixed seed; run by ./test fuzz, beside the suite.</summary>
    [Fact, Trait("Category", "Fuzz")]
    public async Task Whatever_is_sent_the_answer_is_no_broken_page()
    {
        await using var app = new LiveApp();
        using (var till = new DemoTill(TestServers.Till, TestServers.Postbox)) await ActivatorUtilities.CreateInstance<SeedDemo>(app.Services).Run(till, 34);
        var wrong = new List<string>();
        var seed = int.TryParse(Environment.GetEnvironmentVariable("FUZZ_SEED"), out var n) ? n : 20261126;
        foreach (var (who, account) in (await People(app)).Where(p => p.Who is "owner" or "active" or "visitor"))
        {
            using var crawl = new Crawl(app.Url, who);
            if (account is { } id) await crawl.Press("/in/" + await Link(app, id));
            await crawl.Links(account is null ? ["/", "/tiers", "/sign-in"] : who is "owner" ? ["/desk"] : ["/me", "/shelves"]);
            crawl.Wrong.Clear();
            await crawl.Fuzz(who is "owner" ? 1200 : 400, seed);
            wrong.AddRange(crawl.Wrong);
        }
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
    }

    /// <summary>Pages at the Desk of each kind of person, piece and lesson: what they show depends on what that is.</summary>
    static async Task<string[]> EachKind(LiveApp app, IEnumerable<(string Who, long? Account)> people)
    {
        var now = app.Services.GetRequiredService<App.Catalogues.Catalogue>().Now;
        await using var scope = app.Services.CreateAsyncScope();
        var asking = (await scope.ServiceProvider.GetRequiredService<BrightContext>().LessonContents.AsNoTracking().ToListAsync())
            .Where(c => c.Blocks.OfType<Block.CheckIn>().Any()).Select(c => c.LessonId);
        return [.. people.Where(p => p.Account is not null && p.Who is not ("owner" or "editor" or "host" or "support"))
            .Select(p => $"/desk/members/{p.Account}"), .. now.Pieces.Where(p => p.Places is not null).Select(p => $"/desk/pieces/{p.Id.Value}"),
            .. asking.Take(2).Select(l => $"/desk/lessons/{l.Value}")];
    }

    /// <summary>What the demo doesn't show: a piece with places. And where who has finished something finds that.</summary>
    static async Task<string[]> Arrange(LiveApp app)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var now = app.Services.GetRequiredService<App.Catalogues.Catalogue>().Now;
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var owner = await db.Users.Where(a => a.Role == TeamRole.Owner).Select(a => a.Id).FirstAsync();
        var piece = now.Pieces.First(p => p.State == PieceState.Released && !p.IsCourse && p.Places is null);
        await scope.ServiceProvider.GetRequiredService<SavePiece>().Facts(new(owner, "Ines Maren", TeamRole.Owner), piece.Id,
            PieceFacts.Of(piece) with { Places = 12 }, default);
        return [.. now.Pieces.Where(p => p.Certificate).Select(p => $"/read/{p.Id.Value}")];
    }

    static IEnumerable<string> Routes(LiveApp app) => app.Services.GetServices<EndpointDataSource>().SelectMany(s => s.Endpoints).OfType<RouteEndpoint>()
        .Where(e => e.Metadata.GetMetadata<PageActionDescriptor>() is not null).Select(e => "/" + e.RoutePattern.RawText!.TrimStart('/')).Distinct();

    /// <summary>What is reached from a letter, from somebody's hand, before there is a site, or by what is typed and paid, as the journeys do.</summary>
    static bool IsGiven(string route) => new[] { "/setup", "/error", "/in/", "/key/", "/seat/", "/no-more/", "/join/back", "/join/{code}/review", "/welcome",
        "/me/card/back", "/sign-in/code", "/offline",
        // Where what was found in spaces leads to.
        "/spaces/posts/{id:long}/at",
        // By which a script hears what is said.
        "/spaces/threads/{id:long}/live",
        // What the frame beside a letter shows.
        "/desk/mailings/{id:long}/as", "/desk/letters/house/{kind}/as" }.Any(g => route.StartsWith(g, StringComparison.Ordinal));

    /// <summary>What a route's addresses look like.</summary>
    static Regex Like(string route) => new("^" + Regex.Replace(route, "/[{]([^}]*)[}]", m => m.Groups[1].Value.EndsWith('?') ? "(/[^/]+)?"
        : m.Groups[1].Value.EndsWith(":long", StringComparison.Ordinal) ? "/[0-9]+" : "/[^/]+") + "$", RegexOptions.CultureInvariant);

    /// <summary>A visitor, one of each standing, one who holds a pass, one who leaves, and each role of the team.</summary>
    static async Task<List<(string Who, long? Account)>> People(LiveApp app)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var ids = scope.ServiceProvider.GetRequiredService<Ids>();
        var people = new List<(string, long?)> { ("visitor", null) };
        foreach (var standing in Enum.GetValues<Standing>())
            if (await db.Members.Where(m => m.Standing == standing).OrderBy(m => m.Id).Select(m => (MemberId?)m.Id).FirstOrDefaultAsync() is { } member)
                people.Add((standing.ToString().ToLowerInvariant(), member.Value));
        foreach (var plan in await db.Plans.ToListAsync())
            if (await db.Holdings.Where(h => !h.IsOver && h.PlanId == plan.Id).OrderByDescending(h => h.Id).Select(h => (MemberId?)h.MemberId)
                .FirstOrDefaultAsync() is { } holder && people.All(p => p.Item2 != holder.Value))
                people.Add(($"holder of {plan.Name}", holder.Value));
        // Whoever holds something for a group, sits in one, or waits for what was given for a later day.
        if (await db.Holdings.Where(h => h.Seats != null).Select(h => (MemberId?)h.MemberId).FirstOrDefaultAsync() is { } group)
            people.Add(("holder of a group", group.Value));
        foreach (var source in Enum.GetValues<HoldingSource>().Where(s => s != HoldingSource.Bought))
            if (await db.Holdings.Where(h => h.Source == source).OrderByDescending(h => h.StartsAt).Select(h => (MemberId?)h.MemberId).FirstOrDefaultAsync()
                is { } holds && people.All(p => p.Item2 != holds.Value)) people.Add(($"holder by {source}", holds.Value));
        // Whoever pays in parts, pauses, has credit, or changes soon.
        foreach (var (kind, who) in new[] { (HoldingFactKind.Paused, "who pauses"), (HoldingFactKind.Credit, "who has credit"),
            (HoldingFactKind.Planned, "who changes soon") })
            if (await db.HoldingFacts.Where(f => f.Kind == kind).Join(db.Holdings, f => f.HoldingId, h => h.Id, (f, h) => (MemberId?)h.MemberId)
                .FirstOrDefaultAsync()
                is { } does && people.All(p => p.Item2 != does.Value)) people.Add((who, does.Value));
        if (await db.Members.Where(m => m.Email == "wilf.sarrow@post.example").Select(m => (MemberId?)m.Id).FirstOrDefaultAsync() is { } parts)
            people.Add(("who pays in parts", parts.Value));
        // Whoever waits for a transfer, for what is open at once, and whoever bought a voucher.
        foreach (var (kind, orders) in new[] { ("who ordered by transfer", db.Checkouts.Where(c => c.State == CheckoutState.Placed && c.HoldingId == null)),
            ("who has ordered, open at once", db.Checkouts.Where(c => c.State == CheckoutState.Placed && c.PriceId != null && c.HoldingId != null)),
            ("who pays by transfer", db.Checkouts.Where(c => c.State == CheckoutState.Completed && c.Way == PayWay.Transfer)),
            ("who bought a voucher", db.Checkouts.Where(c => c.State == CheckoutState.Completed && c.Voucher != null)),
            ("who agreed to the terms", db.Checkouts.Where(c => c.TermsVersion != null)) })
            people.Add((kind, (await orders.Where(c => c.MemberId != null).OrderByDescending(c => c.Id).Select(c => c.MemberId!.Value).FirstAsync()).Value));
        // Who finished all of something, and whoever most has happened to.
        foreach (var piece in app.Services.GetRequiredService<App.Catalogues.Catalogue>().Now.Pieces.Where(p => p.Certificate))
        {
            var counted = Completion.Counted(piece).Select(l => l.Id).ToArray();
            if (await db.Openings.Where(o => o.DoneAt != null && counted.Contains(o.LessonId)).GroupBy(o => o.MemberId)
                .Where(g => g.Count() == counted.Length).Select(g => (MemberId?)g.Key).FirstOrDefaultAsync() is { } all)
                people.Add(($"who has finished {piece.Title}", all.Value));
        }
        people.Add(("who writes to members", (await db.ExchangePeople.Where(p => !p.Asked).OrderBy(p => p.ExchangeId).Select(p =>
            p.MemberId).FirstAsync()).Value));
        people.Add(("to whom most happened", (await db.Journal.Where(j => j.MemberId != null).GroupBy(j => j.MemberId!.Value)
            .OrderByDescending(g => g.Count()).Select(g => g.Key).FirstAsync()).Value));
        foreach (var role in Enum.GetValues<TeamRole>().Where(r => r != TeamRole.Owner))
        {
            var account = PeopleData.NewAccount(ids.Next(), $"{role} Person", House.NewAddress(), role);
            db.Add(account);
            people.Add((role.ToString().ToLowerInvariant(), account.Id));
        }
        await db.SaveChangesAsync();
        people.Add(("owner", await db.Users.Where(a => a.Role == TeamRole.Owner).Select(a => a.Id).FirstAsync()));
        return people;
    }

    /// <summary>Addresses that people are given: a key link and an invitation to a seat.</summary>
    static async Task<string[]> GivenLinks(LiveApp app)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        return [.. await db.KeyLinks.Select(k => "/key/" + k.Code).ToListAsync(), .. await db.GroupSeats.Select(s => "/seat/" + s.Code).ToListAsync()];
    }

    static async Task<string> Link(LiveApp app, long account)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var at = scope.ServiceProvider.GetRequiredService<IClock>().GetCurrentInstant();
        var link = new SignInLink
        {
            Id = scope.ServiceProvider.GetRequiredService<Ids>().Next(),
            AccountId = account,
            CreatedAt = at,
            ExpiresAt = at + LinkLasts
        };
        db.Add(link);
        await db.SaveChangesAsync();
        return scope.ServiceProvider.GetRequiredService<SignInTokens>().ForSignIn(link.Id);
    }
}
