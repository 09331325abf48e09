using System.Text.Json;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>What came of a step.</summary>
/// <param name="Why">Why it was left out; null where it was done.</param>
public readonly record struct DeedOutcome(string? Why);

/// <summary>
/// Does what the steps of routines say, within the caller's transaction. The members' rows are locked; run, step and turn are the key of everything that goes
/// out, so that a step done twice does nothing twice.
/// </summary>
public sealed class RoutineDeeds(BrightContext db, Ids ids, Catalogue catalogue, Tell tell, Memberships door, Grants grants, Books books,
    MailingReaders readers, MailingCopies copies, OwnFields fields, ProgramKey programs)
{
    /// <summary>Does the same step for several members at once.</summary>
    /// <returns>What came of each, in their order.</returns>
    public async Task<IReadOnlyList<DeedOutcome>> Do(Step.Deed step, Routine routine, IReadOnlyList<(RoutineRun Run, Member Member, int Turn)> those,
        Instant at,
        CancellationToken ct)
    {
        if (step is Step.SendLetter letter) return await Send(letter, those, at, ct);
        if ((step is Step.PutTag or Step.TakeTag) && RoutineRules.WrongWith(step, catalogue.Now) is null) return await Mark(step, those, at, ct);
        var outcomes = new List<DeedOutcome>(those.Count);
        foreach (var (run, member, turn) in those) outcomes.Add(new(await One(step, routine, run, member, turn, at, ct)));
        return outcomes;
    }

    async Task<IReadOnlyList<DeedOutcome>> Send(Step.SendLetter step, IReadOnlyList<(RoutineRun Run, Member Member, int Turn)> those, Instant at,
        CancellationToken ct)
    {
        DeedOutcome[] All(string why) => [.. those.Select(_ => new DeedOutcome(why))];
        if (await db.Mailings.AsNoTracking().FirstOrDefaultAsync(m => m.Id == step.Mailing,
            ct) is not { } mailing) return All("the letter isn’t there any more");
        if (Mailings.IsEmpty(mailing)) return All("the letter isn’t written yet");
        var get = await readers.Of([.. those.Select(t => t.Member.Id)]).OrderBy(m => m.Id).ToListAsync(ct);
        var keys = those.ToDictionary(t => t.Member.Id, t => $"run-{t.Run.Id}-{step.Id}-{t.Turn}");
        await copies.Write(mailing, get, m => keys[m.Id], _ => null, at, ct);
        var who = get.Select(m => m.Id).ToHashSet();
        return [.. those.Select(t => new DeedOutcome(who.Contains(t.Member.Id) ? null
            : t.Member.WantsNews ? "their address refuses mail" : "they asked for no letters to many"))];
    }

    /// <summary>A tag put on, or taken off, for all at once.</summary>
    async Task<IReadOnlyList<DeedOutcome>> Mark(Step.Deed step, IReadOnlyList<(RoutineRun Run, Member Member, int Turn)> those, Instant at,
        CancellationToken ct)
    {
        var on = step is Step.PutTag;
        var tag = catalogue.Now.TagById[step is Step.PutTag put ? put.Tag : ((Step.TakeTag)step).Tag];
        var whom = those.Select(t => t.Member.Id).ToArray();
        var bear = (await db.MemberTags.Where(t => t.TagId == tag.Id && whom.Contains(t.MemberId)).Select(t => t.MemberId).ToListAsync(ct)).ToHashSet();
        if (!on && bear.Count > 0) await db.MemberTags.Where(t => t.TagId == tag.Id && whom.Contains(t.MemberId)).ExecuteDeleteAsync(ct);
        foreach (var (_, member, _) in those.Where(t => bear.Contains(t.Member.Id) != on))
        {
            if (on) db.Add(new MemberTag { MemberId = member.Id, TagId = tag.Id, At = at });
            tell.Of(member, on ? new Event.TagPutOn(tag.Id, tag.Name) : new Event.TagTakenOff(tag.Id, tag.Name), at);
        }
        await db.SaveChangesAsync(ct);
        // What was taken off by a statement of its own isn't known to be there any more.
        foreach (var entry in db.ChangeTracker.Entries<MemberTag>().ToArray()) entry.State = EntityState.Detached;
        return [.. those.Select(t => new DeedOutcome(bear.Contains(t.Member.Id) != on ? null : on ? "they bore it already" : "they didn’t bear it"))];
    }

    string? Tell(Step.TellProgram step, Routine routine, RoutineRun run, Member member, int turn, Instant at)
    {
        if (step.Url.Length == 0) return "it has no address yet";
        if (programs.Key is null) return "there is no key for other programs yet";
        var key = $"run-{run.Id}-{step.Id}-{turn}";
        db.Add(new OutgoingCall
        {
            Id = ids.Next(),
            MemberId = member.Id,
            RoutineId = routine.Id,
            Url = step.Url,
            Key = key,
            At = at,
            NextAt = at,
            Body = JsonSerializer.Serialize(new
            {
                key,
                routine = routine.Name,
                at = at.ToString(),
                member = new { number = member.Id.Value, name = member.Name, email = member.Email, standing = member.Standing.ToString().ToLowerInvariant() },
            }, Readable),
        });
        return null;
    }

    // Names stand as they are written.
    static readonly JsonSerializerOptions Readable = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    async Task<string?> One(Step.Deed step, Routine routine, RoutineRun run, Member member, int turn, Instant at, CancellationToken ct)
    {
        var now = catalogue.Now;
        // What stood in the step when it was saved may be gone since.
        if (RoutineRules.WrongWith(step, now) is { } wrong) return wrong;
        switch (step)
        {
            case Step.FillField s:
                var text = OwnFields.Read(now.People.FieldById[s.Field], s.Text, now.Culture).Value;
                fields.Write(member, now.People.FieldById[s.Field], text,
                    await db.OwnFieldValues.FirstOrDefaultAsync(v => v.MemberId == member.Id && v.FieldId == s.Field, ct), at, null);
                await db.SaveChangesAsync(ct);
                return null;
            case Step.AddTask s:
                db.Add(new TeamTask { Id = ids.Next(), MemberId = member.Id, Text = s.Text, At = at, RunId = run.Id, By = routine.Name });
                return null;
            case Step.AddNote s:
                db.Add(new TeamNote { Id = ids.Next(), MemberId = member.Id, Text = s.Text, At = at, By = routine.Name });
                return null;
            case Step.TellProgram s:
                return Tell(s, routine, run, member, turn, at);
            case Step.Give s:
                var until = s.Days is { } days ? now.Calendar.Date(at).PlusDays(days - 1) : (LocalDate?)null;
                return await Hold(member, at, m => grants.Give(m, new(s.Plan, HoldingSource.Routine, Until: until, Note: routine.Name, Through: run.Id), at)
                    .Refusal, ct);
            case Step.EndGift s:
                return await Hold(member, at, m =>
                {
                    if (m.Held(s.Plan, at) is not { } holding) return "they don’t hold it";
                    if (holding.Source == HoldingSource.Bought) return "they joined it themselves";
                    books.End(m, holding, EndReason.EndedByTeam, at);
                    return null;
                }, ct);
            default:
                throw new InvalidOperationException($"No such step: {step}");
        }
    }

    /// <summary>Changes what somebody holds, through the one door.</summary>
    async Task<string?> Hold(Member member, Instant at, Func<Membership, string?> change, CancellationToken ct)
    {
        var m = (await door.Enter([member.Id], ct))[member.Id];
        if (change(m) is { } why) return why;
        await door.Leave([m], at, ct);
        await db.SaveChangesAsync(ct);
        return null;
    }

    /// <summary>A step as it stands in the log of a run.</summary>
    public static string Did(Step step, bool? way, CatalogueSnapshot now, Func<long, string> letter)
    {
        var words = RoutineWords.Says(step, now, letter);
        if (step is Step.Fork f && way is { } w) words += $" · {RoutineWords.Went(f, w)}";
        return Bounded.To(words, 200);
    }
}
