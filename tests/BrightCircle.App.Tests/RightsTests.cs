using BrightCircle.App.Billing;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Insight;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Rights given by hand, by a key link, to everybody who comes, by moving in, by a seat; and doorways.</summary>
public sealed class RightsTests
{
    static readonly LocalDate Today = new(2026, 11, 24);

    static async Task<MemberId> Somebody(House house, string? email = null, string name = "Otto Sand") =>
        (await house.Get<AddMember, Result<MemberId>>(s => s.Do(house.Owner, name, email ?? House.NewAddress(), default))).Value;

    static Task<Result> Give(House house, MemberId to, Grant grant) => house.Get<GivePlan, Result>(s => s.Do(house.Owner, to, grant, default));
    static Grant Gift(House house, LocalDate? from = null, LocalDate? until = null) => new(house.Keeper, HoldingSource.Gift, from, until);

    static Task<List<Holding>> Held(House house, MemberId member) =>
        house.Ask(db => db.Holdings.AsNoTracking().Include(h => h.Facts).Where(h => h.MemberId == member).OrderBy(h => h.Id).ToListAsync());

    static Task<int> Letters(House house, MemberId member, LetterKind kind) => house.Ask(db => db.Letters.CountAsync(l => l.MemberId == member
        && l.Kind == kind));

    static Task<Standing> StandingOf(House house, MemberId member) => house.Ask(db => db.Members.Where(m => m.Id == member).Select(m =>
        m.Standing).SingleAsync());

    [Fact]
    public async Task A_gift_for_a_later_day_waits_begins_with_its_letter_and_ends()
    {
        await using var house = await House.Open();
        var otto = await Somebody(house);
        Assert.True((await Give(house, otto, Gift(house, Today.PlusDays(3), Today.PlusDays(5)))).Ok);
        var held = Assert.Single(await Held(house, otto));
        Assert.Equal((HoldingState.NotYet, house.Now.Calendar.At(new(2026, 11, 27, 0, 0))), (held.StateAt(house.Clock.Moment), held.StartsAt));
        Assert.Equal(house.Now.Calendar.At(new(2026, 11, 30, 0, 0)), Obligations.Of(held, house.Clock.Moment).AccessEnds);
        Assert.Equal((Standing.Guest, 0), (await StandingOf(house, otto), await Letters(house, otto, LetterKind.Welcome)));
        // It waits for them, so neither another gift nor a checkout goes past it.
        Assert.Contains("already", (await Give(house, otto, Gift(house))).Refusal, StringComparison.Ordinal);
        var begun = await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[house.Monthly], null, null, otto, default));
        Assert.Contains("27 November", ((JoinStart.Refused)begun).Why, StringComparison.Ordinal);

        await house.Days(2);
        Assert.Equal(Standing.Guest, await StandingOf(house, otto));
        await house.Days(1);
        Assert.Equal((Standing.Active, 1), (await StandingOf(house, otto), await Letters(house, otto, LetterKind.Welcome)));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == otto && j.Kind == "begun")));
        await house.Days(2);
        Assert.Equal(Standing.Active, await StandingOf(house, otto));
        await house.Days(1);
        Assert.Equal(Standing.Lapsed, await StandingOf(house, otto));
        Assert.Equal(EndReason.RanOut, (await Held(house, otto))[0].Ending?.Reason);
    }

    [Fact]
    public async Task A_gift_from_an_earlier_day_is_as_if_they_had_joined_then_and_bad_days_are_refused()
    {
        await using var house = await House.Open();
        var (otto, late) = (await Somebody(house), await Somebody(house));
        // October's piece came out before: it is open to who joined then, by the reach from joining. Here November's edition came out on the 1st.
        Assert.True((await Give(house, otto, Gift(house, new LocalDate(2026, 10, 25)))).Ok);
        Assert.Equal(house.Now.Calendar.At(new(2026, 10, 25, 0, 0)), (await Held(house, otto))[0].StartsAt);
        Assert.Equal((Standing.Active, 1), (await StandingOf(house, otto), await Letters(house, otto, LetterKind.Welcome)));
        Assert.True(house.Now.Book.Decide(await house.FactsOf(otto), house.Now.Pieces.First(p => p.Title == "Piece 11").Id, house.Clock.Moment).IsOpen);
        Assert.Equal("Until", (await Give(house, late, Gift(house, until: Today.PlusDays(-1)))).Field);
        Assert.Equal("Until", (await Give(house, late, Gift(house, Today.PlusDays(5), Today.PlusDays(4)))).Field);
        Assert.Equal("From", (await Give(house, late, Gift(house, new LocalDate(1999, 12, 31)))).Field);
        Assert.Equal("Plan", (await Give(house, late, Gift(house) with { Plan = new(1) })).Field);
        Assert.Equal("Seats", (await Give(house, late, Gift(house) with { Seats = 0 })).Field);
        Assert.Equal("Seats", (await Give(house, late, Gift(house) with { Seats = 1001 })).Field);
        Assert.Equal("Note", (await Give(house, late, Gift(house) with { Note = new('n', 401) })).Field);
        Assert.Empty(await Held(house, late));
        Assert.True((await Give(house, late, Gift(house, Today, Today) with { Note = new('n', 400), Seats = 1000 })).Ok);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<GivePlan, Result>(s =>
            s.Do(house.Owner with { Role = TeamRole.Editor }, late, Gift(house), default)));
    }

    [Fact]
    public async Task A_single_piece_is_given_as_a_pass_of_its_own_made_once()
    {
        await using var house = await House.Open();
        var (otto, anna) = (await Somebody(house), await Somebody(house));
        var piece = house.Now.Pieces.First(p => p.Title == "Piece 11");
        async Task<Result> One(MemberId to) => await house.Get<GivePlan, Result>(s => s.Do(house.Owner, to, piece.Id, new(default, HoldingSource.Gift),
            default));
        Assert.True((await One(otto)).Ok);
        Assert.True((await One(anna)).Ok);
        var pass = Assert.Single(house.Now.Plans, p => !p.IsTier);
        Assert.Equal(("Piece 11", Availability.Closed), (pass.Name, pass.Availability));
        Assert.True(house.Now.Book.Decide(await house.FactsOf(anna), piece.Id, house.Clock.Moment).IsOpen);
        Assert.Equal(Standing.Guest, await StandingOf(house, anna));
        Assert.False((await One(anna)).Ok);
        Assert.Equal("Piece", (await house.Get<PiecePass, Result<PlanId>>(s => s.Of(new(5), default))).Field);
    }

    [Fact]
    public async Task A_list_is_given_something_once_each()
    {
        await using var house = await House.Open();
        var people = new List<MemberId>();
        for (var i = 0; i < 5; i++) people.Add(await Somebody(house, name: $"Person {i}"));
        await Give(house, people[0], Gift(house));
        var look = await house.Get<PeopleBatches, (int, int, IReadOnlyList<string>)>(s => s.Look(new(), house.Keeper, default));
        Assert.Equal((5, 1, 5), (look.Item1, look.Item2, look.Item3.Count));
        var batch = await house.Get<PeopleBatches, Result<long>>(s => s.Give(house.Owner, new(), Gift(house) with { Quietly = true }, default));
        var done = await house.Get<PeopleBatches, PeopleBatch?>(s => s.Find(batch.Value, default));
        Assert.Equal((5, 5, 4, 1, 0), (done!.Total, done.Next, done.Did, done.Already, done.Refused.Length));
        Assert.NotNull(done.DoneAt);
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.Welcome)));
        foreach (var p in people) Assert.Equal(Standing.Active, await StandingOf(house, p));
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.PeopleBatch)));
        Assert.False((await house.Get<PeopleBatches, Result<long>>(s => s.Give(house.Owner, new(Search: "Nobody"), Gift(house), default))).Ok);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<PeopleBatches, Result<long>>(s =>
            s.Give(house.Owner with { Role = TeamRole.Editor }, new(), Gift(house), default)));
    }

    static Task<Result<long>> Make(House house, int? most = null, LocalDate? last = null, LocalDate? until = null) =>
        house.Get<KeyLinks, Result<long>>(s => s.Make(house.Owner, new(house.Keeper, "Fair", "12 at the fair", most, last, until, true), default));

    static async Task<KeyLink> Link(House house, Result<long> made) => (await house.Get<KeyLinks, (KeyLink Link, IReadOnlyList<(MemberId, string, Instant)>)?>(
        async s => (await s.Find(made.Value, default))!.Value))!.Value.Link;

    [Fact]
    public async Task The_last_use_of_a_key_link_goes_to_one_of_two()
    {
        await using var house = await House.Open();
        var (otto, anna) = (await Somebody(house), await Somebody(house));
        var link = await Link(house, await Make(house, most: 1, until: Today.PlusDays(10)));
        Assert.Equal(20, link.Code.Length);
        await using var other = await house.AnotherNode();
        var both = await Task.WhenAll(house.Get<KeyLinks, Result>(s => s.Use(link, otto, default)), other.Get<KeyLinks, Result>(s => s.Use(link, anna,
            default)));
        Assert.Single(both, r => r.Ok);
        Assert.Contains("as often", both.Single(r => !r.Ok).Refusal, StringComparison.Ordinal);
        var winner = both[0].Ok ? otto : anna;
        var held = Assert.Single(await Held(house, winner));
        Assert.Equal((HoldingSource.Key, link.Id, true, "Fair"), (held.Source, held.Through!.Value, held.AllAtOnce, held.Note));
        Assert.Equal(0, await Letters(house, winner, LetterKind.Welcome));
        Assert.Empty(await Held(house, winner == otto ? anna : otto));
        Assert.Contains("as often", await house.Get<KeyLinks, string?>(s => s.Closed(link, default)), StringComparison.Ordinal);
        Assert.Equal(1, (await house.Get<KeyLinks, IReadOnlyList<KeyLinkRow>>(s => s.All(default)))[0].Used);
        await house.Days(11);
        Assert.Equal(HoldingState.Over, (await Held(house, winner))[0].StateAt(house.Clock.Moment));
    }

    [Fact]
    public async Task A_key_link_ends_is_taken_back_and_tells_strangers_nothing()
    {
        await using var house = await House.Open();
        var known = House.NewAddress();
        var otto = await Somebody(house, known);
        var made = await Make(house, last: Today);
        var link = await Link(house, made);
        Task<Result> Use(KeyLink l, string email, string name = "Anna Reed") => house.Get<KeyLinks, Result>(s => s.Use(l, name, email, default));
        Assert.Equal("Email", (await Use(link, "nonsense")).Field);
        Assert.Equal("Name", (await Use(link, known, " ")).Field);
        // Known or not, the answer is the same; what was theirs already is only theirs behind the letter.
        var fresh = House.NewAddress();
        Assert.Equal(await Use(link, known), await Use(link, fresh));
        Assert.Empty(await Held(house, otto));
        Assert.Equal(1, await Letters(house, otto, LetterKind.HasAccount));
        var anna = await house.Ask(db => db.Members.SingleAsync(m => m.Email == fresh));
        Assert.Single(await Held(house, anna.Id));
        Assert.Equal(1, await Letters(house, anna.Id, LetterKind.Welcome));
        Assert.False((await house.Ask(db => db.Users.SingleAsync(a => a.Id == anna.Id.Value))).EmailConfirmed);

        await house.To(house.Now.Calendar.At(new(2026, 11, 24, 23, 59)));
        Assert.Null(await house.Get<KeyLinks, string?>(s => s.Closed(link, default)));
        await house.To(house.Now.Calendar.At(new(2026, 11, 25, 0, 0)));
        Assert.NotNull(await house.Get<KeyLinks, string?>(s => s.Closed(link, default)));
        Assert.Contains("any more", (await house.Get<KeyLinks, Result>(s => s.Use(link, otto, default))).Refusal, StringComparison.Ordinal);
        var second = await Link(house, await Make(house));
        Assert.True((await house.Get<KeyLinks, Result>(s => s.Revoke(house.Owner, second.Id, default))).Ok);
        Assert.False((await house.Get<KeyLinks, Result>(s => s.Revoke(house.Owner, second.Id, default))).Ok);
        Assert.False((await house.Get<KeyLinks, Result>(s => s.Use(second, otto, default))).Ok);
        Assert.Equal("LastDay", (await Make(house, last: Today)).Field);
        Assert.Equal("OpenUntil", (await Make(house, until: Today)).Field);
        Assert.Equal("Most", (await Make(house, most: 0)).Field);
        Assert.Single(await Held(house, anna.Id));
    }

    [Fact]
    public async Task Whoever_comes_gets_what_everybody_gets_unless_they_come_for_it()
    {
        await using var house = await House.Open();
        var pass = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Hello", 0, "",
            [new(new Coverage.Everything(), new Reach.LastEditions(1), new Keep.Nothing())], Kind: PlanKind.Pass), default))).Value;
        var before = await Somebody(house);
        var site = house.Now.Site!;
        SiteDraft Draft(long plan) => new(site.Name, "", "", null, null, site.HelpAddress, 5, ArrivalPlan: plan);
        Assert.Equal("ArrivalPlan", (await house.Get<SetUpSite, Result>(s => s.Change(house.Owner, Draft(77), null, default))).Field);
        Assert.True((await house.Get<SetUpSite, Result>(s => s.Change(house.Owner, Draft(pass.Value), null, default))).Ok);
        var added = await Somebody(house);
        var joined = await house.Join(house.Free);
        Assert.Empty(await Held(house, before));
        Assert.Equal([(pass, HoldingSource.Arrival)], (await Held(house, added)).Select(h => (h.PlanId, h.Source)));
        Assert.Equal([pass, house.Keeper], (await Held(house, joined)).Select(h => h.PlanId).OrderBy(p => p == house.Keeper));
        Assert.Equal(0, await Letters(house, added, LetterKind.Welcome));
        Assert.Equal(1, await Letters(house, joined, LetterKind.Welcome));
        // Who joins that very plan gets it once, by joining.
        await house.Get<SetUpSite, Result>(s => s.Change(house.Owner, Draft(house.Keeper.Value), null, default));
        Assert.Equal(HoldingSource.Bought, Assert.Single(await Held(house, await house.Join(house.Free))).Source);
        await house.Get<SetUpSite, Result>(s => s.Change(house.Owner, Draft(0), null, default));
        Assert.Empty(await Held(house, await Somebody(house)));
    }

    const string Sheet = "E-mail;Full name;Level;Member since;Paid until;Had\n"
        + "rosa@old.example;Rosa Thorn;Keeper;2026-03-05;2026-12-31;Piece 11\n"
        + "\"finn@old.example\";\"Finn, the \"\"second\"\"\";keeper;05.11.2026;;\n"
        + "rosa@old.example;Rosa again;Keeper;2026-03-05;2026-12-31;\n"
        + "nonsense;Nobody;Keeper;;;\n"
        + "gone@old.example;Gone Already;Keeper;2025-01-01;2026-02-28;\n"
        + "\n"
        + "gold@old.example;Gold;Gold circle;;;\n"
        + "odd@old.example;Odd;Keeper;31.02.2026;;\n"
        + "back@old.example;Back;Keeper;2026-05-01;2026-04-30;\n"
        + "only@old.example;;;;;\n"
        + "had@old.example;Had;;;;No such piece\n";

    // Orders of the parts by Unicode CLDR, short dates: dd/MM/y in en-GB, M/d/yy in en-US, dd.MM.yy in de, y-MM-dd in sv, y. M. d. in hu.
    [Theory]
    [InlineData("en-GB", "03/04/2026", "2026-04-03")]
    [InlineData("en-US", "03/04/2026", "2026-03-04")]
    [InlineData("de-DE", "3.4.2026", "2026-04-03")]
    [InlineData("sv-SE", "2026-04-03", "2026-04-03")]
    [InlineData("hu-HU", "03.04.2026", "2026-04-03")]
    [InlineData("en-US", "2026-04-03 17:30", "2026-04-03")]
    [InlineData("en-US", "3 Apr 2026", "2026-04-03")]
    [InlineData("en-GB", " 30 September 2026 ", "2026-09-30")]
    [InlineData("en-US", "13/04/2026", null)]
    [InlineData("en-GB", "29/02/2027", null)]
    [InlineData("en-GB", "29/02/2028", "2028-02-29")]
    [InlineData("en-GB", "03/04/26", null)]
    [InlineData("en-GB", "31/12/1899", null)]
    [InlineData("en-GB", "1/1/1900", "1900-01-01")]
    [InlineData("en-GB", "2200-12-31", "2200-12-31")]
    [InlineData("en-GB", "2201-01-01", null)]
    [InlineData("en-GB", "18.00", null)]
    [InlineData("en-GB", "", null)]
    public void A_day_in_somebody_s_list_is_read_in_the_order_of_the_place(string culture, string typed, string? day) => Assert.Equal(day,
        TypedDay.Read(typed, TypedDay.OrderOf(System.Globalization.CultureInfo.GetCultureInfo(culture)))?.ToString("uuuu-MM-dd", null));

    [Fact]
    public async Task People_move_in_from_a_list_line_by_line_and_only_once()
    {
        await using var house = await House.Open();
        var reading = new MoveInReading(Sheet);
        MoveInColumn[] columns = [MoveInColumn.Email, MoveInColumn.Name, MoveInColumn.Plan, MoveInColumn.From, MoveInColumn.Until, MoveInColumn.Finished];
        Assert.Equal(columns, reading.Guess());
        var terms = new MoveInTerms(columns, null, MoveInReading.NoNames, DateOrder.DayFirst, false, false);
        Assert.Equal(["Gold circle"], reading.UnknownPlans(terms, house.Now));
        Task<Result<MoveInLook>> Look() => house.Get<PeopleBatches, Result<MoveInLook>>(s => s.Look(Sheet, terms, 0, 50, default));
        var dry = (await Look()).Value!;
        Assert.Equal((10, 4, 0, 1, 5), (dry.Rows, dry.New, dry.Gets, dry.Already, dry.Refused));
        Assert.Equal("new, with Keeper from 5 Mar 2026 until 31 Dec 2026", dry.Shown[0].Says);
        Assert.Equal((2, "Finn, the \"second\""), (dry.Shown.Count(s => s.Says.Contains("Keeper from", StringComparison.Ordinal)) - 1, dry.Shown[1].Row.Name));
        Assert.Equal("“31.02.2026” isn’t a day that can be read.", dry.Shown.Single(s => s.Row.Email == "odd@old.example").Says);
        Assert.Equal(9, dry.Shown.Single(s => s.Row.Email == "odd@old.example").Row.Line);
        Assert.Equal(0, await house.Ask(db => db.Members.CountAsync()));

        var first = await house.Get<PeopleBatches, Result<long>>(s => s.MoveIn(house.Owner, Sheet, terms, default));
        var batch = (await house.Get<PeopleBatches, PeopleBatch?>(s => s.Find(first.Value, default)))!;
        Assert.Equal((10, 4, 1, 5), (batch.Total, batch.Did, batch.Already, batch.Refused.Length));
        var people = await house.Ask(db => db.Members.ToDictionaryAsync(m => m.Email));
        Assert.Equal(4, people.Count);
        Assert.Equal(["only", "Finn, the \"second\""], new[] { people["only@old.example"].Name, people["finn@old.example"].Name });
        var rosa = Assert.Single(await Held(house, people["rosa@old.example"].Id));
        Assert.Equal((HoldingSource.MovedIn, house.Now.Calendar.At(new(2026, 3, 5, 0, 0)), house.Now.Calendar.At(new(2027, 1, 1, 0, 0))),
            (rosa.Source, rosa.StartsAt, rosa.PaidThrough(house.Clock.Moment)!.Value));
        Assert.Equal((Standing.Active, Standing.Active, Standing.Lapsed, Standing.Guest), (people["rosa@old.example"].Standing,
            people["finn@old.example"].Standing,
            people["gone@old.example"].Standing, people["only@old.example"].Standing));
        // What they had is done; nobody is written to.
        var lesson = house.Now.Pieces.First(p => p.Title == "Piece 11").Outline.Lessons[0];
        Assert.NotNull((await house.Ask(db => db.Openings.SingleAsync(o => o.MemberId == people["rosa@old.example"].Id))).DoneAt);
        Assert.Equal(0, await house.Ask(db => db.Letters.CountAsync()));
        Assert.True(house.Now.Book.Decide(await house.FactsOf(people["rosa@old.example"].Id), lesson.Id, house.Clock.Moment).IsOpen);

        // The same once more makes nothing; a name that was unknown is told what it is.
        var again = terms with { Names = new Dictionary<string, PlanId> { ["gold circle"] = house.Keeper }, Letters = true };
        var second = await house.Get<PeopleBatches, Result<long>>(s => s.MoveIn(house.Owner, Sheet, again, default));
        batch = (await house.Get<PeopleBatches, PeopleBatch?>(s => s.Find(second.Value, default)))!;
        Assert.Equal((1, 5, 4), (batch.Did, batch.Already, batch.Refused.Length));
        Assert.Equal(4, await house.Ask(db => db.Holdings.CountAsync(h => h.Source == HoldingSource.MovedIn)));
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.Welcome)));
        await house.To(house.Now.Calendar.At(new(2027, 1, 1, 1, 0)));
        Assert.Equal(Standing.Lapsed, await StandingOf(house, people["rosa@old.example"].Id));
    }

    [Fact]
    public async Task What_a_list_cannot_be_is_told_before_anything()
    {
        await using var house = await House.Open();
        var terms = new MoveInTerms([MoveInColumn.Email], null, MoveInReading.NoNames, DateOrder.MonthFirst, false, false);
        async Task<string?> Refused(string text, MoveInTerms t) => (await house.Get<PeopleBatches, Result<long>>(s => s.MoveIn(house.Owner, text, t,
            default))).Field;
        Assert.Equal("Upload", await Refused("Email\n", terms));
        Assert.Equal("Columns", await Refused("Email\na@b.example\n", terms with { Columns = [MoveInColumn.Nothing] }));
        Assert.Equal("Columns", await Refused("Email,Mail\na@b.example,b@b.example\n", terms with { Columns = [MoveInColumn.Email, MoveInColumn.Email] }));
        // 3/4/2026 by the order that was chosen, and never guessed.
        LocalDate? Day(DateOrder order, string day) => new MoveInReading($"a,b\na@b.example,{day}\n")
            .Read(terms with { Columns = [MoveInColumn.Email, MoveInColumn.From], Dates = order }, house.Now).Single().From;
        Assert.Equal(new LocalDate(2026, 4, 3), Day(DateOrder.DayFirst, "3/4/2026"));
        Assert.Equal(new LocalDate(2026, 3, 4), Day(DateOrder.MonthFirst, "3/4/2026"));
        Assert.Null(Day(DateOrder.MonthFirst, "13/4/2026"));
        Assert.Equal(new LocalDate(2026, 4, 13), Day(DateOrder.DayFirst, "13.4.2026"));
        Assert.Equal(new LocalDate(2024, 2, 29), Day(DateOrder.DayFirst, "2024-02-29T08:00:00Z"));
        Assert.Null(Day(DateOrder.DayFirst, "2023-02-29"));
        Assert.Null(Day(DateOrder.DayFirst, "1999-12-31"));
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<PeopleBatches, Result<long>>(s =>
            s.MoveIn(house.Owner with { Role = TeamRole.Support }, "Email\na@b.example\n", terms, default)));
    }

    [Fact]
    public async Task A_long_list_moves_in_batch_after_batch_also_past_a_node_that_dies()
    {
        await using var house = await House.Open();
        var text = "mail\n" + string.Concat(Enumerable.Range(0, 250).Select(i => $"p{i}@many.example\n"));
        var terms = new MoveInTerms([MoveInColumn.Email], house.Keeper, MoveInReading.NoNames, DateOrder.DayFirst, false, false);
        var id = (await house.Get<PeopleBatches, Result<long>>(s => s.MoveIn(house.Owner, text, terms, default))).Value;
        // Two batches were done at once; the third waits for a worker.
        Assert.Equal(200, (await house.Get<PeopleBatches, PeopleBatch?>(s => s.Find(id, default)))!.Next);
        await using (var other = await house.AnotherNode()) await other.Get<RunDue, Happenings>(r => r.Run());
        var batch = (await house.Get<PeopleBatches, PeopleBatch?>(s => s.Find(id, default)))!;
        Assert.Equal((250, 250, 0), (batch.Next, batch.Did, batch.Refused.Length));
        Assert.Equal(250, await house.Ask(db => db.Members.CountAsync(m => m.Standing == Standing.Active)));
    }

    [Fact]
    public async Task A_group_has_its_seats_taken_moved_and_ended_with_it()
    {
        await using var house = await House.Open();
        var host = await Somebody(house, name: "Host");
        Assert.True((await Give(house, host, Gift(house) with { Seats = 2 })).Ok);
        var group = (await Held(house, host))[0].Id;
        Task<Result> Invite(string? email) => house.Get<GroupSeats, Result>(s => s.Invite(host, group, email, default));
        Task<GroupView?> View() => house.Get<GroupSeats, GroupView?>(s => s.Find(host, group, default));
        var (a, b) = (House.NewAddress(), House.NewAddress());
        Assert.True((await Invite(a)).Ok);
        Assert.Equal("Email", (await Invite(a.ToUpperInvariant())).Field);
        Assert.Equal("Email", (await Invite("x")).Field);
        Assert.True((await Invite(b)).Ok);
        Assert.Contains("All seats", (await Invite(House.NewAddress())).Refusal, StringComparison.Ordinal);
        Assert.Equal(2, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.Seat)));

        // Its address is a way in, so nobody of the team sees it; whoever gets the letter does.
        var letter = await house.Ask(db => db.Letters.AsNoTracking().FirstAsync(l => l.Kind == LetterKind.Seat));
        await house.Do<Letters.LetterModels>(m =>
        {
            Assert.EndsWith("/seat/…", (string)m.For(letter, showLink: false)["seat_link"], StringComparison.Ordinal);
            Assert.Equal($"http://site.example{letter.Fields["seat_path"]}", m.For(letter, showLink: true)["seat_link"]);
            return Task.CompletedTask;
        });

        // Somebody new takes one under the address that was written to; a member takes the other as themselves.
        var seats = (await View())!.Seats;
        Task<Result<MemberId>> Take(string code, MemberId? who = null, string? name = null) => house.Get<GroupSeats, Result<MemberId>>(s => s.Take(code,
            who, name, default));
        Assert.Equal("Name", (await Take(seats[0].Code)).Field);
        var first = (await Take(seats[0].Code, name: "Anna Reed")).Value;
        Assert.Equal((a, true), (await house.Ask(db => db.Members.Where(m => m.Id == first).Select(m => m.Email).SingleAsync()),
            await house.Ask(db => db.Users.Where(u => u.Id == first.Value).Select(u => u.EmailConfirmed).SingleAsync())));
        Assert.Contains("own group", (await Take(seats[1].Code, host)).Refusal, StringComparison.Ordinal);
        var otto = await Somebody(house);
        Assert.Equal(otto, (await Take(seats[1].Code, otto)).Value);
        Assert.Contains("taken", (await Take(seats[1].Code, await Somebody(house))).Refusal, StringComparison.Ordinal);
        Assert.Null(await house.Get<GroupSeats, GroupView?>(s => s.Find(otto, group, default)));
        Assert.Equal((Standing.Active, HoldingSource.Seat), (await StandingOf(house, otto), (await Held(house, otto))[0].Source));
        Assert.Equal(0, (await View())!.Free);

        // A seat is freed for somebody else; only what it gave ends.
        Assert.True((await house.Get<GroupSeats, Result>(s => s.Free(host, group, seats[1].Id, default))).Ok);
        Assert.False((await house.Get<GroupSeats, Result>(s => s.Free(host, group, seats[1].Id, default))).Ok);
        Assert.False((await house.Get<GroupSeats, Result>(s => s.Free(otto, group, seats[0].Id, default))).Ok);
        Assert.Equal((Standing.Lapsed, EndReason.SeatFreed), (await StandingOf(house, otto), (await Held(house, otto))[0].Ending!.Reason));
        Assert.Contains("any more", (await Take(seats[1].Code, otto)).Refusal, StringComparison.Ordinal);
        Assert.True((await Invite(House.NewAddress())).Ok);

        // The group ends: so do its seats, at once, and offers are worth nothing.
        await house.Get<EndPlan, Result>(s => s.Do(house.Owner, host, group, default));
        await house.Get<RunDue, Happenings>(r => r.Run());
        Assert.Equal((Standing.Lapsed, EndReason.GroupOver), (await StandingOf(house, first), (await Held(house, first))[0].Ending!.Reason));
        var offered = (await View())!.Seats.Single(s => s.MemberId is null);
        Assert.Contains("open", (await Take(offered.Code, otto)).Refusal, StringComparison.Ordinal);
        Assert.False((await Invite(House.NewAddress())).Ok);
    }

    [Fact]
    public async Task Two_who_take_one_seat_at_once_leave_one_outside()
    {
        await using var house = await House.Open();
        var host = await Somebody(house, name: "Host");
        await Give(house, host, Gift(house) with { Seats = 1 });
        var group = (await Held(house, host))[0].Id;
        await house.Get<GroupSeats, Result>(s => s.Invite(host, group, House.NewAddress(), default));
        var code = (await house.Get<GroupSeats, GroupView?>(s => s.Find(host, group, default)))!.Seats[0].Code;
        var (a, b) = (await Somebody(house), await Somebody(house));
        await using var other = await house.AnotherNode();
        var both = await Task.WhenAll(house.Get<GroupSeats, Result<MemberId>>(s => s.Take(code, a, null, default)),
            other.Get<GroupSeats, Result<MemberId>>(s => s.Take(code, b, null, default)));
        Assert.Single(both, r => r.Ok);
        Assert.Equal(1, await house.Ask(db => db.Holdings.CountAsync(h => h.Source == HoldingSource.Seat)));
    }

    [Fact]
    public async Task A_doorway_is_kept_for_a_piece_its_shelf_and_the_site_and_counted_by_day()
    {
        await using var house = await House.Open();
        var piece = house.Now.Pieces.First(p => p.Title == "Piece 11");
        Task<Result> Save(DoorwayPlace place, DoorwayWish wish) => house.Get<SaveDoorway, Result>(s => s.Do(house.Owner, place, wish, default));
        DoorwayRule Now() => house.Now.DoorwayOf(house.Now.PieceById[piece.Id]);
        Assert.Equal(DoorwayRule.Usual, Now());
        Assert.True((await Save(default, new(DoorwayKind.Extract, Strangers: " Come in.\r\nIt is warm. ", ExtractWords: 30))).Ok);
        Assert.True((await Save(new(null, piece.ShelfId), new(Members: "You know us."))).Ok);
        Assert.True((await Save(new(piece.Id), new(DoorwayKind.NotFound, Outline: false))).Ok);
        Assert.Equal(DoorwayRule.Usual with
        {
            Kind = DoorwayKind.NotFound,
            Strangers = "Come in.\nIt is warm.",
            Members = "You know us.",
            ExtractWords = 30,
            Outline = false
        }, Now());
        Assert.False(house.Now.Book.Decide(Core.Access.MemberFacts.Nobody, piece.Id, house.Clock.Moment).IsKnown);
        Assert.True((await Save(new(piece.Id), new())).Ok);
        Assert.Null(await house.Ask(db => db.Pieces.Where(p => p.Id == piece.Id).Select(p => p.Doorway).SingleAsync()));
        Assert.Equal(DoorwayKind.Extract, Now().Kind);
        Assert.Equal("Page", (await Save(new(piece.Id), new(DoorwayKind.AnotherPage))).Field);
        Assert.Equal("NotYetPicture", (await Save(new(piece.Id), new(NotYetPicture: new FileId(5)))).Field);
        Assert.Equal("ClosedCover", (await Save(new(piece.Id), new(ClosedCover: new FileId(5)))).Field);
        Assert.False((await Save(new(new PieceId(5)), new())).Ok);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SaveDoorway, Result>(s =>
            s.Do(house.Owner with { Role = TeamRole.Support }, default, new(), default)));

        var counts = house.Services.GetService(typeof(DoorwayCounts)) as DoorwayCounts;
        for (var i = 0; i < 3; i++) counts!.Met(piece.Id);
        counts!.Clicked(piece.Id);
        counts.Met(new(5));
        var start = (JoinStart.Begun)await house.Get<BeginJoin, JoinStart>(s => s.Do(house.Now.PriceById[house.Free], "Anna Reed", House.NewAddress(),
            null, default,
            piece.Id));
        await house.TillPage(start.Checkout);
        async Task<IReadOnlyDictionary<PieceId, DoorwayFigures>> Of(LocalDate from) => await house.Ask(db => counts.Of(db, from, null, default));
        Assert.Equal(new DoorwayFigures(3, 1, 1), Assert.Single(await Of(Today)).Value);
        await house.Days(1);
        counts.Met(piece.Id);
        Assert.Equal(new DoorwayFigures(4, 1, 1), (await Of(Today))[piece.Id]);
        Assert.Equal(new DoorwayFigures(1, 0, 0), (await Of(Today.PlusDays(1)))[piece.Id]);
    }

    [Fact]
    public void The_beginning_of_a_lesson_is_whole_paragraphs_without_pictures_or_addresses_and_never_more_than_half()
    {
        Block Text(string html) => new Block.Text(html);
        var rule = DoorwayRule.Usual with { ExtractWords = 6 };
        string Of(params Block[] blocks) => LessonExtract.Of(blocks, rule);
        Assert.Equal("<p>One two three.</p><p>Four five six …</p>",
            Of(Text("<p>One <a href=\"https://x.example\">two</a> three.<img data-file=\"7\"></p><p>Four five six seven.</p>"
                + "<p>Eight nine ten eleven twelve.</p>")));
        // Half of eight words.
        Assert.Equal("<p>one two three four</p>", Of(Text("<p>one two three four</p><p>five six seven eight</p>")));
        Assert.Equal("", Of(new Block.Timer("Tea", 60), Text("<p>one two three four</p>")));
        Assert.Equal("<p>one two …</p>", Of(Text("<p>one two three</p>"), new Block.Timer("Tea", 60), Text("<p>four five</p>")));
        Assert.Equal("", Of());
    }
}

/// <summary>Pages of the owner's own, menus, and the house's journal.</summary>
public sealed class OwnPageTests
{
    [Fact]
    public async Task A_page_is_made_saved_and_thrown_away_and_there_is_one_of_its_kind()
    {
        await using var house = await House.Open();
        Task<Result<long>> Make(SitePageKind kind, PlanId? plan = null, PriceId? price = null) =>
            house.Get<SitePages, Result<long>>(s => s.Make(house.Owner, kind, plan, price, default));
        var (first, second) = ((await Make(SitePageKind.Free)).Value, (await Make(SitePageKind.Free)).Value);
        Assert.Equal(["new-page", "new-page-2"], house.Now.Pages.OrderBy(p => p.Id).Select(p => p.Slug));
        Assert.Equal((await Make(SitePageKind.Front)).Value, (await Make(SitePageKind.Front)).Value);
        Assert.Equal((await Make(SitePageKind.Plan, house.Keeper)).Value, (await Make(SitePageKind.Plan, house.Keeper)).Value);
        Assert.False((await Make(SitePageKind.Plan)).Ok);
        Assert.False((await Make(SitePageKind.Join, new PlanId(5))).Ok);
        Assert.False((await Make(SitePageKind.Confirmation, house.Keeper)).Ok);
        var after = (await Make(SitePageKind.Confirmation, null, house.Monthly)).Value;
        Block Text(string html) => new Block.Text(html) { Id = new(900) };
        Task<Result<int>> Save(long id, SitePageDraft draft) => house.Get<SitePages, Result<int>>(s => s.Save(house.Owner, id, draft, default));
        SitePageDraft draft = new("About", "about", "Us", null, [Text("<p>Hello</p>")], true, 1);
        Assert.Equal("Slug", (await Save(first, draft with { Slug = "new-page-2" })).Field);
        Assert.Equal("Slug", (await Save(first, draft with { Slug = "Ab out" })).Field);
        Assert.Equal("Title", (await Save(first, draft with { Title = " " })).Field);
        Assert.Equal("Description", (await Save(first, draft with { Description = new('d', 301) })).Field);
        Assert.False((await Save(first, draft with { Sections = [new Block.Timer("Tea", 60)] })).Ok);
        Assert.False((await Save(first, draft with { Sections = [new Block.Inside(new(5))] })).Ok);
        Assert.Contains("voices", (await Save(first, draft with { Sections = [new Block.Practice(new("", "", [], null, 60))] })).Refusal,
            StringComparison.Ordinal);
        Assert.Contains("public yet", (await Save(first, draft with { Sections = [new Block.Faq([])] })).Refusal, StringComparison.Ordinal);
        Assert.Equal(2, (await Save(first, draft)).Value);
        Assert.Contains("meanwhile", (await Save(first, draft)).Refusal, StringComparison.Ordinal);
        Assert.Null(house.Now.PageFor(SitePageKind.Confirmation, null, house.Monthly));
        Assert.True((await Save(after, draft with { Slug = null, Title = "Thanks" })).Ok);
        Assert.Equal("Thanks", house.Now.PageFor(SitePageKind.Confirmation, null, house.Monthly)!.Title);
        await using var other = await house.AnotherNode();
        Assert.Equal(house.Now.Pages.Count, other.Now.Pages.Count);
        Assert.True((await house.Get<SitePages, Result>(s => s.Remove(house.Owner, first, default))).Ok);
        Assert.False((await house.Get<SitePages, Result>(s => s.Remove(house.Owner, first, default))).Ok);
        Assert.False((await Save(first, draft)).Ok);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SitePages, Result<long>>(s =>
            s.Make(house.Owner with { Role = TeamRole.Support }, SitePageKind.Free, null, null, default)));
        // What became public stands in the house's journal, once each.
        async Task<string[]> Deeds(string? search = null, int page = 1)
        {
            var (rows, count) = await house.Get<Events.Deeds, (IReadOnlyList<Deed>, int)>(d => d.Page(search, page, default));
            Assert.Equal(page == 1 ? rows.Count : 2, count);
            return [.. rows.Select(d => d.What)];
        }
        Assert.Equal(["made the page “Thanks” public", "made the page “About” public"], await Deeds());
        Assert.Empty(await Deeds(page: 2));
        // Found by who it was and by what they did, whatever is typed large or small.
        Assert.Equal(["made the page “About” public"], await Deeds(" aBOUT "));
        Assert.Equal(2, (await Deeds("ines")).Length);
        Assert.Empty(await Deeds("100%"));
    }

    [Fact]
    public async Task A_menu_is_bounded_and_goes_back_to_the_usual_one()
    {
        await using var house = await House.Open();
        Task<Result> Save(params MenuItem[] items) => house.Get<SaveMenu, Result>(s => s.Do(house.Owner, items, default));
        MenuItem about = new("About", "/pages/about", MenuFor.Holders, house.Keeper);
        Assert.True((await Save(about)).Ok);
        Assert.Equal([about], house.Now.MenuFor([house.Keeper]));
        Assert.Empty(house.Now.MenuFor(null));
        Assert.False((await Save(about with { Plan = new(5) })).Ok);
        Assert.False((await Save(about with { Path = "" })).Ok);
        Assert.False((await Save([.. Enumerable.Repeat(about, 13)])).Ok);
        Assert.True((await Save([.. Enumerable.Repeat(about, 12)])).Ok);
        Assert.True((await Save([.. MenuItem.Usual])).Ok);
        Assert.Null(house.Now.Site!.Menu);
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<SaveMenu, Result>(s => s.Do(house.Owner with { Role = TeamRole.Support }, null,
            default)));
    }
}
