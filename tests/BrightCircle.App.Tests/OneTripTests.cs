using System.Diagnostics;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

public class OneTripTests
{
    [Fact]
    public async Task Several_queries_are_one_command_and_answer_as_each_would_alone()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Monthly);
        var trips = 0;
        await house.Ask(async db =>
        {
            var journal = db.Journal.Where(j => j.MemberId == member).OrderBy(j => j.Id);
            var (alone, count) = (await journal.AsNoTracking().Select(j => j.Kind).ToListAsync(), await db.Members.CountAsync());
            var facts = await db.HoldingFacts.AsNoTracking().CountAsync(f => f.HoldingId == db.Holdings.First(h => h.MemberId == member).Id);
            using var listener = new ActivityListener
            {
                ShouldListenTo = a => a.Name == "Npgsql",
                Sample = (ref ActivityCreationOptions<ActivityContext> _) => ActivitySamplingResult.AllData,
                ActivityStarted = a =>
                {
                    if (a.Kind == ActivityKind.Client && a.RootId == Activity.Current?.RootId
                && !a.OperationName.Contains("onnect", StringComparison.Ordinal)) Interlocked.Increment(ref trips);
                }
            };
            ActivitySource.AddActivityListener(listener);
            using var mine = new Activity("mine").Start();

            var trip = new OneTrip(db);
            var nobody = trip.First(db.Members.Where(m => m.Id == new MemberId(-1)));
            var one = trip.First(db.Members.Where(m => m.Id == member));
            var texts = trip.List(journal.Select(j => j.Kind));
            var many = trip.Count(db.Members);
            var none = trip.Count(db.Members.Where(m => m.Id == new MemberId(-1)));
            var holdings = trip.List(db.Holdings.AsNoTracking().Where(h => h.MemberId == member).Include(h => h.Facts));
            var own = trip.Command("select $1::int + 1", async (r, ct) => await r.ReadAsync(ct) ? r.GetInt32(0) : 0, 41);
            Assert.Throws<InvalidOperationException>(() => one.Value);
            await trip.Ask(default);

            Assert.Equal(1, trips);
            Assert.Null(nobody.Value);
            Assert.Equal(alone, texts.Value);
            Assert.Equal((count, 0, 42), (many.Value, none.Value, own.Value));
            Assert.Equal(facts, Assert.Single(holdings.Value).Facts.Count);
            // What isn't asked for without tracking is tracked as ever, and saved.
            one.Value!.Name = "Somebody Else";
            return await db.SaveChangesAsync();
        });
        Assert.Equal("Somebody Else", await house.Ask(db => db.Members.Where(m => m.Id == member).Select(m => m.Name).SingleAsync()));
    }

    [Fact]
    public async Task A_question_that_fails_fails_all_and_leaves_the_context_as_it_was()
    {
        await using var house = await House.Open();
        await house.Ask(async db =>
        {
            var trip = new OneTrip(db);
            var members = trip.Count(db.Members);
            trip.Command("select nothing_of_that_name", (_, _) => Task.FromResult(0));
            Assert.Equal("42703", (await Assert.ThrowsAsync<PostgresException>(() => trip.Ask(default))).SqlState);
            Assert.Equal(0, await db.Members.CountAsync(m => m.Id == new MemberId(-1)));
            return 0;
        });
    }
}
