using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace BrightCircle.App.Tests;

public partial class SchemaTests
{
    /// <summary>A second index on the same column silently takes the place of the first unless both are told apart; then a queue is found by reading
    /// everything that ever stood in it.</summary>
    [Fact]
    public async Task Every_index_a_mapping_names_is_in_the_database()
    {
        await using var house = await House.Open();
        var there = await house.Ask(db => db.Database.SqlQuery<string>($"select indexname as \"Value\" from pg_indexes where schemaname = 'public'")
            .ToHashSetAsync());
        var named = Directory.EnumerateFiles(Path.Combine(TestServers.Root, "src/BrightCircle.Data"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/Migrations/", StringComparison.Ordinal) && !f.Contains("/obj/", StringComparison.Ordinal))
            .SelectMany(f => IndexName().Matches(File.ReadAllText(f))).Select(m => m.Groups[1].Value).ToArray();
        Assert.NotEmpty(named);
        Assert.Empty(named.Except(there));
    }

    /// <summary>Among very many letters that are sent, the few that wait are found by their own index.</summary>
    [Fact]
    public async Task What_waits_to_be_sent_is_found_without_reading_what_was_sent()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Monthly);
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            insert into letters (id, kind, key, member_id, to_address, to_name, state, created_at, fields, tries)
            select nextval('ids'), l.kind, 'many-' || n, l.member_id, l.to_address, l.to_name, 'Sent', l.created_at, l.fields, 0
            from generate_series(1, 5000) n, (select * from letters where member_id = {member.Value} limit 1) l
            """));
        await house.Ask(db => db.Database.ExecuteSqlAsync($"analyze letters"));
        var plan = await house.Ask(db => db.Database.SqlQuery<string>(
            $"""
            explain select * from letters l where state = 'Queued' and (not_before is null or not_before <= now()) order by id limit 50 for update skip locked
            """).ToListAsync());
        Assert.Contains(plan, l => l.Contains("ix_letters_queued", StringComparison.Ordinal));
    }

    [GeneratedRegex("""HasDatabaseName\("([^"]+)"\)""")]
    private static partial Regex IndexName();
}
