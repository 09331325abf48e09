using System.IO.Compression;
using System.Text.Json;
using BrightCircle.App.Members;
using BrightCircle.App.Running;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>What is kept about a person is handed to them whole, and goes when they ask, but for what the books rest on.</summary>
public class MemberDataTests
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

    /// <summary>A table that names a member or an account and stands neither here nor among those of the team is found.</summary>
    [Fact]
    public async Task Every_table_in_which_members_leave_something_is_known()
    {
        await using var house = await House.Open();
        var named = await Rows(house, """
            select table_name::text from information_schema.columns where table_schema = 'public' and column_name in ('member_id', 'account_id')
            union select conrelid::regclass::text from pg_constraint where confrelid in ('members'::regclass, 'accounts'::regclass) order by 1
            """);
        // The team's own, and what the account takes along by itself.
        string[] elsewhere = ["account_claims", "account_logins", "account_tokens", "deeds", "live_series", "second_steps"];
        Assert.Empty(named.Except(MemberTables.All.Select(t => t.Table)).Except(elsewhere));
        // What a rehearsal leaves behind and what a person leaves behind are the same, but for what is nobody's.
        Assert.Empty(GoLive.Tables.Except(MemberTables.All.Select(t => t.Table)).Except(["members", "people_batches", "promise_moves", "price_moves",
            "promise_versions", "deeds", "doorway_days", "month_beginnings", "receipt_counters", "clock_moves", "refunds"]));
    }

    static async Task<(House House, MemberId Member, string Email)> Lived()
    {
        var house = await House.Open();
        var email = House.NewAddress();
        var member = await house.Join(house.Monthly, email: email);
        await house.Get<TeamNotes, Result>(s => s.Add(house.Owner, member, "Likes heather honey", default));
        await house.Do<TeamTasks>(s => s.Add(house.Owner, member, "Ring up", default));
        await house.Deliver();
        return (house, member, email);
    }

    [Fact]
    public async Task Everything_kept_about_somebody_is_in_the_zip_and_nothing_that_acts_for_them()
    {
        var (house, member, email) = await Lived();
        await using var _ = house;
        var other = (await house.Member(await house.Join(house.Free))).Email;
        var (name, stream) = (await house.Get<MemberData, (string, Stream)?>(s => s.Of(member, default)))!.Value;
        Assert.EndsWith(".zip", name, StringComparison.Ordinal);
        await using var zip = new ZipArchive(stream);
        string Text(string file)
        {
            using var reader = new StreamReader(zip.GetEntry(file)!.Open());
            return reader.ReadToEnd();
        }
        var all = string.Concat(zip.Entries.Select(e => Text(e.FullName)));
        Assert.Contains("Likes heather honey", Text("team-notes.json"), StringComparison.Ordinal);
        foreach (var file in new[] { "payments", "holdings", "holdings-facts", "orders", "letters", "journal", "cards", "ledger", "standing", "team-tasks" })
            Assert.True(JsonDocument.Parse(Text($"{file}.json")).RootElement.GetArrayLength() > 0, file);
        foreach (var e in zip.Entries.Where(e => e.Name.EndsWith(".json", StringComparison.Ordinal))) JsonDocument.Parse(Text(e.FullName));
        Assert.Equal(email, JsonDocument.Parse(Text("you.json")).RootElement[0].GetProperty("email").GetString());
        Assert.DoesNotContain(other, all, StringComparison.Ordinal);
        var token = await house.Ask(db => db.Cards.Where(c => c.MemberId == member).Select(c => c.Token).FirstAsync());
        Assert.DoesNotContain(token, all, StringComparison.Ordinal);
        foreach (var e in zip.Entries.Where(e => e.Name != "README.txt")) Assert.Contains(e.Name, Text("README.txt"), StringComparison.Ordinal);
        Assert.Null(await house.Get<MemberData, (string, Stream)?>(s => s.Of(new(-9), default)));
    }

    [Fact]
    public async Task Who_asks_to_be_deleted_is_found_nowhere_and_the_books_keep_their_numbers()
    {
        var (house, member, email) = await Lived();
        await using var _ = house;
        var name = (await house.Member(member)).Name;
        Task<Result> Forget(TeamActor by, string? typed) => house.Get<ForgetMember, Result>(s => s.Do(by, member, typed, default));
        await Assert.ThrowsAsync<NotAllowedException>(() => Forget(house.Owner with { Role = TeamRole.Support }, email));
        Assert.Contains("still hold something", (await Forget(house.Owner, email)).Refusal, StringComparison.Ordinal);
        var holding = (await house.Holdings(member))[0];
        Assert.True((await house.Get<App.Billing.EndPlan, Result>(s => s.Do(house.Owner, member, holding.Id, default))).Ok);
        Assert.Equal("Typed", (await Forget(house.Owner, "somebody@else.example")).Field);
        var (ledger, payments) = (await house.LedgerSum(), (await house.Payments(member)).Select(p => (p.Id, p.Amount, p.ReceiptNumber)).ToArray());
        Assert.True((await Forget(house.Owner, email.ToUpperInvariant())).Ok);
        Assert.Contains("deleted already", (await Forget(house.Owner, email)).Refusal, StringComparison.Ordinal);

        // Neither name nor address nor what was noted is anywhere in the database.
        var tables = await Rows(house, "select table_name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'");
        foreach (var table in tables)
            foreach (var trace in new[] { email, name, "Likes heather honey" })
                Assert.True((await Rows(house, $"select t::text from \"{table}\" t where t::text ilike '%' || $1 || '%' limit 1", trace)).Count == 0,
                    $"{trace} in {table}");
        Assert.Equal((ledger, payments.Length), (await house.LedgerSum(), (await house.Payments(member)).Count));
        Assert.Equal(payments, (await house.Payments(member)).Select(p => (p.Id, p.Amount, p.ReceiptNumber)));
        Assert.Equal(ForgetMember.Name, (await house.Member(member)).Name);
        // They can come back as somebody new, and nobody corrects, writes to or lets in whoever isn't there.
        Assert.NotEqual(member, await house.Join(house.Free, email: email));
        Assert.False((await house.Get<App.Letters.Mailings, Result<long>>(s => s.NewTo(house.Owner, member, null, default))).Ok);
        Assert.False((await house.Get<WayIn, Result<string>>(s => s.Make(house.Owner, member, default))).Ok);
        // The books are as closed as before.
        await Assert.ThrowsAsync<PostgresException>(() => Rows(house, "delete from journal returning 'gone'"));
    }
}
