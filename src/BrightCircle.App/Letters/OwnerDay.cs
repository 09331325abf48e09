using BrightCircle.App.Catalogues;
using BrightCircle.App.Community;
using BrightCircle.App.Due;
using BrightCircle.App.Words;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>Writes to the owners every morning about the day before, if there was anything.</summary>
public sealed class OwnerDay(BrightContext db, Ids ids, OwnerLetter letter, Catalogue catalogue) : IDueHandler
{
    const int Most = 100;
    public DueKind Kind => DueKind.OwnerMorning;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items) await Day(item, happened, ct);
    }

    async Task Day(DueItem item, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (!now.Site!.OwnerLetters.HasDaily) return;
        await Money(item, happened, ct);
        if (now.Site.OwnerLetters.Talk) await Talk(item, happened, ct);
        await OwnerMorning.PutNext(db, ids, now.Calendar, item.Row.DueAt, ct);
    }

    async Task Money(DueItem item, Happenings happened, CancellationToken ct)
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
            await letter.Write(item.Row.Key,
                $"{now.Site.Name}, {today.PlusDays(-1).ToString("d MMMM", now.Culture)}: {Say.Count(lines.Count, "thing")} about money", lines,
                "Payments", "/desk/payments", item.Moment, ct);
            happened.Add("owner told");
        }
    }

    /// <summary>What nobody has answered. What waits on is told again each morning, so that it isn’t forgotten.</summary>
    async Task Talk(DueItem item, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        var trip = new OneTrip(db);
        var waiting = TalkWants.Waiting(trip, db, item.Row.DueAt);
        await trip.Ask(ct);
        if (waiting.Value.Count == 0) return;
        var today = now.Calendar.Date(item.Row.DueAt);
        await letter.Write($"{item.Row.Key}-talk", $"{now.Site!.Name}: {Say.Count(waiting.Value.Count, "thread")} without an answer", waiting.Value.Select(w =>
            $"{w.Name} in {now.SpaceById[new(w.Space)].Name}, {Say.Relative(w.At, item.Row.DueAt, now.Calendar)}: “{w.Title}”"),
            "Read them", "/desk/talk#unanswered", item.Moment, ct, new("your settings", "no letter about them", "/desk/talk#unanswered"));
        happened.Add("owner told");
    }
}
