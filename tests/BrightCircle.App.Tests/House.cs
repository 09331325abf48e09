using System.Net.Http.Json;
using System.Text.Json;
using BrightCircle.App.Access;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Letters;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.App.Running;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Tests;

/// <summary>One site of its own for a test: an own database, the shared stand-ins, a standing clock.</summary>
public sealed class House : IAsyncDisposable
{
    internal static readonly HttpClient Http = new();
    readonly string database;
    readonly bool owns;

    House(ServiceProvider services, string database, bool owns) => (Services, this.database, this.owns) = (services, database, owns);

    public ServiceProvider Services { get; }
    public string Database => database;
    public DemoTill Till { get; } = new(TestServers.Till, TestServers.Postbox);
    public HouseClock Clock => Services.GetRequiredService<HouseClock>();
    public Catalogue Catalogue => Services.GetRequiredService<Catalogue>();
    public CatalogueSnapshot Now => Catalogue.Now;
    public TeamActor Owner { get; private set; } = null!;
    public PlanId Keeper { get; private set; }
    public PriceId Monthly { get; private set; }
    public PriceId Trial { get; private set; }
    public PriceId Free { get; private set; }

    public static Dictionary<string, string?> Settings(string database) => new()
    {
        ["ConnectionStrings:Db"] = database,
        ["Site:Url"] = "http://site.example",
        ["Till:Url"] = TestServers.Till,
        ["Till:Secret"] = TestServers.Secret,
        ["Till:Shop"] = new Npgsql.NpgsqlConnectionStringBuilder(database).Database,
        ["Till:CallbackUrl"] = "",
        ["Postbox:Url"] = TestServers.Postbox,
        ["Push:Inside"] = "true",
        ["Names:Server"] = $"127.0.0.1:{TestServers.SmtpPort}",
        ["Mail:Port"] = TestServers.SmtpPort.ToString(System.Globalization.CultureInfo.InvariantCulture),
        ["Mail:From"] = "letters@site.example",
        ["Keys:Certificate"] = Path.Combine(TestServers.Files, "keys.pfx"),
        ["Files:Folder"] = TestServers.Files,
    };

    public static string NewDatabase()
    {
        TestServers.StartStandIns();
        return TestServers.NewDatabase("schema", Migrated);
    }

    static void Migrated(string connection)
    {
        var o = new DbContextOptionsBuilder<BrightContext>();
        using var source = DataSetup.Source(connection);
        DataSetup.Configure(o, source);
        using var db = new BrightContext(o.Options);
        db.Database.Migrate();
    }

    static readonly Lock Furnishing = new();
    /// <summary>What the furnished site is known by, in every copy of it.</summary>
    static (TeamActor Owner, PlanId Keeper, PriceId Monthly, PriceId Trial, PriceId Free)? furnished;

    /// <summary>A copy of the set-up site; its use cases have run once for all tests.</summary>
    static string NewFurnished()
    {
        TestServers.StartStandIns();
        lock (Furnishing)
            return TestServers.NewDatabase("furnished", connection => Task.Run(async () =>
            {
                Migrated(connection);
                await using var house = await On(connection);
                await house.Furnish(false);
                furnished = (house.Owner, house.Keeper, house.Monthly, house.Trial, house.Free);
            }).GetAwaiter().GetResult());
    }

    /// <summary>A second node, or the first: its own services on a database. What is given in <paramref name="change"/> replaces the real thing.</summary>
    public static async Task<House> On(string database, bool owns = false, Action<IServiceCollection>? change = null)
    {
        var services = new ServiceCollection();
        services.AddLogging();
        services.AddBrightApp(new ConfigurationBuilder().AddInMemoryCollection(Settings(database)).Build());
        change?.Invoke(services);
        var house = new House(services.BuildServiceProvider(), database, owns);
        await house.Catalogue.Load();
        return house;
    }

    public Task<House> AnotherNode(Action<IServiceCollection>? change = null) => On(database, false, change);

    /// <summary>A set-up site with a shelf, an edition that is out, a scheduled one, and a tier with three prices. It is Tuesday 24 November 2026, 10:42 in
    /// London.</summary>
    /// <param name="empty">Only the owner and the site.</param>
    public static async Task<House> Open(Action<IServiceCollection>? change = null, bool empty = false)
    {
        var house = await On(empty ? NewDatabase() : NewFurnished(), true, change);
        if (empty) await house.Furnish(true);
        else await house.Remember();
        return house;
    }

    static readonly Instant Today = SiteCalendar.For("Europe/London").At(new(2026, 11, 24, 10, 42));

    /// <summary>In a copy: the same day, the same names, and an owner with an address of their own (the stand-ins are shared).</summary>
    async Task Remember()
    {
        (Owner, Keeper, Monthly, Trial, Free) = furnished!.Value;
        Clock.StandAt(Today);
        var address = $"owner-{Guid.NewGuid():N}@site.example";
        await Ask(db => db.Users.Where(a => a.Id == Owner.AccountId).ExecuteUpdateAsync(u => u
            .SetProperty(a => a.Email, address).SetProperty(a => a.UserName, address)
            .SetProperty(a => a.NormalizedEmail, address.ToUpperInvariant()).SetProperty(a => a.NormalizedUserName, address.ToUpperInvariant())));
    }

    async Task Furnish(bool empty)
    {
        var london = SiteCalendar.For("Europe/London");
        Clock.StandAt(london.At(new(2026, 10, 20, 9, 0)));
        await Do<SetUpSite>(async s =>
        {
            var account = await s.Do("Ines Maren", $"owner-{Guid.NewGuid():N}@site.example", "hive-tool-and-tea",
                new("Test Lane", "", "", "Europe/London", "GBP", "help@site.example", 5), true, default);
            Owner = new(account.Value!.Id, "Ines Maren", TeamRole.Owner);
        });
        if (empty) return;
        ShelfId shelf = default;
        await Do<SaveShelf>(async s => shelf = (await s.Do(Owner, null, new("Bees", "BB", 1, ""), default)).Value);
        await Do<SavePlan>(
            async s =>
            Keeper =
            (await s.Do(Owner, null, new("Keeper", 2, "", [new(new Coverage.Everything(), new Reach.FromJoining(), new Keep.WhatHadOpened())]), default))
            .Value);
        PriceDraft Draft(PriceKind kind, bool trial = false) => new(null, null, kind, "18.00", 1, PeriodUnit.Months, trial, 7, PeriodUnit.Days, "0");
        await Do<AddPrice>(async s => Monthly = (await s.Do(Owner, Keeper, Draft(PriceKind.Recurring), default)).Value);
        await Do<AddPrice>(async s => Trial = (await s.Do(Owner, Keeper, Draft(PriceKind.Recurring, true), default)).Value);
        await Do<AddPrice>(async s => Free = (await s.Do(Owner, Keeper, Draft(PriceKind.Free), default)).Value);
        foreach (var month in new YearMonth[] { new(2026, 11), new(2026, 12) })
        {
            EditionId edition = default;
            await Do<SaveEdition>(async s => edition = (await s.Do(Owner, null, EditionDraft.ForMonth(month, $"Edition {month.Month}", "Words"), default))
                .Value);
            await Do<SavePiece>(
                s => s.New(Owner, new($"Piece {month.Month}", shelf, edition, "Summary",
                [new Core.Content.Block.Text("<p>Body</p>") { Id = Services.GetRequiredService<Ids>().Next<BlockId>() }], 10, true), default));
            await Do<SaveEdition>(s => s.Schedule(Owner, edition, true, default));
        }
        await To(Today);
    }

    public async Task Do<T>(Func<T, Task> use) where T : notnull
    {
        await using var scope = Services.CreateAsyncScope();
        await use(scope.ServiceProvider.GetRequiredService<T>());
    }

    public async Task<TResult> Ask<TResult>(Func<BrightContext, Task<TResult>> query)
    {
        await using var scope = Services.CreateAsyncScope();
        return await query(scope.ServiceProvider.GetRequiredService<BrightContext>());
    }

    /// <summary>Moves the clock, doing what falls due on the way.</summary>
    public async Task<Happenings> To(Instant until)
    {
        var happened = new Happenings();
        await Services.GetRequiredService<MoveClock>().Through(until, happened);
        return happened;
    }

    public Task<Happenings> Days(int days) => To(Now.Calendar.PlusDays(Clock.Moment, days));
    public Task Deliver() => Services.GetRequiredService<DeliverLetters>().Run();

    public static string NewAddress() => $"m{Guid.NewGuid():N}@post.example";

    /// <summary>Begins a join up to the Till's page.</summary>
    public async Task<(long Checkout, string? Page, string Email)> Begin(PriceId price, string? email = null)
    {
        email ??= NewAddress();
        var start = (JoinStart.Begun)await this.Get<BeginJoin, JoinStart>(s => s.Do(Now.PriceById[price], "Mirela Duarte", email, null, default));
        return (start.Checkout, await TillPage(start.Checkout), email);
    }

    public async Task<MemberId> Join(PriceId price, string card = DemoTill.Approves, string? email = null)
    {
        var (checkout, page, _) = await Begin(price, email);
        if (page is not null) await Till.Pay(page, card);
        return (await Return(checkout))!.MemberId!.Value;
    }

    /// <summary>Only the number of what was said.</summary>
    public static async Task<Result<long>> Number(Task<Result<Said>> saying) =>
        await saying is { Value: { } said } ? said.Id : Result.Refused((await saying).Refusal!, (await saying).Field);

    /// <summary>Somebody who joined for nothing and proved their address.</summary>
    public async Task<MemberId> JoinProved()
    {
        var member = await Join(Free);
        await Ask(db => db.Users.Where(a => a.Id == member.Value).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed, true)));
        return member;
    }

    /// <summary>The Till's page for a checkout; null where nothing needs paying and it is done.</summary>
    public async Task<string?> TillPage(long checkout) =>
        (await this.Get<GoToTill, Result<string>>(s => s.Join(checkout, "http://site.example/join/back", default)))
            is { Ok: true, Value: { Length: > 0 } page } ? page : null;

    /// <summary>The browser comes back from the Till.</summary>
    public Task<Checkout?> Return(long checkout) => this.Get<CompleteCheckout, Checkout?>(s => s.ByReturn(checkout, default));

    /// <summary>A member who is signed in joins another plan, or the same again.</summary>
    public async Task<JoinReview> JoinAgain(MemberId member, PriceId price, string card = DemoTill.Approves) =>
        await TryJoinAgain(member, price, card) ?? throw new InvalidOperationException("They were refused.");

    /// <summary>The same, and null where they are refused.</summary>
    public async Task<JoinReview?> TryJoinAgain(MemberId member, PriceId price, string card = DemoTill.Approves)
    {
        if (await this.Get<BeginJoin, JoinStart>(s => s.Do(Now.PriceById[price], null, null, member, default)) is not JoinStart.Begun start) return null;
        var review = await this.Get<ReviewJoin, JoinReview?>(s => s.Find(start.Checkout, start.Secret, default));
        if (await TillPage(start.Checkout) is { } page) await Till.Pay(page, card);
        await Return(start.Checkout);
        return review!;
    }

    /// <summary>All that decides what is open to a member now.</summary>
    public async Task<MemberFacts> FactsOf(MemberId member)
    {
        return (await Services.GetRequiredService<MemberReader>().Load(member.Value, default))!.FactsAt(Clock.Moment);
    }

    public async Task<LessonReader> Reads(MemberId member, LessonId lesson) =>
        LessonReader.For(Now, member, "Mirela Duarte", await FactsOf(member), lesson, Clock.Moment)
            ?? throw new InvalidOperationException("This lesson isn’t open to them.");

    public async Task<PlaceReader> Place(MemberId member, PieceId piece) =>
        PlaceReader.For(Now, member, await FactsOf(member), piece, Clock.Moment) ?? throw new InvalidOperationException("No place in this piece is for them.");

    /// <summary>Makes a piece ready and releases it, as standing content.</summary>
    public async Task Release(PieceId piece)
    {
        await Do<SavePiece>(s => s.Publish(Owner, piece, true, default));
        await Do<ReleaseContent>(s => s.Open(Owner, piece, null, false, default));
        await Services.GetRequiredService<RunDue>().Run();
    }

    public Task<Member> Member(MemberId id) => Ask(db => db.Members.AsNoTracking().SingleAsync(m => m.Id == id));
    public Task<List<Holding>> Holdings(MemberId id) =>
        Ask(db => db.Holdings.AsNoTracking().Where(h => h.MemberId == id).Include(h => h.Facts.OrderBy(f => f.Seq)).OrderBy(h => h.Id).ToListAsync());
    public Task<List<Core.Billing.Payment>> Payments(MemberId id) =>
        Ask(db => db.Payments.AsNoTracking().Where(p => p.MemberId == id).OrderBy(p => p.Id).ToListAsync());
    public Task<long> LedgerSum() => Ask(db => db.Ledger.SumAsync(l => l.Amount.Minor));

    public static async Task<IReadOnlyList<string>> Post(string address)
    {
        var all = await Http.GetFromJsonAsync<JsonElement>($"{TestServers.Postbox}/api/messages?to={Uri.EscapeDataString(address)}");
        return [.. all.EnumerateArray().Select(m => m.GetProperty("subject").GetString()!)];
    }

    public static async Task<JsonElement> Letter(string address, string subjectPart)
    {
        var all = await Http.GetFromJsonAsync<JsonElement>($"{TestServers.Postbox}/api/messages?to={Uri.EscapeDataString(address)}");
        var id = all.EnumerateArray().First(m => m.GetProperty("subject").GetString()!.Contains(subjectPart, StringComparison.Ordinal)).GetProperty("id")
            .GetInt64();
        return await Http.GetFromJsonAsync<JsonElement>($"{TestServers.Postbox}/api/messages/{id}");
    }

    /// <summary>A letter as it came, header lines and all.</summary>
    public static Task<string> Raw(long letter) => Http.GetStringAsync($"{TestServers.Postbox}/m/{letter}/raw");

    public static Task Control(string path, object body) => Http.PostAsJsonAsync(TestServers.Postbox + path, body);
    public static async Task<int> ChargesLike(string keyPart)
    {
        var all = await Http.GetFromJsonAsync<JsonElement>(TestServers.Till + "/control/charges");
        return all.EnumerateArray().Count(c => c.GetProperty("key").GetString()!.Contains(keyPart, StringComparison.Ordinal));
    }

    public async ValueTask DisposeAsync()
    {
        Till.Dispose();
        await Services.DisposeAsync();
        if (owns) TestServers.DropDatabase(database);
    }
}
