using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Who would get a letter to many, and who of its audience wouldn't.</summary>
/// <param name="Get">So many get it.</param>
/// <param name="NoNews">Asked for no letters to many.</param>
/// <param name="NoSeries">Asked for none of this series.</param>
/// <param name="Refusing">Their address refused the last letter, and nobody has seen to it.</param>
/// <param name="First">The first who get it, by name.</param>
public sealed record MailingReach(int Audience, int Get, int NoNews, int NoSeries, int Refusing, IReadOnlyList<MemberRow> First);

/// <summary>To whom letters to many go: one rule for the count, the names and the sending.</summary>
public sealed class MailingReaders(BrightContext db, ConditionSql sql, Catalogue catalogue, MemberReader reader, IClock clock)
{
    public const int Sample = 10;

    /// <summary>Everybody of the audience, also those who don't get it.</summary>
    IQueryable<Member> Audience(Mailing mailing) => mailing.MemberId is { } one ? db.Members.AsNoTracking().Where(m => m.Id == one)
        : mailing.AudienceId is { } id && catalogue.Now.People.AudienceById.TryGetValue(id, out var a)
        ? sql.Members(a.Condition) : db.Members.AsNoTracking().Where(m => false);

    /// <summary>Those who get it.</summary>
    /// <remarks>A letter to one isn't one of those to many, and goes also to whoever asked for none of them.</remarks>
    public IQueryable<Member> Of(Mailing mailing) => mailing.MemberId is not null ? Reachable(Audience(mailing))
        : Reachable(WantSeries(Audience(mailing).Where(m => m.WantsNews), mailing.SeriesId));

    /// <summary>Those of some members who get a letter that is a step of a routine.</summary>
    public IQueryable<Member> Of(IReadOnlyCollection<MemberId> members)
    {
        var those = members.ToArray();
        return Reachable(db.Members.AsNoTracking().Where(m => those.Contains(m.Id) && m.WantsNews));
    }

    IQueryable<Member> WantSeries(IQueryable<Member> members, long? series) => series is { } s
        ? members.Where(m => !db.SeriesRefusals.Any(r => r.MemberId == m.Id && r.SeriesId == s)) : members;

    /// <summary>An address that refused is set aside until somebody has seen to it, or it is another.</summary>
    IQueryable<Member> Reachable(IQueryable<Member> members) => members.Where(m => !db.Letters.Any(l => l.MemberId == m.Id && l.ToAddress == m.Email
        && l.State == LetterState.Refused && l.SetAsideAt == null));

    public async Task<MailingReach> Look(Mailing mailing, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var audience = Audience(mailing);
        var all = trip.Count(audience);
        var toOne = mailing.MemberId is not null;
        var noNews = trip.Count(audience.Where(m => !toOne && !m.WantsNews));
        var want = audience.Where(m => toOne || m.WantsNews);
        var wantSeries = trip.Count(WantSeries(want, mailing.SeriesId));
        var get = trip.Count(Of(mailing));
        var first = trip.List(Of(mailing).OrderBy(m => m.Name).ThenBy(m => m.Id).Take(Sample).Select(MemberList.Row));
        await trip.Ask(ct);
        return new(all.Value, get.Value, noNews.Value, all.Value - noNews.Value - wantSeries.Value, wantSeries.Value - get.Value, first.Value);
    }

    /// <summary>What stands in the fields of a letter for some members: only those it uses.</summary>
    public async Task<IReadOnlyDictionary<MemberId, Dictionary<string, string>>> Fields(Mailing mailing, IReadOnlyList<Member> members, CancellationToken ct)
    {
        var now = catalogue.Now;
        var used = MailingFields.Used(mailing.Subject).Concat(MailingFields.Used(mailing.Preheader)).Concat(MailingFields.Used(mailing.Body)).ToHashSet();
        var own = now.OwnFields.Where(f => used.Contains(MailingFields.KeyOf(f))).ToDictionary(f => f.Id, MailingFields.KeyOf);
        var found = members.ToDictionary(m => m.Id, _ => new Dictionary<string, string>());
        if (used.Contains("tier"))
            foreach (var m in members)
                if (m.StandingPlanId is { } plan && m.Standing != Standing.Lapsed) found[m.Id]["tier"] = now.PlanName(plan);
        if (own.Count > 0)
        {
            var (ids, fields) = (members.Select(m => m.Id).ToArray(), own.Keys.ToArray());
            foreach (var v in await db.OwnFieldValues.AsNoTracking().Where(v => ids.Contains(v.MemberId) && fields.Contains(v.FieldId)).ToListAsync(ct))
                found[v.MemberId][own[v.FieldId]] = v.Text;
        }
        if (used.Contains("threads")) await Threads(members, found, ct);
        return found;
    }

    sealed record Busy(string Title, SpaceId Space);

    /// <summary>So many threads are named, of so many that were busiest in the last week.</summary>
    const int MostThreads = 3, MostBusy = 60;

    /// <summary>For each reader the threads that were busiest in the last week, in the spaces that are open to them.</summary>
    async Task Threads(IReadOnlyList<Member> members, Dictionary<MemberId, Dictionary<string, string>> found, CancellationToken ct)
    {
        var (now, at) = (catalogue.Now, clock.GetCurrentInstant());
        var since = at - Duration.FromDays(7);
        var busy = (await db.TalkThreads.AsNoTracking().Where(t => t.HiddenAt == null && t.LastAt > since)
            .Select(t => new { t.Title, t.SpaceId, t.Id, Count = db.TalkPosts.Count(p => p.ThreadId == t.Id && p.GoneAt == null && p.At > since) })
            .OrderByDescending(t => t.Count).ThenByDescending(t => t.Id).Take(MostBusy).ToListAsync(ct)).ConvertAll(t => new Busy(t.Title, t.SpaceId));
        if (busy.Count == 0) return;
        var facts = new Dictionary<MemberId, MemberFacts>();
        await foreach (var holder in reader.Holders(null, ct, members.Select(m => m.Id).ToArray())) facts[holder.Id] = holder.FactsAt(at);
        var spaces = busy.Select(b => b.Space).Distinct().Select(s => now.SpaceById.GetValueOrDefault(s)).OfType<Core.Community.Space>().ToArray();
        foreach (var m in members)
        {
            var theirs = facts.GetValueOrDefault(m.Id) ?? MemberFacts.Nobody;
            var open = spaces.Where(s => s.OpenTo(now.Book, theirs, at).Reads).Select(s => s.Id).ToHashSet();
            string[] titles = [.. busy.Where(b => open.Contains(b.Space)).Take(MostThreads).Select(b => $"“{b.Title}”")];
            if (titles.Length > 0) found[m.Id]["threads"] = Say.List(titles, titles.Length);
        }
    }
}
