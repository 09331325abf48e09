using System.Text.RegularExpressions;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.App.Events;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>The words of a letter of the house as they are typed.</summary>
/// <param name="BasedOn">The version it was opened with; 0 where nobody had changed it.</param>
public sealed record HouseLetterDraft(string? Subject, string? Preheader, string? Body, int BasedOn, FileId? Picture = null);

/// <summary>The words of the house’s letters: changed for all plans or for one, version by version, and back to how they came.</summary>
public sealed partial class ChangeLetter(BrightContext db, Ids ids, Catalogue catalogue, RichText rich, LetterTemplates templates, FileUsing uses, Deeds deeds,
    IClock clock)
{
    /// <summary>What stands in a letter now: its own words, those of all plans, or those it came with.</summary>
    public HouseLetterDraft Open(HouseLetter house, PlanId? plan, int version)
    {
        if (catalogue.Now.People.TextFor(house.Kind, plan) is { } own) return new(own.Subject, own.Preheader, own.Body, version, own.PictureId);
        var (subject, body) = templates.Original(house.Kind.ToString());
        return new(subject, "", body, version);
    }

    /// <summary>The words as they would be saved: what is wrong with them is said, nothing is written.</summary>
    public Result<LetterText> Read(HouseLetter house, PlanId? plan, HouseLetterDraft draft)
    {
        if (plan is { } p && (!house.ByPlan || !catalogue.Now.PlanById.ContainsKey(p))) return Result.Refused("This plan isn’t there any more.");
        var (subject, preheader) = (draft.Subject?.Trim() ?? "", draft.Preheader?.Trim() ?? "");
        var body = LetterBody.InParagraphs(rich.Clean(draft.Body ?? ""));
        if (subject.Length == 0) return Result.Refused("A letter needs a subject.", "Subject");
        if (subject.Length > Mailing.MostSubject) return Result.Refused($"The subject is {Mailing.MostSubject} letters at most.", "Subject");
        if (preheader.Length > Mailing.MostPreheader) return Result.Refused($"That is {Mailing.MostPreheader} letters at most.", "Preheader");
        if (body.Length > Mailing.MostBody) return Result.Refused("The letter is too long. Put what is long into a piece, and lead there.", "Body");
        if (Content.HtmlToMarkdown.Write(body).Trim().Length == 0) return Result.Refused("There is nothing in the letter.", "Body");
        var fields = house.Fields.Select(f => new MailingField(f.Key, f.Words, false)).ToArray();
        foreach (var (part, field) in new[] { (subject, "Subject"), (preheader, "Preheader"), (body, "Body") })
            if (MailingFields.WrongWith(part, fields) is { } wrong) return Result.Refused(wrong, field);
        foreach (var block in templates.SentencesOf(house.Kind.ToString()).Where(s => s.IsBlock))
        {
            if (MailingFields.Used(subject + preheader).Contains(block.Key) || LetterTemplates.WithoutBlocks(body) is var rest
                && MailingFields.Used(rest).Contains(block.Key))
                return Result.Refused($"“{block.Key}” is more than a word or two: it stands in the letter, on a line of its own.", "Body");
        }
        var links = Link().Matches(body).Select(m => m.Groups[1].Value).ToHashSet();
        if (links.FirstOrDefault(l => house.Links.All(h => h.Key != l)) is { } unknown)
            return Result.Refused($"No link leads to “#{unknown}”. There is: {string.Join(", ", house.Links.Select(l => "#" + l.Key))}.", "Body");
        if (house.Needs is { } needed && !links.Contains(needed))
            return Result.Refused($"Without the link to “#{needed}” this letter is of no use to whoever gets it. Put it back in.", "Body");
        return new LetterText { Kind = house.Kind, PlanId = plan, Subject = subject, Preheader = preheader, Body = body, PictureId = draft.Picture };
    }

    public async Task<Result> Save(TeamActor by, HouseLetter house, PlanId? plan, HouseLetterDraft draft, CancellationToken ct)
    {
        Mailings.NeedRole(by);
        var read = Read(house, plan, draft);
        return read.Ok ? await Write(by, house, read.Value!, draft.BasedOn, "changed", ct) : Result.Refused(read.Refusal!, read.Field);
    }

    /// <summary>Back to how it came with the house; for a plan, back to what is said for all.</summary>
    public Task<Result> Restore(TeamActor by, HouseLetter house, PlanId? plan, int basedOn, CancellationToken ct)
    {
        Mailings.NeedRole(by);
        return Write(by, house, new() { Kind = house.Kind, PlanId = plan }, basedOn, "took back what was changed in", ct);
    }

    /// <summary>An earlier version becomes the newest.</summary>
    public async Task<Result> Take(TeamActor by, HouseLetter house, PlanId? plan, int version, int basedOn, CancellationToken ct)
    {
        Mailings.NeedRole(by);
        var earlier = await Versions(house.Kind, plan).FirstOrDefaultAsync(t => t.Version == version, ct);
        if (earlier is null) return Result.Refused("This version isn’t here.");
        if (earlier.Body is null) return await Restore(by, house, plan, basedOn, ct);
        // What may stand in it can have changed since.
        return await Save(by, house, plan, new(earlier.Subject, earlier.Preheader, earlier.Body, basedOn, earlier.PictureId), ct);
    }

    /// <summary>The last versions, the newest first.</summary>
    public Answer<List<LetterText>> Last(OneTrip trip, int most, LetterKind kind, PlanId? plan) => trip.List(Versions(kind, plan).Take(most));

    IQueryable<LetterText> Versions(LetterKind kind, PlanId? plan) =>
        db.LetterTexts.AsNoTracking().Where(t => t.Kind == kind && t.PlanId == plan).OrderByDescending(t => t.Version);

    async Task<Result> Write(TeamActor by, HouseLetter house, LetterText text, int basedOn, string did, CancellationToken ct)
    {
        var last = await Versions(house.Kind, text.PlanId).FirstOrDefaultAsync(ct);
        if ((last?.Version ?? 0) != basedOn) return Overtaken(last);
        if (text.PictureId is { } picture && !await db.Files.AnyAsync(f => f.Id == picture && f.Kind == FileKind.Picture, ct))
            return Result.Refused(Mailings.NoPicture, "Picture");
        var added = db.Add(new LetterText
        {
            Id = ids.Next(),
            Kind = text.Kind,
            PlanId = text.PlanId,
            Version = basedOn + 1,
            Subject = text.Subject,
            Preheader = text.Preheader,
            Body = text.Body,
            PictureId = text.PictureId,
            At = clock.GetCurrentInstant(),
            By = by.Name,
        }).Entity;
        deeds.Note(by, $"{did} the letter “{house.Name}”{(text.PlanId is { } p ? $" for {catalogue.Now.PlanName(p)}" : "")}",
            $"/desk/letters/house/{house.Kind}{(text.PlanId is { } q ? $"?plan={q.Value}" : "")}");
        try
        {
            await using var transaction = await db.Database.BeginTransactionAsync(ct);
            await db.SaveChangesAsync(ct);
            await uses.Set(FileUser.HouseLetter, added.Id, FileUsing.Some([added.PictureId]), ct);
            await transaction.CommitAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            db.ChangeTracker.Clear();
            return Overtaken(await Versions(house.Kind, text.PlanId).FirstOrDefaultAsync(ct));
        }
        await catalogue.Changed(ct);
        return Result.Done;
    }

    static Result Overtaken(LetterText? by) =>
        Result.Refused($"{by?.By ?? "Somebody"} saved it meanwhile. Take what you wrote along, and open it anew.", "Overtaken");

    [GeneratedRegex("href=\"#([^\"]*)\"")] private static partial Regex Link();
}
