using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Community;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Releases;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Insight;

/// <summary>Something that needs a person, with the one link that leads to it.</summary>
/// <param name="LookAt">For a payment to look at: its number, to say that it was seen to.</param>
public sealed record Need(string Icon, string Title, string Text, string Link, string Button, long? LookAt = null);

/// <summary>Something that happens by itself, on one day.</summary>
public sealed record Coming(LocalDate Day, Instant At, string Kind, string Text, string Soft, string? Link);

public sealed record StandingFigure(Standing Standing, int Members, int Change);

public sealed record TodayView(IReadOnlyList<Need> Steps, IReadOnlyList<Need> Needs, IReadOnlyList<Coming> Coming, IReadOnlyList<StandingFigure> Standings,
    Money Received, Money GivenBack, int PaymentsThisMonth, int FailedThisMonth, IReadOnlyList<JustNow> JustNow);

/// <summary>Something that has just happened.</summary>
public sealed record JustNow(MemberId Member, string Name, Standing Standing, Instant At, Event Event);

/// <summary>A payment that waits to be looked at.</summary>
public sealed record ToLookAt(long Id, PaymentConcern Concern, long? Member, long? Payment, string Text);

/// <summary>What needs the owner now, what happens by itself next, and the figures. Nothing here counts members: the counts are kept.</summary>
public sealed class TodayQuery(NpgsqlDataSource source, Catalogue catalogue)
{
    /// <summary>So many are counted one by one; beyond it there is too much to look at anyway.</summary>
    const int MostRefused = 200, MostStuck = 50;

    sealed record DueGroup(LocalDate Day, string Kind, long Minor, long Count, Instant First);

    /// <summary>What is read for the page, in one round trip.</summary>
    sealed class Facts
    {
        public Dictionary<Standing, int> Counts = [];
        public List<(Standing? From, Standing To, int Count)> Moved = [];
        public List<(bool Paid, long Sum, int Count)> Month = [];
        public long Back;
        public List<JustNow> Journal = [];
        public List<ToLookAt> LookAt = [];
        public List<(long Member, string Name)> Owing = [];
        public List<string> Refused = [];
        public (int Count, long Minor) Placed;
        public List<(string Name, string Text)> Tasks = [];
        public List<Arrival> Arrivals = [];
        public List<BrokenOrder> Broken = [];
        public int ToMark, Asked, Wrote, Reported, Held, Unanswered, NotTold;
        public List<string> Waiting = [];
        public List<string?> Stuck = [];
        public List<DueGroup> Due = [];
        public List<(Instant At, string Name, long Id)> Lapses = [];
    }

    async Task<Facts> Read(CatalogueSnapshot now, TeamActor by, Instant moment, CancellationToken ct)
    {
        var monthStart = now.Calendar.At(now.Calendar.Month(moment).OnDayOfMonth(1).AtMidnight());
        var until = moment + Duration.FromDays(7);
        var f = new Facts();
        await using var batch = source.CreateBatch();
        var readers = new List<Action<NpgsqlDataReader>>();
        void Ask(string sql, Action<NpgsqlDataReader> row, params object[] about)
        {
            var command = new NpgsqlBatchCommand(sql);
            foreach (var value in about) command.Parameters.Add(new() { Value = value });
            batch.BatchCommands.Add(command);
            readers.Add(row);
        }
        var (since, before) = Core.Community.TalkRules.Waits(moment);
        static T Named<T>(string name) where T : struct, Enum => Enum.Parse<T>(name);
        Ask("select standing, members from standing_counts", r => f.Counts[Named<Standing>(r.GetString(0))] = r.GetInt32(1));
        Ask("""select "from", "to", count(*)::int from standing_changes where at >= $1 and at <= $2 group by 1, 2""",
            r => f.Moved.Add((r.IsDBNull(0) ? null : Named<Standing>(r.GetString(0)), Named<Standing>(r.GetString(1)), r.GetInt32(2))), monthStart, moment);
        Ask("select outcome = 'Approved', sum(amount_minor)::bigint, count(*)::int from payments where at >= $1 and at <= $2 group by 1",
            r => f.Month.Add((r.GetBoolean(0), r.GetInt64(1), r.GetInt32(2))), monthStart, moment);
        Ask("select coalesce(sum(amount_minor), 0)::bigint from refunds where at >= $1 and at <= $2", r => f.Back = r.GetInt64(0), monthStart, moment);
        Ask("select j.member_id, m.name, m.standing, j.at, j.event from journal j join members m on m.id = j.member_id where j.kind <> all($1) order by "
            + "j.seq desc limit 7",
            r => f.Journal.Add(new(new(r.GetInt64(0)), r.GetString(1), Named<Standing>(r.GetString(2)), r.GetFieldValue<Instant>(3),
                JsonSerializer.Deserialize<Event>(r.GetString(4), CoreJson.Options)!)),
            (object)EventWords.Small.ToArray());
        Ask($"select to_name from letters where {Insight.Waiting.UndeliveredLetter} order by id desc limit $1", r => f.Refused.Add(r.GetString(0)),
            MostRefused);
        Ask($"select id, concern, member_id, payment_id, text from payments_to_look_at where {Insight.Waiting.PaymentToLookAt} order by id desc limit 100",
            r => f.LookAt.Add(new(r.GetInt64(0), Named<PaymentConcern>(r.GetString(1)), r.IsDBNull(2) ? null : r.GetInt64(2),
                r.IsDBNull(3) ? null : r.GetInt64(3), r.GetString(4))));
        Ask(Arrivals.People, r => f.Arrivals.Add(Arrivals.Read(r)), moment - ArrivalFacts.New, Arrivals.Most);
        Ask(Arrivals.Orders, r => f.Broken.Add(Arrivals.ReadOrder(r)), moment - ArrivalFacts.New);
        Ask($"select m.name, t.text from team_tasks t join members m on m.id = t.member_id where t.{Insight.Waiting.OpenTask} order by t.at limit $1",
            r => f.Tasks.Add((r.GetString(0), r.GetString(1))), MostRefused);
        Ask("select count(*)::int, coalesce(sum(asked_minor), 0)::bigint from checkouts where state = 'Placed'",
            r => f.Placed = (r.GetInt32(0), r.GetInt64(1)));
        Ask("""
            select distinct m.id, m.name from holding_facts f join holdings h on h.id = f.holding_id join members m on m.id = h.member_id
            where f.kind = 'Missed' and not exists (select 1 from holding_facts w where w.holding_id = f.holding_id and w.kind = 'Waived' and w.seq > f.seq)
                order by m.name limit 20
            """, r => f.Owing.Add((r.GetInt64(0), r.GetString(1))));
        Ask($"select (select count(*) from sheet_tries where {Insight.Waiting.SheetToRead})::int, "
            + $"(select count(*) from lesson_questions where {Insight.Waiting.OpenQuestion})::int, "
            + $"(select count(*) from dialogues where {Insight.Waiting.OpenDialogue})::int",
            r => (f.ToMark, f.Asked, f.Wrote) = (r.GetInt32(0), r.GetInt32(1), r.GetInt32(2)));
        // Of what is in spaces each sees what is in those they keep.
        Ask(Insight.Waiting.ReportedInSpaces, r => f.Reported += Kept(r));
        Ask(Insight.Waiting.HeldInSpaces, r => f.Held += Kept(r));
        Ask(TalkWants.Counted("$1", "$2"), r => f.Unanswered += Kept(r), since, before);
        int Kept(NpgsqlDataReader r) => Keeping.Sum(now, by, [(new(r.GetInt64(0)), r.GetInt32(1))]);
        Ask("""
            select distinct m.name from due_work l join holdings h on h.id = l.subject_id join members m on m.id = h.member_id
            where l.kind = 'LapseHolding' and h.way = 'Card'
                and not exists (select 1 from due_work d where d.kind = 'Renew' and d.subject_id = h.id) order by m.name limit 20
            """, r => f.Waiting.Add(r.GetString(0)));
        Ask("select count(*)::int from (select 1 from outgoing_calls where state = 'GivenUp' limit $1) x", r => f.NotTold = r.GetInt32(0), MostStuck);
        Ask("select last_error from due_work where tries > 2 order by id limit $1", r => f.Stuck.Add(r.IsDBNull(0) ? null : r.GetString(0)), MostStuck);
        Ask("""
            select (d.ready_at at time zone $1)::date, case when d.kind = 'Renew' and d.attempt > 1 then 'Retry' when d.kind = 'Renew' and d.turn = 0
                and h.agreement -> 'terms' ? 'trial' and (h.agreement ->> 'trialRight')::boolean then 'Trial' else d.kind end,
                coalesce(sum(d.amount_minor), 0)::bigint, count(*), min(d.ready_at)
            from due_work d left join holdings h on h.id = d.subject_id
            where d.ready_at <= $2 and (d.kind = 'Renew' and h.way = 'Card' or d.kind = 'EndHolding') group by 1, 2
            """, r => f.Due.Add(new(r.GetFieldValue<LocalDate>(0), r.GetString(1), r.GetInt64(2), r.GetInt64(3),
                r.GetFieldValue<Instant>(4))), now.Calendar.Zone.Id, until);
        Ask("""
            select d.ready_at, m.name, m.id from due_work d join holdings h on h.id = d.subject_id join members m on m.id = h.member_id
            where d.kind = 'LapseHolding' and d.ready_at <= $1 order by d.ready_at limit 12
            """, r => f.Lapses.Add((r.GetFieldValue<Instant>(0), r.GetString(1), r.GetInt64(2))), until);

        await using var reader = await batch.ExecuteReaderAsync(ct);
        foreach (var row in readers)
        {
            while (await reader.ReadAsync(ct)) row(reader);
            await reader.NextResultAsync(ct);
        }
        return f;
    }

    /// <param name="by">For whom: hosts of some spaces see to those.</param>
    public async Task<TodayView> Load(TeamActor by, Instant moment, CancellationToken ct)
    {
        var now = catalogue.Now;
        var f = await Read(now, by, moment, ct);
        var standings = Enum.GetValues<Standing>()
            .Select(s => new StandingFigure(s, f.Counts.GetValueOrDefault(s),
                f.Moved.Where(m => m.To == s).Sum(m => m.Count) - f.Moved.Where(m => m.From == s).Sum(m => m.Count))).OrderBy(x => Order(x.Standing)).ToList();
        var (paid, failed) = (f.Month.FirstOrDefault(m => m.Paid), f.Month.FirstOrDefault(m => !m.Paid));
        return new(Steps(now), Needs(now, f, moment), ComingUp(now, f, moment), standings, new(paid.Sum, now.Currency), new(f.Back, now.Currency), paid.Count,
            failed.Count, f.Journal);
    }

    static int Order(Standing s) => s switch
    {
        Standing.Active => 0,
        Standing.Trial => 1,
        Standing.Grace => 2,
        Standing.Ending => 3,
        Standing.Paused => 4,
        Standing.Lapsed => 5,
        Standing.Guest => 6,
    };

    /// <summary>The next steps of a young site, worked out from what is missing.</summary>
    static List<Need> Steps(CatalogueSnapshot now)
    {
        var steps = new List<Need>();
        if (now.Shelves.Count == 0)
            steps.Add(new("bi-bookshelf", "Put up a first shelf.", "A lasting theme of your content; few of them, and they stay.", "/desk/shelves/new",
            "New shelf"));
        else if (now.Pieces.Count == 0)
            steps.Add(new("bi-file-text", "Write a first piece.", "One finished piece shows you how the rest will go.", "/desk/pieces/new", "New piece"));
        if (now.Pieces.Count > 0 && now.Editions.Count == 0)
            steps.Add(new("bi-calendar3", "Plan the first edition.", "Pieces open with the edition of their month, by themselves.", "/desk/editions/new",
            "New edition"));
        else if (now.Editions.Count > 0 && now.Editions.All(e => e.State == EditionState.Draft))
            steps.Add(new("bi-calendar-check", "Schedule the first edition.", "It opens at its moment, without anybody’s hand.",
            $"/desk/editions/{now.Editions[0].Id.Value}", "Open it"));
        if (now.Plans.Count == 0) steps.Add(new("bi-layers", "Make a first tier.", "What it gives is also what it locks.", "/desk/tiers/new", "New tier"));
        else if (now.Plans.FirstOrDefault(p => p.Promise.Count == 0) is { } empty)
            steps.Add(new("bi-list-check", $"Say what {empty.Name} gives.", "A tier without a promise opens nothing.", $"/desk/tiers/{empty.Id.Value}",
            "Write its promise"));
        if (now.Plans.Count > 0 && now.Prices.Count == 0)
            steps.Add(new("bi-tag", "Name a price.", "Free, once, or every so often; you see at once what a member pays.",
            $"/desk/tiers/{now.Plans[0].Id.Value}/price", "New price"));
        if (now.Prices.FirstOrDefault(p => p.Within(now.PlanById[p.PlanId]) == Availability.OnOffer) is { } price && now.Site is { IsDemo: false }
            && !now.Editions.Any(e => e.State == EditionState.Released))
            steps.Add(new("bi-signpost-2", "Walk in as a stranger.",
                "Open the join link in a private window and go the whole way; nearly everyone finds something.", $"/join/{price.Code}", "Trial run"));
        return steps;
    }

    static List<Need> Needs(CatalogueSnapshot now, Facts f, Instant moment)
    {
        var needs = new List<Need>();
        if (f.Refused.Count > 0)
        {
            var names = f.Refused.Distinct().ToArray();
            needs.Add(new("bi-envelope-x", $"{Say.Count(f.Refused.Count, "letter")} could not be delivered.",
                $"To {Names(names)}. Their addresses don’t take mail.", "/desk/letters?waiting=true", "Show them"));
        }
        if (now.NextEdition is { } next)
        {
            string[] drafts = [.. now.PartsOf[next.Id].Where(p => p.State == PieceState.Draft).Select(p => p.Title),
                .. now.LessonPartsOf[next.Id].Where(l => l.State == PieceState.Draft).Select(l => l.Title)];
            if (drafts.Length > 0)
                needs.Add(new("bi-calendar3", $"{next.Month.ToString("MMMM", now.Culture)}’s edition is {Say.Count(drafts.Length, "part")} short.",
                    $"{Names([.. drafts.Select(d => $"“{d}”")])} {(drafts.Length == 1 ? "is" : "are")} still a draft; the edition opens "
                    + $"{Say.Relative(next.ReleaseAt, moment, now.Calendar)}.", $"/desk/editions/{next.Id.Value}",
                        $"Open {next.Month.ToString("MMMM", now.Culture)}"));
        }
        else if (now.Editions.Any(e => e.State == EditionState.Released))
            needs.Add(new("bi-calendar3", "No edition is scheduled.", "Your members have nothing to look forward to after this month.", "/desk/editions",
                "Plan the next one"));
        if (now.Plans.Count > 0 && now.ForNobody.Where(p => p.State == PieceState.Released).Select(p => $"“{p.Title}”").ToArray() is { Length: > 0 } alone)
            needs.Add(new("bi-door-closed", $"{Say.Count(alone.Length, "piece is", "pieces are")} out and promised to nobody.",
                $"{Names(alone)}: no tier and no pass covers {(alone.Length == 1 ? "it" : "them")}, so only the team can open "
                + $"{(alone.Length == 1 ? "it" : "them")}.",
                "/desk/doors?show=nobody", "Look at the doors"));
        if (f.ToMark is > 0 and var toMark) needs.Add(
            new("bi-pencil-square", $"{Say.Count(toMark, "practice sheet")} {(toMark == 1 ? "waits" : "wait")} to be read.",
            "Open answers that nobody but you can judge.", "/desk/marking", "Read them"));
        if (f.Asked is > 0 and var asked) needs.Add(
            new("bi-chat-left-text", $"{Say.Count(asked, "question")} under lessons {(asked == 1 ? "is" : "are")} open.",
            "An answer goes to whoever asked, and helps the next one.", "/desk/questions", "Answer"));
        if (f.Wrote is > 0 and var wrote) needs.Add(
            new("bi-inbox", $"{Say.Count(wrote, "member waits", "members wait")} for an answer.",
                "They wrote to you; whoever of the team is there can take it.",
            "/desk/inbox", "Answer"));
        if (f.Reported is > 0 and var reported) needs.Add(
            new("bi-shield-check", $"{Say.Count(reported, "thing")} in spaces {(reported == 1 ? "is" : "are")} said not to belong.",
            "Look at it, leave it standing or take it away.", "/desk/talk", "Look at it"));
        if (f.Held is > 0 and var held) needs.Add(
            new("bi-hourglass", $"{Say.Count(held, "thing waits", "things wait")} to be seen before {(held == 1 ? "it stands" : "they stand")} in spaces.",
            "By your rules; whoever wrote it knows that it waits.", "/desk/talk", "Look at it"));
        if (f.Unanswered is > 0 and var unanswered) needs.Add(
            new("bi-chat-left-dots", $"{Say.Count(unanswered, "thread")} of members {(unanswered == 1 ? "has" : "have")} no answer, for a day or longer.",
            "A word from you, or from somebody who knows.", "/desk/talk#unanswered", "Read them"));
        // The first line counts what was looked at.
        if (f.Broken.Where(b => b.Order != 0).Select(b => b.Name).ToArray() is { Length: > 0 } broken)
            needs.Insert(0, new("bi-exclamation-octagon", $"Something is missing for {Say.Count(broken.Length, "paid order")}.",
                $"{Names(broken)}: what is held, the letter or the account isn’t there.", "/desk/arrivals", "Look at it"));
        if (f.Arrivals.Where(a => a.Facts.StuckAt(moment) is not null).Select(a => a.Name).ToArray() is { Length: > 0 } stuck)
            needs.Add(new("bi-sunrise", $"{Say.Count(stuck.Length, "newcomer is", "newcomers are")} stuck on the way in.", Names(stuck), "/desk/arrivals",
                "Help them"));
        if (f.Tasks.Count == 1) needs.Add(new("bi-check2-square", $"{f.Tasks[0].Name}: {f.Tasks[0].Text}", "To do for a member.", "/desk/tasks", "Do it"));
        else if (f.Tasks.Count > 1)
            needs.Add(new("bi-check2-square", $"{Say.Count(f.Tasks.Count, "thing")} to do for members.", Names([.. f.Tasks.Select(t => t.Name).Distinct()]),
                "/desk/tasks",
                "Look at them"));
        // The same thing more than twice is one line with a number; a page of its own has them one by one.
        foreach (var same in f.LookAt.GroupBy(l => l.Concern))
        {
            var icon = same.Key is PaymentConcern.FirstPaymentFailed ? "bi-credit-card" : "bi-cash-coin";
            if (same.Count() > 2)
                needs.Add(new(icon, ConcernWords.Many(same.Key, same.Count()), same.First().Text, "/desk/payments/look", "Show them"));
            else
                foreach (var look in same)
                    needs.Add(new(icon, ConcernWords.One(look.Concern), look.Text, look.Payment is { } payment ? $"/desk/payments/{payment}"
                        : look.Member is { } who ? $"/desk/members/{who}" : "/desk/payments", "Look at it", look.Id));
        }
        if (f.Placed.Count > 0)
            needs.Add(new("bi-bank", $"{Say.Count(f.Placed.Count, "order waits", "orders wait")} for {(f.Placed.Count == 1 ? "its" : "their")} money.",
                $"{new Money(f.Placed.Minor, now.Currency).Format(now.Culture)} by transfer or by hand. Note what has come, or read the bank’s list.",
                    "/desk/orders",
                "Show them"));
        if (f.Owing.Count > 0)
            needs.Add(new("bi-hourglass", $"{Say.Count(f.Owing.Count, "member")} {(f.Owing.Count == 1 ? "has" : "have")} an open amount.",
                $"{Names([.. f.Owing.Select(o => o.Name)])}: periods went by while the site stood still and weren’t charged. Waive them on the member’s "
                + $"page, or leave them open.", $"/desk/members/{f.Owing[0].Member}", "Show the first"));
        foreach (var edition in now.Editions.Where(e => e.ReleasedAt is not null).TakeLast(3))
            if (EditionReadiness.LeftBehind(edition, now.PartsOf[edition.Id], now.LessonPartsOf[edition.Id]) is { Count: > 0 } behind)
                needs.Add(
                    new("bi-calendar-x",
                    $"{edition.Title} is out, and {Say.Count(behind.Count, "part")} of it {(behind.Count == 1 ? "was" : "were")} left behind.",
                    $"{Names([.. behind.Select(b => $"“{b}”")])}: still a draft. Make it ready, and it opens; or move it to another month.",
                    $"/desk/editions/{edition.Id.Value}", "Show it"));
        if (f.Waiting.Count > 0)
            needs.Add(new("bi-credit-card", $"{Say.Count(f.Waiting.Count, "member needs", "members need")} another card.",
                $"{Names([.. f.Waiting])}: asking the same card again is pointless. They have had a letter; a word from you helps.",
                "/desk/members?standing=Grace", "Show them"));
        if (f.NotTold > 0)
            needs.Add(new("bi-plug", $"Another program didn’t take {Say.Count(f.NotTold, "thing")} it was told.",
                "It was tried for days. Tell it again once it works, or leave it.", "/desk/routines/programs", "Look at it"));
        if (f.Stuck.Count > 0)
            needs.Add(new("bi-exclamation-triangle", $"{Say.Count(f.Stuck.Count, "thing")} due can’t be done.",
                $"It is tried again by itself. Last said: {f.Stuck[^1]}", "/health", "Look at the health page"));
        return needs;
    }

    static string Names(string[] names) => names.Length <= 3 ? string.Join(", ", names) : $"{string.Join(", ", names[..3])} and {names.Length - 3} more";

    static List<Coming> ComingUp(CatalogueSnapshot now, Facts f, Instant moment)
    {
        var until = moment + Duration.FromDays(7);
        var coming = new List<Coming>();
        foreach (var g in f.Due.GroupBy(g => (g.Day, g.Kind)))
        {
            var count = g.Sum(x => x.Count);
            var amount = new Money(g.Sum(x => x.Minor), now.Currency);
            var (text, soft) = g.Key.Kind switch
            {
                "Renew" => (Say.Count(count, "renewal"), amount.Format(now.Culture)),
                "Trial" => (Say.Count(count, "trial") + (count == 1 ? " becomes paid" : " become paid"), amount.Format(now.Culture)),
                "Retry" => ($"{Say.Count(count, "card")} asked again", amount.Format(now.Culture)),
                _ => ($"{Say.Count(count, "membership")} {(count == 1 ? "ends" : "end")}", "left earlier, or a gift’s time is up"),
            };
            coming.Add(new(g.Key.Day, g.Min(x => x.First), g.Key.Kind, text, soft, null));
        }
        coming.AddRange(
            f.Lapses.Select(l => new Coming(now.Calendar.Date(l.At), l.At, "Lapse", $"{l.Name} lapses", "unless a card works before",
            $"/desk/members/{l.Id}")));
        if (now.NextEdition is { } next && next.ReleaseAt <= until)
            coming.Add(new(now.Calendar.Date(next.ReleaseAt), next.ReleaseAt, "Release", $"{next.Title} opens",
                $"{Say.Count(now.PartsOf[next.Id].Count(p => p.Ready) + now.LessonPartsOf[next.Id].Count(l => l.Ready), "part")}{(next.Announce ? ", with a "
                + $"letter to those it opens for" : "")}", $"/desk/editions/{next.Id.Value}"));
        return [.. coming.OrderBy(c => c.At)];
    }
}
