using BrightCircle.App.Access;
using BrightCircle.App.Community;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using Challenge = BrightCircle.Core.Community.Challenge;

namespace BrightCircle.App.Tests;

/// <summary>The team’s inbox, challenges, and how far everybody has come.</summary>
public class TogetherTests
{
    static Task<Result> Write(House house, MemberId member, string text, bool confirmed = true) =>
        house.Get<Correspond, Result>(c => c.Write(member, confirmed, text, default));
    static Task<Result> Answer(House house, MemberId member, string text, bool done = false, TeamActor? by = null) =>
        house.Get<Correspond, Result>(c => c.Answer(by ?? house.Owner, member, text, done, default));
    static Task<(IReadOnlyList<InboxRow> Rows, IReadOnlyDictionary<InboxShown, int> Counts, IReadOnlyList<SavedAnswer> Answers)> Inbox(House house,
        InboxShown shown = InboxShown.Open) => house.Get<Correspond, (IReadOnlyList<InboxRow>, IReadOnlyDictionary<InboxShown, int>,
            IReadOnlyList<SavedAnswer>)>(c =>
            c.Inbox(house.Owner, shown, 1, 20, default));
    static Task<DialogueView> View(House house, MemberId member, bool byMember = false) => house.Get<Correspond, DialogueView>(c => c.View(member, byMember,
        default));

    [Fact]
    public async Task A_day_at_the_inbox()
    {
        await using var house = await House.Open();
        var (a, b) = (await house.Join(house.Free), await house.Join(house.Free));
        Assert.Equal("Body", (await Write(house, a, " ")).Field);
        Assert.Equal("Body", (await Write(house, a, "Hello", confirmed: false)).Field);
        Assert.True((await Write(house, a, "May I come <script>alert(1)</script> by *telephone*?")).Ok);
        await house.To(house.Clock.Moment + Duration.FromHours(1));
        Assert.True((await Write(house, b, "My card is new.")).Ok);
        // Who waits longest stands first.
        var (rows, counts, _) = await Inbox(house);
        Assert.Equal([a.Value, b.Value], rows.Select(r => r.Member));
        Assert.Equal((2, 0, 0, 0), (counts[InboxShown.Open], counts[InboxShown.Mine], counts[InboxShown.Waiting], counts[InboxShown.Done]));
        Assert.DoesNotContain("script", rows[0].LastWords);
        Assert.Contains("<em>telephone</em>", (await View(house, a)).Messages[0].Body);
        Assert.Equal(2, (await house.Get<Insight.Waiting, Insight.WaitingCounts>(w => w.Counts(house.Owner, default))).Messages);
        // Taken, answered, done; the answer goes by letter.
        Assert.True((await house.Get<Correspond, Result>(c => c.Assign(house.Owner, a, true, default))).Ok);
        Assert.Equal(1, (await Inbox(house)).Counts[InboxShown.Mine]);
        Assert.True((await Answer(house, a, "Yes, gladly.\n\nThe number comes with the reminder.")).Ok);
        Assert.Equal([b.Value], (await Inbox(house)).Rows.Select(r => r.Member));
        Assert.Equal(house.Owner.Name, Assert.Single((await Inbox(house, InboxShown.Waiting)).Rows).Assigned);
        await house.Deliver();
        var letter = await House.Letter((await house.Member(a)).Email, $"{house.Owner.Name} wrote to you");
        Assert.Contains("The number comes with the reminder.", await House.Raw(letter.GetProperty("id").GetInt64()));
        Assert.True((await Answer(house, b, "Put it in on your account page.", done: true)).Ok);
        Assert.Equal([b.Value], (await Inbox(house, InboxShown.Done)).Rows.Select(r => r.Member));
        Assert.Equal(0, (await Inbox(house)).Counts[InboxShown.Open]);
        // Whoever writes again stands open again, with whom they were.
        Assert.True((await Write(house, a, "Thank you!")).Ok);
        Assert.Equal((a.Value, house.Owner.Name), (await Inbox(house)).Rows.Select(r => (r.Member, r.Assigned)).Single());
        Assert.True((await house.Get<Correspond, Result>(c => c.Set(house.Owner, a, DialogueState.Done, default))).Ok);
        Assert.Equal(2, (await Inbox(house, InboxShown.Done)).Rows.Count);
        Assert.False((await house.Get<Correspond, Result>(c => c.Set(house.Owner, a, (DialogueState)7, default))).Ok);
    }

    [Fact]
    public async Task That_a_member_has_read_it_is_known_and_the_team_s_looking_isn_t_reading()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        await Answer(house, member, "Welcome.");
        Assert.Null((await View(house, member)).Dialogue!.SeenAt);
        await View(house, member, byMember: true);
        Assert.Equal(house.Clock.Moment, (await View(house, member)).Dialogue!.SeenAt);
        Assert.Null((await View(house, await house.Join(house.Free), byMember: true)).Dialogue);
    }

    [Fact]
    public async Task Two_who_write_at_once_are_in_one_conversation_and_nobody_floods_it()
    {
        await using var house = await House.Open();
        await using var other = await house.AnotherNode();
        other.Clock.StandAt(house.Clock.Moment);
        var member = await house.Join(house.Free);
        var both = await Task.WhenAll(Write(house, member, "One"), Answer(other, member, "Two", by: house.Owner));
        Assert.All(both, r => Assert.True(r.Ok, r.Refusal));
        Assert.Equal((2, 1), ((await View(house, member)).Count, await house.Ask(db => db.Dialogues.CountAsync())));
        for (var i = 1; i < Correspond.MostAnHour; i++) Assert.True((await Write(house, member, $"And {i}")).Ok);
        Assert.False((await Write(house, member, "One more")).Ok);
    }

    [Fact]
    public async Task Answers_are_kept_under_a_name_and_an_offer_is_put_in_with_its_price()
    {
        await using var house = await House.Open();
        Task<Result> Keep(string name, string body) => house.Get<Correspond, Result>(c => c.Keep(house.Owner, name, body, default));
        Assert.Equal("Name", (await Keep(" ", "x")).Field);
        Assert.Equal("Answer", (await Keep("Card", " ")).Field);
        Assert.Equal("Answer", (await Keep("Card", new string('x', SavedAnswer.MostBody + 1))).Field);
        Assert.True((await Keep("Card", "On your account page.")).Ok);
        Assert.True((await Keep("Card", "On the card page.")).Ok);
        var kept = Assert.Single(await house.Get<Correspond, IReadOnlyList<SavedAnswer>>(c => c.SavedAnswers(default)));
        Assert.Equal("On the card page.", kept.Body);
        Assert.True((await house.Get<Correspond, Result>(c => c.Forget(house.Owner, kept.Id, default))).Ok);
        Assert.False((await house.Get<Correspond, Result>(c => c.Forget(house.Owner, kept.Id, default))).Ok);
        var offer = await house.Get<Correspond, string?>(c => Task.FromResult(c.OfferOf(house.Monthly, "https://site.example")));
        Assert.Contains($"(https://site.example/join/{house.Now.PriceById[house.Monthly].Code})", offer);
        Assert.Null(await house.Get<Correspond, string?>(c => Task.FromResult(c.OfferOf(new(1), "https://site.example"))));
    }

    static ChallengeDraft Draft(House house, int startsIn = 1) => new("Six weeks", "Together.", LocalInput.Write(IsoWeek.Of(house.Now.Calendar.Date(
        house.Clock.Moment)).Plus(startsIn).Monday), "6", "You stood at a hive.", "3", "", true);

    static async Task<Challenge> Made(House house, ChallengeDraft draft)
    {
        var made = await house.Get<Challenges, Result<ChallengeId>>(c => c.Make(house.Owner, draft, default));
        Assert.True(made.Ok, made.Refusal);
        return house.Now.Community.ChallengeById[made.Value];
    }

    static Task<ChallengeBoard> Board(House house, Challenge challenge) => house.Get<Challenges, ChallengeBoard>(c => c.Board(challenge, default));

    static async Task<bool> Mark(House house, MemberId member, Challenge challenge)
    {
        var facts = await house.FactsOf(member);
        return TallyReader.For(house.Now, member, null, facts, challenge.TallyId, house.Clock.Moment) is { } may
            && (await house.Get<Tallies, Result<Core.Learning.TallyStanding>>(t => t.Mark(may, null, default))).Ok;
    }

    [Fact]
    public async Task A_challenge_is_made_with_all_that_belongs_to_it_and_shows_who_does_what()
    {
        await using var house = await House.Open();
        var challenge = await Made(house, Draft(house));
        // The tally with its aim, the space, the pass that opens both, and its price.
        Assert.Equal(3, house.Now.TallyById[challenge.TallyId].AimIn(challenge.FirstWeek));
        var plan = house.Now.PlanById[challenge.PlanId];
        Assert.Equal((PlanKind.Pass, "Six weeks"), (plan.Kind, plan.Name));
        Assert.Equal([new Coverage.OneTally(challenge.TallyId), new Coverage.OneSpace(challenge.SpaceId!.Value)], plan.Promise.Select(i => i.Covers));
        var price = Assert.Single(house.Now.PricesOf(plan.Id));
        Assert.Equal(new AccessLength.UntilDay(challenge.EndsOn.PlusDays(Challenges.DaysAfter)), price.Terms.Access);

        var (a, b, c) = (await house.Join(price.Id), await house.Join(price.Id), await house.Join(price.Id));
        // A promise of everything isn't one of a challenge.
        var stranger = await house.Join(house.Free);
        Assert.DoesNotContain("The tally Six weeks", house.Now.Gives(house.Now.PlanById[house.Keeper]));
        Assert.Equal("Together. From " + challenge.StartsOn.ToString("dddd, d MMMM uuuu", house.Now.Culture) + ", for 6 weeks, 3 times a week.",
            plan.Description);
        Assert.Equal(3, (await Board(house, challenge)).Rows.Count);
        Assert.Equal(0, (await Board(house, challenge)).ThisWeek);
        await house.To(house.Now.Calendar.At(challenge.StartsOn.At(new LocalTime(12, 0))));
        Assert.False(await Mark(house, stranger, challenge));
        for (var i = 0; i < 3; i++) Assert.True(await Mark(house, a, challenge));
        Assert.True(await Mark(house, b, challenge));
        var board = await Board(house, challenge);
        Assert.Equal([c, b, a], board.Rows.Select(r => r.Member));
        Assert.Equal((1, 4, 9, 1, 1), (board.ThisWeek, board.Together, board.TogetherAim, board.AtAim, board.AtNothing));
        Assert.Equal(house.Clock.Moment, board.Rows[1].LastAt);
        Assert.Null(board.Rows[0].LastAt);
        await house.Days(7);
        Assert.True(await Mark(house, c, challenge));
        board = await Board(house, challenge);
        Assert.Equal((2, 1, 1), (board.ThisWeek, board.Together, board.AtAimBefore));
        Assert.Equal([3, 0, 0, 0, 0, 0], board.Rows.Single(r => r.Member == a).Done);
        // Once more, with dates that follow and a name of its own.
        var next = await house.Get<Challenges, ChallengeDraft>(x => Task.FromResult(x.New(challenge)));
        Assert.Equal((LocalInput.Write(challenge.LastWeek.Plus(1).Monday), "6", "3", "You stood at a hive.", true), (next.StartsOn, next.Weeks, next.AWeek,
            next.What,
            next.HasSpace));
        Assert.NotEqual(challenge.Name, next.Name);
        Assert.NotEqual(challenge.Id, (await Made(house, next)).Id);
        // Open for two weeks after its end, and no longer.
        var last = challenge.EndsOn.PlusDays(Challenges.DaysAfter);
        await house.To(house.Now.Calendar.At(last.At(new LocalTime(12, 0))));
        Assert.True(await Mark(house, a, challenge));
        await house.To(house.Now.Calendar.At(last.PlusDays(1).AtMidnight()));
        Assert.False(await Mark(house, a, challenge));
    }

    [Fact]
    public async Task Of_two_who_make_the_same_challenge_at_once_one_does_and_nothing_is_left_of_the_other()
    {
        await using var house = await House.Open();
        var both = await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => house.Get<Challenges, Result<ChallengeId>>(c => c.Make(house.Owner,
            Draft(house) with { Badge = Challenges.NewBadge }, default))));
        Assert.Single(both, b => b.Ok);
        Assert.All(both.Where(b => !b.Ok), b => Assert.Equal("Name", b.Field));
        Assert.Equal((1, 1, 1, 1), (await house.Ask(db => db.Tallies.CountAsync(t => t.Name == "Six weeks")),
            await house.Ask(db => db.Spaces.CountAsync()), await house.Ask(db => db.Plans.CountAsync(p => p.Name == "Six weeks")),
            await house.Ask(db => db.Tags.CountAsync(t => t.Name == "Six weeks"))));
    }

    [Fact]
    public async Task Whoever_takes_part_hears_that_it_begins_and_how_it_ended_and_whoever_did_all_of_it_has_a_certificate()
    {
        await using var house = await House.Open();
        var challenge = await Made(house, Draft(house) with { Weeks = "2", AWeek = "1", Badge = Challenges.NewBadge });
        var badge = house.Now.TagById[challenge.BadgeId!.Value];
        Assert.Equal(("Six weeks", true), (badge.Name, badge.IsBadge));
        // It can't be taken away under the challenge, nor become something members don't see.
        Assert.Contains("rests on this tag", (await house.Get<App.Members.MemberTags, Result>(t => t.Remove(house.Owner, badge.Id, default))).Refusal,
            StringComparison.Ordinal);
        Assert.Equal("Badge", (await house.Get<App.Members.MemberTags, Result<TagId>>(t => t.Save(house.Owner, badge.Id, badge.Name, "", 4, null, default)))
            .Field);
        var price = Assert.Single(house.Now.PricesOf(challenge.PlanId));
        var (all, half, none) = (await house.Join(price.Id), await house.Join(price.Id), await house.Join(price.Id));
        Task<List<Dictionary<string, string>>> Letters(MemberId member) => house.Ask(db => db.Letters.Where(l => l.MemberId == member
            && l.Kind == LetterKind.Challenge).OrderBy(l => l.Id).Select(l => l.Fields).ToListAsync());
        Task<CertificateFacts?> Certificate(MemberId member) => house.Get<Challenges, CertificateFacts?>(c => c.CertificateOf(challenge, member, default));
        var begins = house.Now.Calendar.At(challenge.StartsOn.At(new LocalTime(8, 0)));
        await house.To(begins - Duration.FromSeconds(1));
        Assert.Empty(await Letters(all));
        await house.To(begins);
        var first = Assert.Single(await Letters(none));
        Assert.Equal(("Begins", "2 weeks", "1 time", $"/challenges/{challenge.Id.Value}"), (first["turn"], first["weeks"], first["a_week"],
            first["challenge_path"]));
        Assert.True(await Mark(house, all, challenge));
        Assert.True(await Mark(house, half, challenge));
        Assert.True(await Mark(house, half, challenge));
        Assert.Null(await Certificate(all));
        await house.Days(7);
        Assert.True(await Mark(house, all, challenge));
        // What was marked too much in one week doesn't stand in for another.
        Assert.Null(await Certificate(half));
        var certificate = (await Certificate(all))!;
        Assert.Equal(("Six weeks", house.Now.Calendar.Date(house.Clock.Moment).ToString("d MMMM uuuu", house.Now.Culture), "2 weeks, 2 times in all"),
            (certificate.Title, certificate.Date, certificate.Length));
        Assert.StartsWith("%PDF-", System.Text.Encoding.Latin1.GetString(Learning.Certificate.Pdf(certificate)), StringComparison.Ordinal);
        // The next one, if there is one, is told of.
        var next = await Made(house, await house.Get<Challenges, ChallengeDraft>(x => Task.FromResult(x.New(challenge))) with
        {
            StartsOn = LocalInput.Write(challenge.LastWeek.Plus(3).Monday)
        });
        var over = house.Now.Calendar.At(challenge.EndsOn.PlusDays(1).At(new LocalTime(8, 0)));
        await house.To(over - Duration.FromSeconds(1));
        Assert.Single(await Letters(all));
        await house.To(over);
        // The badge is of whoever did all of it, and of nobody else.
        Assert.Equal([all], await house.Ask(db => db.MemberTags.Where(t => t.TagId == badge.Id).Select(t => t.MemberId).ToListAsync()));
        Assert.Equal([("Finished", $"/challenges/{challenge.Id.Value}", next.Name)], (await Letters(all)).Skip(1).Select(f => (f["turn"],
            f["challenge_path"], f["next"])));
        Assert.Equal([("Over", "1 week", $"/challenges/{challenge.Id.Value}")], (await Letters(half)).Skip(1).Select(f => (f["turn"], f["met"],
            f["challenge_path"])));
        // Who never began isn't told how it ended.
        Assert.Single(await Letters(none));
        await house.Deliver();
        Assert.Contains("certificate", await House.Raw((await House.Letter((await house.Member(all)).Email, "You did all of")).GetProperty("id").GetInt64()),
            StringComparison.Ordinal);
        var stranger = await house.Join(house.Free);
        Assert.Null(await Certificate(stranger));
    }

    [Fact]
    public async Task What_can_t_be_is_said_and_nothing_of_it_is_left()
    {
        await using var house = await House.Open();
        var fine = Draft(house);
        var monday = LocalInput.TryReadDay(fine.StartsOn, out var day) ? day!.Value : default;
        foreach (var (draft, field) in new[] { (fine with { Name = " " }, "Name"), (fine with { Name = new('x', 61) }, "Name"), (fine with { StartsOn = "" },
            "StartsOn"),
            (fine with { StartsOn = LocalInput.Write(monday.PlusDays(1)) }, "StartsOn"), (fine with { StartsOn = LocalInput.Write(monday.PlusWeeks(-20)) },
                "StartsOn"),
            (fine with { Weeks = "0" }, "Weeks"), (fine with { Weeks = "54" }, "Weeks"), (fine with { AWeek = "0" }, "AWeek"), (fine with { AWeek = "101" },
                "AWeek"),
            (fine with { What = new('x', 401) }, "What"), (fine with { About = new('x', 1001) }, "About"), (fine with { Amount = "twelve" }, "Amount"),
            (fine with { Name = "keeper" }, "Name") })
            Assert.Equal(field, (await house.Get<Challenges, Result<ChallengeId>>(c => c.Make(house.Owner, draft, default))).Field);
        Assert.Empty(house.Now.Tallies);
        Assert.Empty(house.Now.Spaces);
        // One that has begun can be made; one at a price without a space, too.
        var begun = await Made(house, fine with { StartsOn = LocalInput.Write(monday.PlusWeeks(-2)), Amount = "12.00", HasSpace = false });
        Assert.Null(begun.SpaceId);
        Assert.Equal(3, house.Now.TallyById[begun.TallyId].AimIn(begun.FirstWeek));
        Assert.Equal(1200, Assert.IsType<PriceTerms.OnePayment>(house.Now.PricesOf(begun.PlanId).Single().Terms).Amount.Minor);
        Assert.Equal("Name", (await house.Get<Challenges, Result<ChallengeId>>(c => c.Make(house.Owner, fine, default))).Field);
        Assert.Equal("Name", (await house.Get<Challenges, Result>(c => c.Describe(house.Owner, begun.Id, "", "", null, default))).Field);
        Assert.True((await house.Get<Challenges, Result>(c => c.Describe(house.Owner, begun.Id, "Six weeks, later", "Still.", null, default))).Ok);
        Assert.Equal("Six weeks, later", house.Now.Community.ChallengeById[begun.Id].Name);
        Assert.Equal("Badge", (await house.Get<Challenges, Result>(c => c.Describe(house.Owner, begun.Id, "Six weeks", "", "12345", default))).Field);
    }

    [Fact]
    public async Task How_far_everybody_has_come_is_seen_part_by_part_and_written_to()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        await house.Ask(db => db.Lessons.ExecuteUpdateAsync(u => u.SetProperty(l => l.Ready, true).SetProperty(l => l.ReleasedAt, house.Clock.Moment)));
        await house.Ask(db => db.Pieces.ExecuteUpdateAsync(u => u.SetProperty(p => p.ReleasedAt, house.Clock.Moment)));
        await house.Catalogue.Load();
        var (through, at, stopped, never) = (await house.Join(house.Free), await house.Join(house.Free), await house.Join(house.Free),
            await house.Join(house.Free));
        await house.Days(20);
        var (now, lessons) = (house.Clock.Moment, course.Piece.Outline.Lessons.Select(l => l.Id).ToArray());
        var edge = now - Duration.FromDays(ProgressOfAll.StoppedDays);
        await house.Ask(async db =>
        {
            foreach (var l in lessons) db.Add(new Opening { MemberId = through, LessonId = l, FirstAt = edge, LastAt = edge, DoneAt = edge });
            // Just fourteen days ago is not yet stopped; a moment more is.
            db.Add(new Opening { MemberId = at, LessonId = lessons[0], FirstAt = edge, LastAt = edge, DoneAt = edge });
            db.Add(new Opening
            {
                MemberId = stopped,
                LessonId = lessons[0],
                FirstAt = edge - Duration.FromDays(1),
                LastAt = edge - Duration.FromMilliseconds(1)
            });
            db.Add(new Opening { MemberId = stopped, LessonId = lessons[1], FirstAt = edge - Duration.FromDays(1), LastAt = edge - Duration.FromDays(1) });
            return await db.SaveChangesAsync();
        });
        Task<ProgressView> Look(ProgressShown shown = ProgressShown.All, Condition? audience = null) => house.Get<ProgressOfAll, ProgressView>(p =>
            p.Look(p.Of(course.Piece), audience, shown, 1, 50, default));
        var view = await Look();
        Assert.Equal((3, 1, 1, 1), (view.Counts[ProgressShown.All], view.Counts[ProgressShown.UnderWay], view.Counts[ProgressShown.Stopped],
            view.Counts[ProgressShown.Done]));
        Assert.Equal([(3, 2), (2, 1), (1, 1)], view.Parts.Select(p => (p.Opened, p.Through)));
        Assert.Equal(stopped, view.Rows[^1].Id);
        Assert.Equal([(1, 0), (1, 0), (0, 0)], view.Rows[^1].Parts);
        Assert.DoesNotContain(view.Rows, r => r.Id == never);
        Assert.Equal([through], (await Look(ProgressShown.Done)).Rows.Select(r => r.Id));
        Assert.Equal([at], (await Look(ProgressShown.UnderWay)).Rows.Select(r => r.Id));
        Assert.Equal([stopped], (await Look(ProgressShown.Stopped)).Rows.Select(r => r.Id));
        // Only of an audience; and the same people by the condition that is written to.
        var one = new Condition.Named((await house.Member(at)).Email);
        Assert.Equal([at], (await Look(audience: one)).Rows.Select(r => r.Id));
        Assert.Equal([(1, 1), (0, 0), (0, 0)], (await Look(audience: one)).Parts.Select(p => (p.Opened, p.Through)));
        Assert.Equal([stopped], await house.Get<Members.ConditionSql, List<MemberId>>(c => c.Members(new Condition.StoppedIn(course.Id,
            ProgressOfAll.StoppedDays))
            .Select(m => m.Id).ToListAsync()));
        // As a whole piece on its shelf; and as a table.
        var shelf = await house.Get<ProgressOfAll, ProgressView>(p => p.Look(p.Of([course.Piece]), null, ProgressShown.All, 1, 50, default));
        Assert.Equal([(3, 1)], shelf.Parts.Select(p => (p.Opened, p.Through)));
        Assert.Equal((2, 0), shelf.Rows.Single(r => r.Id == stopped).Parts[0]);
        using var csv = new MemoryStream();
        await house.Do<ProgressOfAll>(p => p.WriteCsv(p.Of(course.Piece), null, ProgressShown.Done, csv, default));
        var lines = System.Text.Encoding.UTF8.GetString(csv.ToArray()).Trim('\ufeff').Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal("name,first,last,done,Winter,Lesson 2,Lesson 3", lines[0]);
        Assert.EndsWith(",3 of 3,1 of 1,1 of 1,1 of 1", Assert.Single(lines[1..]), StringComparison.Ordinal);
        // Nothing of it out, nobody in it.
        Assert.Empty((await house.Get<ProgressOfAll, ProgressView>(p => p.Look([], null, ProgressShown.All, 1, 50, default))).Rows);
        // A letter for an audience begins with that audience.
        var audience = (await house.Get<Members.Audiences, Result<AudienceId>>(a => a.Save(house.Owner, null, "Stopped", new Condition.StoppedIn(course.Id, 14),
            default))).Value;
        var letter = (await house.Get<Mailings, Result<long>>(m => m.NewFor(house.Owner, audience, default))).Value;
        Assert.Equal(audience, await house.Ask(db => db.Mailings.Where(m => m.Id == letter).Select(m => m.AudienceId).SingleAsync()));
    }
}
