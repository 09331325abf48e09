using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>What was typed into one of the owner's own fields, understood.</summary>
public readonly record struct OwnFieldText(string Text, decimal? Number, LocalDate? Date);

/// <summary>How many members have something in a field.</summary>
public sealed record FieldFilled(OwnFieldId Field, int Members);

/// <summary>A field of the owner's own as the form has it.</summary>
public sealed record OwnFieldDraft(string? Name, OwnFieldKind Kind, string? Choices, bool AskedAtJoining, bool ByMembers, bool OnCards = false);

/// <summary>What the owner wants to know of members that the house has no place for.</summary>
public sealed class OwnFields(BrightContext db, Ids ids, Catalogue catalogue, Tell tell, IClock clock)
{
    /// <summary>Reads what was typed, by the field's kind and the site's way of writing.</summary>
    public static Result<OwnFieldText> Read(OwnField field, string? typed, CultureInfo culture)
    {
        var text = typed?.Trim() ?? "";
        if (text.Length == 0) return new OwnFieldText("", null, null);
        var name = $"own-{field.Id.Value}";
        if (text.Length > OwnField.MostText) return Result.Refused($"{field.Name} takes {OwnField.MostText} letters at most.", name);
        switch (field.Kind)
        {
            case OwnFieldKind.Text:
                return new OwnFieldText(text, null, null);
            case OwnFieldKind.Choice:
                return field.Choices.FirstOrDefault(c => string.Equals(c, text, StringComparison.CurrentCultureIgnoreCase)) is { } choice
                    ? new OwnFieldText(choice, null, null) : Result.Refused($"{field.Name} is one of: {string.Join(", ", field.Choices)}.", name);
            case OwnFieldKind.Number:
                return decimal.TryParse(text, NumberStyles.Number, culture, out var n) && Math.Abs(n) < 1_000_000_000_000m && decimal.Round(n, 4) == n
                    ? new OwnFieldText(n.ToString("0.####", culture), n, null)
                    : Result.Refused($"{field.Name} is a number, with four places behind the point at most.", name);
            case OwnFieldKind.Date:
                return TypedDay.Read(text, TypedDay.OrderOf(culture)) is { } day
                    ? new OwnFieldText(day.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture), null, day)
                    : Result.Refused($"{field.Name} is a day, like 2026-03-31 or 31 March 2026.", name);
            default:
                throw new InvalidOperationException($"No such kind: {field.Kind}");
        }
    }

    /// <param name="id">Null for a new one.</param>
    public async Task<Result<OwnFieldId>> Save(TeamActor by, OwnFieldId? id, OwnFieldDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var name = draft.Name?.Trim() ?? "";
        if (name.Length is 0 or > OwnField.MostName) return Result.Refused($"A field needs a name of {OwnField.MostName} letters at most.", "Name");
        var field = id is { } known ? await db.OwnFields.FirstOrDefaultAsync(f => f.Id == known, ct)
            : db.Add(new OwnField
            {
                Id = ids.Next<OwnFieldId>(),
                Kind = draft.Kind,
                Order = catalogue.Now.OwnFields.Count == 0 ? 1
                : catalogue.Now.OwnFields.Max(f => f.Order) + 1
            }).Entity;
        if (field is null) return Result.Refused("This field isn’t here any more.");
        var choices = field.Kind != OwnFieldKind.Choice ? [] : (draft.Choices ?? "").Split('\n', StringSplitOptions.TrimEntries
            | StringSplitOptions.RemoveEmptyEntries).Distinct(StringComparer.CurrentCultureIgnoreCase).ToArray();
        if (field.Kind == OwnFieldKind.Choice && choices.Length is < 2 or > OwnField.MostChoices)
            return Result.Refused($"Give what can be chosen, a line each: two at least, {OwnField.MostChoices} at most.", "Choices");
        if (choices.Any(c => c.Length > 120)) return Result.Refused("What can be chosen is 120 letters at most.", "Choices");
        (field.Name, field.Choices, field.AskedAtJoining, field.ByMembers, field.OnCards) =
            (name, choices, draft.AskedAtJoining, draft.ByMembers, draft.OnCards);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a field called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return field.Id;
    }

    /// <summary>Takes a field away, with what stands in it.</summary>
    public async Task<Result> Remove(TeamActor by, OwnFieldId id, CancellationToken ct)
    {
        by.NeedOwner();
        bool Names(Condition? c) => c?.Parts().Any(p => p is Condition.Field f && f.OwnField == id) == true;
        var now = catalogue.Now;
        if (now.Audiences.FirstOrDefault(a => Names(a.Condition)) is { } audience)
            return Result.Refused($"The audience {audience.Name} rests on this field. Change that first.");
        if (now.Tags.FirstOrDefault(t => Names(t.Follows)) is { } tag) return Result.Refused($"The tag {tag.Name} rests on this field. Change that first.");
        if (now.People.Routines.FirstOrDefault(r => r.Script.Names(id)) is { } routine)
            return Result.Refused($"The routine “{routine.Name}” rests on this field. Change that first.");
        if (await db.OwnFields.Where(f => f.Id == id).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This field isn’t here any more.");
        await catalogue.Changed(ct);
        return Result.Done;
    }

    public Task<Dictionary<OwnFieldId, string>> Of(MemberId member, CancellationToken ct) =>
        db.OwnFieldValues.Where(v => v.MemberId == member).ToDictionaryAsync(v => v.FieldId, v => v.Text, ct);

    /// <summary>A member with what stands in their fields; null where there is no such member.</summary>
    public async Task<(Member Member, IReadOnlyDictionary<OwnFieldId, string> Fields)?> With(MemberId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var member = trip.First(db.Members.AsNoTracking().Where(m => m.Id == id));
        var fields = trip.List(db.OwnFieldValues.AsNoTracking().Where(v => v.MemberId == id));
        await trip.Ask(ct);
        return member.Value is { } m ? (m, fields.Value.ToDictionary(f => f.FieldId, f => f.Text)) : null;
    }

    /// <summary>How many members have something in one field.</summary>
    public Task<int> Filling(OwnFieldId id, CancellationToken ct) => db.OwnFieldValues.CountAsync(v => v.FieldId == id, ct);

    /// <summary>For each field that is filled in by somebody: by how many.</summary>
    public IQueryable<FieldFilled> Filled => db.OwnFieldValues.GroupBy(v => v.FieldId).Select(g => new FieldFilled(g.Key, g.Count()));

    /// <summary>What the team writes into a member's fields; what is left empty is taken out.</summary>
    public Task<Result> Fill(TeamActor by, MemberId member, IReadOnlyDictionary<OwnFieldId, string?> typed, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
        return Fill(member, typed, by, ct);
    }

    /// <summary>What a member writes into those that are theirs to fill.</summary>
    public Task<Result> FillOwn(MemberId member, IReadOnlyDictionary<OwnFieldId, string?> typed, CancellationToken ct)
    {
        var theirs = catalogue.Now.OwnFields.Where(f => f.IsTheirs).Select(f => f.Id).ToHashSet();
        return Fill(member, typed.Where(t => theirs.Contains(t.Key)).ToDictionary(t => t.Key, t => t.Value), null, ct);
    }

    async Task<Result> Fill(MemberId member, IReadOnlyDictionary<OwnFieldId, string?> typed, TeamActor? by, CancellationToken ct)
    {
        var now = catalogue.Now;
        var read = new List<(OwnField Field, OwnFieldText Text)>();
        foreach (var (id, text) in typed)
        {
            if (!now.People.FieldById.TryGetValue(id, out var field)) return Result.Refused("This field isn’t here any more.");
            var value = Read(field, text, now.Culture);
            if (!value.Ok) return Result.Refused(value.Refusal!, value.Field);
            read.Add((field, value.Value));
        }
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { } person) return Result.Refused("This person isn’t here any more.");
        var stands = await db.OwnFieldValues.Where(v => v.MemberId == member).ToDictionaryAsync(v => v.FieldId, ct);
        foreach (var (field, text) in read) Write(person, field, text, stands.GetValueOrDefault(field.Id), clock.GetCurrentInstant(), by);
        await db.SaveChangesAsync(ct);
        if (by is null) await TakeFirstSteps.Settle(db, member, FirstStep.About, clock.GetCurrentInstant(), false, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Writes into one field, within the caller's transaction; what stands there already isn't written again.</summary>
    /// <param name="was">What stands there; null for nothing.</param>
    internal void Write(Member person, OwnField field, OwnFieldText text, OwnFieldValue? was, Instant at, TeamActor? by)
    {
        if ((was?.Text ?? "") == text.Text) return;
        if (text.Text.Length == 0) db.Remove(was!);
        else if (was is not null) (was.Text, was.Number, was.Date) = (text.Text, text.Number, text.Date);
        else db.Add(new OwnFieldValue { FieldId = field.Id, MemberId = person.Id, Text = text.Text, Number = text.Number, Date = text.Date });
        tell.Of(person, new Event.FieldFilled(field.Id, field.Name, text.Text), at, by);
    }
}
