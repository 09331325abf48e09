using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Two accounts of one person are made one: nothing of either is lost, the books agree, and nothing names the account that is gone.</summary>
public class MergeTests
{
    static async Task<List<string>> Rows(House house, string query, params object[] values)
    {
        await using var command = house.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand(query);
        foreach (var v in values) command.Parameters.Add(new() { Value = v });
        await using var r = await command.ExecuteReaderAsync();
        var rows = new List<string>();
        while (await r.ReadAsync()) rows.Add(r.GetValue(0).ToString()!);
        return rows;
    }

    static async Task<Result> Merge(House house, MemberId stays, MemberId goes, string? typed = null, TeamActor? by = null)
    {
        var address = typed ?? (await house.Member(goes)).Email;
        return await house.Get<MergeMembers, Result>(s => s.Do(by ?? house.Owner, stays, goes, address, default));
    }

    /// <summary>A free tier of its own.</summary>
    static async Task<PriceId> Meadow(House house)
    {
        var plan = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Meadow", 1, "",
            [new(new Coverage.Everything(), new Reach.FromJoining(), new Keep.Nothing())]), default))).Value;
        return (await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, plan,
            new(null, null, PriceKind.Free, "0", 1, PeriodUnit.Months, false, 7, PeriodUnit.Days, "0"), default))).Value;
    }

    static async Task AgreesWithItself(House house, MemberId member)
    {
        var m = await house.Member(member);
        Assert.Equal(Standings.At(await house.Holdings(member), house.Now.Book.Plan, house.Clock.Moment), new(m.Standing, m.StandingPlanId));
        Assert.Empty(await Rows(house, """
            select c.standing from standing_counts c where c.members <> (select count(*) from members m where m.standing = c.standing)
            """));
        Assert.Equal(0, await house.LedgerSum());
    }

    [Fact]
    public async Task All_of_both_is_there_once_and_nothing_names_the_account_that_is_gone()
    {
        await using var house = await House.Open();
        var (address, old) = (House.NewAddress(), House.NewAddress());
        var goes = await house.Join(house.Monthly, email: old);
        await house.Days(3);
        var free = await Meadow(house);
        var stays = await house.Join(free, email: address);
        var joined = (await house.Member(goes)).JoinedAt;
        var lesson = house.Now.Pieces.SelectMany(p => p.Outline.Lessons).First();
        var other = house.Now.Pieces.SelectMany(p => p.Outline.Lessons).Skip(1).First();
        var early = house.Clock.Moment;
        await Rows(house, """
            insert into openings (member_id, lesson_id, first_at, last_at, done_at) values ($1, $3, $5, $5, null), ($2, $3, $5 - interval '1 day', $5, $5),
              ($2, $4, $5, $5, null)
            """, stays.Value, goes.Value, lesson.Id.Value, other.Id.Value, early.ToDateTimeUtc());
        await Rows(house, "insert into notes (member_id, lesson_id, text, at) values ($1, $3, 'Of the one.', now()), ($2, $3, 'Of the other.', now())",
            stays.Value, goes.Value, lesson.Id.Value);
        await Rows(house, """
            insert into sheet_tries (id, block_id, lesson_id, member_id, number, at, answers, marks, result, waiting)
            select nextval('ids'), 7, $3, m, n, now(), '{}', '{}', '{}', 0 from (values ($1::bigint, 1), ($1, 2), ($2::bigint, 1)) t (m, n)
            """, stays.Value, goes.Value, lesson.Id.Value);
        foreach (var m in new[] { stays, goes })
        {
            await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, m, "helper", default));
            await house.Get<TeamNotes, Result>(s => s.Add(house.Owner, m, $"Noted of {m.Value}", default));
            await house.Get<OwnSettings, Result>(s => s.SetBillingAddress(m, m == goes ? "1 Upper Dell" : "", default));
        }
        await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, goes, "speaker", default));
        var journal = await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == stays || j.MemberId == goes));
        var letters = await house.Ask(db => db.Letters.CountAsync(l => l.MemberId == stays || l.MemberId == goes));
        var paid = await house.Payments(goes);
        Assert.NotEmpty(paid);

        await house.Get<WayIn, Result<string>>(s => s.Make(house.Owner, goes, default));

        var look = (await house.Get<MergeMembers, MergeLook?>(s => s.Look(house.Owner, stays, goes, default)))!;
        Assert.Null(look.Refusal);
        Assert.Equal((0, paid.Count), (look.Stays.Payments, look.Goes.Payments));
        var done = await Merge(house, stays, goes);
        Assert.True(done.Ok, done.Refusal);

        // Wherever the database says that somebody is named, it isn't the account that is gone.
        foreach (var column in await Rows(house, """
            select table_name || '.' || column_name from information_schema.columns where table_schema = 'public' and column_name in ('member_id', 'account_id')
            """))
            if (column.Split('.') is [var table, var name] && table != "deeds")
                Assert.True((await Rows(house, $"select 1 from {table} where {name} = $1 limit 1", goes.Value)).Count == 0, column);
        Assert.Empty(await Rows(house, "select id from members where id = $1 union select id from accounts where id = $1", goes.Value));
        Assert.Equal(joined, (await house.Member(stays)).JoinedAt);
        Assert.Equal(["1 Upper Dell"], await Rows(house, "select billing_address from members where id = $1", stays.Value));
        Assert.Equal(paid.Select(p => (p.Id, p.Amount)), (await house.Payments(stays)).Select(p => (p.Id, p.Amount)));
        Assert.Equal([house.Keeper, house.Now.PriceById[free].PlanId],
            (await house.Holdings(stays)).Where(h => !h.IsOver).OrderBy(h => h.StartsAt).Select(h => h.PlanId));
        Assert.Equal(Standing.Active, (await house.Member(stays)).Standing);
        Assert.Equal(journal + 1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == stays)));
        Assert.Equal(letters, await house.Ask(db => db.Letters.CountAsync(l => l.MemberId == stays)));
        Assert.Equal(new Event.Merged((await house.Member(stays)).Name, old), (await house.Ask(db => db.Journal.Where(j => j.MemberId == stays)
            .OrderByDescending(j => j.Seq).FirstAsync())).Event);
        // What both did adds up.
        Assert.Equal([$"{early.Minus(NodaTime.Duration.FromDays(1)).ToDateTimeUtc():yyyy-MM-dd HH:mm}|t|2"], await Rows(house, """
            select to_char(first_at at time zone 'UTC', 'YYYY-MM-DD HH24:MI') || '|' || case when done_at is null then 'f' else 't' end || '|'
              || (select count(*) from openings where member_id = $1) from openings where member_id = $1 and lesson_id = $2
            """, stays.Value, lesson.Id.Value));
        Assert.Equal(["Of the one.\n\nOf the other."], await Rows(house, "select text from notes where member_id = $1", stays.Value));
        Assert.Equal(["1", "2", "3"], await Rows(house, "select number from sheet_tries where member_id = $1 order by 1", stays.Value));
        Assert.Equal(["helper", "speaker"], await Rows(house, "select t.name from member_tags m join tags t on t.id = m.tag_id where member_id = $1 order by 1",
            stays.Value));
        Assert.Equal(["2"], await Rows(house, "select count(*) from team_notes where member_id = $1", stays.Value));
        var deeds = await house.Ask(db => db.Deeds.AsNoTracking().Where(d => d.What.Contains("way in") || d.What.Contains("two accounts")).ToListAsync());
        Assert.Equal([$"/desk/members/{stays.Value}", $"/desk/members/{stays.Value}"], deeds.Select(d => d.Path));
        await AgreesWithItself(house, stays);
        // The same person joined once: this month's figures say so.
        Assert.Equal(1, (await house.Get<App.Insight.Departures, App.Insight.DeparturesView>(s => s.Load(house.Clock.Moment, default))).All.Joined);

        // It goes on as if it had always been one: renewed by the card that came along, let in by the address that stays, the other free again.
        await house.Days(40);
        Assert.Equal(paid.Count + 1, (await house.Payments(stays)).Count(p => p.IsPaid));
        await AgreesWithItself(house, stays);
        Assert.NotEqual(goes, await house.Join(house.Free, email: old));
        // And the books are as closed as before.
        foreach (var table in new[] { "ledger", "journal", "payments", "standing_changes" })
            await Assert.ThrowsAsync<PostgresException>(() => Rows(house, $"update {table} set member_id = $2 where member_id = $1 returning 1", stays.Value,
                house.Services.GetRequiredService<Ids>().Next()));
    }

    /// <summary>The history of standings is that of whoever was a member first, whichever account stays.</summary>
    [Fact]
    public async Task Whoever_was_a_member_first_keeps_their_history()
    {
        await using var house = await House.Open();
        var stays = await house.Join(house.Monthly);
        var history = await Rows(house, "select id from standing_changes where member_id = $1 order by 1", stays.Value);
        await house.Days(2);
        var goes = await house.Join(await Meadow(house));
        var since = (await house.Member(stays)).StandingSince;
        Assert.True((await Merge(house, stays, goes)).Ok);
        Assert.Equal(history, await Rows(house, "select id from standing_changes order by 1"));
        Assert.Equal(since, (await house.Member(stays)).StandingSince);
        await AgreesWithItself(house, stays);
    }

    [Fact]
    public async Task What_one_person_can_not_hold_twice_keeps_them_apart_and_changes_nothing()
    {
        await using var house = await House.Open();
        var apiary = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Apiary", 3, "",
            [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], PlanKind.Tier), default))).Value;
        var dear = (await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, apiary,
            new(null, null, PriceKind.Recurring, "39", 1, PeriodUnit.Months, false, 7, PeriodUnit.Days, "0"), default))).Value;
        var (one, same, dearer) = (await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(dear));
        Assert.Contains("Both hold", (await Merge(house, one, same)).Refusal, StringComparison.Ordinal);
        Assert.Contains("two tiers", (await Merge(house, one, dearer)).Refusal, StringComparison.Ordinal);
        Assert.Contains("two tiers", (await Merge(house, dearer, one)).Refusal, StringComparison.Ordinal);
        Assert.Contains("same account", (await Merge(house, one, one)).Refusal, StringComparison.Ordinal);
        Assert.Contains("Both hold", (await house.Get<MergeMembers, MergeLook?>(s => s.Look(house.Owner, one, same, default)))!.Refusal,
            StringComparison.Ordinal);
        Assert.Null(await house.Get<MergeMembers, MergeLook?>(s => s.Look(house.Owner, one, new(-9), default)));
        Assert.False((await Merge(house, one, new(-9), "nobody@post.example")).Ok);
        Assert.True((await house.Get<EndPlan, Result>(async s => await s.Do(house.Owner, same, (await house.Holdings(same))[0].Id, default))).Ok);
        Assert.Equal("Typed", (await Merge(house, one, same, "somebody@else.example")).Field);
        await Assert.ThrowsAsync<NotAllowedException>(() => Merge(house, one, same, by: house.Owner with { Role = TeamRole.Support }));
        Assert.Equal(3, await house.Ask(db => db.Members.CountAsync()));
        Assert.True((await Merge(house, one, same)).Ok);
        await AgreesWithItself(house, one);
        Assert.Equal(2, (await house.Payments(one)).Count);
    }

    /// <summary>Who is deleted is forgotten by the payment service too, however long it gives no answer.</summary>
    [Fact]
    public async Task The_card_of_somebody_who_is_deleted_is_forgotten_where_it_is_kept()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var member = await house.Join(house.Monthly, email: email);
        var token = await house.Ask(db => db.Cards.Where(c => c.MemberId == member).Select(c => c.Token).SingleAsync());
        Assert.True((await house.Get<EndPlan, Result>(async s => await s.Do(house.Owner, member, (await house.Holdings(member))[0].Id, default))).Ok);
        var silent = true;
        await using var node = await house.AnotherNode(services =>
        {
            var real = services.Last(s => s.ServiceType == typeof(IPaymentGateway)).ImplementationFactory!;
            services.AddScoped<IPaymentGateway>(s => new Silent((IPaymentGateway)real(s), () => silent));
        });
        Assert.True((await house.Get<ForgetMember, Result>(s => s.Do(house.Owner, member, email, default))).Ok);
        node.Clock.StandAt(house.Clock.Moment);
        await node.To(house.Clock.Moment);
        Assert.Equal(1, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.ForgetCard)));
        var gateway = house.Services.CreateScope().ServiceProvider.GetRequiredService<IPaymentGateway>();
        ChargeRequest Again(string key) => new(key + Guid.NewGuid().ToString("N"), new(100, house.Now.Currency), token, "", house.Clock.Moment);
        Assert.IsType<ChargeResult.Answered>(await gateway.Charge(Again("still"), default));
        silent = false;
        await node.To(house.Now.Calendar.PlusDays(house.Clock.Moment, 2));
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.ForgetCard)));
        Assert.IsType<ChargeResult.NotTaken>(await gateway.Charge(Again("no-more"), default));
    }

    sealed class Silent(IPaymentGateway real, Func<bool> isSilent) : IPaymentGateway
    {
        public Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct) => real.Open(request, ct);
        public Task<SessionResult?> Result(string session, CancellationToken ct) => real.Result(session, ct);
        public Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct) => real.Charge(request, ct);
        public Task<IReadOnlyList<GatewayCharge>?> List(NodaTime.Instant from, NodaTime.Instant to, CancellationToken ct) => real.List(from, to, ct);
        public Task<RefundResult> Refund(string key, string chargeRef, Money amount, NodaTime.Instant at, CancellationToken ct) =>
            real.Refund(key, chargeRef, amount, at, ct);
        public Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct) => real.Answer(key, disputeRef, text, ct);
        public Task<IReadOnlyList<GatewayPayout>?> Payouts(NodaTime.Instant from, NodaTime.Instant to, CancellationToken ct) => real.Payouts(from, to, ct);
        public async Task<bool> Forget(string cardToken, CancellationToken ct) => !isSilent() && await real.Forget(cardToken, ct);
        public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body) => real.Read(timestamp, signature, body);
    }

    [Fact]
    public async Task How_else_somebody_is_reached_is_told_by_them_and_put_right_by_the_team()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        Task<Result> Own(string? phone, string? post = null, string? reads = null) =>
            house.Get<ContactWays, Result>(s => s.Own(member, new(phone, post, reads), default));
        Assert.Equal("Phone", (await Own("call me")).Field);
        Assert.Equal("PostalAddress", (await Own("", new string('x', 401))).Field);
        Assert.Equal("Reads", (await Own("", "", "xx")).Field);
        Assert.Equal(new ContactDraft("", "", null), ContactDraft.Of(await house.Member(member)));
        Assert.True((await Own(" +44 1632 960123 ", " 1 Upper Dell\r\nTansy Lane ", "de")).Ok);
        Assert.Equal(new ContactDraft("+44 1632 960123", "1 Upper Dell\nTansy Lane", "de"),
            ContactDraft.Of(await house.Member(member)));
        Task<Result> Right(TeamActor by, string? zone, string phone = "01632 960123") =>
            house.Get<ContactWays, Result>(s => s.PutRight(by, member, new(phone, new string('x', 400), ""), zone, default));
        await Assert.ThrowsAsync<NotAllowedException>(() => Right(house.Owner with { Role = TeamRole.Editor }, null));
        Assert.Equal("Zone", (await Right(house.Owner, "Nowhere/Town")).Field);
        Assert.True((await Right(house.Owner with { Role = TeamRole.Support }, "Europe/Paris")).Ok);
        var m = await house.Member(member);
        Assert.Equal(("01632 960123", 400, (string?)null, "Europe/Paris"), (m.Phone, m.PostalAddress.Length, m.Reads, m.ZoneId));
        Assert.True((await Right(house.Owner, "")).Ok);
        Assert.Null((await house.Member(member)).ZoneId);
        Assert.Equal(2, await house.Ask(db => db.Deeds.CountAsync(d => d.What.Contains("is reached"))));
        Assert.False((await house.Get<ContactWays, Result>(s => s.Own(new(-9), new("", "", null), default))).Ok);
    }
}
