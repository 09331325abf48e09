using BrightCircle.App.Community;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using static BrightCircle.App.Tests.TalkHelp;

namespace BrightCircle.App.Tests;

/// <summary>Keeping the talk good, and being told of it.</summary>
public class TalkCareTests
{
    static async Task<long> Begin(House house, SpaceReader by, string title = "Wasps")
    {
        var begun = await House.Number(house.Get<Talk, Result<Said>>(t => t.Begin(by, title, "A stream of them.", default)));
        Assert.True(begun.Ok, begun.Refusal);
        return begun.Value;
    }

    static Task<Result<long>> Answer(House house, SpaceReader by, long thread, string body = "Look below.") =>
        House.Number(house.Get<Talk, Result<Said>>(t => t.Answer(by, thread, null, body, default)));

    static Task<List<string>> Letters(House house, MemberId member, LetterKind kind) => house.Ask(async db =>
        (await db.Letters.Where(l => l.MemberId == member && l.Kind == kind).OrderBy(l => l.Id).ToListAsync())
            .Select(l => l.Fields.GetValueOrDefault("news") + "|" + l.Fields.GetValueOrDefault("lines") + "|" + l.Fields.GetValueOrDefault("words")).ToList());

    static Task<ToCareFor> Look(House house, bool settled = false) => house.Get<CareTalk, ToCareFor>(x => x.Look(house.Owner, settled, 1, 20, default));

    static Instant Evening(House house, int days) => house.Now.Calendar.At(house.Now.Calendar.Date(house.Clock.Moment).PlusDays(days)
        .At(new LocalTime(TellingRule.Hour, 0)));

    [Fact]
    public async Task What_is_said_not_to_belong_waits_until_somebody_has_looked_at_it()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b, c) = (await house.JoinProved(), await house.JoinProved(), await house.JoinProved());
        var thread = await Begin(house, await Of(house, a, space));
        var post = (await Answer(house, await Of(house, b, space), thread, "Buy my <b>nucs</b>.")).Value;
        Task<Result> Report(SpaceReader by, long of, string why) => house.Get<CareTalk, Result>(x => x.Report(by, of, why, default));
        Assert.Equal("Why", (await Report(await Of(house, a, space), post, " ")).Field);
        Assert.Equal("Why", (await Report(await Of(house, a, space), post, new string('x', TalkReport.MostWhy + 1))).Field);
        // Nobody reports themselves, or what isn't there.
        Assert.False((await Report(await Of(house, b, space), post, "Mine")).Ok);
        Assert.False((await Report(await Of(house, a, space), post + 1, "Gone")).Ok);
        Assert.True((await Report(await Of(house, a, space), post, "No selling")).Ok);
        Assert.True((await Report(await Of(house, a, space), post, "No selling, I said")).Ok);
        Assert.True((await Report(await Of(house, c, space), post, "Spam")).Ok);
        Task<ToCareFor> Open(bool settled = false) => Look(house, settled);
        var look = await Open();
        var (rows, count) = (look.Reports, look.InAll);
        Assert.Equal(2, count);
        Assert.Equal(["No selling", "Spam"], rows.Select(r => r.Report.Why));
        // Whoever wrote it takes it away: the team still sees what it was about.
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(Of(house, b, space).Result, post, default))).Ok);
        Assert.Contains("nucs", (await Open()).Reports[0].Kept);
        // Settled once, all reports of it are.
        Assert.True((await house.Get<CareTalk, Result>(x => x.Settle(house.Owner, rows[0].Report.Id, ReportOutcome.LeftStanding, "Please don’t sell here.",
            default))).Ok);
        Assert.Equal(0, (await Open()).InAll);
        Assert.All((await Open(true)).Reports, r => Assert.Equal((ReportOutcome.LeftStanding, house.Owner.Name), (r.Report.Outcome, r.Report.SettledBy)));
        Assert.Equal("|Please don’t sell here.", Assert.Single(await Letters(house, b, LetterKind.TalkWord))[1..]);
    }

    [Fact]
    public async Task Taken_away_by_the_team_it_is_gone_for_the_others_and_whoever_wrote_it_learns_why()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await house.JoinProved(), await house.JoinProved());
        var thread = await Begin(house, await Of(house, a, space));
        var post = (await Answer(house, await Of(house, b, space), thread)).Value;
        await house.Get<CareTalk, Result>(x => x.Report(Of(house, a, space).Result, post, "Unkind", default));
        var report = await house.Ask(db => db.TalkReports.Select(r => r.Id).SingleAsync());
        Assert.True((await house.Get<CareTalk, Result>(x => x.Settle(house.Owner, report, ReportOutcome.TakenAway, "Unkind.", default))).Ok);
        var gone = await house.Ask(db => db.TalkPosts.SingleAsync(p => p.Id == post));
        Assert.True(gone.GoneByTeam);
        await house.Deliver();
        var letter = await House.Letter((await house.Member(b)).Email, "About what you wrote in Wasps");
        Assert.Contains("has been taken away", await House.Raw(letter.GetProperty("id").GetInt64()));
        // What is gone can't be reported any more.
        Assert.False((await house.Get<CareTalk, Result>(x => x.Report(Of(house, a, space).Result, post, "Again", default))).Ok);
    }

    [Fact]
    public async Task Kept_from_writing_one_reads_and_nothing_else_until_the_time_is_over()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await house.JoinProved(), await house.JoinProved());
        var (reader, other) = (await Of(house, a, space), await Of(house, b, space));
        var thread = await Begin(house, reader);
        var mine = (await Answer(house, reader, thread)).Value;
        var theirs = (await Answer(house, other, thread)).Value;
        Task<Result> Bar(int days, string why) => house.Get<CareTalk, Result>(c => c.Bar(house.Owner, a, days, why, default));
        Assert.Equal("Days", (await Bar(0, "Selling")).Field);
        Assert.Equal("Days", (await Bar(CareTalk.MostDays + 1, "Selling")).Field);
        Assert.Equal("Why", (await Bar(7, " ")).Field);
        Assert.True((await Bar(7, "Selling, twice.")).Ok);
        Assert.Contains("Selling, twice", (await Answer(house, reader, thread)).Refusal);
        Assert.False((await house.Get<Talk, Result<Said>>(t => t.Begin(reader, "Nucs", "Cheap", default))).Ok);
        Assert.False((await house.Get<Talk, Result>(t => t.Edit(reader, mine, "Buy", default))).Ok);
        Assert.False((await house.Get<Talk, Result>(t => t.Nod(reader, theirs, 0, default))).Ok);
        // What they wrote they can still take away, and they read.
        Assert.True((await house.Get<Talk, Result>(t => t.TakeAway(reader, mine, default))).Ok);
        Assert.NotNull((await house.Get<ReadTalk, ThreadView?>(r => r.Thread([reader], thread, 1, 50, house.Clock.Moment, default)))!.Bar);
        Assert.Equal(a.Value, Assert.Single((await Look(house)).Bars).Bar.AccountId);
        Assert.True((await Answer(house, other, thread)).Ok);
        await house.To(house.Clock.Moment + Duration.FromDays(7));
        Assert.True((await Answer(house, await Of(house, a, space), thread)).Ok);
        Assert.True((await Bar(7, "Again.")).Ok);
        Assert.True((await house.Get<CareTalk, Result>(c => c.LetWrite(house.Owner, a, default))).Ok);
        Assert.False((await house.Get<CareTalk, Result>(c => c.LetWrite(house.Owner, a, default))).Ok);
        Assert.True((await Answer(house, await Of(house, a, space), thread)).Ok);
        Assert.Equal(2, (await Letters(house, a, LetterKind.TalkWord)).Count);
    }

    [Fact]
    public async Task Words_taken_away_are_kept_for_the_team_for_thirty_days_and_no_longer()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var reader = await Of(house, await house.JoinProved(), space);
        var thread = await Begin(house, reader);
        var post = (await Answer(house, reader, thread, "Something rash")).Value;
        await house.Get<Talk, Result>(t => t.TakeAway(reader, post, default));
        Task<TalkPost> Post() => house.Ask(db => db.TalkPosts.AsNoTracking().SingleAsync(p => p.Id == post));
        Assert.Equal(("", "<p>Something rash</p>"), ((await Post()).Body, (await Post()).TakenBody));
        var taken = house.Clock.Moment;
        await house.To(taken + Duration.FromDays(30) - Duration.FromSeconds(1));
        Assert.NotNull((await Post()).TakenBody);
        await house.To(taken + Duration.FromDays(30));
        Assert.Null((await Post()).TakenBody);
    }

    [Fact]
    public async Task A_change_is_said_only_where_it_comes_late()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var reader = await Of(house, await house.JoinProved(), space);
        var thread = await Begin(house, reader);
        var post = (await Answer(house, reader, thread)).Value;
        await house.To(house.Clock.Moment + Duration.FromMinutes(30));
        await house.Get<Talk, Result>(t => t.Edit(reader, post, "Look above.", default));
        Assert.Null((await house.Ask(db => db.TalkPosts.AsNoTracking().SingleAsync(p => p.Id == post))).EditedAt);
        await house.To(house.Clock.Moment + Duration.FromSeconds(1));
        await house.Get<Talk, Result>(t => t.Edit(reader, post, "Look beside.", default));
        Assert.NotNull((await house.Ask(db => db.TalkPosts.AsNoTracking().SingleAsync(p => p.Id == post))).EditedAt);
    }

    [Fact]
    public async Task Whoever_wrote_in_a_thread_is_told_in_the_evening_of_what_they_have_not_seen()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b, c) = (await house.JoinProved(), await house.JoinProved(), await house.JoinProved());
        await house.To(Evening(house, 1) + Duration.FromHours(1));
        var thread = await Begin(house, await Of(house, a, space));
        await Answer(house, await Of(house, b, space), thread);
        await Answer(house, await Of(house, b, space), thread);
        await house.To(Evening(house, 1) - Duration.FromSeconds(1));
        Assert.Empty(await Letters(house, a, LetterKind.Talk));
        await house.To(Evening(house, 0));
        Assert.Equal("New in “Wasps”|“Wasps”, The bench: 2 new posts, the last by ", Assert.Single(await Letters(house, a, LetterKind.Talk))[..^(1
            + Name(house, b).Length)]);
        // Nobody is told of their own words, and who never wrote there isn't told at all.
        Assert.Empty(await Letters(house, b, LetterKind.Talk));
        Assert.Empty(await Letters(house, c, LetterKind.Talk));
        // The next evening there is nothing new.
        await house.To(Evening(house, 1));
        Assert.Single(await Letters(house, a, LetterKind.Talk));
        // Seen on the page it isn't told of.
        await Answer(house, await Of(house, b, space), thread);
        var reader = await Of(house, a, space);
        await house.Get<ReadTalk, ThreadView?>(r => r.Thread([reader], thread, 1, 50, house.Clock.Moment, default));
        await house.To(Evening(house, 1));
        Assert.Single(await Letters(house, a, LetterKind.Talk));
        // Asked for no more, none comes.
        await Answer(house, await Of(house, b, space), thread);
        Assert.True((await house.Get<FollowTalk, Result>(f => f.Thread(reader, thread, false, default))).Ok);
        await house.To(Evening(house, 1));
        Assert.Single(await Letters(house, a, LetterKind.Talk));
    }

    static string Name(House house, MemberId member) => BrightCircle.Core.Members.Member.FirstNameOf(house.Member(member).Result.Name);

    [Fact]
    public async Task The_evening_is_that_of_the_reader()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await house.JoinProved(), await house.JoinProved());
        await house.Ask(db => db.Members.Where(m => m.Id == a).ExecuteUpdateAsync(u => u.SetProperty(m => m.ZoneId, "Asia/Kolkata")));
        await house.To(Evening(house, 1) + Duration.FromHours(1));
        var thread = await Begin(house, await Of(house, a, space));
        await Answer(house, await Of(house, b, space), thread);
        var there = BrightCircle.Core.Time.SiteCalendar.For("Asia/Kolkata");
        // Half past six in the evening there, when the hour is full here; it is past midnight there now.
        var evening = there.At(there.Date(house.Clock.Moment).At(new LocalTime(18, 30)));
        await house.To(evening - Duration.FromSeconds(1));
        Assert.Empty(await Letters(house, a, LetterKind.Talk));
        await house.To(evening);
        Assert.Single(await Letters(house, a, LetterKind.Talk));
    }

    [Fact]
    public async Task Who_chose_everything_is_told_of_threads_of_others_daily_on_Mondays_or_at_once()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (daily, weekly, once, never, writes) = (await house.JoinProved(), await house.JoinProved(), await house.JoinProved(), await house.JoinProved(),
            await house.JoinProved());
        foreach (var (who, telling) in new[] { (daily, Telling.Daily), (weekly, Telling.Weekly), (once, Telling.AtOnce), (never, Telling.Never) })
        {
            var by = await Of(house, who, space);
            Assert.True((await house.Get<FollowTalk, Result>(f => f.Space(by, telling, default))).Ok);
        }
        Assert.False((await house.Get<FollowTalk, Result>(f => f.Space(Of(house, daily, space).Result, (Telling)9, default))).Ok);
        // Just after a Monday's evening.
        var monday = house.Now.Calendar.Date(house.Clock.Moment).Next(IsoDayOfWeek.Monday);
        Instant At(int days, int hour) => house.Now.Calendar.At(monday.PlusDays(days).At(new LocalTime(hour, 0)));
        await house.To(At(0, 19));
        var thread = await Begin(house, await Of(house, writes, space));
        await Answer(house, await Of(house, writes, space), thread);
        await house.To(house.Clock.Moment + TalkDue.Gathers);
        // Both in one letter, within minutes.
        Assert.Contains("2 new posts", Assert.Single(await Letters(house, once, LetterKind.Talk)));
        await house.To(At(1, 18));
        Assert.Contains("2 new posts", Assert.Single(await Letters(house, daily, LetterKind.Talk)));
        Assert.Empty(await Letters(house, weekly, LetterKind.Talk));
        await house.To(At(7, 18));
        Assert.Single(await Letters(house, weekly, LetterKind.Talk));
        Assert.Single(await Letters(house, daily, LetterKind.Talk));
        Assert.Single(await Letters(house, once, LetterKind.Talk));
        Assert.Empty(await Letters(house, never, LetterKind.Talk));
    }

    [Fact]
    public async Task What_is_closed_to_somebody_by_now_isn_t_told_to_them_and_nothing_falls_due_where_nothing_is_said()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await house.JoinProved(), await house.JoinProved());
        await house.To(Evening(house, 1) + Duration.FromHours(1));
        var thread = await Begin(house, await Of(house, a, space), "A secret of the bench");
        await Answer(house, await Of(house, b, space), thread);
        await house.Ask(db => db.Spaces.ExecuteUpdateAsync(u => u.SetProperty(s => s.ForGuests, false)));
        await house.Catalogue.Load();
        await house.To(Evening(house, 1));
        Assert.Empty(await Letters(house, a, LetterKind.Talk));
        await house.Days(10);
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.TalkHour)));
    }

    [Fact]
    public async Task What_was_said_is_found_by_its_words_only_where_it_is_open()
    {
        await using var house = await House.Open();
        var (bench, closed) = (await Space(house), await Space(house, "The attic", forGuests: false));
        var a = await house.JoinProved();
        var reader = await Of(house, a, bench);
        var thread = await Begin(house, reader);
        await Answer(house, reader, thread, "Put **fondant** above the frames");
        var owner = await Of(house, house.Owner.AccountId, closed);
        await Begin(house, owner, "Fondant in the attic");
        Task<IReadOnlyList<TalkHit>> Find(string typed, params SpaceReader[] open) =>
            house.Get<ReadTalk, IReadOnlyList<TalkHit>>(r => r.Find(open, typed, 0, 20, default));
        var hit = Assert.Single(await Find("fondant", reader));
        Assert.Equal((thread, "Wasps", bench.Value), (hit.Thread, hit.Title, hit.Space));
        Assert.Contains("fondant above the frames", hit.Words);
        Assert.DoesNotContain("<", hit.Words);
        Assert.Empty(await Find("stream attic", reader));
        Assert.Empty(await Find("", reader));
        Assert.Empty(await Find("fondant"));
        Assert.Empty(await Find("\"' & | ! ( \0", reader));
        // Taken away it isn't found.
        await house.Get<Talk, Result>(t => t.TakeAway(reader, hit.Post, default));
        Assert.Empty(await Find("fondant", reader));
    }

    [Fact]
    public async Task One_reads_on_where_one_stopped_on_whichever_page_that_is()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (a, b) = (await Of(house, await house.JoinProved(), space), await Of(house, await house.JoinProved(), space));
        var thread = await Begin(house, a);
        await house.Get<ReadTalk, ThreadView?>(r => r.Thread([b], thread, 1, 50, house.Clock.Moment, default));
        Assert.Equal($"/spaces/threads/{thread}", await house.Get<ReadTalk, string>(r => r.PathOn(b, thread, default)));
        long first = 0;
        for (var i = 0; i < 55; i++)
        {
            var post = await Answer(house, i % 2 == 0 ? a : await Of(house, house.Owner.AccountId, space), thread, $"Answer {i}");
            Assert.True(post.Ok, post.Refusal);
            if (i == 51) first = post.Value;
        }
        await house.Ask(db => db.TalkSeen.Where(s => s.AccountId == b.Account).ExecuteUpdateAsync(u => u.SetProperty(s => s.PostId, first - 1)));
        Assert.Equal($"/spaces/threads/{thread}?page=2#p{first}", await house.Get<ReadTalk, string>(r => r.PathOn(b, thread, default)));
    }

    [Fact]
    public async Task Made_one_their_words_and_what_they_follow_are_those_of_the_account_that_stays()
    {
        await using var house = await House.Open();
        var space = await Space(house);
        var (stays, goes) = (await house.JoinProved(), await house.JoinProved());
        var thread = await Begin(house, await Of(house, goes, space));
        await Answer(house, await Of(house, stays, space), thread);
        var held = (await house.Holdings(goes))[0].Id;
        Assert.True((await house.Get<Billing.EndPlan, Result>(e => e.Do(house.Owner, goes, held, default))).Ok);
        var email = (await house.Member(goes)).Email;
        var done = await house.Get<MergeMembers, Result>(m => m.Do(house.Owner, stays, goes, email, default));
        Assert.True(done.Ok, done.Refusal);
        Assert.Equal(2, await house.Ask(db => db.TalkPosts.CountAsync(p => p.AccountId == stays.Value)));
        Assert.Equal(1, await house.Ask(db => db.TalkFollows.CountAsync(f => f.AccountId == stays.Value)));
    }
}
