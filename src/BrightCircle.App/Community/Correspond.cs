using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Which conversations are shown.</summary>
public enum InboxShown { Open, Mine, Waiting, Done }

/// <summary>A conversation in the team’s inbox.</summary>
/// <param name="LastWords">How what was written last begins.</param>
/// <param name="Assigned">Who has taken it; null for nobody.</param>
public sealed record InboxRow(long Member, string Name, Standing Standing, DialogueState State, Instant LastAt, bool LastByTeam, string? Assigned,
    string LastWords);

/// <summary>A conversation with one member.</summary>
/// <param name="Dialogue">Null where nobody has written yet.</param>
/// <param name="Messages">The oldest first; the latest <see cref="Correspond.Shown"/> of them.</param>
/// <param name="Pictures">What goes with them, by their numbers.</param>
public sealed record DialogueView(Dialogue? Dialogue, string? Assigned, IReadOnlyList<Message> Messages, int Count, ILookup<long, TalkPicture> Pictures)
{
    public static DialogueView Empty { get; } = new(null, null, [], 0, Array.Empty<TalkPicture>().ToLookup(p => p.Id));
}

/// <summary>What members and the team write to each other.</summary>
public sealed class Correspond(BrightContext db, Ids ids, RichText rich, TalkPictures pictures, Tell tell, Wake wake, Catalogue catalogue, IClock clock)
{
    public const int MostAnHour = 20, Shown = 200;

    static void Need(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);

    /// <summary>Why a member can’t write to the team just now; null where they can.</summary>
    /// <param name="confirmed">Their address is proved.</param>
    public static Result? Refused(bool confirmed) => confirmed ? null : Result.Refused(AskAndAnswer.Unproved, "Body");

    /// <summary>A member writes to the team.</summary>
    /// <param name="confirmed">Their address is proved.</param>
    /// <param name="mail">The Message-ID of the letter it came by; null where it is written here. One letter is taken once.</param>
    public async Task<Result> Write(MemberId member, bool confirmed, string? body, CancellationToken ct, string? mail = null, Shown? shown = null)
    {
        if (Refused(confirmed) is { } refused) return refused;
        var text = Talk.Clean(rich, body, shown);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        var at = clock.GetCurrentInstant();
        if (await db.Messages.CountAsync(m => m.MemberId == member && !m.ByTeam && m.At > at - Duration.FromHours(1), ct) >= MostAnHour)
            return Result.Refused("That is a lot for an hour. Try again a little later.", "Body");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { } person) return Gone;
        if (person.IsForgotten) return Gone;
        var dialogue = await Dialogue(member, at, ct);
        // The row of the conversation is locked: of one letter handed in twice the second finds it here.
        if (mail is not null && await db.Messages.AnyAsync(m => m.MemberId == member && m.MailId == mail, ct)) return Result.Done;
        (dialogue.LastAt, dialogue.LastByTeam, dialogue.State, dialogue.SeenAt) = (at, false, DialogueState.Open, at);
        var message = Add(member, member.Value, person.Name, false, text.Value!, at, mail);
        tell.Of(person, new Event.WroteToTeam(message.Id, Beginning(text.Value!)), at);
        await db.SaveChangesAsync(ct);
        await pictures.GoWith(member.Value, shown, p => p.MessageId = message.Id, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>The team writes to a member: they get a letter with it.</summary>
    /// <param name="done">There is nothing more to do; else the team waits for an answer.</param>
    public async Task<Result> Answer(TeamActor by, MemberId member, string? body, bool done, CancellationToken ct, Shown? shown = null)
    {
        Need(by);
        var text = Talk.Clean(rich, body, shown);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { IsForgotten: false } person) return Gone;
        var dialogue = await Dialogue(member, at, ct);
        (dialogue.LastAt, dialogue.LastByTeam, dialogue.State) = (at, true, done ? DialogueState.Done : DialogueState.Waiting);
        var message = Add(member, by.AccountId, by.Name, true, text.Value!, at);
        tell.Of(person, new Event.TeamWrote(message.Id, Talk.Words(text.Value!)), at, by);
        await db.SaveChangesAsync(ct);
        await pictures.GoWith(by.AccountId, shown, p => p.MessageId = message.Id, ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>The conversation of a member, its row locked: the first of two who write at once makes it.</summary>
    async Task<Dialogue> Dialogue(MemberId member, Instant at, CancellationToken ct)
    {
        await db.Database.ExecuteSqlAsync($"""
            insert into dialogues (member_id, opened_at, last_at, last_by_team, state) values ({member.Value}, {at}, {at}, false, 'Open') on conflict do nothing
            """, ct);
        return (await db.Dialogues.FromSql($"select * from dialogues where member_id = {member.Value} for update").AsTracking().ToListAsync(ct))[0];
    }

    Message Add(MemberId member, long account, string name, bool byTeam, string body, Instant at, string? mail = null) => db.Add(new Message
    {
        Id = ids.Next(),
        MemberId = member,
        AccountId = account,
        Name = name,
        ByTeam = byTeam,
        Body = body,
        MailId = mail,
        At = at,
    }).Entity;

    static string Beginning(string? html) => Talk.Beginning(html, 200);

    /// <summary>Takes a conversation, or gives it back.</summary>
    public async Task<Result> Assign(TeamActor by, MemberId member, bool take, CancellationToken ct)
    {
        Need(by);
        var who = take ? by.AccountId : (long?)null;
        return await db.Dialogues.Where(d => d.MemberId == member).ExecuteUpdateAsync(u => u.SetProperty(d => d.AssignedId, who), ct) > 0 ? Result.Done : Gone;
    }

    public async Task<Result> Set(TeamActor by, MemberId member, DialogueState state, CancellationToken ct)
    {
        Need(by);
        if (!Enum.IsDefined(state)) return Result.Refused("There is no such state.");
        return await db.Dialogues.Where(d => d.MemberId == member).ExecuteUpdateAsync(u => u.SetProperty(d => d.State, state), ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>The team’s inbox: what is to be answered first by whom waits longest, everything else by what was written last.</summary>
    public async Task<(IReadOnlyList<InboxRow> Rows, IReadOnlyDictionary<InboxShown, int> Counts, IReadOnlyList<SavedAnswer> Answers)> Inbox(TeamActor by,
        InboxShown shown, int page, int size, CancellationToken ct)
    {
        Need(by);
        var me = by.AccountId;
        IQueryable<Dialogue> Of(InboxShown which) => which switch
        {
            InboxShown.Open => db.Dialogues.Where(d => d.State == DialogueState.Open),
            InboxShown.Mine => db.Dialogues.Where(d => d.State != DialogueState.Done && d.AssignedId == me),
            InboxShown.Waiting => db.Dialogues.Where(d => d.State == DialogueState.Waiting),
            InboxShown.Done => db.Dialogues.Where(d => d.State == DialogueState.Done),
            _ => throw new ArgumentOutOfRangeException(nameof(shown), which, "No such list."),
        };
        var those = Of(shown);
        var ordered = shown == InboxShown.Open ? those.OrderBy(d => d.LastAt).ThenBy(d => d.MemberId)
            : those.OrderByDescending(d => d.LastAt).ThenBy(d => d.MemberId);
        var trip = new OneTrip(db);
        var counts = Enum.GetValues<InboxShown>().Select(s => (s, Count: trip.Count(Of(s)))).ToArray();
        var answers = trip.List(Kept);
        var rows = trip.List(ordered.Skip((page - 1) * size).Take(size).Select(d => new
        {
            Dialogue = d,
            Member = db.Members.First(m => m.Id == d.MemberId),
            Assigned = db.Users.Where(a => a.Id == d.AssignedId).Select(a => a.Name).FirstOrDefault(),
            Last = db.Messages.Where(m => m.MemberId == d.MemberId).OrderByDescending(m => m.Id).Select(m => m.Body).FirstOrDefault(),
        }));
        await trip.Ask(ct);
        return ([.. rows.Value.Select(r => new InboxRow(r.Dialogue.MemberId.Value, r.Member.Name, r.Member.Standing, r.Dialogue.State, r.Dialogue.LastAt,
            r.Dialogue.LastByTeam, r.Assigned, Beginning(r.Last)))], counts.ToDictionary(c => c.s, c => c.Count.Value), answers.Value);
    }

    /// <summary>A conversation as the team sees it, with who it is and the answers kept; null where there is no such member.</summary>
    public async Task<(Member Who, DialogueView View, IReadOnlyList<SavedAnswer> Answers)?> ForTeam(TeamActor by, MemberId member, CancellationToken ct)
    {
        Need(by);
        var trip = new OneTrip(db);
        var who = trip.First(db.Members.AsNoTracking().Where(m => m.Id == member));
        var answers = trip.List(Kept);
        var view = await View(trip, member, false, ct);
        return who.Value is { } person ? (person, view, answers.Value) : null;
    }

    /// <param name="byMember">They look at it themselves: that they did is kept.</param>
    public Task<DialogueView> View(MemberId member, bool byMember, CancellationToken ct) => View(new(db), member, byMember, ct);

    /// <param name="trip">One that asks others too; it is made here.</param>
    internal async Task<DialogueView> View(OneTrip trip, MemberId member, bool byMember, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var dialogue = trip.First(db.Dialogues.AsNoTracking().Where(d => d.MemberId == member));
        var latest = db.Messages.AsNoTracking().Where(m => m.MemberId == member).OrderByDescending(m => m.Id).Take(Shown);
        var messages = trip.List(latest);
        var shown = trip.List(db.TalkPictures.AsNoTracking().Where(p => p.MessageId != null && latest.Any(m => m.Id == p.MessageId)).OrderBy(p => p.Place));
        var count = trip.Count(db.Messages.Where(m => m.MemberId == member));
        var assigned = trip.List(db.Dialogues.Where(d => d.MemberId == member).Join(db.Users, d => d.AssignedId, a => a.Id, (d, a) => a.Name));
        if (byMember)
            trip.Command("update dialogues set seen_at = $2 where member_id = $1 returning 1", async (r, stop) => await r.ReadAsync(stop), member.Value, at);
        await trip.Ask(ct);
        return new(dialogue.Value, assigned.Value.FirstOrDefault(), [.. messages.Value.OrderBy(m => m.Id)], count.Value,
            shown.Value.ToLookup(p => p.MessageId!.Value));
    }

    IQueryable<SavedAnswer> Kept => db.SavedAnswers.AsNoTracking().OrderBy(a => a.Name).Take(200);

    public async Task<IReadOnlyList<SavedAnswer>> SavedAnswers(CancellationToken ct) => await Kept.ToListAsync(ct);

    /// <summary>Keeps an answer under a name; one of the same name gives way.</summary>
    public async Task<Result> Keep(TeamActor by, string? name, string? body, CancellationToken ct)
    {
        Need(by);
        var (called, text) = (name?.Trim() ?? "", body?.Trim() ?? "");
        if (called.Length is 0 or > SavedAnswer.MostName) return Result.Refused($"A name of {SavedAnswer.MostName} letters at most.", "Name");
        if (text.Length is 0 or > SavedAnswer.MostBody) return Result.Refused($"An answer of {SavedAnswer.MostBody:N0} letters at most.", "Answer");
        await db.Database.ExecuteSqlAsync($"""
            insert into saved_answers (id, name, body) values ({ids.Next()}, {called}, {text}) on conflict (name) do update set body = excluded.body
            """, ct);
        return Result.Done;
    }

    public async Task<Result> Forget(TeamActor by, long answer, CancellationToken ct)
    {
        Need(by);
        return await db.SavedAnswers.Where(a => a.Id == answer).ExecuteDeleteAsync(ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>What is put into an answer for a price: its words, and the link that leads there.</summary>
    public string? OfferOf(PriceId id, string site) =>
        catalogue.Now.PriceById.TryGetValue(id, out var price) && price.Within(catalogue.Now.PlanById[price.PlanId]) != Core.Offer.Availability.Closed
            ? $"[{price.Button}: {catalogue.Now.PlanName(price.PlanId)}, {Words.Say.Price(price.Terms, catalogue.Now.Culture)}]({site}/join/{price.Code})"
                : null;

    static Result Gone => Result.Refused("That isn’t here any more.");
}
