using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Insight;

/// <summary>Something that needs a person, with the one link that leads to it.</summary>
public sealed record Need(string Icon, string Title, string Text, string Link, string Button);

/// <summary>Something that happens by itself, on one day.</summary>
public sealed record Coming(LocalDate Day, Instant At, string Kind, string Text, string Soft, string? Link);

public sealed record StandingFigure(Standing Standing, int Members, int Change);

public sealed record TodayView(IReadOnlyList<Need> Steps, IReadOnlyList<Need> Needs, IReadOnlyList<Coming> Coming, IReadOnlyList<StandingFigure> Standings,
    Money Received, Money GivenBack, int PaymentsThisMonth, int FailedThisMonth, IReadOnlyList<(JournalEntry Entry, string Name, Standing Standing)> JustNow);

/// <summary>What needs the owner now, what happens by itself next, and the figures. Nothing here counts members: the counts are kept.</summary>
public sealed class TodayQuery(BrightContext db, Catalogue catalogue)
{
    sealed record DueGroup(LocalDate Day, string Kind, long? PriceId, long Count, Instant First);
    sealed record Single(long SubjectId, string Kind, Instant ReadyAt, string Name, long MemberId);

    public async Task<TodayView> Load(Instant moment, CancellationToken ct)
    {
        var now = catalogue.Now;
        var calendar = now.Calendar;
        var monthStart = calendar.At(calendar.Month(moment).OnDayOfMonth(1).AtMidnight());

        var counts = await db.StandingCounts.AsNoTracking().ToDictionaryAsync(c => c.Standing, c => c.Members, ct);
        var moved = await db.StandingChanges.Where(c => c.At >= monthStart && c.At <= moment).Select(c => new { c.From, c.To }).ToListAsync(ct);
        var standings = Enum.GetValues<Standing>().Where(s => s != Standing.Guest).Append(Standing.Guest)
            .Select(s => new StandingFigure(s, counts.GetValueOrDefault(s), moved.Count(m => m.To == s) - moved.Count(m => m.From == s))).OrderBy(f => Order(f.Standing)).ToList();

        var month = await db.Payments.Where(p => p.At >= monthStart && p.At <= moment).GroupBy(p => p.Outcome == ChargeOutcome.Approved).Select(g => new { Paid = g.Key, Sum = g.Sum(p => p.Amount.Minor), Count = g.Count() }).ToListAsync(ct);
        var back = await db.Refunds.Where(r => r.At >= monthStart && r.At <= moment).SumAsync(r => r.Amount.Minor, ct);
        var paid = month.FirstOrDefault(m => m.Paid);

        var journal = await (from j in db.Journal.AsNoTracking() join m in db.Members on j.MemberId equals m.Id orderby j.At descending, j.Id descending select new { j, m.Name, m.Standing }).Take(7).ToListAsync(ct);

        return new(Steps(now), await Needs(now, moment, ct), await ComingUp(now, moment, ct), standings, new(paid?.Sum ?? 0, now.Currency), new(back, now.Currency), paid?.Count ?? 0, month.FirstOrDefault(m => !m.Paid)?.Count ?? 0,
            [.. journal.Select(x => (x.j, x.Name, x.Standing))]);
    }

    static int Order(Standing s) => s switch { Standing.Active => 0, Standing.Trial => 1, Standing.Grace => 2, Standing.Ending => 3, Standing.Lapsed => 4, _ => 5 };

    /// <summary>The next steps of a young site, worked out from what is missing.</summary>
    static List<Need> Steps(CatalogueSnapshot now)
    {
        var steps = new List<Need>();
        if (now.Shelves.Count == 0) steps.Add(new("bi-bookshelf", "Put up a first shelf.", "A lasting theme of your content; few of them, and they stay.", "/desk/shelves/new", "New shelf"));
        else if (now.Pieces.Count == 0) steps.Add(new("bi-file-text", "Write a first piece.", "One finished piece shows you how the rest will go.", "/desk/pieces/new", "New piece"));
        if (now.Pieces.Count > 0 && now.Editions.Count == 0) steps.Add(new("bi-calendar3", "Plan the first edition.", "Pieces open with the edition of their month, by themselves.", "/desk/editions/new", "New edition"));
        else if (now.Editions.Count > 0 && now.Editions.All(e => e.State == EditionState.Draft)) steps.Add(new("bi-calendar-check", "Schedule the first edition.", "It opens at its moment, without anybody’s hand.", $"/desk/editions/{now.Editions[0].Id.Value}", "Open it"));
        if (now.Plans.Count == 0) steps.Add(new("bi-layers", "Make a first tier.", "What it gives is also what it locks.", "/desk/tiers/new", "New tier"));
        else if (now.Plans.FirstOrDefault(p => p.Promise.Count == 0) is { } empty) steps.Add(new("bi-list-check", $"Say what {empty.Name} gives.", "A tier without a promise opens nothing.", $"/desk/tiers/{empty.Id.Value}", "Write its promise"));
        if (now.Plans.Count > 0 && now.Prices.Count == 0) steps.Add(new("bi-tag", "Name a price.", "Free, once, or every so often; you see at once what a member pays.", $"/desk/tiers/{now.Plans[0].Id.Value}/price", "New price"));
        if (now.Prices.FirstOrDefault(p => p.OnOffer) is { } price && now.Site is { IsDemo: false } && !now.Editions.Any(e => e.State == EditionState.Released))
            steps.Add(new("bi-signpost-2", "Walk in as a stranger.", "Open the join link in a private window and go the whole way; nearly everyone finds something.", $"/join/{price.Code}", "Trial run"));
        return steps;
    }

    async Task<IReadOnlyList<Need>> Needs(CatalogueSnapshot now, Instant moment, CancellationToken ct)
    {
        var needs = new List<Need>();
        var refused = await db.Letters.Where(l => l.State == LetterState.Refused).OrderByDescending(l => l.Id).Select(l => new { l.ToName, l.Subject, l.MemberId }).Take(200).ToListAsync(ct);
        if (refused.Count > 0)
        {
            var names = refused.Select(r => r.ToName).Distinct().ToArray();
            needs.Add(new("bi-envelope-x", $"{Say.Count(refused.Count, "letter")} could not be delivered.", $"To {Names(names)}. Their addresses don’t take mail.", "/desk/letters?state=Refused", "Show them"));
        }
        if (now.NextEdition is { } next)
        {
            var drafts = now.PartsOf[next.Id].Where(p => p.State == PieceState.Draft).ToArray();
            if (drafts.Length > 0)
                needs.Add(new("bi-calendar3", $"{next.Month.ToString("MMMM", now.Culture)}’s edition is {Say.Count(drafts.Length, "part")} short.", $"{Names([.. drafts.Select(d => $"“{d.Title}”")])} {(drafts.Length == 1 ? "is" : "are")} still a draft; the edition opens {Say.Relative(next.ReleaseAt, moment, now.Calendar)}.", $"/desk/editions/{next.Id.Value}", $"Open {next.Month.ToString("MMMM", now.Culture)}"));
        }
        else if (now.Editions.Any(e => e.State == EditionState.Released))
            needs.Add(new("bi-calendar3", "No edition is scheduled.", "Your members have nothing to look forward to after this month.", "/desk/editions", "Plan the next one"));
        var toMark = await db.SheetTries.CountAsync(t => t.Waiting > 0, ct);
        if (toMark > 0) needs.Add(new("bi-pencil-square", $"{Say.Count(toMark, "practice sheet")} {(toMark == 1 ? "waits" : "wait")} to be read.", "Open answers that nobody but you can judge.", "/desk/marking", "Read them"));
        var asked = await db.LessonQuestions.CountAsync(q => q.AnswersId == null && q.SettledAt == null && q.HiddenAt == null, ct);
        if (asked > 0) needs.Add(new("bi-chat-left-text", $"{Say.Count(asked, "question")} under lessons {(asked == 1 ? "is" : "are")} open.", "An answer goes to whoever asked, and helps the next one.", "/desk/questions", "Answer"));
        var waiting = await (from h in db.Holdings
                             join m in db.Members on h.MemberId equals m.Id
                             where !h.IsOver && m.Standing == Standing.Grace && !db.DueWork.Any(d => d.Kind == DueKind.Renew && d.SubjectId == (long)(object)h.Id)
                             select m.Name).Distinct().OrderBy(n => n).Take(20).ToListAsync(ct);
        if (waiting.Count > 0)
            needs.Add(new("bi-credit-card", $"{Say.Count(waiting.Count, "member needs", "members need")} another card.", $"{Names([.. waiting])}: asking the same card again is pointless. They have had a letter; a word from you helps.", "/desk/members?standing=Grace", "Show them"));
        var stuck = await db.DueWork.Where(d => d.Tries > 2).OrderBy(d => d.Id).Select(d => d.LastError).Take(50).ToListAsync(ct);
        if (stuck.Count > 0)
            needs.Add(new("bi-exclamation-triangle", $"{Say.Count(stuck.Count, "thing")} due can’t be done.", $"It is tried again by itself. Last said: {stuck[^1]}", "/health", "Look at the health page"));
        return needs;
    }

    static string Names(string[] names) => names.Length <= 3 ? string.Join(", ", names) : $"{string.Join(", ", names[..3])} and {names.Length - 3} more";

    async Task<IReadOnlyList<Coming>> ComingUp(CatalogueSnapshot now, Instant moment, CancellationToken ct)
    {
        var until = moment + Duration.FromDays(7);
        var zone = now.Calendar.Zone.Id;
        var groups = await db.Database.SqlQuery<DueGroup>($"""
            select (d.ready_at at time zone {zone})::date as day, case when d.kind = 'Renew' and d.attempt > 1 then 'Retry' when d.kind = 'Renew' and d.turn = 0 then 'Trial' else d.kind end as kind, h.price_id, count(*) as count, min(d.ready_at) as first
            from due_work d left join holdings h on h.id = d.subject_id
            where d.ready_at <= {until} and d.kind in ('Renew', 'EndHolding') group by 1, 2, 3
            """).ToListAsync(ct);
        var coming = new List<Coming>();
        foreach (var g in groups.GroupBy(g => (g.Day, g.Kind)))
        {
            var count = g.Sum(x => x.Count);
            var amount = g.Where(x => x.PriceId is not null && now.PriceById[new(x.PriceId.Value)].Terms is PriceTerms.Recurring)
                .Aggregate(Money.Zero(now.Currency), (sum, x) => sum + ((PriceTerms.Recurring)now.PriceById[new(x.PriceId!.Value)].Terms).Amount * (int)x.Count);
            var (text, soft) = g.Key.Kind switch
            {
                "Renew" => (Say.Count(count, "renewal"), amount.Format(now.Culture)),
                "Trial" => (Say.Count(count, "trial") + (count == 1 ? " becomes paid" : " become paid"), amount.Format(now.Culture)),
                "Retry" => ($"{Say.Count(count, "card")} asked again", amount.Format(now.Culture)),
                _ => ($"{Say.Count(count, "membership")} {(count == 1 ? "ends" : "end")}", "left earlier, or a gift’s time is up"),
            };
            coming.Add(new(g.Key.Day, g.Min(x => x.First), g.Key.Kind, text, soft, null));
        }
        var lapses = await (from d in db.DueWork
                            where d.Kind == DueKind.LapseHolding && d.ReadyAt <= until
                            join h in db.Holdings on d.SubjectId equals (long)(object)h.Id
                            join m in db.Members on h.MemberId equals m.Id
                            orderby d.ReadyAt
                            select new { d.ReadyAt, m.Name, m.Id }).Take(12).ToListAsync(ct);
        coming.AddRange(lapses.Select(l => new Coming(now.Calendar.Date(l.ReadyAt), l.ReadyAt, "Lapse", $"{l.Name} lapses", "unless a card works before", $"/desk/members/{l.Id.Value}")));
        if (now.NextEdition is { } next && next.ReleaseAt <= until)
            coming.Add(new(now.Calendar.Date(next.ReleaseAt), next.ReleaseAt, "Release", $"{next.Title} opens", $"{Say.Count(now.PartsOf[next.Id].Count(p => p.Ready), "part")}{(next.Announce ? ", with a letter to those it opens for" : "")}", $"/desk/editions/{next.Id.Value}"));
        return [.. coming.OrderBy(c => c.At)];
    }
}
