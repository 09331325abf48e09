using BrightCircle.App.Tests;
using BrightCircle.Data;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Bench;

/// <summary>A member's home beside a thousand others, and beside a hundred thousand.</summary>
public static partial class BenchMain
{
    static async Task Members()
    {
        await using var house = await House.Open();
        const string email = "reader@site.example", password = "hive-tool-and-tea";
        await house.Join(house.Monthly, email: email);
        await house.Do<UserManager<Account>>(async users => await users.AddPasswordAsync((await users.FindByEmailAsync(email))!, password));
        await using var app = new BenchApp(house.Database);
        using var reader = await SignedIn(app, email, password);
        var (few, there) = (0.0, 1);
        foreach (var many in new[] { 1_000, 100_000 })
        {
            await ManyMembers.Add(house, many - there);
            there = many;
            await house.Ask(db => db.Database.ExecuteSqlRawAsync("vacuum analyze"));
            var (p50, p99, trips) = await Times(reader, "/me");
            Row($"a member's home beside {many:N0} others", $"p50 {p50:0.0} ms, p99 {p99:0.0} ms, {trips} round trips", few > 0 ? $"1,000: {few:0.0} ms" : "",
                few > 0 ? $"{p50 / few:0.00}" : "", few > 0 ? "< 1.20" : "");
            few = p50;
        }
    }
}
