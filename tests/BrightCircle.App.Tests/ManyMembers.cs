using BrightCircle.Core;
using BrightCircle.Core.Offer;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Tests;

public static class ManyMembers
{
    /// <summary>Many memberships that fall due together, written straight into the tables: what is tested is the run, not the joining.</summary>
    public static async Task<Instant> Add(House house, int count)
    {
        var start = house.Now.Calendar.At(new(2026, 11, 24, 8, 0));
        var next = house.Now.Calendar.At(new(2026, 12, 24, 8, 0));
        await house.Join(house.Monthly);
        var token = await house.Ask(db => db.Cards.Select(c => c.Token).FirstAsync());
        var agreement = System.Text.Json.JsonSerializer.Serialize(
            new Agreement(house.Now.PriceById[house.Monthly].Terms, false, start, house.Now.Calendar.Zone.Id), CoreJson.Options);
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            with people as (select nextval('ids') as id, nextval('ids') as holding, nextval('ids') as card, nextval('ids') as due, n from generate_series(1,
                {count}) n),
            m as (insert into members (id, name, email, joined_at, wants_news, standing, standing_plan_id, standing_since) select id, 'Member ' || n, 'many'
                || id || '@post.example', {start}, true, 'Active', {house.Keeper.Value}, {start} from people),
            h as (insert into holdings (id, member_id, plan_id, price_id, source, starts_at, agreement, is_over) select holding, id, {house.Keeper.Value},
                {house.Monthly.Value}, 'Bought', {start}, {agreement}::jsonb, false from people),
            f as (insert into holding_facts (holding_id, seq, kind, at, "from", "to") select holding, 1, 'Paid', {start}, {start}, {next} from people),
            c as (insert into cards (id, member_id, token, label, added_at) select card, id, {token}, '•••• 0000', {start} from people)
            insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, tries) select due, 'Renew', holding, 1, 1, {next}, {next},
                'renew-' || holding || '-1-1', 0 from people
            """));
        return next + Duration.FromMinutes(1);
    }

    /// <summary>Members of the free tier who can sign in, numbered from <paramref name="first"/> on; the first is reader@site.example, the others
    /// r2@site.example
    /// and so on.</summary>
    /// <param name="password">As it is kept.</param>
    public static async Task WithAccounts(House house, int count, long first, string password)
    {
        var at = house.Clock.Moment;
        var since = at - Duration.FromDays(20);
        var agreement = System.Text.Json.JsonSerializer.Serialize(
            new Agreement(house.Now.PriceById[house.Free].Terms, false, since, house.Now.Calendar.Zone.Id), CoreJson.Options);
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            with people as (select {first} + n - 1 as id, case when n = 1 then 'reader' else 'r' || n end || '@site.example' as email, 'Reader ' || n as name
                from generate_series(1, {count}) n),
            a as (insert into accounts (id, name, email, normalized_email, user_name, normalized_user_name, password_hash, security_stamp,
                email_confirmed, phone_number_confirmed, two_factor_enabled, lockout_enabled, access_failed_count, feeds_version)
                select id, name, email, upper(email), email, upper(email), {password}, 'x', true, false, false, false, 0, 0 from people),
            m as (insert into members (id, name, email, joined_at, wants_news, standing, standing_plan_id, standing_since) select id, name, email, {at}, true,
                'Active', {house.Keeper.Value}, {at} from people),
            h as (insert into holdings (id, member_id, plan_id, price_id, source, starts_at, agreement, is_over) select id + 100000000, id,
                {house.Keeper.Value}, {house.Free.Value}, 'Bought', {since}, {agreement}::jsonb, false from people)
            insert into holding_facts (holding_id, seq, kind, at, "from") select id + 100000000, 1, 'Given', {since}, {since} from people
            """));
    }
}
