using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Which events the owner hears of by letter, and when.</summary>
public static class OwnerEvents
{
    /// <summary>When the owner hears of an event, as the site is set; never where it is none of those.</summary>
    public static OwnerLetterWhen When(Event e, CatalogueSnapshot now)
    {
        var set = now.Site!.OwnerLetters;
        return e switch
        {
            // What is joined for nothing is no sale.
            Event.Joined { Price: { } price } => now.PriceById[price].Terms.NeedsCard ? set.Sale : OwnerLetterWhen.Never,
            Event.OrderPlaced or Event.VoucherBought => set.Sale,
            Event.PaymentFailed => set.Failure,
            Event.ChargedBack or Event.DisputeDecided => set.Dispute,
            _ => OwnerLetterWhen.Never,
        };
    }

    /// <summary>The kinds of them that are told of in a way.</summary>
    public static string[] Kinds(OwnerLetters set, OwnerLetterWhen when)
    {
        var kinds = new List<string>();
        if (set.Sale == when) kinds.AddRange(["joined", "order-placed", "voucher-bought"]);
        if (set.Failure == when) kinds.Add("payment-failed");
        if (set.Dispute == when) kinds.AddRange(["charged-back", "dispute-decided"]);
        return [.. kinds];
    }
}

/// <summary>What the owner is told of at once waits as due work of the same transaction.</summary>
public sealed class OwnerListens(BrightContext db, Ids ids, Catalogue catalogue) : IListen
{
    public void Hear(Told told)
    {
        if (catalogue.Now.Site is not null && OwnerEvents.When(told.What, catalogue.Now) == OwnerLetterWhen.AtOnce)
            db.PutDue(ids, DueKind.OwnerNews, told.Id, told.At, $"owner-{told.Id}");
    }
}

/// <summary>Writes to the owners: about one thing, or every morning about the day before.</summary>
public sealed class OwnerNews(BrightContext db, Ids ids, Catalogue catalogue) : IDueHandler
{
    const int Most = 100;
    public DueKind Kind => DueKind.OwnerNews;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        var owners = await db.Users.AsNoTracking().Where(a => a.Role == TeamRole.Owner).ToListAsync(ct);
        foreach (var item in items)
        {
            if (item.Row.SubjectId == OwnerMorning.Subject) await Day(item, owners, happened, ct);
            else if (await db.Journal.AsNoTracking().Where(j => j.Id == item.Row.SubjectId)
                .Join(db.Members, j => j.MemberId, m => m.Id, (j, m) => new { j, m.Name })
                .FirstOrDefaultAsync(ct) is { } one)
            {
                var line = $"{one.Name} {EventWords.Of(one.j.Event, now)}";
                Write(owners, item.Row.Key, line, [line], "Their page", $"/desk/members/{one.j.MemberId!.Value.Value}", item.Moment);
                happened.Add("owner told");
            }
        }
    }

    async Task Day(DueItem item, List<Account> owners, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        var kinds = OwnerEvents.Kinds(now.Site!.OwnerLetters, OwnerLetterWhen.Daily);
        if (kinds.Length == 0) return;
        var today = now.Calendar.Date(item.Row.DueAt);
        var (from, to) = (now.Calendar.At(today.PlusDays(-1) + OwnerMorning.Time), item.Row.DueAt);
        var told = await db.Journal.AsNoTracking().Where(j => j.At >= from && j.At < to && kinds.Contains(j.Kind)).OrderBy(j => j.Id).Take(Most + 1)
            .Join(db.Members, j => j.MemberId, m => m.Id, (j, m) => new { j.Event, m.Name }).ToListAsync(ct);
        var lines = told.Where(t => OwnerEvents.When(t.Event, now) == OwnerLetterWhen.Daily).Take(Most)
            .Select(t => $"{t.Name} {EventWords.Of(t.Event, now)}").ToList();
        if (told.Count > Most) lines.Add("and more: they stand at the Desk");
        if (lines.Count > 0)
        {
            Write(owners, item.Row.Key,
                $"{now.Site.Name}, {today.PlusDays(-1).ToString("d MMMM", now.Culture)}: {Say.Count(lines.Count, "thing")} about money", lines,
                "Payments", "/desk/payments", item.Moment);
            happened.Add("owner told");
        }
        await OwnerMorning.PutNext(db, ids, now.Calendar, item.Row.DueAt, ct);
    }

    void Write(List<Account> owners, string key, string title, IEnumerable<string> lines, string words, string path, Instant at)
    {
        foreach (var owner in owners)
            db.Letters.Add(new()
            {
                Id = ids.Next(),
                Kind = LetterKind.OwnerNews,
                ToAddress = owner.Email!,
                ToName = owner.Name,
                Key = $"{key}-{owner.Id}",
                CreatedAt = at,
                Fields = new()
                {
                    ["title"] = title,
                    ["lines"] = string.Join('\n', lines),
                    ["link_words"] = words,
                    ["desk_path"] = path,
                    ["settings_path"] = "/desk/settings#money",
                },
            });
    }
}
