using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>A tag with how many bear it.</summary>
public sealed record TagRow(Tag Tag, int Members);

/// <summary>Words that members bear: put on and taken off by hand, or following a condition by themselves.</summary>
public sealed class MemberTags(BrightContext db, Ids ids, Catalogue catalogue, ConditionSql sql, Tell tell, IClock clock)
{
    /// <param name="also">What else is asked on the same trip.</param>
    public async Task<IReadOnlyList<TagRow>> All(CancellationToken ct, Action<OneTrip>? also = null)
    {
        var tags = catalogue.Now.Tags;
        var trip = new OneTrip(db);
        var put = trip.List(db.MemberTags.GroupBy(t => t.TagId).Select(g => new { g.Key, Count = g.Count() }));
        var following = tags.Where(t => t.Follows is not null).Select(t => (t.Id, Count: trip.Count(sql.Members(t.Follows!)))).ToArray();
        also?.Invoke(trip);
        await trip.Ask(ct);
        var byHand = put.Value.ToDictionary(p => p.Key, p => p.Count);
        var byThemselves = following.ToDictionary(f => f.Id, f => f.Count.Value);
        return [.. tags.Select(t => new TagRow(t, t.IsByItself ? byThemselves[t.Id] : byHand.GetValueOrDefault(t.Id)))];
    }

    /// <param name="id">Null for a new one.</param>
    /// <param name="follows">Null for one that is put on by hand.</param>
    /// <param name="badge">Members see it beside the name of whoever bears it.</param>
    public async Task<Result<TagId>> Save(TeamActor by, TagId? id, string? name, string? group, int colour, Condition? follows, CancellationToken ct,
        bool badge = false)
    {
        NeedRole(by);
        (name, group) = (name?.Trim() ?? "", group?.Trim() ?? "");
        if (name.Length is 0 or > Tag.MostName) return Result.Refused($"A tag needs a name of {Tag.MostName} letters at most.", "Name");
        if (name.Contains(',', StringComparison.Ordinal)) return Result.Refused("A tag’s name has no comma: commas stand between tags.", "Name");
        if (group.Length > Tag.MostGroup) return Result.Refused($"The group is {Tag.MostGroup} letters at most.", "Group");
        if (colour is < 1 or > 8) return Result.Refused("Choose one of the eight colours.", "Colour");
        if (follows is not null && ConditionRules.WrongWith(follows, catalogue.Now, byItself: true) is { } wrong) return Result.Refused(wrong, "Condition");
        if (!badge && id is { } borne && catalogue.Now.Community.Challenges.FirstOrDefault(c => c.BadgeId == borne) is { } gives)
            return Result.Refused($"{gives.Name} gives it to whoever reaches every aim, as a badge.", "Badge");
        if (badge && follows is not null)
            return Result.Refused("Members see what is put on, by hand or by a routine. What follows a condition comes and goes by itself.", "Badge");
        var tag = id is { } known ? await db.Tags.FirstOrDefaultAsync(t => t.Id == known, ct) : db.Add(new Tag { Id = ids.Next<TagId>() }).Entity;
        if (tag is null) return Result.Refused("This tag isn’t here any more.");
        if (follows is not null && !tag.IsByItself && id is not null)
        {
            if (await db.MemberTags.AnyAsync(t => t.TagId == tag.Id, ct))
                return Result.Refused("Members bear it because it was put on. Make another tag for those who fit a condition.", "Condition");
            if (UsesOf(tag.Id).FirstOrDefault(u => u.ByItself) is { } use)
                return Result.Refused($"{use.Name} rests on this tag, and follows a condition itself.", "Condition");
        }
        (tag.Name, tag.Group, tag.Colour, tag.Follows, tag.IsBadge) = (name, group, colour, follows, badge);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a tag called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return tag.Id;
    }

    /// <summary>Takes a tag from everybody, and away.</summary>
    public async Task<Result> Remove(TeamActor by, TagId id, CancellationToken ct)
    {
        NeedRole(by);
        if (UsesOf(id).FirstOrDefault() is { } use) return Result.Refused($"{use.Name} rests on this tag. Change that first.");
        if (await db.Tags.Where(t => t.Id == id).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This tag isn’t here any more.");
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>The audiences and tags whose condition names a tag.</summary>
    public IReadOnlyList<(string Name, bool ByItself)> Uses(TagId id) => [.. UsesOf(id).Select(u => (u.Name, u.ByItself))];

    sealed record Use(string Name, bool ByItself);
    IEnumerable<Use> UsesOf(TagId id)
    {
        bool Names(Condition? c) => c?.Parts().Any(p => p is Condition.Tagged t && t.Tag == id) == true;
        return catalogue.Now.Audiences.Where(a => Names(a.Condition)).Select(a => new Use($"The audience {a.Name}", false))
            .Concat(catalogue.Now.Tags.Where(t => Names(t.Follows)).Select(t => new Use($"The tag {t.Name}", true)))
            .Concat(catalogue.Now.People.Routines.Where(r => r.Script.Names(id)).Select(r => new Use($"The routine {r.Name}", false)))
            .Concat(catalogue.Now.Community.Challenges.Where(c => c.BadgeId == id).Select(c => new Use($"The challenge {c.Name}", false)));
    }

    /// <summary>Puts tags on a member by their names; those that don't exist yet are made on the spot.</summary>
    public async Task<Result> PutOn(TeamActor by, MemberId member, string? names, CancellationToken ct)
    {
        NeedRole(by);
        var wanted = (names ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.CurrentCultureIgnoreCase).ToArray();
        if (wanted.Length is 0 or > 20) return Result.Refused(wanted.Length == 0 ? "Type a tag." : "Twenty tags at a time are the most.", "Tags");
        var put = new List<Tag>();
        foreach (var name in wanted)
        {
            var tag = catalogue.Now.Tags.FirstOrDefault(t => string.Equals(t.Name, name, StringComparison.CurrentCultureIgnoreCase));
            if (tag is null)
            {
                var made = await Save(by, null, name, null, 1 + catalogue.Now.Tags.Count % 8, null, ct);
                if (!made.Ok) return Result.Refused(made.Refusal!, "Tags");
                tag = catalogue.Now.TagById[made.Value];
            }
            if (tag.IsByItself) return Result.Refused($"{tag.Name} follows a condition: whoever fits it bears it.", "Tags");
            put.Add(tag);
        }
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { } person) return Result.Refused("This person isn’t here any more.");
        var has = await db.MemberTags.Where(t => t.MemberId == member).Select(t => t.TagId).ToListAsync(ct);
        foreach (var tag in put.Where(t => !has.Contains(t.Id)))
        {
            var at = clock.GetCurrentInstant();
            db.Add(new MemberTag { MemberId = member, TagId = tag.Id, At = at, By = by.Name });
            tell.Of(person, new Event.TagPutOn(tag.Id, tag.Name), at, by);
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    public async Task<Result> TakeOff(TeamActor by, MemberId member, TagId id, CancellationToken ct)
    {
        NeedRole(by);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { } person) return Result.Refused("This person isn’t here any more.");
        if (await db.MemberTags.Where(t => t.MemberId == member && t.TagId == id).ExecuteDeleteAsync(ct) == 0)
            return Result.Refused("They don’t bear this tag any more.");
        tell.Of(person, new Event.TagTakenOff(id, catalogue.Now.TagById.GetValueOrDefault(id)?.Name ?? ""), clock.GetCurrentInstant(), by);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>On how many it was put.</summary>
    public Task<int> Bearers(TagId id, CancellationToken ct) => db.MemberTags.CountAsync(t => t.TagId == id, ct);

    /// <summary>How many of a list bear a tag, and how many don't.</summary>
    public async Task<(int With, int Without)> Among(IQueryable<Member> members, TagId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var with = trip.Count(members.Where(sql.Of(new Condition.Tagged(id))));
        var all = trip.Count(members);
        await trip.Ask(ct);
        return (with.Value, all.Value - with.Value);
    }

    /// <summary>Puts a tag on all of a list that don't bear it, or takes it off all that do.</summary>
    /// <returns>How many it changed.</returns>
    public async Task<Result<int>> OnMany(TeamActor by, IQueryable<Member> members, TagId id, bool on, CancellationToken ct)
    {
        NeedRole(by);
        if (!catalogue.Now.TagById.TryGetValue(id, out var tag)) return Result.Refused("Choose a tag.", "Tag");
        if (tag.IsByItself) return Result.Refused($"{tag.Name} follows a condition: whoever fits it bears it.", "Tag");
        var bears = sql.Of(new Condition.Tagged(id));
        var whom = on ? members.Where(sql.Of(new Condition.Not(new Condition.Tagged(id)))) : members.Where(bears);
        var at = clock.GetCurrentInstant();
        Event happened = on ? new Event.TagPutOn(id, tag.Name) : new Event.TagTakenOff(id, tag.Name);
        var json = System.Text.Json.JsonSerializer.Serialize(happened, CoreJson.Options);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var those = (await whom.OrderBy(m => m.Id).Select(m => m.Id).ToListAsync(ct)).Select(m => m.Value).ToArray();
        // Whoever was changed meanwhile by somebody else isn't changed, or written down, a second time.
        var changed = on
            ? await db.Database.SqlQuery<long>($"""
                insert into member_tags (member_id, tag_id, at, by) select unnest({those}), {id.Value}, {at}, {by.Name}
                on conflict do nothing returning member_id as "Value"
                """).ToListAsync(ct)
            : await db.Database.SqlQuery<long>($"""
                delete from member_tags where tag_id = {id.Value} and member_id = any({those}) returning member_id as "Value"
                """).ToListAsync(ct);
        var numbers = changed.Select(_ => ids.Next()).ToArray();
        var changedIds = changed.ToArray();
        await db.Database.ExecuteSqlAsync($"""
            insert into journal (id, member_id, at, kind, event, by)
            select t.id, t.member, {at}, {happened.Kind}, {json}::jsonb, {by.Name} from unnest({numbers}, {changedIds}) t(id, member) order by t.member
            """, ct);
        await transaction.CommitAsync(ct);
        return changed.Count;
    }

    static void NeedRole(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
}
