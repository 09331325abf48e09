using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Files;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A letter to many as it is written.</summary>
/// <param name="BasedOn">The version it was opened with.</param>
/// <param name="OtherSubject">A second one to be tried beside the first; null or empty for none.</param>
public sealed record MailingDraft(string? Subject, string? Preheader, string? Body, AudienceId? Audience, bool Plain, int? PerHour, int BasedOn,
    long? Series = null, LocalDate? Week = null, string? OtherSubject = null, int TryPart = TwoSubjects.UsualPart,
    int TryHours = TwoSubjects.UsualHours, FileId? Picture = null);

/// <summary>A link of a letter with how many of its readers opened it.</summary>
public sealed record LinkFigure(string To, int Readers);

/// <summary>What came of a letter to many so far.</summary>
/// <param name="LinkReaders">So many opened any of its links, where that is counted.</param>
public sealed record MailingFigures(int Written, int Sent, int Refused, int Waiting, int AskedForFewer, int LinkReaders, IReadOnlyList<LinkFigure> Links)
{
    public static MailingFigures None { get; } = new(0, 0, 0, 0, 0, 0, []);
}

/// <summary>Letters to many as they are written; nothing goes out from here.</summary>
public sealed class Mailings(BrightContext db, Ids ids, Catalogue catalogue, RichText rich, FileUsing uses, IClock clock)
{
    public Task<Mailing?> Find(long id, CancellationToken ct) => db.Mailings.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);

    /// <summary>A new one: empty, or as another was.</summary>
    /// <param name="copyOf">Null for an empty one.</param>
    public async Task<Result<long>> New(TeamActor by, long? copyOf, long? series, LocalDate? week, CancellationToken ct)
    {
        NeedRole(by);
        var of = series is { } s ? catalogue.Now.People.SeriesById.GetValueOrDefault(s) : null;
        if (series is not null && of is null) return Result.Refused("This series isn’t here any more.");
        // Whoever writes the next of a series begins with the last one, as most do.
        var last = copyOf is { } source ? await Find(source, ct) : of is null ? null
            : await db.Mailings.AsNoTracking().Where(m => m.SeriesId == of.Id).OrderByDescending(m => m.Week).ThenByDescending(m => m.Id)
                .FirstOrDefaultAsync(ct);
        if (copyOf is not null && last is null) return Result.Refused("This letter isn’t here any more.");
        var at = clock.GetCurrentInstant();
        var mailing = db.Add(new Mailing
        {
            Id = ids.Next(),
            Subject = last?.Subject ?? "",
            Preheader = last?.Preheader ?? "",
            Body = last?.Body ?? "<div>Dear {{ first_name | default: \"friend\" }},</div>",
            AudienceId = of?.AudienceId ?? last?.AudienceId ?? (catalogue.Now.Audiences.Count > 0 ? catalogue.Now.Audiences[0].Id : null),
            SeriesId = of?.Id,
            Week = of is null ? null : IsoWeek.Of(week ?? catalogue.Now.Calendar.Date(at)).Monday,
            Plain = last?.Plain ?? false,
            PerHour = last?.PerHour,
            PictureId = last?.PictureId,
            MadeAt = at,
            ChangedAt = at,
            ChangedBy = by.Name,
        }).Entity;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.SaveChangesAsync(ct);
        await uses.Set(FileUser.Letter, mailing.Id, FileUsing.Some([mailing.PictureId]), ct);
        await transaction.CommitAsync(ct);
        return mailing.Id;
    }

    /// <summary>An empty one for an audience.</summary>
    public async Task<Result<long>> NewFor(TeamActor by, AudienceId audience, CancellationToken ct)
    {
        var made = await New(by, null, null, null, ct);
        if (made.Ok) await db.Mailings.Where(m => m.Id == made.Value).ExecuteUpdateAsync(u => u.SetProperty(m => m.AudienceId, audience), ct);
        return made;
    }

    /// <summary>A letter to one member, from their page.</summary>
    /// <param name="offer">A price that its first words offer them; null for none.</param>
    public async Task<Result<long>> NewTo(TeamActor by, MemberId member, PriceId? offer, CancellationToken ct)
    {
        NeedRoleToOne(by);
        var now = catalogue.Now;
        Core.Offer.Price? price = null;
        if (offer is { } p && (!now.PriceById.TryGetValue(p, out price) || price.Within(now.PlanById[price.PlanId]) == Core.Offer.Availability.Closed))
            return Result.Refused("This price isn’t on offer any more.");
        if (await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == member,
            ct) is not { IsForgotten: false }) return Result.Refused("They aren’t here any more.");
        var at = clock.GetCurrentInstant();
        var mailing = db.Add(new Mailing
        {
            Id = ids.Next(),
            MemberId = member,
            Subject = price is null ? "" : $"A way back to {now.Site!.Name}",
            Body = "<div>Dear {{ first_name }},</div>" + (price is null ? "" : "<div>there is a way back, and it is for you: "
                + System.Net.WebUtility.HtmlEncode($"{now.PlanName(price.PlanId)}, {Words.Say.Price(price.Terms, now.Culture)}.")
                + $"</div><div><strong><a href=\"/join/{price.Code}\">{System.Net.WebUtility.HtmlEncode(price.Button)}</a></strong></div>"),
            MadeAt = at,
            ChangedAt = at,
            ChangedBy = by.Name,
        }).Entity;
        await db.SaveChangesAsync(ct);
        return mailing.Id;
    }

    /// <summary>The draft as it would be saved: what is wrong with it is said, nothing is written.</summary>
    public Result<Mailing> Read(Mailing stored, MailingDraft draft)
    {
        var now = catalogue.Now;
        var (subject, preheader, body) = (draft.Subject?.Trim() ?? "", draft.Preheader?.Trim() ?? "", LetterBody.InParagraphs(rich.Clean(draft.Body ?? "")));
        if (subject.Length > Mailing.MostSubject) return Result.Refused($"The subject is {Mailing.MostSubject} letters at most.", "Subject");
        if (preheader.Length > Mailing.MostPreheader) return Result.Refused($"That is {Mailing.MostPreheader} letters at most.", "Preheader");
        if (body.Length > Mailing.MostBody) return Result.Refused("The letter is too long. Put what is long into a piece, and lead there.", "Body");
        if (draft.Audience is { } a && !now.People.AudienceById.ContainsKey(a)) return Result.Refused("This audience isn’t there any more.", "Audience");
        if (draft.PerHour is < 1 or > Mailing.MostPerHour) return Result.Refused($"So many an hour: 1 to {Mailing.MostPerHour:N0}.", "PerHour");
        var other = draft.OtherSubject?.Trim() is { Length: > 0 } typed && stored is { MemberId: null, RoutineId: null } ? typed : null;
        if (other is not null)
        {
            if (other.Length > Mailing.MostSubject) return Result.Refused($"The subject is {Mailing.MostSubject} letters at most.", "OtherSubject");
            if (other == subject) return Result.Refused("That is the same subject again.", "OtherSubject");
            if (draft.TryPart is < TwoSubjects.LeastPart or > TwoSubjects.MostPart)
                return Result.Refused($"From {TwoSubjects.LeastPart} to {TwoSubjects.MostPart} of a hundred readers.", "TryPart");
            if (draft.TryHours is < 1 or > TwoSubjects.MostHours) return Result.Refused($"From 1 to {TwoSubjects.MostHours} hours.", "TryHours");
            if (TwoSubjects.CantTell(body, now.Site!) is { } cant) return Result.Refused(cant, "OtherSubject");
        }
        foreach (var (part, field) in new[] { (subject, "Subject"), (other ?? "", "OtherSubject"), (preheader, "Preheader"), (body, "Body") })
            if (MailingFields.WrongWith(part, now) is { } wrong) return Result.Refused(wrong, field);
        return new Mailing
        {
            Id = stored.Id,
            Subject = subject,
            Preheader = preheader,
            Body = body,
            AudienceId = draft.Audience,
            Plain = draft.Plain,
            PictureId = draft.Picture,
            PerHour = draft.PerHour,
            OtherSubject = other,
            TryPart = other is null ? null : draft.TryPart,
            TryHours = other is null ? null : draft.TryHours,
            SeriesId = stored.SeriesId,
            Week = stored.Week,
            RoutineId = stored.RoutineId,
            MemberId = stored.MemberId,
        };
    }

    /// <summary>Nothing to read in it yet: it can't be sent.</summary>
    public static bool IsEmpty(Mailing m) => m.Subject.Length == 0 || Content.HtmlToMarkdown.Write(m.Body).Trim().Length == 0;

    public async Task<Result<int>> Save(TeamActor by, long id, MailingDraft draft, CancellationToken ct)
    {
        NeedRoleToOne(by);
        var stored = await db.Mailings.FirstOrDefaultAsync(m => m.Id == id, ct);
        if (stored is { MemberId: null }) NeedRole(by);
        if (stored is null) return Result.Refused("This letter isn’t here any more.");
        if (stored.BegunAt is not null) return Result.Refused("It is on its way: what it says stays as it is.");
        if (stored.Version != draft.BasedOn)
            return Result.Refused($"{stored.ChangedBy} saved it meanwhile. Take what you wrote along, and open it anew.", "Overtaken");
        var read = Read(stored, draft);
        if (!read.Ok) return Result.Refused(read.Refusal!, read.Field);
        var d = read.Value!;
        (stored.Subject, stored.Preheader, stored.Body, stored.AudienceId, stored.Plain, stored.PerHour) =
            (d.Subject, d.Preheader, d.Body, d.AudienceId, d.Plain, d.PerHour);
        if (d.PictureId is { } picture && picture != stored.PictureId && !await db.Files.AnyAsync(f => f.Id == picture && f.Kind == FileKind.Picture, ct))
            return Result.Refused(NoPicture, "Picture");
        stored.PictureId = d.PictureId;
        (stored.OtherSubject, stored.TryPart, stored.TryHours) = (d.OtherSubject, d.TryPart, d.TryHours);
        (stored.Version, stored.ChangedAt, stored.ChangedBy) = (stored.Version + 1, clock.GetCurrentInstant(), by.Name);
        try
        {
            await using var transaction = await db.Database.BeginTransactionAsync(ct);
            await db.SaveChangesAsync(ct);
            await uses.Set(FileUser.Letter, id, FileUsing.Some([stored.PictureId]), ct);
            await transaction.CommitAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Result.Refused("Somebody saved it meanwhile. Take what you wrote along, and open it anew.", "Overtaken");
        }
        return stored.Version;
    }

    internal const string NoPicture = "That picture isn’t here any more. Choose another one.";

    public async Task<Result> Remove(TeamActor by, long id, CancellationToken ct)
    {
        NeedRoleToOne(by);
        var all = by.Role != TeamRole.Support;
        var gone = await db.Mailings.Where(m => m.Id == id && m.SendAt == null && m.BegunAt == null && m.RoutineId == null && (all || m.MemberId != null))
            .ExecuteDeleteAsync(ct);
        return gone > 0 ? Result.Done : Result.Refused("Only a draft can be thrown away.");
    }

    /// <summary>A letter with what came of it so far, in one trip; null where there is none.</summary>
    public Task<(Mailing Mailing, MailingFigures Figures, Member? To)?> Open(long id, CancellationToken ct) => Open(id, new(db), ct);

    /// <param name="trip">It asks for more along with it.</param>
    public async Task<(Mailing Mailing, MailingFigures Figures, Member? To)?> Open(long id, OneTrip trip, CancellationToken ct)
    {
        var mailing = trip.First(db.Mailings.AsNoTracking().Where(m => m.Id == id));
        var states = trip.List(db.Letters.Where(l => l.MailingId == id).GroupBy(l => l.State).Select(g => new { g.Key, Count = g.Count() }));
        var fewer = trip.Count(db.SeriesRefusals.Where(r => db.Mailings.Any(m => m.Id == id && m.SeriesId == r.SeriesId && r.At >= m.BegunAt)
            && db.Letters.Any(l => l.MailingId == id && l.MemberId == r.MemberId)));
        var to = trip.First(db.Members.AsNoTracking().Where(m => db.Mailings.Any(l => l.Id == id && l.MemberId == m.Id)));
        var opened = trip.List(db.OpenedLinks.Where(o => o.MailingId == id).GroupBy(o => o.Link).Select(g => new { g.Key, Count = g.Count() }));
        var readers = trip.Count(db.OpenedLinks.Where(o => o.MailingId == id).Select(o => o.LetterId).Distinct());
        await trip.Ask(ct);
        int Of(LetterState s) => states.Value.FirstOrDefault(x => x.Key == s)?.Count ?? 0;
        return mailing.Value is { } found ? (found,
            new(states.Value.Sum(s => s.Count), Of(LetterState.Sent), Of(LetterState.Refused), Of(LetterState.Queued), fewer.Value,
                readers.Value, [.. MailingLinks.Of(found.Body).Select((x, i) => new LinkFigure(x, opened.Value.FirstOrDefault(o => o.Key == i)?.Count ?? 0))]),
            to.Value) : null;
    }

    /// <summary>Whoever helps members may write to one of them.</summary>
    internal static void NeedRoleToOne(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Support);
    internal static void NeedRoleFor(TeamActor by, Mailing mailing)
    {
        if (mailing.MemberId is null) NeedRole(by);
        else NeedRoleToOne(by);
    }
    public static void NeedRole(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor);
}
