using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Learning;
using BrightCircle.App.Offer;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using Challenge = BrightCircle.Core.Community.Challenge;

namespace BrightCircle.App.Community;

/// <summary>A challenge as it is typed.</summary>
/// <param name="StartsOn">The Monday it begins on.</param>
/// <param name="What">What counts as having done it.</param>
/// <param name="Amount">What taking part costs, once; empty for nothing.</param>
/// <param name="HasSpace">It has a space of its own.</param>
/// <param name="Badge">Of whoever reaches every aim: the number of one, <see cref="Challenges.NewBadge"/> for one called like it, or empty for none.</param>
public sealed record ChallengeDraft(string? Name, string? About, string? StartsOn, string? Weeks, string? What, string? AWeek, string? Amount, bool HasSpace,
    string? Badge = null);

/// <summary>Challenges: made in one act with all that belongs to them, and what comes of them.</summary>
public sealed class Challenges(BrightContext db, Ids ids, Catalogue catalogue, AddPrice prices, Deeds deeds, IClock clock)
{
    /// <summary>So many stand on a board.</summary>
    public const int MostPeople = 1000;
    public const string NewBadge = "new";
    /// <summary>What it opened stays open for so many days after its end.</summary>
    public const int DaysAfter = 14;

    LocalDate Today => catalogue.Now.Calendar.Date(clock.GetCurrentInstant());

    /// <summary>A new one as it would begin: empty, or as another round of one that was.</summary>
    public ChallengeDraft New(Challenge? of)
    {
        var next = Core.Time.IsoWeek.Of(Today).Plus(1).Monday;
        if (of is null) return new("", "", LocalInput.Write(next), "6", "", "3", "", true);
        var (now, starts) = (catalogue.Now, of.LastWeek.Plus(1).Monday);
        var tally = now.TallyById[of.TallyId];
        var price = now.PricesOf(of.PlanId).Select(p => p.Terms).OfType<PriceTerms.OnePayment>().FirstOrDefault();
        return new(NextName.After(of.Name, [.. now.Community.Challenges.Select(c => c.Name)]) is { Length: > 0 } name ? name : $"{of.Name}, again", of.About,
            LocalInput.Write(starts > next ? starts : next), of.Weeks.ToString(CultureInfo.InvariantCulture), tally.Description,
            tally.AimIn(of.LastWeek).ToString(CultureInfo.InvariantCulture), price is null ? "" : price.Amount.Format(now.Culture), of.SpaceId is not null,
            of.BadgeId?.Value.ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>Makes a challenge: the tally with its aim, the space, the pass that opens both, and its price.</summary>
    public async Task<Result<ChallengeId>> Make(TeamActor by, ChallengeDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var (name, about, what) = (draft.Name?.Trim() ?? "", draft.About?.Trim() ?? "", draft.What?.Trim() ?? "");
        if (name.Length is 0 or > Space.MostName) return Result.Refused($"A challenge needs a name of {Space.MostName} letters at most.", "Name");
        if (about.Length > Challenge.MostAbout) return Result.Refused($"{Challenge.MostAbout:N0} letters are the most.", "About");
        if (LocalDatePattern.Iso.Parse(draft.StartsOn ?? "") is not { Success: true, Value: var starts } || starts.Year > 2200)
            return Result.Refused("Say on which Monday it begins.", "StartsOn");
        if (starts.DayOfWeek != IsoDayOfWeek.Monday) return Result.Refused($"It begins with a week: {Core.Time.IsoWeek.Of(starts).Plus(1).Monday.ToString(
            "dddd, d MMMM", catalogue.Now.Culture)}, for example.", "StartsOn");
        if (!int.TryParse(draft.Weeks, NumberStyles.None, CultureInfo.InvariantCulture, out var weeks) || weeks is < 1 or > Challenge.MostWeeks)
            return Result.Refused($"From 1 to {Challenge.MostWeeks} weeks.", "Weeks");
        if (starts.PlusWeeks(weeks) <= Today) return Result.Refused("It would be over already.", "StartsOn");
        if (!int.TryParse(draft.AWeek, NumberStyles.None, CultureInfo.InvariantCulture, out var aim) || aim is < 1 or > Tally.MostAWeek)
            return Result.Refused($"The aim is from 1 to {Tally.MostAWeek} times a week.", "AWeek");
        if (what.Length > 400) return Result.Refused("400 letters are the most.", "What");
        var now = catalogue.Now;
        bool Taken(IEnumerable<string> names) => names.Any(n => string.Equals(n, name, StringComparison.CurrentCultureIgnoreCase));
        if (Taken(now.Community.Challenges.Select(c => c.Name)) || Taken(now.Tallies.Select(t => t.Name)) || Taken(now.Plans.Select(p => p.Name))
            || draft.HasSpace && now.Community.HasSpaceCalled(name))
            return Result.Refused($"Something is called {name} already: a challenge, a tally, a pass or a space.", "Name");
        var badge = BadgeOf(draft.Badge);
        if (!badge.Ok) return Result.Refused(badge.Refusal!, badge.Field);
        if (draft.Badge == NewBadge && Taken(now.Tags.Select(t => t.Name))) return Result.Refused($"There is a tag called {name} already.", "Badge");
        if (draft.Badge == NewBadge && (name.Length > Tag.MostName || name.Contains(',', StringComparison.Ordinal)))
            return Result.Refused($"A badge’s name has {Tag.MostName} letters at most, and no comma. Make the badge first, and choose it here.", "Badge");
        var isFree = string.IsNullOrWhiteSpace(draft.Amount);
        var price = new PriceDraft(isFree ? "Free" : "Once", "Take part", isFree ? PriceKind.Free : PriceKind.Once, draft.Amount, 1,
            Core.Time.PeriodUnit.Months, false, 1, Core.Time.PeriodUnit.Days, null)
        {
            Access = AccessKind.UntilDay,
            AccessUntil = LocalInput.Write(starts.PlusWeeks(weeks).PlusDays(DaysAfter - 1)),
        };
        // All of it is there, or nothing is.
        var at = clock.GetCurrentInstant();
        var tally = new Tally { Id = ids.Next<TallyId>(), Name = name, Description = what };
        // It counts from its first week on, also where that is before the one under way.
        tally.Aim(aim, Core.Time.IsoWeek.Of(starts));
        var space = !draft.HasSpace ? null : new Space
        {
            Id = ids.Next<SpaceId>(),
            Name = name,
            Door = $"For everybody who takes part in {name}.",
            Colour = 4,
            Order = now.Community.NextOrder,
            MadeAt = at,
        };
        List<Inclusion> promise = [new(new Coverage.OneTally(tally.Id), new Reach.EverythingReleased(), new Keep.Nothing())];
        if (space is not null) promise.Add(new(new Coverage.OneSpace(space.Id), new Reach.EverythingReleased(), new Keep.Nothing()));
        var plan = new Plan
        {
            Id = ids.Next<PlanId>(),
            Kind = PlanKind.Pass,
            CreatedAt = at,
            PromiseFrom = at,
            Promise = promise,
            Name = name,
            Description = $"{about} {ChallengeWords.Terms(starts, weeks, aim, now.Culture)}".Trim(),
        };
        var priced = prices.First(plan, price, at);
        if (!priced.Ok) return Result.Refused(priced.Refusal!, priced.Field);
        var tag = draft.Badge == NewBadge ? new Tag { Id = ids.Next<TagId>(), Name = name, Colour = 4, IsBadge = true } : null;
        var challenge = new Challenge
        {
            Id = ids.Next<ChallengeId>(),
            Name = name,
            About = about,
            TallyId = tally.Id,
            PlanId = plan.Id,
            SpaceId = space?.Id,
            BadgeId = tag?.Id ?? badge.Value,
            StartsOn = starts,
            Weeks = weeks,
            MadeAt = at,
        };
        object?[] made = [tally, space, plan, priced.Value, tag, challenge];
        db.AddRange(made.OfType<object>());
        ChallengeTurns.Put(db, ids, challenge, now.Calendar);
        deeds.Note(by, $"made the challenge {name}", $"/desk/challenges/{challenge.Id.Value}");
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"Something has just been called {name} by somebody else. Look at the list.", "Name");
        }
        await catalogue.Changed(ct);
        return challenge.Id;
    }

    /// <summary>The badge that is chosen; null for none, and for one that is to be made.</summary>
    Result<TagId?> BadgeOf(string? chosen) => string.IsNullOrEmpty(chosen) || chosen == NewBadge ? new(null, null)
        : long.TryParse(chosen, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && catalogue.Now.TagById.TryGetValue(new(n), out var tag)
            && tag.IsBadge ? tag.Id : Result.Refused("This badge isn’t here any more.", "Badge");

    /// <summary>What a challenge is called, what is said about it, and which badge it ends with.</summary>
    public async Task<Result> Describe(TeamActor by, ChallengeId id, string? name, string? about, string? badge, CancellationToken ct)
    {
        by.NeedEditor();
        var (called, words) = (name?.Trim() ?? "", about?.Trim() ?? "");
        if (called.Length is 0 or > Challenge.MostName) return Result.Refused($"A challenge needs a name of {Challenge.MostName} letters at most.", "Name");
        if (words.Length > Challenge.MostAbout) return Result.Refused($"{Challenge.MostAbout:N0} letters are the most.", "About");
        if (catalogue.Now.Community.Challenges.Any(c => c.Id != id && string.Equals(c.Name, called, StringComparison.CurrentCultureIgnoreCase)))
            return Result.Refused($"There is a challenge called {called} already.", "Name");
        if (await db.Challenges.FirstOrDefaultAsync(c => c.Id == id, ct) is not { } challenge) return Result.Refused("This challenge isn’t here any more.");
        var ends = BadgeOf(badge);
        if (!ends.Ok) return Result.Refused(ends.Refusal!, ends.Field);
        (challenge.Name, challenge.About, challenge.BadgeId) = (called, words, ends.Value);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>What stands on the certificate of whoever reached the aim of every week; null for others.</summary>
    public async Task<CertificateFacts?> CertificateOf(Challenge challenge, MemberId member, CancellationToken ct)
    {
        var (now, tally, monday, sunday) = (catalogue.Now, challenge.TallyId, challenge.StartsOn, challenge.EndsOn);
        var (plan, trip) = (challenge.PlanId, new OneTrip(db));
        var marked = trip.List(db.TallyMarks.Where(t => t.MemberId == member && t.TallyId == tally && t.Day >= monday && t.Day <= sunday).OrderBy(t => t.Day)
            .ThenBy(t => t.Id).Select(t => t.Day));
        var names = trip.List(db.Members.Where(m => m.Id == member && db.Holdings.Any(h => h.MemberId == member && h.PlanId == plan)).Select(m => m.Name));
        await trip.Ask(ct);
        if (names.Value is not [var name]) return null;
        var days = marked.Value;
        var aims = now.TallyById[tally];
        LocalDate? last = null;
        for (var w = 0; w < challenge.Weeks; w++)
        {
            var week = challenge.FirstWeek.Plus(w);
            var aim = aims.AimIn(week);
            if (days.Where(d => d >= week.Monday && d <= week.Sunday).Take(aim).ToArray() is var those && those.Length < aim) return null;
            if (aim > 0) last = those[^1];
        }
        if (last is not { } at) return null;
        return new(name, challenge.Name, "", now.Site!.Name, at.ToString("d MMMM uuuu", now.Culture),
            $"{Say.Count(challenge.Weeks, "week")}, {Say.Count(days.Count, "time")} in all", $"{challenge.Id.Value}-{member.Value}",
            $"/challenges/{challenge.Id.Value}", $"/challenges/{challenge.Id.Value}/certificate.pdf", now.Culture.Name);
    }

    /// <summary>The next one that somebody can take part in after this one; null for none.</summary>
    public static (Challenge Next, string Join)? After(CatalogueSnapshot now, Challenge challenge, LocalDate today) =>
        now.Community.Challenges.Where(c => c.Id != challenge.Id && c.StartsOn > today).OrderBy(c => c.StartsOn)
            .Select(c => (Next: c, Price: now.PricesOf(c.PlanId).FirstOrDefault(p => p.Within(now.PlanById[c.PlanId]) == Availability.OnOffer)))
            .Where(x => x.Price is not null).Select(x => ((Challenge, string)?)(x.Next, $"/join/{x.Price!.Code}")).FirstOrDefault();

    sealed record PersonRow(long Id, string Name);
    sealed record MarkRow(long Member, int Week, int Done, Instant Last);

    /// <summary>Everybody who takes part, week by week.</summary>
    public async Task<ChallengeBoard> Board(Challenge challenge, CancellationToken ct)
    {
        var (plan, tally, monday, sunday) = (challenge.PlanId.Value, challenge.TallyId.Value, challenge.StartsOn, challenge.EndsOn);
        var trip = new OneTrip(db);
        var people = trip.List(db.Database.SqlQuery<PersonRow>($"""
            select m.id, m.name from members m where m.id in (select h.member_id from holdings h where h.plan_id = {plan}) order by m.id limit {MostPeople}
            """));
        var marks = trip.List(db.Database.SqlQuery<MarkRow>($"""
            select t.member_id as member, ((t.day - {monday}) / 7)::int as week, count(*)::int as done, max(t.at) as last from tally_marks t
            where t.tally_id = {tally} and t.day between {monday} and {sunday} group by 1, 2
            """));
        await trip.Ask(ct);
        var by = marks.Value.ToLookup(m => m.Member);
        return ChallengeBoard.Of(challenge, catalogue.Now.TallyById[challenge.TallyId], people.Value.Select(p =>
        {
            var done = new int[challenge.Weeks];
            Instant? last = null;
            foreach (var m in by[p.Id])
            {
                done[m.Week] = m.Done;
                last = last is { } l && l > m.Last ? l : m.Last;
            }
            return new ChallengeRow(new(p.Id), p.Name, done, last);
        }), Today);
    }
}
