using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Running;

/// <summary>What goes when a site goes live.</summary>
/// <param name="Back">What had been released in a time that hasn't come yet, and is planned again.</param>
/// <param name="Checks">What is better done before.</param>
public sealed record LeavesWithTrial(int People, int Holdings, int Payments, Money Received, int Letters, int Done, int Back, Duration ClockAhead,
    IReadOnlyList<LiveCheck> Checks);

/// <summary>Something that is better done before a site goes live.</summary>
/// <param name="Says">What it is about, in a sentence.</param>
/// <param name="Link">Where it is done.</param>
public sealed record LiveCheck(bool Done, string Title, string Says, string Link);

/// <summary>
/// A site of one's own leaves its trial state: the people, orders and letters of the rehearsal go, with all they did; what was made (shelves, pieces, editions,
/// plans, prices, settings, the team) stays. The clock goes back to real time, and what was released in a time that hasn't come yet is planned again.
/// </summary>
public sealed class GoLive(BrightContext db, Ids ids, NpgsqlDataSource source, Catalogue catalogue, HouseClock clock, IWallClock wall, Wake wake)
{
    /// <summary>What members leave behind, children before parents. A table that is missing here is found by a test.</summary>
    public static IReadOnlyList<string> Tables { get; } =
    [
        "charge_asks", "payments_to_look_at", "disputes", "refunds", "ledger", "holding_facts", "coupon_uses", "checkout_sessions", "payments",
            "group_seats", "people_batches",
            "checkouts", "holdings",
            "cards", "opened_links", "letters", "series_refusals", "team_tasks", "outgoing_calls", "routine_done", "routine_runs", "journal",
            "standing_changes", "month_beginnings",
        "talk_reports", "talk_bars", "talk_follows", "talk_drafts", "talk_votes", "person_cards", "space_tellings", "messages", "dialogues",
            "exchange_messages", "exchange_people", "exchanges", "push_notices", "push_devices",
        "talk_nods", "talk_seen", "space_seen", "talk_pictures", "talk_posts", "talk_threads", "session_questions", "session_people", "hour_bookings",
            "bookmarks", "notes", "form_entries",
            "sheet_drafts", "sheet_tries", "played",
            "openings", "lesson_questions", "piece_places", "tally_marks",
            "cohort_members", "member_tags", "own_field_values", "team_notes", "first_steps", "last_seen",
            "promise_moves", "price_moves", "promise_versions", "deeds", "doorway_days", "receipt_counters", "clock_moves", "members",
    ];

    public async Task<LeavesWithTrial> Look(CancellationToken ct)
    {
        var at = wall.Moment;
        await using var command = source.CreateCommand("""
            select (select count(*) from members)::int, (select count(*) from holdings)::int, (select count(*) from payments)::int,
              (select coalesce(sum(amount_minor), 0)::bigint from payments where outcome = 'Approved'), (select count(*) from letters)::int,
              (select count(*) from openings)::int + (select count(*) from sheet_tries)::int + (select count(*) from form_entries)::int + (select count(*)
                  from lesson_questions)::int,
              (select count(*) from pieces where released_at > $1)::int + (select count(*) from editions where released_at > $1)::int,
              (select count(*) from checkouts where purpose = 'Join' and state = 'Completed' and refused_because is null)::int,
              (select count(*) from journal where kind = 'signed-in')::int, (select count(*) from openings)::int,
              (select count(*) from journal where kind in ('left', 'refunded'))::int,
              (select count(*) from letters where state = 'Refused' and set_aside_at is null)::int
            """);
        command.Parameters.Add(new() { Value = at });
        await using var r = await command.ExecuteReaderAsync(ct);
        await r.ReadAsync(ct);
        return new(r.GetInt32(0), r.GetInt32(1), r.GetInt32(2), new(r.GetInt64(3), catalogue.Now.Currency), r.GetInt32(4), r.GetInt32(5), r.GetInt32(6),
            clock.Ahead, Checks(r.GetInt32(7), r.GetInt32(8), r.GetInt32(9), r.GetInt32(10), r.GetInt32(11)));
    }

    /// <summary>What an owner would be glad to have seen to: each is looked up, never ticked by hand.</summary>
    List<LiveCheck> Checks(int orders, int signedIn, int opened, int left, int refused)
    {
        var now = catalogue.Now;
        var site = now.Site!;
        var offered = now.Plans.SelectMany(now.PricesOnOffer).ToArray();
        var alone = now.ForNobody.Count(p => p.State == PieceState.Released);
        return
        [
            new(site.BusinessName.Length > 0 && site.BusinessAddress.Length > 0, "Who sells", "Your business’s name and address stand on every receipt.",
                "/desk/settings"),
            new(site.HelpAddress.Length > 0, "Where people ask", $"{(site.HelpAddress.Length > 0 ? site.HelpAddress : "No address")} stands in every letter.",
                "/desk/settings"),
            new(refused == 0, "Letters arrive", refused == 0 ? "No letter of the rehearsal came back." : $"{refused} letters of the rehearsal came back.",
                "/desk/letters?waiting=true"),
            new(offered.Length > 0, "Something to buy", offered.Length == 0 ? "No price is on offer yet."
                : $"{offered.Length} {(offered.Length == 1 ? "price is" :
                "prices are")} on offer.", "/desk/tiers"),
            new(offered.All(p => !p.Terms.NeedsCard) || site.Ways.Count > 0, "A way to pay it", string.Join(", ", site.Ways.Select(w => w.Name)) + ".",
                "/desk/settings/money"),
            new(ReviewTerms(now), "Terms of sale", "Buyers agree to a page of your own; its version is kept with their order.", "/desk/settings/money"),
            new(now.Pieces.Any(p => p.State == PieceState.Released), "Something to read", "What members find on their first day.", "/desk/shelves"),
            new(alone == 0, "Open doors", alone == 0 ? "Everything that is out is promised by a tier or pass."
                : $"{alone} of what is out is promised to nobody.",
                "/desk/doors"),
            new(orders > 0, "Joined as a stranger", "In a private window: from the front to the thank-you page.", "/tiers"),
            new(signedIn > 0, "Came in by letter", "The welcome letter’s button signs in.", "/desk/letters"),
            new(opened > 0, "Read something", "As whoever joined: open a lesson, and the doorway of one that isn’t theirs.", "/desk/look"),
            new(left > 0, "Left, or gave money back", "The other buttons work too: leave as a member, or refund a payment.", "/desk/payments"),
        ];
    }

    static bool ReviewTerms(CatalogueSnapshot now) =>
        now.Site!.TermsPageId is { } id && now.Pages.Any(p => p.Id == id && p.IsPublic);

    public async Task<Result> Do(TeamActor by, string? siteName, CancellationToken ct)
    {
        by.NeedOwner();
        if (catalogue.Now.Site is not { IsTrial: true } site) return Result.Refused("This site is live already.");
        if (!string.Equals(siteName?.Trim(), site.Name, StringComparison.CurrentCultureIgnoreCase))
            return Result.Refused($"Type the site’s name, {site.Name}, so that nothing goes by mistake.", "SiteName");
        if (clock.IsStanding) return Result.Refused("The clock is being moved. Wait until it has got there.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // Nobody joins, pays or is charged meanwhile.
        await db.Database.ExecuteSqlAsync($"lock table members, due_work in access exclusive mode", ct);
        await db.Database.ExecuteSqlAsync($"set local bright.going_live = 'yes'", ct);
        await db.Database.ExecuteSqlAsync($"delete from key_links where order_id is not null", ct);
#pragma warning disable EF1002 // The names stand above.
        foreach (var table in Tables) await db.Database.ExecuteSqlRawAsync($"delete from {table}", ct);
#pragma warning restore EF1002
        // A letter to many that went to the trial's people goes with them; one that was planned is a draft again.
        await db.Database.ExecuteSqlAsync($"delete from mailings where begun_at is not null", ct);
        await db.Database.ExecuteSqlAsync($"update mailings set send_at = null, where_they_live = false", ct);
        await db.Database.ExecuteSqlAsync($"delete from accounts where role is null", ct);
        await db.Database.ExecuteSqlAsync($"update standing_counts set members = 0", ct);
        await db.Database.ExecuteSqlAsync($"""
            delete from due_work where kind not in ('SessionNear', 'Release', 'ReleasePiece', 'Announce', 'Purge', 'Reindex')
            """, ct);
        var now = wall.Moment;
        await PlanAgain(now, ct);
        // The mornings of the rehearsal went with it; they go on in real time.
        if (site.OwnerLetters.HasDaily) await OwnerMorning.PutNext(db, ids, catalogue.Now.Calendar, now, ct);
        // Routines that are on begin with what happens from now on.
        await db.Database.ExecuteSqlAsync($"update routines set on_since = {now} where on_since is not null", ct);
        if (catalogue.Now.People.Routines.Any(r => r is { IsOn: true, Script.When: Core.Routines.Trigger.OfDays }))
            await RoutineDawn.PutNext(db, ids, catalogue.Now.Calendar, now, ct);
        await db.Sites.ExecuteUpdateAsync(u => u.SetProperty(s => s.IsTrial, false).SetProperty(s => s.ClockAheadMs, 0L), ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        clock.SetAhead(Duration.Zero);
        await catalogue.Changed(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>What the rehearsal released ahead of time comes out when its time comes.</summary>
    async Task PlanAgain(Instant now, CancellationToken ct)
    {
        foreach (var e in await db.Editions.Where(e => e.ReleasedAt > now).ToListAsync(ct))
        {
            db.PutDue(ids, DueKind.Release, e.Id.Value, e.ReleaseAt, $"release-{e.Id.Value}-{ids.Next()}");
            db.Entry(e).Property(x => x.ReleasedAt).CurrentValue = null;
            db.Entry(e).Property(x => x.AnnouncedAt).CurrentValue = null;
        }
        foreach (var p in await db.Pieces.Where(p => p.ReleasedAt > now).ToListAsync(ct))
        {
            if (p.EditionId is null) db.PutDue(ids, DueKind.ReleasePiece, p.Id.Value, p.OpensAt ?? p.ReleasedAt!.Value,
                $"release-piece-{p.Id.Value}-{ids.Next()}");
            db.Entry(p).Property(x => x.OpensAt).CurrentValue ??= p.EditionId is null ? p.ReleasedAt : null;
            db.Entry(p).Property(x => x.ReleasedAt).CurrentValue = null;
        }
        foreach (var l in await db.Lessons.Where(l => l.ReleasedAt > now).ToListAsync(ct)) db.Entry(l).Property(x => x.ReleasedAt).CurrentValue = null;
    }
}
