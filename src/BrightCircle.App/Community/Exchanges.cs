using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Whoever writes to another member.</summary>
/// <param name="Confirmed">Their address is proved.</param>
public sealed record Writer(MemberId Member, bool Confirmed);

/// <summary>What members write to one another: one asks, the other agrees or doesn’t, and either can shut it at any time.</summary>
public sealed class Exchanges(BrightContext db, Ids ids, RichText rich, Catalogue catalogue, Correspond correspond, TalkPictures pictures, IClock clock)
{
    /// <summary>Asks somebody who is found among the people here, with the first words to them.</summary>
    /// <returns>The exchange; the one there is where they write to one another already.</returns>
    public async Task<Result<long>> Ask(PeopleReader by, Writer who, MemberId to, string? body, CancellationToken ct)
    {
        ArgumentNullException.ThrowIfNull(by);
        if (!by.MayWriteToOthers) return Result.Refused(Off);
        if (who.Member == to) return Result.Refused("That is you.");
        if (!who.Confirmed) return Result.Refused(AskAndAnswer.Unproved, "Body");
        if (body?.Length > ExchangeRules.MostAsk) return Result.Refused($"The first words are {ExchangeRules.MostAsk:N0} letters at most.", "Body");
        var text = Talk.Clean(rich, body);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // Both rows in the order of their numbers: of two who ask one another at once the second finds what the first began.
        long[] both = [who.Member.Value, to.Value];
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = any({both}) order by id for no key update", ct);
        if (await Between(who.Member, to).FirstOrDefaultAsync(ct) is var known && known != 0) return known;
        var (me, other) = (who.Member, to.Value);
        const string Takes = $"select {ReadPeople.TakesWordsSql} as \"Value\"";
        if (!(await db.Database.SqlQueryRaw<bool>(Takes, other).ToListAsync(ct))[0])
            return Result.Refused("They don’t take messages from members.");
        var own = me.Value;
        if (!await db.PersonCards.AnyAsync(c => c.AccountId == own && c.Shown, ct))
            return Result.Refused("Put up a card of your own first, so that they see who asks.");
        if (await TalkBars.Of(db, catalogue.Now, own, at, ct) is { } barred) return barred;
        var since = at - Duration.FromDays(1);
        if (await db.ExchangePeople.CountAsync(p => p.MemberId == me && p.Asked && db.Exchanges.Any(e => e.Id == p.ExchangeId && e.AskedAt > since), ct)
            >= ExchangeRules.MostAsksADay) return Result.Refused("That is a lot of people for a day. Ask again tomorrow.", "Body");
        var exchange = db.Add(new Exchange { Id = ids.Next(), AskedAt = at, LastAt = at, LastById = me }).Entity;
        db.Add(new ExchangePerson { ExchangeId = exchange.Id, MemberId = me, Asked = true, SeenAt = at });
        db.Add(new ExchangePerson { ExchangeId = exchange.Id, MemberId = to });
        Add(exchange.Id, me, text.Value!, at);
        await db.SaveChangesAsync(ct);
        await Told(exchange.Id, to, null, at, ct);
        await transaction.CommitAsync(ct);
        return exchange.Id;
    }

    /// <summary>Says yes to somebody who asked, or shuts it. Whoever asked isn’t told of a no.</summary>
    public async Task<Result> Agree(MemberId me, long exchange, bool yes, CancellationToken ct)
    {
        if (!yes) return await Shut(me, exchange, true, ct);
        var at = clock.GetCurrentInstant();
        var done = await db.Exchanges.Where(e => e.Id == exchange && e.AgreedAt == null
            && db.ExchangePeople.Any(p => p.ExchangeId == exchange && p.MemberId == me && !p.Asked && p.ShutAt == null))
            .ExecuteUpdateAsync(u => u.SetProperty(e => e.AgreedAt, at), ct);
        return done > 0 ? Result.Done : Gone;
    }

    /// <summary>Wants to hear nothing any more, or again.</summary>
    public async Task<Result> Shut(MemberId me, long exchange, bool shut, CancellationToken ct)
    {
        var at = shut ? clock.GetCurrentInstant() : (Instant?)null;
        return await db.ExchangePeople.Where(p => p.ExchangeId == exchange && p.MemberId == me).ExecuteUpdateAsync(u => u.SetProperty(p => p.ShutAt, at), ct)
            > 0
            ? Result.Done : Gone;
    }

    public async Task<Result> Write(PeopleReader by, Writer who, long exchange, string? body, CancellationToken ct, Shown? shown = null)
    {
        ArgumentNullException.ThrowIfNull(by);
        if (!by.MayWriteToOthers) return Result.Refused(Off, "Body");
        var text = Talk.Clean(rich, body, shown);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        var (me, at) = (who.Member, clock.GetCurrentInstant());
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if ((await db.Exchanges.FromSql($"select * from exchanges where id = {exchange} for update").AsTracking().ToListAsync(ct)).FirstOrDefault()
            is not { } of) return Gone;
        if (await Refused(who, exchange, ct) is { } refused) return refused;
        var people = await db.ExchangePeople.Where(p => p.ExchangeId == exchange).ToListAsync(ct);
        var (own, other) = (people.Single(p => p.MemberId == me), people.Single(p => p.MemberId != me));
        var since = at - Duration.FromHours(1);
        if (await db.ExchangeMessages.CountAsync(m => m.MemberId == me && m.At > since, ct) >= ExchangeRules.MostAnHour)
            return Result.Refused("That is a lot for an hour. Try again a little later.", "Body");
        var message = Add(exchange, me, text.Value!, at);
        (of.LastAt, of.LastById, own.SeenAt) = (at, me, at);
        await db.SaveChangesAsync(ct);
        await pictures.GoWith(me.Value, shown, p => p.WordsId = message.Id, ct);
        await Told(exchange, other.MemberId, other.SeenAt, at, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Why somebody can't write in an exchange just now; null where they can.</summary>
    public async Task<Result?> Refused(Writer who, long exchange, CancellationToken ct)
    {
        if (!who.Confirmed) return Result.Refused(AskAndAnswer.Unproved, "Body");
        var (me, people) = (who.Member, await db.ExchangePeople.AsNoTracking().Where(p => p.ExchangeId == exchange).ToListAsync(ct));
        if (people.FirstOrDefault(p => p.MemberId == me) is not { } own || people.FirstOrDefault(p => p.MemberId != me) is not { } other) return Gone;
        if (own.ShutAt is not null) return Result.Refused("You shut this. Open it first.", "Body");
        var isAgreed = await db.Exchanges.AnyAsync(e => e.Id == exchange && e.AgreedAt != null, ct);
        return ExchangeRules.Seen(isAgreed, false, other.ShutAt is not null) switch
        {
            ExchangeState.Asked => Result.Refused(own.Asked ? "You have asked; they haven’t answered yet." : "Say first whether you want to.", "Body"),
            ExchangeState.Shut => Result.Refused("They don’t take messages any more.", "Body"),
            ExchangeState.Open => await TalkBars.Of(db, catalogue.Now, me.Value, clock.GetCurrentInstant(), ct) is { } barred
                ? Result.Refused(barred.Refusal!, "Body") : null,
            var state => throw new InvalidOperationException($"No such state: {state}"),
        };
    }

    /// <summary>Shows the team something another member wrote, with why: it comes into the inbox, as from whoever reports it, with what went
    /// with it. Nobody of the team sees anything else of what the two write.</summary>
    public async Task<Result> Report(Writer who, long exchange, long message, string? why, CancellationToken ct)
    {
        var words = why?.Trim() ?? "";
        if (words.Length is 0 or > TalkReport.MostWhy)
            return Result.Refused(words.Length == 0 ? "Say in a few words what is wrong with it." : $"{TalkReport.MostWhy} letters are the most.", "Why");
        var me = who.Member;
        var said = await db.ExchangeMessages.Where(m => m.Id == message && m.ExchangeId == exchange && m.MemberId != null && m.MemberId != me
            && db.ExchangePeople.Any(p => p.ExchangeId == exchange && p.MemberId == me))
            .Join(db.Members, m => m.MemberId, m => m.Id, (m, by) => new { m.Body, m.At, by.Name }).FirstOrDefaultAsync(ct);
        if (said is null) return Gone;
        var quoted = string.Concat(Talk.Words(said.Body).Split('\n').Select(l => $"> {l}".TrimEnd() + "\n"));
        var day = catalogue.Now.Calendar.Date(said.At).ToString("d MMMM uuuu", catalogue.Now.Culture);
        return await correspond.Write(me, who.Confirmed, $"{said.Name} wrote this to me on {day}:\n\n{quoted}\n{words}", ct,
            shown: await pictures.CopiesOf(message, me.Value, ct));
    }

    /// <summary>The exchange of two members; 0 where there is none.</summary>
    IQueryable<long> Between(MemberId one, MemberId other) => db.ExchangePeople.Where(p => p.MemberId == one
        && db.ExchangePeople.Any(o => o.ExchangeId == p.ExchangeId && o.MemberId == other)).OrderBy(p => p.ExchangeId).Select(p => p.ExchangeId);

    ExchangeMessage Add(long exchange, MemberId by, string body, Instant at) =>
        db.Add(new ExchangeMessage { Id = ids.Next(), ExchangeId = exchange, MemberId = by, Body = body, At = at }).Entity;

    /// <summary>They are written to once, however much is said until they come.</summary>
    Task Told(long exchange, MemberId to, Instant? seen, Instant at, CancellationToken ct) => db.PutDueOnce(ids, DueKind.WordsWritten, at +
        ExchangeRules.TellAfter,
        $"words-{exchange}-{to.Value}-{seen?.ToUnixTimeMilliseconds() ?? 0}", $$"""{"exchange":{{exchange}},"member":{{to.Value}}}""", ct);

    const string Off = "Members don’t write to one another here just now.";
    static Result Gone => Result.Refused("That isn’t here any more.");
}
