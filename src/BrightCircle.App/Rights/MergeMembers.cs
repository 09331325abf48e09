using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>One of the two accounts.</summary>
/// <param name="Payments">How many payments stand to it.</param>
public sealed record MergeSide(Member Member, IReadOnlyList<Holding> Holdings, int Payments, Instant? SeenAt);

/// <param name="Refusal">Why they can't be made one as they are; null where they can.</param>
public sealed record MergeLook(MergeSide Stays, MergeSide Goes, string? Refusal);

/// <summary>
/// Makes two accounts of one person one. Everything that names the account that goes names the one that stays afterwards: what they hold and paid, did and
/// wrote, their letters and journal. Which tables those are, and what may stand in them once only, is asked of the database itself, so that none is missed.
/// </summary>
public sealed class MergeMembers(BrightContext db, Memberships door, Tell tell, Deeds deeds, Catalogue catalogue, IClock clock)
{
    const string Taken = "This person isn’t here any more.";

    /// <summary>Who might be the same person: of the same name, or found by what is typed.</summary>
    /// <returns>The member themselves, null where there is none; and the others.</returns>
    public async Task<(Member? Member, IReadOnlyList<MemberRow> Others)> Others(TeamActor by, MemberId id, string? search, CancellationToken ct)
    {
        by.NeedOwner();
        var those = string.IsNullOrWhiteSpace(search)
            ? db.Members.AsNoTracking().Where(m => m.Name == db.Members.Where(x => x.Id == id).Select(x => x.Name).First())
            : db.Members.AsNoTracking().Where(m => EF.Functions.ILike(m.Name + " " + m.Email, Like.Containing(search), Like.Escape));
        var trip = new OneTrip(db);
        var member = trip.First(db.Members.AsNoTracking().Where(m => m.Id == id));
        var others = trip.List(those.Where(m => m.Id != id && !m.Email.EndsWith(Member.NobodysDomain)).OrderBy(m => m.Name).ThenBy(m => m.Id).Take(12)
            .Select(MemberList.Row));
        await trip.Ask(ct);
        return (member.Value, others.Value);
    }

    public async Task<MergeLook?> Look(TeamActor by, MemberId stays, MemberId goes, CancellationToken ct)
    {
        by.NeedOwner();
        MemberId[] both = [stays, goes];
        var trip = new OneTrip(db);
        var members = trip.List(db.Members.AsNoTracking().Where(m => both.Contains(m.Id)));
        var holdings = trip.List(db.Holdings.AsNoTracking().Where(h => both.Contains(h.MemberId)).Include(h => h.Facts.OrderBy(f => f.Seq)));
        var paid = trip.List(db.Payments.Where(p => both.Contains(p.MemberId)).GroupBy(p => p.MemberId).Select(g => new { g.Key, Count = g.Count() }));
        var seen = trip.List(db.LastSeen.AsNoTracking().Where(s => both.Contains(s.MemberId)));
        await trip.Ask(ct);
        MergeSide? Side(MemberId id) => members.Value.FirstOrDefault(m => m.Id == id) is { } m ? new(m, [.. holdings.Value.Where(h => h.MemberId == id)],
            paid.Value.FirstOrDefault(p => p.Key == id)?.Count ?? 0, seen.Value.FirstOrDefault(s => s.MemberId == id)?.At) : null;
        return Side(stays) is { } one && Side(goes) is { } other
            ? new(one, other, Refuses(new(one.Member, [.. one.Holdings]), new(other.Member, [.. other.Holdings]), clock.GetCurrentInstant())) : null;
    }

    /// <summary>One person holds a plan once, and no tier beside one that takes its place.</summary>
    string? Refuses(Membership stays, Membership goes, Instant at)
    {
        if (stays.Member.Id == goes.Member.Id) return "That is the same account.";
        if (stays.Member.IsForgotten || goes.Member.IsForgotten) return "One of them is deleted.";
        var now = catalogue.Now;
        bool IsOn(Holding h) => h.StateAt(at) != HoldingState.Over;
        foreach (var one in stays.Holdings.Where(IsOn))
            foreach (var other in goes.Holdings.Where(IsOn))
                if (one.PlanId == other.PlanId) return $"Both hold {now.PlanName(one.PlanId)}. End one of the two first.";
                else if (Clash(one, other) || Clash(other, one))
                    return $"One holds {now.PlanName(one.PlanId)}, the other {now.PlanName(other.PlanId)}, and nobody pays for two tiers. End one of them "
                        + "first.";
        return null;
        bool Clash(Holding there, Holding comes) => now.PlanById.GetValueOrDefault(there.PlanId) is { } plan
            && now.PlanById.GetValueOrDefault(comes.PlanId) is { } joined && there.Source == HoldingSource.Bought && comes.Source == HoldingSource.Bought
            && GivesWay.Of(there, plan, joined, comes.Agreement.Terms, at) is not GivesWay.Stays;
    }

    /// <param name="typed">The address of the account that goes, typed by whoever does it.</param>
    public Task<Result> Do(TeamActor by, MemberId stays, MemberId goes, string? typed, CancellationToken ct)
    {
        by.NeedOwner();
        if (stays == goes) return Task.FromResult(Result.Refused("That is the same account."));
        return door.Do([stays, goes], async () =>
        {
            var both = await door.Enter([stays, goes], ct);
            if (both.GetValueOrDefault(stays) is not { } one || both.GetValueOrDefault(goes) is not { } other) return Result.Refused(Taken);
            var at = clock.GetCurrentInstant();
            if (Refuses(one, other, at) is { } refusal) return Result.Refused(refusal);
            var (name, email) = (other.Member.Name, other.Member.Email);
            if (!string.Equals(typed?.Trim(), email, StringComparison.OrdinalIgnoreCase))
                return Result.Refused($"Type the address that goes, {email}, so that it isn’t done by mistake.", "Typed");
            // In a routine they are once; the way through it that goes on is that of the account that stays.
            var going = await db.RoutineRuns.Where(r => r.MemberId == goes && r.EndedAt == null
                && db.RoutineRuns.Any(x => x.MemberId == stays && x.RoutineId == r.RoutineId && x.EndedAt == null)).ToListAsync(ct);
            await db.EndRuns(going, RunEnd.TakenOut, at, ct);
            await db.SaveChangesAsync(ct);
            await Move(goes, stays, ct);
            // What the team did to the one it did to the other: it is found, and forgotten, with them.
            await db.Database.ExecuteSqlAsync($"""
                update deeds set what = replace(what, {name}, {one.Member.Name}), path = replace(path, {PathOf(goes)}, {PathOf(stays)})
                where path = {PathOf(goes)} or path like {PathOf(goes) + "/%"}
                """, ct);
            db.ChangeTracker.Clear();
            var whole = (await door.Enter([stays], ct))[stays];
            tell.Of(whole.Member, new Event.Merged(name, email), at, by);
            deeds.Note(by, $"made two accounts of {whole.Member.Name} one", PathOf(stays));
            await door.Leave([whole], at, ct);
            return Result.Done;
        }, ct);
    }

    static string PathOf(MemberId member) => $"/desk/members/{member.Value}";

    async Task Move(MemberId goes, MemberId stays, CancellationToken ct)
    {
        var (from, to) = (goes.Value, stays.Value);
        await db.Database.ExecuteSqlAsync($"set local bright.merging = 'yes'", ct);
        // Whatever somebody else writes of them just now waits, and finds one account only.
        await db.Database.ExecuteSqlAsync($"select 1 from members where id in ({from}, {to}) order by id for update", ct);
        await db.Database.ExecuteSqlAsync($"""
            -- What both did adds up: opened first, finished first, seen last, listened furthest; notes stand under one another, tries are counted on.
            update openings k set first_at = least(k.first_at, g.first_at), last_at = greatest(k.last_at, g.last_at), done_at = least(k.done_at, g.done_at)
              from openings g where k.member_id = {to} and g.member_id = {from} and g.lesson_id = k.lesson_id;
            update played k set position = g.position, share = greatest(k.share, g.share), at = g.at
              from played g where k.member_id = {to} and g.member_id = {from} and g.block_id = k.block_id and g.at > k.at;
            update last_seen k set at = g.at from last_seen g where k.member_id = {to} and g.member_id = {from} and g.at > k.at;
            update notes k set text = k.text || E'\n\n' || g.text from notes g where k.member_id = {to} and g.member_id = {from} and g.lesson_id = k.lesson_id;
            update sheet_tries g set number = g.number + (select max(k.number) from sheet_tries k where k.member_id = {to} and k.block_id = g.block_id)
              where g.member_id = {from} and exists (select 1 from sheet_tries k where k.member_id = {to} and k.block_id = g.block_id);
            -- Who was a member first keeps their history of standings: the same person didn't join twice.
            with first as (select member_id, min(at) as at from standing_changes where member_id in ({from}, {to}) and "to" <> 'Guest' group by 1),
            older as (select coalesce((select member_id from first order by at, member_id <> {to} limit 1), {to}) as id),
            gone as (delete from standing_changes where member_id in ({from}, {to}) and member_id <> (select id from older))
            update members m set standing = o.standing, standing_plan_id = o.standing_plan_id, standing_since = o.standing_since
              from members o where m.id = {to} and o.id = (select id from older);
            update members m set joined_at = least(m.joined_at, o.joined_at), zone_id = coalesce(m.zone_id, o.zone_id), reads = coalesce(m.reads, o.reads),
              phone = coalesce(nullif(m.phone, ''), o.phone), postal_address = coalesce(nullif(m.postal_address, ''), o.postal_address),
              billing_address = coalesce(nullif(m.billing_address, ''), o.billing_address)
              from members o where m.id = {to} and o.id = {from};
            update due_work set subject_id = {to} where subject_id = {from} and kind = 'RoutineHears';
            -- One person less: how the tiers stood is counted anew.
            delete from month_beginnings;
            """, ct);
#pragma warning disable EF1002 // Two numbers, and names that the database itself gives.
        // What may stand once only stays as it is with the account that stays; everything else changes its owner.
        await db.Database.ExecuteSqlRawAsync($$"""
            do $do$
            declare c record; u record;
            begin
              for c in
                select f.conrelid::regclass as t, a.attname as col from pg_constraint f
                join pg_attribute a on a.attrelid = f.conrelid and a.attnum = f.conkey[1]
                where f.contype = 'f' and array_length(f.conkey, 1) = 1
                  and (f.confrelid = 'members'::regclass
                    or f.confrelid = 'accounts'::regclass and f.conrelid::regclass::text in ('lesson_questions', 'uploads',
                      'talk_posts', 'talk_pictures', 'talk_nods', 'talk_seen', 'space_seen', 'talk_reports', 'talk_bars', 'talk_follows', 'space_tellings',
                          'talk_drafts', 'talk_votes', 'person_cards', 'messages'))
              loop
                for u in
                  select coalesce(pg_get_expr(i.indpred, i.indrelid), 'true') as pred,
                    coalesce((select string_agg(format('k.%1$I is not distinct from g.%1$I', a.attname), ' and ') from pg_attribute a
                      where a.attrelid = i.indrelid and a.attnum = any(i.indkey) and a.attname <> c.col), 'true') as same
                  from pg_index i where i.indrelid = c.t and i.indisunique
                    and exists (select 1 from pg_attribute a where a.attrelid = i.indrelid and a.attnum = any(i.indkey) and a.attname = c.col)
                loop
                  execute format('delete from %1$s g where g.%2$I = $1 and g.ctid in (select ctid from %1$s where %2$I = $1 and %3$s) '
                    || 'and exists (select 1 from (select * from %1$s where %2$I = $2 and %3$s) k where %4$s)', c.t, c.col, u.pred, u.same)
                    using {{from}}::bigint, {{to}}::bigint;
                end loop;
                execute format('update %s set %I = $2 where %2$I = $1', c.t, c.col) using {{from}}::bigint, {{to}}::bigint;
              end loop;
            end $do$
            """, ct);
#pragma warning restore EF1002
        // The counts of standings are kept as members come and change; that one goes is told here.
        await db.Database.ExecuteSqlAsync($"""
            delete from accounts where id = {from};
            with gone as (delete from members where id = {from} returning standing)
            update standing_counts c set members = c.members - 1 from gone where c.standing = gone.standing;
            """, ct);
    }
}
