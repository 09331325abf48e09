using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Rows that are written by the hundred are the same rows as those written one by one.</summary>
public class ManyRowsTests
{
    static readonly Currency Euro = new("EUR");

    static JournalEntry Entry(long id, MemberId member, Instant at, string by) =>
        new() { Id = id, MemberId = member, At = at, Kind = "noted", Event = new Event.Noted($"Said “{by}”."), By = by.Length > 2 ? by : null };

    static LedgerEntry Line(long id, long posting, MemberId member, long minor, Instant at, string text, PaymentId? payment = null) => new()
    {
        Id = id,
        PostingId = posting,
        PaymentId = payment,
        MemberId = member,
        Account = minor > 0 ? LedgerAccount.Member : LedgerAccount.Income,
        Amount = new(minor, Euro),
        At = at,
        Text = text
    };

    static DueWork Due(long id, Instant at, string key) => new()
    {
        Id = id,
        Kind = DueKind.Settle,
        SubjectId = id,
        DueAt = at,
        ReadyAt = at + Duration.FromDays(1000),
        Key = key,
        Payload = id % 2 == 0 ? """{"a": "ä\\"}""" : null
    };

    /// <summary>On both sides of the number from which on they go together.</summary>
    [Theory, InlineData(ManyRows.Many - 1), InlineData(ManyRows.Many), InlineData(300)]
    public async Task What_is_added_reads_as_it_was_put_in(int count)
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Monthly);
        var at = house.Clock.Moment;
        await house.Ask(async db =>
        {
            await using var transaction = await db.Database.BeginTransactionAsync();
            for (var i = count; i > 0; i--)
            {
                db.Journal.Add(Entry(5_000_000 + i, member, at, new string('x', i % 5)));
                db.DueWork.Add(Due(6_000_000 + i, at, $"many-{i}"));
                db.Ledger.Add(Line(7_000_000 + 2 * i, i, member, i, at, "a"));
                db.Ledger.Add(Line(7_000_001 + 2 * i, i, member, -i, at, "b"));
            }
            // Something of another kind that goes the usual way beside them.
            (await db.Members.AsTracking().SingleAsync(m => m.Id == member)).PostalAddress = "changed";
            await db.SaveChangesAsync();
            await transaction.CommitAsync();
            return 0;
        });
        var journal = await house.Ask(db => db.Journal.AsNoTracking().Where(j => j.Id > 5_000_000 && j.Id < 6_000_000).OrderBy(j => j.Seq).ToListAsync());
        Assert.Equal(count, journal.Count);
        // Numbered in the order of their ids, whichever way they were written.
        Assert.Equal(journal.Select(j => j.Id).Order(), journal.Select(j => j.Id));
        Assert.All(journal, j =>
        {
            var was = Entry(j.Id, member, at, new string('x', (int)((j.Id - 5_000_000) % 5)));
            Assert.Equal((was.MemberId, was.At, was.Kind, was.Event, was.By), (j.MemberId, j.At, j.Kind, j.Event, j.By));
        });
        var due = await house.Ask(db => db.DueWork.AsNoTracking().Where(d => d.Key.StartsWith("many-")).ToListAsync());
        Assert.Equal(count, due.Count);
        Assert.All(due, d => Assert.Equal((d.Id % 2 == 0, DueKind.Settle, at, $"many-{d.Id - 6_000_000}"), (d.Payload is not null, d.Kind, d.DueAt, d.Key)));
        Assert.Equal(count * (count + 1L) / 2, await house.Ask(db => db.Ledger.Where(l => l.Text == "a").SumAsync(l => l.Amount.Minor)));
        Assert.Equal("changed", (await house.Member(member)).PostalAddress);
    }

    [Fact]
    public async Task What_is_there_already_refuses_all_of_them()
    {
        await using var house = await House.Open();
        var at = house.Clock.Moment;
        await house.Ask(async db =>
        {
            db.DueWork.Add(Due(8_000_000, at, "many-7"));
            return await db.SaveChangesAsync();
        });
        var refused = await Assert.ThrowsAsync<DbUpdateException>(() => house.Ask(async db =>
        {
            await using var transaction = await db.Database.BeginTransactionAsync();
            for (var i = 1; i <= 60; i++) db.DueWork.Add(Due(6_000_000 + i, at, $"many-{i}"));
            await db.SaveChangesAsync();
            await transaction.CommitAsync();
            return 0;
        }));
        Assert.Equal(PostgresErrorCodes.UniqueViolation, Assert.IsType<PostgresException>(refused.InnerException).SqlState);
        Assert.True(App.Billing.Races.Lost(refused));
        Assert.Equal(1, await house.Ask(db => db.DueWork.CountAsync(d => d.Key.StartsWith("many-"))));
    }

    /// <summary>A posting that doesn't balance is refused at the commit, also where it was copied.</summary>
    [Fact]
    public async Task The_rules_of_the_books_hold_for_them_too()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Monthly);
        var before = await house.Ask(db => db.Ledger.CountAsync());
        await Assert.ThrowsAsync<PostgresException>(() => house.Ask(async db =>
        {
            await using var transaction = await db.Database.BeginTransactionAsync();
            for (var i = 0; i < 60; i++)
                db.Ledger.Add(Line(7_000_000 + i, i / 2, member, i % 2 == 0 ? 5 : i == 59 ? -4 : -5, house.Clock.Moment, "a"));
            await db.SaveChangesAsync();
            await transaction.CommitAsync();
            return 0;
        }));
        Assert.Equal(before, await house.Ask(db => db.Ledger.CountAsync()));
    }

    /// <summary>Rows go together; where one of them isn't there any more, somebody else was quicker, and that is said as ever.</summary>
    [Theory, InlineData(false), InlineData(true)]
    public async Task What_goes_goes_together_or_not_at_all(bool oneIsGone)
    {
        await using var house = await House.Open();
        var at = house.Clock.Moment;
        await house.Ask(async db =>
        {
            for (var i = 1; i <= 60; i++) db.DueWork.Add(Due(6_000_000 + i, at, $"many-{i}"));
            return await db.SaveChangesAsync();
        });
        var going = house.Ask(async db =>
        {
            await using var transaction = await db.Database.BeginTransactionAsync();
            var rows = await db.DueWork.Where(d => d.Key.StartsWith("many-")).AsTracking().ToListAsync();
            if (oneIsGone) await house.Ask(other => other.DueWork.Where(d => d.Key == "many-33").ExecuteDeleteAsync());
            db.DueWork.RemoveRange(rows);
            // The same key again, in the place of one that goes.
            db.DueWork.Add(Due(6_100_000, at, "many-1"));
            await db.SaveChangesAsync();
            await transaction.CommitAsync();
            return 0;
        });
        if (oneIsGone) await Assert.ThrowsAsync<DbUpdateConcurrencyException>(() => going);
        else await going;
        Assert.Equal(oneIsGone ? 59 : 1, await house.Ask(db => db.DueWork.CountAsync(d => d.Key.StartsWith("many-"))));
    }

    /// <summary>What something else of the same save refers to is written before it.</summary>
    [Fact]
    public async Task Many_payments_stand_before_what_speaks_of_them()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Monthly);
        var (holding, paid) = ((await house.Holdings(member)).Single(), (await house.Payments(member)).Single());
        foreach (var withOneRefund in new[] { false, true })
            await house.Ask(async db =>
            {
                await using var transaction = await db.Database.BeginTransactionAsync();
                for (var i = 1; i <= 40; i++)
                {
                    var id = new PaymentId(7_000_000 + i + (withOneRefund ? 1000 : 0));
                    db.Payments.Add(new()
                    {
                        Id = id,
                        MemberId = member,
                        HoldingId = holding.Id,
                        PriceId = holding.PriceId!.Value,
                        Amount = paid.Amount,
                        Purpose = PaymentPurpose.Recurring,
                        Outcome = ChargeOutcome.DeclinedSoft,
                        At = paid.At,
                        PeriodFrom = paid.At,
                        Turn = i,
                        Attempt = 1,
                        Key = $"many-{id.Value}",
                        ChargeRef = "",
                        CardLabel = "a card",
                    });
                    foreach (var sign in new[] { 1, -1 })
                        db.Ledger.Add(Line(id.Value * 10 + sign, id.Value, member, sign, paid.At, "many", id));
                    if (withOneRefund && i == 40)
                        db.PaymentsToLookAt.Add(new()
                        {
                            Id = 9_000_000,
                            Concern = PaymentConcern.ChargeRefused,
                            PaymentId = id,
                            At = paid.At,
                            Text = "x",
                            Key = "x"
                        });
                }
                await db.SaveChangesAsync();
                await transaction.CommitAsync();
                return 0;
            });
        Assert.Equal(80, await house.Ask(db => db.Payments.CountAsync(p => p.Key.StartsWith("many-"))));
        Assert.Equal(160, await house.Ask(db => db.Ledger.CountAsync(l => l.Text == "many")));
        var many = (await house.Payments(member)).Where(p => p.Key.StartsWith("many-", StringComparison.Ordinal));
        Assert.All(many, p => Assert.Equal((PayWay.Card, paid.Amount), (p.Way, p.Amount)));
    }
}
