using System.Text;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Faults made on purpose: nothing is lost and nothing is done twice.</summary>
public class FaultTests
{
    [Fact]
    public async Task A_doubled_callback_joins_once()
    {
        await using var house = await House.Open();
        var (checkout, page, _) = await house.Begin(house.Monthly);
        await house.Till.Pay(page!, DemoTill.Approves);
        var gateway = house.Services.GetRequiredService<IPaymentGateway>();
        var result = (await gateway.Result(page!.Split('/')[^1], default))!;
        await Task.WhenAll(Enumerable.Range(0, 6).Select(
            i => i % 2 == 0 ? house.Do<CompleteCheckout>(j => j.ByCallback(result, default)) : house.Return(checkout)));
        Assert.Equal(1, await house.Ask(db => db.Holdings.CountAsync()));
        Assert.Equal(1, await house.Ask(db => db.Payments.CountAsync()));
        Assert.Equal(2, await house.Ask(db => db.Letters.CountAsync()));
    }

    [Fact]
    public async Task The_callback_may_come_before_the_browser_returns()
    {
        await using var house = await House.Open();
        var (checkout, page, _) = await house.Begin(house.Monthly);
        await house.Till.Pay(page!, DemoTill.Approves);
        var result = (await house.Services.GetRequiredService<IPaymentGateway>().Result(page!.Split('/')[^1], default))!;
        Assert.True(await house.Get<CompleteCheckout, bool>(j => j.ByCallback(result, default)));
        Assert.Equal(CheckoutState.Completed, (await house.Return(checkout))!.State);
        Assert.Equal(1, await house.Ask(db => db.Payments.CountAsync()));
    }

    [Fact]
    public async Task Two_paid_checkouts_of_one_person_give_one_holding_and_the_second_money_back()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var a = await house.Begin(house.Monthly, email);
        var b = await house.Begin(house.Monthly, email);
        foreach (var (checkout, page, _) in new[] { a, b })
        {
            await house.Till.Pay(page!, DemoTill.Approves);
            await house.Return(checkout);
        }
        await house.Days(1);
        Assert.Equal(1, await house.Ask(db => db.Holdings.CountAsync()));
        Assert.Equal([0, 1800], await house.Ask(db => db.Payments.OrderBy(p => p.Id).Select(p => p.RefundedMinor).ToListAsync()));
        Assert.Equal(0, await house.LedgerSum());
    }

    // Signatures: HMAC-SHA256 as in RFC 4231, test case 2: key "Jefe", data "what do ya want for nothing?".
    [Fact]
    public void Signatures_are_HMAC_SHA256()
    {
        Assert.Equal("5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843",
            Convert.ToHexStringLower(System.Security.Cryptography.HMACSHA256.HashData("Jefe"u8, "what do ya want for nothing?"u8)));
        var now = Instant.FromUnixTimeSeconds(1_800_000_000);
        var body = Encoding.UTF8.GetBytes("{}");
        var signature = CallbackSignature.Sign("s", "1800000000", body);
        Assert.Equal(signature, Convert.ToHexStringLower(System.Security.Cryptography.HMACSHA256.HashData("s"u8, "1800000000.{}"u8)));
        Assert.True(CallbackSignature.IsRight("s", "1800000000", signature, body, now));
        Assert.False(CallbackSignature.IsRight("other", "1800000000", signature, body, now));
        Assert.False(CallbackSignature.IsRight("s", "1800000000", signature, "{ }"u8, now));
        Assert.False(CallbackSignature.IsRight("s", "1800000000", signature, body, now + Duration.FromSeconds(301)));
        Assert.False(CallbackSignature.IsRight("s", "1800000000", null, body, now));
    }

    /// <summary>Charges for real, and then its worker's database connections are cut, as when the machine is switched off before it could write anything
    /// down.</summary>
    sealed class KilledAfterCharge(IPaymentGateway real, NpgsqlDataSource source) : IPaymentGateway
    {
        public async Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct)
        {
            var answer = await real.Charge(request, ct);
            await using var c = source.CreateCommand(
                "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()");
            await c.ExecuteNonQueryAsync(ct);
            return answer;
        }
        public Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct) => real.Open(request, ct);
        public Task<SessionResult?> Result(string session, CancellationToken ct) => real.Result(session, ct);
        public Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct) => real.List(from, to, ct);
        public Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct) =>
            real.Refund(key, chargeRef, amount, at, ct);
        public Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct) => real.Answer(key, disputeRef, text, ct);
        public Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct) => real.Payouts(from, to, ct);
        public Task<bool> Forget(string cardToken, CancellationToken ct) => real.Forget(cardToken, ct);
        public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body) => real.Read(timestamp, signature, body);
    }

    [Fact]
    public async Task While_one_worker_has_a_thing_in_its_hands_no_other_does_a_later_one_of_the_same_subject()
    {
        await using var house = await House.Open();
        var (one, other) = (await house.Join(house.Monthly), await house.Join(house.Monthly));
        var (held, free) = ((await house.Holdings(one))[0].Id.Value, (await house.Holdings(other))[0].Id.Value);
        var now = house.Clock.Moment;
        await house.Ask(async db =>
        {
            // Ends that are long in the past for both; of the first, something that stands before it is in somebody's hands.
            db.PutDue(house.Services.GetRequiredService<Ids>(), DueKind.LapseHolding, held, now - Duration.FromHours(3), "held-first");
            foreach (var (holding, key) in new[] { (held, "held-then"), (free, "free") })
                db.PutDue(house.Services.GetRequiredService<Ids>(), DueKind.EndHolding, holding, now - Duration.FromHours(2), key);
            return await db.SaveChangesAsync();
        });
        await using var hands = await house.Services.GetRequiredService<NpgsqlDataSource>().OpenConnectionAsync();
        await using var transaction = await hands.BeginTransactionAsync();
        await using (var claim = new NpgsqlCommand("select 1 from due_work where key = 'held-first' for update", hands)) await claim.ExecuteNonQueryAsync();
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal(["held-first", "held-then"], await house.Ask(db => db.DueWork.Where(d => d.Key == "held-first" || d.Key == "held-then" || d.Key == "free")
            .OrderBy(d => d.DueAt).Select(d => d.Key).ToListAsync()));
        await transaction.RollbackAsync();
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.False(await house.Ask(db => db.DueWork.AnyAsync(d => d.Key.StartsWith("held"))));
    }

    [Fact]
    public async Task A_worker_killed_between_charge_and_record_charges_once()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var holding = (await house.Holdings(id))[0].Id;
        var due = house.Now.Calendar.At(new(2026, 12, 24, 12, 0));
        await using var killed = await house.AnotherNode(services =>
        {
            var real = services.Last(s => s.ServiceType == typeof(IPaymentGateway)).ImplementationFactory!;
            services.AddScoped<IPaymentGateway>(s => new KilledAfterCharge((IPaymentGateway)real(s), s.GetRequiredService<NpgsqlDataSource>()));
        });
        killed.Clock.StandAt(due);
        await Assert.ThrowsAnyAsync<Exception>(() => killed.Services.GetRequiredService<RunDue>().Run());
        house.Services.GetRequiredService<NpgsqlDataSource>().Clear();
        Assert.Single(await house.Payments(id));

        await using var fresh = await house.AnotherNode();
        fresh.Clock.StandAt(due);
        await fresh.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal(2, (await house.Payments(id)).Count(p => p.IsPaid));
        Assert.Equal(1, await House.ChargesLike($"recurring-{holding.Value}-1-1"));
        Assert.Equal(0, await house.LedgerSum());
    }

    /// <summary>Stops with an error nobody foresaw for one card, as long as it is told to.</summary>
    sealed class BreaksFor(IPaymentGateway real, Func<string?> token) : IPaymentGateway
    {
        public Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct) => request.CardToken == token()
            ? throw new InvalidOperationException("Nobody foresaw this.") : real.Charge(request, ct);
        public Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct) => real.Open(request, ct);
        public Task<SessionResult?> Result(string session, CancellationToken ct) => real.Result(session, ct);
        public Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct) => real.List(from, to, ct);
        public Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct) =>
            real.Refund(key, chargeRef, amount, at, ct);
        public Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct) => real.Answer(key, disputeRef, text, ct);
        public Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct) => real.Payouts(from, to, ct);
        public Task<bool> Forget(string cardToken, CancellationToken ct) => real.Forget(cardToken, ct);
        public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body) => real.Read(timestamp, signature, body);
    }

    [Fact]
    public async Task One_that_cannot_be_done_waits_by_itself_and_the_others_of_its_batch_are_done_once()
    {
        string? broken = null;
        await using var house = await House.Open(services =>
        {
            var real = services.Last(s => s.ServiceType == typeof(IPaymentGateway)).ImplementationFactory!;
            services.AddScoped<IPaymentGateway>(s => new BreaksFor((IPaymentGateway)real(s), () => broken));
        });
        MemberId[] members = [await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(house.Monthly)];
        broken = await house.Ask(db => db.Cards.Where(c => c.MemberId == members[1]).Select(c => c.Token).SingleAsync());
        await house.To(house.Now.Calendar.At(new(2026, 12, 24, 12, 0)));
        Assert.Equal("2 1 2", await Paid());
        var waiting = await house.Ask(db => db.DueWork.AsNoTracking().SingleAsync(d => d.Tries > 0));
        Assert.Equal("Nobody foresaw this.", waiting.LastError);
        Assert.True(waiting.ReadyAt > house.Clock.Moment);
        Assert.Equal(Standing.Active, (await house.Member(members[0])).Standing);
        // When what was wrong is mended it is done without anybody's hand, and as of the day it was due.
        broken = null;
        await house.Days(1);
        Assert.Equal("2 2 2", await Paid());
        Assert.Equal(new NodaTime.LocalDate(2027, 1, 24), house.Now.Calendar.Date((await house.Holdings(members[1]))[0]
            .PaidThrough(house.Clock.Moment)!.Value));
        Assert.Equal(0, await house.LedgerSum());

        async Task<string> Paid()
        {
            var n = new List<int>();
            foreach (var m in members) n.Add((await house.Payments(m)).Count(p => p.IsPaid));
            return string.Join(' ', n);
        }
    }

    [Fact]
    public async Task An_answer_that_is_lost_is_asked_for_again_and_the_money_moves_once()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly, DemoTill.TimesOut);
        var holding = (await house.Holdings(id))[0].Id;
        var happened = await house.Days(31);
        Assert.Equal((1, 1), (happened.Counts["unanswered"], happened.Counts["charged"]));
        Assert.Equal((2, Standing.Active), ((await house.Payments(id)).Count, (await house.Member(id)).Standing));
        Assert.Equal(1, await House.ChargesLike($"recurring-{holding.Value}-1-1"));
    }

    [Fact]
    public async Task A_mail_server_down_for_an_hour_loses_no_letter_and_doubles_none()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        await House.Control("/control/down", new { down = true });
        try
        {
            await house.Join(house.Monthly, email: email);
            await house.Deliver();
            house.Clock.StandAt(house.Clock.Moment + Duration.FromHours(1));
            await house.Deliver();
            Assert.Equal(2, await house.Ask(db => db.Letters.CountAsync(l => l.State == LetterState.Queued)));
        }
        finally
        {
            await House.Control("/control/down", new { down = false });
        }
        await house.Deliver();
        await house.Deliver();
        Assert.Equal(2, (await House.Post(email)).Count);
        Assert.Equal(2, await house.Ask(db => db.Letters.CountAsync(l => l.State == LetterState.Sent)));
    }

    [Fact]
    public async Task A_refused_address_is_noted_and_a_delayed_one_tried_again()
    {
        await using var house = await House.Open();
        var (refused, delayed) = (House.NewAddress(), House.NewAddress());
        await House.Control("/control/rules", new { address = refused, rule = "refuse" });
        await House.Control("/control/rules", new { address = delayed, rule = "delay" });
        var id = await house.Join(house.Free, email: refused);
        await house.Join(house.Free, email: delayed);
        await house.Deliver();
        Assert.Equal([LetterState.Refused, LetterState.Queued], await house.Ask(db => db.Letters.OrderBy(l => l.Id).Select(l => l.State).ToListAsync()));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == id && j.Kind == "letter-refused")));
        await House.Control("/control/rules", new { address = delayed });
        house.Clock.StandAt(house.Clock.Moment + Duration.FromHours(1));
        await house.Deliver();
        Assert.Single(await House.Post(delayed));
    }

    [Fact]
    public async Task Two_workers_share_one_list_of_2000_and_everything_is_charged_exactly_once()
    {
        await using var house = await House.Open();
        var at = await ManyMembers.Add(house, 2000);
        await using var second = await house.AnotherNode();
        house.Clock.StandAt(at);
        second.Clock.StandAt(at);
        var tallies = await Task.WhenAll(house.Services.GetRequiredService<RunDue>().Run(), second.Services.GetRequiredService<RunDue>().Run());
        Assert.All(tallies, t => Assert.True(t.Counts.GetValueOrDefault("charged") > 0, "one of the workers found nothing to do"));
        Assert.Equal(2000, tallies.Sum(t => t.Counts["charged"]));
        Assert.Equal(2000, await house.Ask(db => db.Payments.CountAsync(p => p.Turn == 1 && p.Outcome == ChargeOutcome.Approved)));
        Assert.Equal(2000, await house.Ask(db => db.Payments.Where(p => p.Turn == 1).Select(p => p.HoldingId).Distinct().CountAsync()));
        Assert.Equal(0, await house.LedgerSum());
        Assert.Equal(0, await house.Ask(db => db.Ledger.GroupBy(l => l.PostingId).Where(g => g.Sum(l => l.Amount.Minor) != 0).CountAsync()));
    }

    [Fact]
    public async Task The_database_restarted_during_a_renewal_run_loses_nothing()
    {
        await using var house = await House.Open();
        var at = await ManyMembers.Add(house, 400);
        house.Clock.StandAt(at);
        var run = Task.Run(async () =>
        {
            // As the worker does: a round that fails is followed by the next.
            for (var round = 0; round < 200; round++)
            {
                try
                {
                    await house.Services.GetRequiredService<RunDue>().Run();
                    return;
                }
                catch (Exception e) when (e is NpgsqlException or InvalidOperationException or DbUpdateException or IOException) { await Task.Yield(); }
            }
        });
        await Wait.Until(() => House.ChargesLike("-1-1"), n => n > 0);
        TestServers.RestartDatabase();
        await run;
        house.Services.GetRequiredService<NpgsqlDataSource>().Clear();
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal(400, await house.Ask(db => db.Payments.CountAsync(p => p.Turn == 1 && p.Outcome == ChargeOutcome.Approved)));
        Assert.Equal(0, await house.LedgerSum());
        Assert.Equal(1, await house.Ask(db => db.DueWork.Where(d => d.Kind == DueKind.Renew && d.Turn == 1).CountAsync()));
    }

    [Fact]
    public async Task What_must_not_happen_is_refused_by_the_database()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var holding = (await house.Holdings(id))[0];
        async Task<string> Refused(FormattableString sql) =>
            (await Assert.ThrowsAsync<PostgresException>(() => house.Ask(db => db.Database.ExecuteSqlAsync(sql)))).SqlState;
        var at = house.Clock.Moment;
        Assert.Equal("23P01", await Refused($"""
            insert into holding_facts (holding_id, seq, kind, at, "from", "to")
            values ({holding.Id.Value}, 9, 'Paid', {at}, {at}, {at + Duration.FromDays(1)})
            """));
        Assert.Equal("23514", await Refused($"""
            insert into ledger (id, posting_id, payment_id, member_id, account, amount_minor, currency, at, text)
            select 1, 1, id, member_id, 'Cash', 5, 'GBP', at, '' from payments
            """));
        Assert.Equal("23001", await Refused($"update ledger set amount_minor = 0"));
        Assert.Equal("23001", await Refused($"delete from journal"));
        Assert.Equal("23514", await Refused($"update payments set refunded_minor = 1801"));
        Assert.Equal("23505", await Refused($$"""
            insert into holdings (id, member_id, plan_id, source, starts_at, agreement, is_over)
            values (1, {{id.Value}}, {{house.Keeper.Value}}, 'Gift', {{at}}, '{}', false)
            """));
    }

    [Fact]
    public async Task A_plan_changed_on_one_node_is_heard_of_on_another()
    {
        await using var house = await House.Open();
        await using var other = await house.AnotherNode();
        using var stop = new CancellationTokenSource();
        var listener = new CatalogueListener(other.Catalogue, other.Services.GetRequiredService<NpgsqlDataSource>(),
            Microsoft.Extensions.Logging.Abstractions.NullLogger<CatalogueListener>.Instance);
        var before = other.Now;
        await listener.StartAsync(stop.Token);
        await Wait.Until(() => Task.FromResult(other.Now), now => !ReferenceEquals(now, before));
        await house.Do<App.Offer.SavePlan>(s => s.Do(house.Owner, null, new("Apiary", 3, "", []), default));
        await Wait.Until(() => Task.FromResult(other.Now), now => now.Plans.Any(p => p.Name == "Apiary"));
        await stop.CancelAsync();
        await listener.StopAsync(default);
    }
}

static class Wait
{
    /// <summary>Looks until a thing is so; fails after half a minute.</summary>
    public static async Task<T> Until<T>(Func<Task<T>> look, Func<T, bool> isSo)
    {
        var end = System.Diagnostics.Stopwatch.StartNew();
        while (end.Elapsed < TimeSpan.FromSeconds(30))
        {
            var seen = await look();
            if (isSo(seen)) return seen;
            await Task.Yield();
        }
        throw new TimeoutException("It didn't come about within 30 s.");
    }
}
