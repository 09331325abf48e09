using System.Collections.Concurrent;
using System.Globalization;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Routines;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Catalogues;

/// <summary>What is offered.</summary>
public sealed class OfferPart(IReadOnlyList<Plan> plans, IReadOnlyList<Price> prices)
{
    /// <summary>Tiers by rank, then passes by name.</summary>
    public IReadOnlyList<Plan> Plans { get; } = [.. plans.OrderBy(p => p.Kind).ThenBy(p => p.Rank)
        .ThenBy(p => p.IsTier ? "" : p.Name, StringComparer.CurrentCulture).ThenBy(p => p.Id.Value)];
    public IReadOnlyList<Price> Prices { get; } = prices;
    public IReadOnlyDictionary<PlanId, Plan> PlanById { get; } = plans.ToDictionary(p => p.Id);
    public IReadOnlyDictionary<PriceId, Price> PriceById { get; } = prices.ToDictionary(p => p.Id);
    public ILookup<PlanId, Price> PricesOf { get; } = prices.ToLookup(p => p.PlanId);
}

/// <summary>How pieces open part by part, beside what promises say of it.</summary>
public sealed class PacesPart(IReadOnlyList<PieceTimeline> timelines, IReadOnlyList<Cohort> cohorts)
{
    public IReadOnlyList<PieceTimeline> Timelines { get; } = timelines;
    /// <summary>By their start.</summary>
    public IReadOnlyList<Cohort> Cohorts { get; } = cohorts;
    public IReadOnlyDictionary<CohortId, Cohort> CohortById { get; } = cohorts.ToDictionary(c => c.Id);
    public ILookup<PieceId, PieceTimeline> TimelinesOf { get; } = timelines.ToLookup(t => t.Piece);
    public ILookup<PieceId, Cohort> CohortsOf { get; } = cohorts.ToLookup(c => c.Piece);
}

/// <summary>What members are told apart by: tags, fields of the owner's own, and audiences.</summary>
public sealed class PeoplePart(IReadOnlyList<Tag> tags, IReadOnlyList<OwnField> fields, IReadOnlyList<Audience> audiences,
    IReadOnlyList<LetterSeries> series, IReadOnlyList<Routine> routines, IReadOnlyList<LetterText> texts)
{
    readonly Dictionary<(LetterKind, PlanId?), LetterText> texts = texts.Where(t => t.Body is not null).ToDictionary(t => (t.Kind, t.PlanId));

    /// <summary>The owner's words for a letter of the house; null where it goes as it came with the house.</summary>
    public LetterText? TextFor(LetterKind kind, PlanId? plan) => (plan is not null ? TextOf(kind, plan) : null) ?? TextOf(kind, null);

    /// <summary>The owner's words for exactly this plan, or for whatever has none of its own; null for none.</summary>
    public LetterText? TextOf(LetterKind kind, PlanId? plan) => texts.GetValueOrDefault((kind, plan));

    /// <summary>Every letter of the house that the owner has changed.</summary>
    public IReadOnlyCollection<LetterText> Texts => texts.Values;

    /// <summary>By group, then by name.</summary>
    public IReadOnlyList<Tag> Tags { get; } = [.. tags.OrderBy(t => t.Group, StringComparer.CurrentCultureIgnoreCase)
        .ThenBy(t => t.Name, StringComparer.CurrentCultureIgnoreCase)];
    public IReadOnlyDictionary<TagId, Tag> TagById { get; } = tags.ToDictionary(t => t.Id);
    /// <summary>In the owner's order.</summary>
    public IReadOnlyList<OwnField> Fields { get; } = [.. fields.OrderBy(f => f.Order).ThenBy(f => f.Id.Value)];
    public IReadOnlyDictionary<OwnFieldId, OwnField> FieldById { get; } = fields.ToDictionary(f => f.Id);
    /// <summary>By name.</summary>
    public IReadOnlyList<Audience> Audiences { get; } = [.. audiences.OrderBy(a => a.Name, StringComparer.CurrentCultureIgnoreCase)];
    public IReadOnlyDictionary<AudienceId, Audience> AudienceById { get; } = audiences.ToDictionary(a => a.Id);
    /// <summary>Letters to many that come again, in the owner's order.</summary>
    public IReadOnlyList<LetterSeries> Series { get; } = [.. series.OrderBy(s => s.Order).ThenBy(s => s.Id)];
    public IReadOnlyDictionary<long, LetterSeries> SeriesById { get; } = series.ToDictionary(s => s.Id);
    /// <summary>Those that are on first, then by name.</summary>
    public IReadOnlyList<Routine> Routines { get; } = [.. routines.OrderBy(r => !r.IsOn).ThenBy(r => r.Name, StringComparer.CurrentCultureIgnoreCase)];
    public IReadOnlyDictionary<long, Routine> RoutineById { get; } = routines.ToDictionary(r => r.Id);
}

/// <summary>What is on the shelves: all that isn't in the trash, with outlines.</summary>
public sealed class ContentPart
{
    public ContentPart(IReadOnlyList<Shelf> shelves, IReadOnlyList<Piece> pieces)
    {
        (Shelves, Pieces) = (shelves, pieces);
        PieceById = pieces.ToDictionary(p => p.Id);
        ShelfById = shelves.ToDictionary(s => s.Id);
        var (lessons, modules) = (new Dictionary<LessonId, Lesson>(pieces.Sum(p => p.Outline.Lessons.Count)), new Dictionary<ModuleId, (Piece, Module)>());
        foreach (var p in pieces)
        {
            foreach (var l in p.Outline.Lessons) lessons[l.Id] = l;
            foreach (var m in p.Outline.Modules) modules[m.Id] = (p, m);
        }
        (LessonById, ModuleById) = (lessons, modules);
    }

    public IReadOnlyList<Shelf> Shelves { get; }
    public IReadOnlyList<Piece> Pieces { get; }
    public IReadOnlyDictionary<ShelfId, Shelf> ShelfById { get; }
    public IReadOnlyDictionary<PieceId, Piece> PieceById { get; }
    public IReadOnlyDictionary<LessonId, Lesson> LessonById { get; }
    public IReadOnlyDictionary<ModuleId, (Piece Piece, Module Module)> ModuleById { get; }
}

/// <summary>Something with a moment at which it came or comes out: a piece, or a lesson that came later than its piece.</summary>
public sealed record Released(Instant At, Piece Piece, Lesson? Lesson)
{
    public Thing Thing => Lesson is { } l ? l.Id : Piece.Id;
    public string Title => Lesson?.Title ?? Piece.Title;
}

/// <summary>What comes out when.</summary>
public sealed class ReleasesPart
{
    public ReleasesPart(ContentPart content, IReadOnlyList<Edition> editions, AccessBook book)
    {
        Editions = [.. editions.OrderBy(e => e.FirstDay).ThenBy(e => e.Span)];
        EditionById = editions.ToDictionary(e => e.Id);
        var rank = content.Shelves.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
        PartsOf = content.Pieces.Where(p => p.EditionId is not null).OrderBy(p => rank.GetValueOrDefault(p.ShelfId)).ThenBy(p => p.Id.Value)
            .ToLookup(p => p.EditionId!.Value);
        LessonPartsOf = content.Pieces.SelectMany(p => p.Outline.Lessons.Where(l => l.EditionId is not null && l.EditionId != p.EditionId))
            .ToLookup(l => l.EditionId!.Value);
        OnShelf = content.Pieces.OrderByDescending(p => p.EditionId is { } e ? EditionById.GetValueOrDefault(e)?.FirstDay : null)
            .ThenByDescending(p => p.Id.Value).ToLookup(p => p.ShelfId);
        EditionsIn = Editions.ToLookup(e => e.Month);
        var moments = new List<Released>(content.Pieces.Count);
        foreach (var p in content.Pieces)
        {
            if (book.ReleaseOf(p.Id) is not { } at) continue;
            moments.Add(new(at, p, null));
            foreach (var l in p.Outline.Lessons)
                if (book.ReleaseOf(l.Id) is { } later && later > at) moments.Add(new(later, p, l));
        }
        ByRelease = [.. moments.OrderByDescending(m => m.At).ThenBy(m => rank.GetValueOrDefault(m.Piece.ShelfId)).ThenByDescending(m => m.Piece.Id.Value)
            .ThenBy(m => m.Lesson?.Position)];
        Current = Editions.LastOrDefault(e => e.State == EditionState.Released);
        Next = Editions.Where(e => e.State == EditionState.Scheduled).MinBy(e => e.ReleaseAt);
    }

    /// <summary>By first day; of several that begin together, the month comes first.</summary>
    public IReadOnlyList<Edition> Editions { get; }
    public IReadOnlyDictionary<EditionId, Edition> EditionById { get; }
    public ILookup<EditionId, Piece> PartsOf { get; }
    /// <summary>Lessons that open with an edition of their own, other than their piece's.</summary>
    public ILookup<EditionId, Lesson> LessonPartsOf { get; }
    /// <summary>The pieces of a shelf, the newest edition first.</summary>
    public ILookup<ShelfId, Piece> OnShelf { get; }
    public ILookup<YearMonth, Edition> EditionsIn { get; }
    /// <summary>All that is out or planned, the latest first.</summary>
    public IReadOnlyList<Released> ByRelease { get; }
    /// <summary>The newest edition that is out.</summary>
    public Edition? Current { get; }
    /// <summary>The one that opens next.</summary>
    public Edition? Next { get; }
}

/// <summary>The site, its plans, promises, prices and the content outline, as of one version. It is read by every page and never changed.</summary>
public sealed class CatalogueSnapshot
{
    static long made;
    /// <summary>One more for each version, within this process.</summary>
    public long Number { get; } = Interlocked.Increment(ref made);
    public Site? Site { get; }
    public OfferPart Offer { get; }
    public ContentPart Content { get; }
    public ReleasesPart Releases { get; }
    /// <summary>All tallies, the archived ones too, by name.</summary>
    public IReadOnlyList<Tally> Tallies { get; }
    public IReadOnlyDictionary<TallyId, Tally> TallyById { get; }
    public CommunityPart Community { get; }
    public IReadOnlyList<Space> Spaces => Community.Spaces;
    public IReadOnlyDictionary<SpaceId, Space> SpaceById => Community.SpaceById;
    public AccessBook Book { get; }
    public SiteCalendar Calendar { get; }
    /// <summary>How numbers, dates and signs are written.</summary>
    public CultureInfo Culture { get; }

    public PacesPart Paces { get; }
    public PeoplePart People { get; }

    /// <summary>The pages the owner wrote, those that aren't public too.</summary>
    public IReadOnlyList<SitePage> Pages { get; }

    /// <summary>The public words of a kind, for the site, a plan or a price; null where there are none.</summary>
    public SitePage? PageFor(SitePageKind kind, PlanId? plan = null, PriceId? price = null) =>
        Pages.FirstOrDefault(p => p.IsPublic && p.Kind == kind && p.PlanId == plan && p.PriceId == price);

    /// <summary>The entries of the menu that somebody sees.</summary>
    /// <param name="holds">The plans they hold now; null where they aren't signed in.</param>
    public IEnumerable<MenuItem> MenuFor(IReadOnlyCollection<PlanId>? holds) => (Site?.Menu ?? MenuItem.Usual).Where(i => i.IsFor(holds)
        // Before there is a space or a session nothing leads to them.
        && (i.Path != "/spaces" || Spaces.Count > 0 || Plans.Any(p => p.GroupLink.Length > 0)) && (i.Path != "/sessions" || Community.Sessions.Count > 0));

    readonly HashSet<PieceId> quiet;
    readonly Dictionary<PieceId, DoorwayRule> doorways;

    /// <summary>What those meet who may not open a piece.</summary>
    public DoorwayRule DoorwayOf(Piece piece) => doorways[piece.Id];

    /// <summary>Whoever can't open it doesn't hear that it is there.</summary>
    public bool IsQuiet(PieceId piece) => quiet.Contains(piece);

    public CatalogueSnapshot(Site? site, OfferPart offer, ContentPart content, IReadOnlyList<Edition> editions, IReadOnlyList<Tally> tallies,
        PacesPart paces, IReadOnlyList<SitePage> pages, PeoplePart people, CommunityPart community)
    {
        (Site, Offer, Content, Tallies, Paces, Pages, People, Community) = (site, offer, content, tallies, paces, pages, people, community);
        TallyById = tallies.ToDictionary(t => t.Id);
        Calendar = SiteCalendar.For(site?.ZoneId ?? "Europe/London");
        doorways = content.Pieces.ToDictionary(p => p.Id, p =>
            DoorwayRule.Of(p.Doorway, content.ShelfById.TryGetValue(p.ShelfId, out var shelf) ? shelf.Doorway : null, site?.Doorway));
        quiet = doorways.Where(d => d.Value.Kind == DoorwayKind.NotFound).Select(d => d.Key).ToHashSet();
        Book = new(offer.Plans, content.Pieces, editions, tallies.Select(t => t.Id), Calendar, paces.Timelines, paces.Cohorts, quiet,
            community.Spaces.Select(s => (s.Id, s.ForGuests)), community.Series.Select(s => (s.Id, s.ForGuests)), community.TalliesApart);
        Releases = new(content, editions, Book);
        FailedPayments = site is null ? Core.Billing.FailedPaymentRule.Default : new(site.RetryDays);
        Culture = CultureInfo.GetCultureInfo(site?.Culture is { Length: > 0 } c ? c : "en-GB");
    }

    /// <summary>The same with some pieces read anew, or gone.</summary>
    internal CatalogueSnapshot With(IReadOnlyCollection<PieceId> changed, IReadOnlyList<Piece> now) =>
        new(Site, Offer, new(Content.Shelves, [.. Content.Pieces.Where(p => !changed.Contains(p.Id)).Concat(now).OrderBy(p => p.Id.Value)]), Releases.Editions,
            Tallies, Paces, Pages, People, Community);

    /// <summary>The book as it would be with other plans, or other paces.</summary>
    public AccessBook BookWith(IReadOnlyList<Plan>? plans = null, IReadOnlyList<PieceTimeline>? timelines = null, IReadOnlyList<Cohort>? cohorts = null) =>
        new(plans ?? Plans, Pieces, Editions, Tallies.Select(t => t.Id), Calendar, timelines ?? Paces.Timelines, cohorts ?? Paces.Cohorts,
            quiet, Spaces.Select(s => (s.Id, s.ForGuests)), Community.Series.Select(s => (s.Id, s.ForGuests)), Community.TalliesApart);

    public IReadOnlyList<Plan> Plans => Offer.Plans;
    public IReadOnlyList<Price> Prices => Offer.Prices;
    public IReadOnlyDictionary<PlanId, Plan> PlanById => Offer.PlanById;
    public IReadOnlyDictionary<PriceId, Price> PriceById => Offer.PriceById;
    public IReadOnlyList<Shelf> Shelves => Content.Shelves;
    public IReadOnlyList<Piece> Pieces => Content.Pieces;
    public IReadOnlyDictionary<ShelfId, Shelf> ShelfById => Content.ShelfById;
    public IReadOnlyDictionary<PieceId, Piece> PieceById => Content.PieceById;
    public IReadOnlyDictionary<LessonId, Lesson> LessonById => Content.LessonById;
    public IReadOnlyList<Tag> Tags => People.Tags;
    public IReadOnlyDictionary<TagId, Tag> TagById => People.TagById;
    public IReadOnlyList<OwnField> OwnFields => People.Fields;
    public IReadOnlyList<Audience> Audiences => People.Audiences;
    public IReadOnlyList<Edition> Editions => Releases.Editions;
    public IReadOnlyDictionary<EditionId, Edition> EditionById => Releases.EditionById;
    public ILookup<EditionId, Piece> PartsOf => Releases.PartsOf;
    public ILookup<EditionId, Lesson> LessonPartsOf => Releases.LessonPartsOf;
    public ILookup<ShelfId, Piece> OnShelf => Releases.OnShelf;
    public ILookup<YearMonth, Edition> EditionsIn => Releases.EditionsIn;
    public Edition? CurrentEdition => Releases.Current;
    public Edition? NextEdition => Releases.Next;

    /// <summary>When a failed payment is asked for again.</summary>
    public Core.Billing.FailedPaymentRule FailedPayments { get; }
    public Currency Currency => Site?.Currency ?? new("GBP");
    public Edition? EditionOf(Piece piece) => piece.EditionId is { } id ? EditionById.GetValueOrDefault(id) : null;
    public Piece PieceOf(Lesson lesson) => PieceById[lesson.PieceId];
    public IEnumerable<Price> PricesOf(PlanId plan) => Offer.PricesOf[plan];
    /// <summary>The prices of a plan that stand on the front.</summary>
    public IEnumerable<Price> PricesOnOffer(Plan plan) => Offer.PricesOf[plan.Id].Where(p => p.Within(plan) == Availability.OnOffer);
    /// <summary>Of some plans those on offer, the cheapest first, a pass before a tier.</summary>
    public IEnumerable<Plan> OfferedFirst(IEnumerable<Plan> plans) => plans.Where(p => PricesOnOffer(p).Any())
        .OrderBy(p => p.IsTier).ThenBy(p => PricesOnOffer(p).Min(x => x.Terms.Headline?.Minor ?? 0)).ThenBy(p => p.Rank);

    /// <summary>A way to pay as it is called here.</summary>
    public string WayName(PayWay way) => Site?.Ways.FirstOrDefault(w => w.Way == way)?.Name ?? way switch
    {
        PayWay.Card => "Card",
        PayWay.Transfer => "Bank transfer",
        PayWay.Elsewhere => "By hand",
        _ => throw new ArgumentOutOfRangeException(nameof(way), way, "No such way."),
    };

    /// <summary>Plans whose promise names something, in the order of their rank.</summary>
    public IEnumerable<Plan> PlansNaming(Coverage thing) => Plans.Where(p => p.Promise.Any(i => i.Covers == thing));
    /// <summary>The same of a space, to talk in or to read along.</summary>
    public IEnumerable<Plan> PlansNaming(SpaceId space) => Plans.Where(p => p.Promise.Any(i => i.Covers is Coverage.OneSpace s && s.Space == space));

    /// <summary>What its holders start with; null for nothing in particular, or where that is in the trash.</summary>
    public Piece? StartOf(Plan plan) => plan.StartPieceId is { } id ? PieceById.GetValueOrDefault(id) : null;
    public string PlanName(PlanId? id) => id is { } p && PlanById.TryGetValue(p, out var plan) ? plan.Name : "";

    /// <summary>What is open to somebody, the newest first, however it came out.</summary>
    public IEnumerable<Released> OpenTo(MemberFacts facts, Instant moment) =>
        Releases.ByRelease.Where(r => r.At <= moment && Book.Decide(facts, r.Thing, moment).IsOpen);

    /// <summary>What will open for somebody by itself, the next first: whole pieces, and lessons whose turn it is later.</summary>
    public IEnumerable<Released> ComingTo(MemberFacts facts, Instant moment)
    {
        var whole = new HashSet<(PieceId, Instant)>();
        foreach (var o in Book.OpeningsOf(facts, moment))
        {
            var lesson = o.Thing.Kind == ThingKind.Lesson ? LessonById[new(o.Thing.Id)] : null;
            var piece = lesson is null ? PieceById[new(o.Thing.Id)] : PieceOf(lesson);
            // What comes with its piece is told once, as the piece.
            if (lesson is null || !piece.IsCourse || Book.ReleaseOf(piece.Id) == o.At)
            {
                if (whole.Add((piece.Id, o.At))) yield return new(o.At, piece, null);
            }
            else if (!piece.HidesComing) yield return new(o.At, piece, lesson);
        }
    }

    IReadOnlyList<Piece>? forNobody;
    /// <summary>What is out or planned, and neither a plan nor anything else opens it or a part of it to anybody but the team.</summary>
    public IReadOnlyList<Piece> ForNobody => forNobody ??= [.. Pieces.Where(p => Book.ReleaseOf(p.Id) is not null && !p.OpenToAll
        && !p.Outline.Lessons.Any(l => l.Teaser) && Book.PlansThatCover(p.Id).Count == 0)];

    readonly ConcurrentDictionary<YearMonth, YearRing> rings = new(), publicRings = new();

    /// <summary>The year ring from a month on, for the team with drafts; worked out once for each version of the catalogue.</summary>
    public YearRing RingFrom(YearMonth first) => rings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces));

    /// <summary>The same for everybody else: drafts are left out.</summary>
    public YearRing PublicRingFrom(YearMonth first) =>
        publicRings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces.Where(p => p.State != PieceState.Draft && !IsQuiet(p.Id))));

    /// <summary>What an inclusion covers, by name, for the team.</summary>
    public string NameOf(Coverage coverage) => coverage switch
    {
        Coverage.Everything => "everything",
        Coverage.OnShelf s => ShelfById.TryGetValue(s.Shelf, out var shelf) ? $"the shelf {shelf.Name}" : "a shelf that is gone",
        Coverage.OnePiece p => PieceById.TryGetValue(p.Piece, out var piece) ? $"“{piece.Title}”" : "a piece that is gone",
        Coverage.OneModule m => Content.ModuleById.TryGetValue(m.Module, out var module) ? $"“{module.Module.Title}” of “{module.Piece.Title}”"
            : "a module that is gone",
        Coverage.OneLesson l => LessonById.TryGetValue(l.Lesson, out var lesson) ? $"the lesson “{lesson.Title}” of “{PieceOf(lesson).Title}”"
            : "a lesson that is gone",
        Coverage.OneTally t => TallyById.TryGetValue(t.Tally, out var tally) ? $"the tally {tally.Name}" : "a tally that is gone",
        Coverage.OneSeries s => Community.SeriesById.TryGetValue(s.Series, out var series) ? $"the live sessions {series.Name}" : "live sessions that are gone",
        Coverage.OneSpace s => SpaceById.TryGetValue(s.Space, out var space) ? $"the space {space.Name}" : "a space that is gone",
        Coverage.WhatAPlanOpens p => $"everything that {PlanName(p.Plan)} opens",
        _ => throw new InvalidOperationException($"No such coverage: {coverage}"),
    };

    /// <summary>Whether the public may read the name of what an inclusion covers: a draft's title isn't told to anybody.</summary>
    public bool IsPublic(Coverage coverage) => coverage switch
    {
        Coverage.Everything => true,
        Coverage.OnShelf s => ShelfById.ContainsKey(s.Shelf),
        Coverage.OnePiece p => PieceById.TryGetValue(p.Piece, out var piece) && Book.ReleaseOf(piece.Id) is not null
            && !IsQuiet(piece.Id),
        Coverage.OneModule m => Content.ModuleById.TryGetValue(m.Module, out var module) && Book.ReleaseOf(module.Piece.Id) is not null
            && !IsQuiet(module.Piece.Id),
        Coverage.OneLesson l => LessonById.TryGetValue(l.Lesson, out var lesson) && Book.ReleaseOf(l.Lesson) is not null && !IsQuiet(lesson.PieceId),
        Coverage.OneTally t => TallyById.TryGetValue(t.Tally, out var tally) && tally.ArchivedAt is null,
        Coverage.OneSpace s => SpaceById.ContainsKey(s.Space),
        Coverage.OneSeries s => Community.SeriesById.ContainsKey(s.Series),
        Coverage.WhatAPlanOpens p => PlanById.ContainsKey(p.Plan),
        _ => throw new InvalidOperationException($"No such coverage: {coverage}"),
    };

    /// <summary>What a plan gives, a sentence for each inclusion, as the public may read it; a promise of everything names the tallies too.</summary>
    public IReadOnlyList<string> Gives(Plan plan)
    {
        var lines = plan.Promise.Where(i => IsPublic(i.Covers)).Select(i => PromiseWords.Line(plan, i, NameOf)).ToList();
        if (plan.Promise.Any(i => i.Covers is Coverage.Everything))
            foreach (var tally in Tallies)
                if (tally.ArchivedAt is null && !Community.TalliesApart.Contains(tally.Id) && !plan.Promise.Any(i => i.Covers is Coverage.OneTally t
                    && t.Tally == tally.Id))
                    lines.Add($"The tally {tally.Name}");
        return lines;
    }
}
