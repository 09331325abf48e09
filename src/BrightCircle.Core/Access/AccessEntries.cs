using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

public sealed partial class AccessBook
{
    /// <summary>One thing as decisions see it.</summary>
    /// <param name="Out">It is released, or planned for a moment.</param>
    /// <param name="At">When it came or comes out.</param>
    /// <param name="CurrentFrom">From when its edition is current, in its own span.</param>
    /// <param name="CurrentUntil">Until when.</param>
    /// <param name="Standing">Released outside any edition, for whoever joins later too.</param>
    /// <param name="Teaser">Open to everybody.</param>
    /// <param name="Place">The piece whose places it needs; −1 where none.</param>
    /// <param name="Openings">When the editions of its span open, by their order.</param>
    /// <param name="Edition">Its own among them; −1 where it is older than all.</param>
    /// <param name="Step">Its place in a pattern that counts lessons, from 0; −1 for what no pace holds back.</param>
    /// <param name="ModuleStep">The same for one that counts modules.</param>
    /// <param name="Previous">The entry of the part before it; −1 where there is none.</param>
    /// <param name="PieceOut">When its piece came out.</param>
    /// <param name="Quiet">Those who can't open it don't hear that it is there.</param>
    /// <param name="Space">The space it is; −1 for what stands on a shelf.</param>
    /// <param name="Live">The series of live sessions it is; −1 for everything else.</param>
    /// <param name="Writing">To write in that space, and not only to read.</param>
    readonly record struct Entry(long Piece, long Shelf, bool Out, Instant At, Instant CurrentFrom, Instant CurrentUntil, bool Standing,
        bool Teaser = false, bool OpenToAll = false, long Module = -1, long Lesson = -1, long Place = -1, Instant[]? Openings = null, int Edition = -1,
        int Step = -1, int ModuleStep = -1, int Previous = -1, Instant PieceOut = default, Window? Own = null, Window? Whole = null,
        PieceTimeline[]? Timelines = null, Cohort[]? Cohorts = null, bool Quiet = false, long Space = -1, bool Writing = false,
        long Live = -1)
    {
        /// <summary>When it can be opened at the earliest, by anybody.</summary>
        public Instant From => Instant.Max(At, Instant.Max(Own?.From ?? Instant.MinValue, Whole?.From ?? Instant.MinValue));
        /// <summary>From when on nobody can.</summary>
        public Instant ClosesAt => Instant.Min(Own?.Until ?? Instant.MaxValue, Whole?.Until ?? Instant.MaxValue);
        public int? Days => Own?.Days ?? Whole?.Days;

        /// <summary>When it isn't in the latest editions any more.</summary>
        public Instant DropsOutOf(int latest)
        {
            if (Standing || Openings is null) return Instant.MaxValue;
            var after = Math.Max(Edition, -1) + latest;
            return after < Openings.Length ? Openings[after] : Instant.MaxValue;
        }
    }

    /// <summary>An edition in its span: when it is current, and which of the span's it is.</summary>
    readonly record struct Current(Edition Edition, Instant From, Instant Until, Instant[] Openings, int Index);

    /// <summary>Each edition is current until the next of its own span: a day's or a week's never ends a month's.</summary>
    static (Dictionary<EditionId, Current> Of, Instant[] Months) CurrentSpans(IEnumerable<Edition> editions)
    {
        static Instant Opens(Edition e) => e.ReleasedAt ?? e.ReleaseAt;
        var map = new Dictionary<EditionId, Current>();
        Instant[] months = [];
        foreach (var span in editions.Where(e => e.ReleasedAt is not null || e.Scheduled).GroupBy(e => e.Span))
        {
            var ordered = span.OrderBy(Opens).ThenBy(e => e.FirstDay).ToArray();
            Instant[] openings = [.. ordered.Select(Opens)];
            if (span.Key == EditionSpan.Month) months = openings;
            for (var i = 0; i < ordered.Length; i++)
                map[ordered[i].Id] = new(ordered[i], openings[i], i + 1 < openings.Length ? openings[i + 1] : Instant.MaxValue, openings, i);
        }
        return (map, months);
    }

    sealed class Making(IEnumerable<Edition> editions, IEnumerable<PieceTimeline> timelines, IEnumerable<Cohort> cohorts,
        IReadOnlySet<PieceId> quiet, int capacity)
    {
        readonly (Dictionary<EditionId, Current> Of, Instant[] Months) spans = CurrentSpans(editions);
        readonly ILookup<PieceId, PieceTimeline> timelines = timelines.OrderByDescending(t => t.Closeness).ToLookup(t => t.Piece);
        readonly ILookup<PieceId, Cohort> cohorts = cohorts.OrderBy(c => c.StartsAt).ThenBy(c => c.Id.Value).ToLookup(c => c.Piece);

        public Dictionary<Thing, int> Positions { get; } = new(capacity);
        public List<Entry> Entries { get; } = new(capacity);
        // The entries of a piece's lessons stand together.
        public Dictionary<PieceId, (int From, int Count)> LessonsOf { get; } = [];

        void Add(Thing thing, in Entry entry)
        {
            Positions[thing] = Entries.Count;
            Entries.Add(entry);
        }

        /// <summary>A space is there from the beginning; whether it is open is a matter of holdings alone. Its one step is its opening.</summary>
        public void Add(SpaceId id, bool forGuests)
        {
            var open = new Entry(-1, -1, true, default, default, Instant.MaxValue, true, OpenToAll: forGuests, Step: 0, ModuleStep: 0, Space: id.Value);
            Add(id, open);
            Add(Thing.WritingIn(id), open with { Writing = true });
        }

        /// <summary>Live sessions are there from the beginning, as a space is.</summary>
        public void Add(LiveSeriesId id, bool forGuests) =>
            Add(id, new Entry(-1, -1, true, default, default, Instant.MaxValue, true, OpenToAll: forGuests, Step: 0, ModuleStep: 0, Live: id.Value));

        public void Add(Piece p)
        {
            var whole = OfPiece(p);
            Add(p.Id, whole);
            LessonsOf[p.Id] = (Entries.Count, p.Outline.Lessons.Count);
            var previous = -1;
            foreach (var (l, step, moduleStep) in PaceLayout.Turns(p.Outline))
            {
                var entry = OfLesson(p, l, whole) with { Step = step, ModuleStep = moduleStep, Previous = previous };
                // A part that isn't out holds back nobody.
                if (entry.Out) previous = Entries.Count;
                Add(l.Id, entry);
            }
            foreach (var part in p.Outline.Parts)
                if (part.Module is { } m) Add(m.Id, OfModule(m, whole, part.Lessons));
        }

        Entry OfPiece(Piece p)
        {
            var place = p.Places is null ? -1 : p.Id.Value;
            var entry = new Entry(p.Id.Value, p.ShelfId.Value, false, Instant.MaxValue, Instant.MaxValue, Instant.MaxValue, false, OpenToAll: p.OpenToAll,
                Place: p.OpenToAll ? -1 : place, Whole: p.Window, Timelines: Some(timelines[p.Id]), Cohorts: Some(cohorts[p.Id]),
                Quiet: quiet.Contains(p.Id));
            if (p.EditionId is { } id && spans.Of.TryGetValue(id, out var edition))
            {
                var planned = p.ReleasedAt is null && p.Ready;
                var at = p.ReleasedAt ?? (planned ? edition.From : Instant.MaxValue);
                return entry with
                {
                    Out = p.ReleasedAt is not null || planned,
                    At = at,
                    PieceOut = at,
                    CurrentFrom = Instant.Max(at, edition.From),
                    CurrentUntil = edition.Until,
                    Openings = edition.Openings,
                    Edition = edition.Index,
                };
            }
            var released = p.ReleasedAt ?? (p.Ready ? p.OpensAt : null) ?? Instant.MaxValue;
            var standing = p.EditionId is null && !p.Dated;
            return entry with
            {
                Out = released < Instant.MaxValue,
                At = released,
                PieceOut = released,
                CurrentFrom = released,
                CurrentUntil = standing ? Instant.MaxValue : released,
                Standing = standing,
                Openings = spans.Months,
                Edition = Array.FindLastIndex(spans.Months, m => m <= released),
            };
        }

        static T[]? Some<T>(IEnumerable<T> all) => all.ToArray() is { Length: > 0 } some ? some : null;

        /// <summary>A lesson is out when it and its piece are; it belongs to its own edition where it has one, else to its piece's.</summary>
        Entry OfLesson(Piece piece, Lesson lesson, in Entry whole)
        {
            var hasOwn = lesson.EditionId is { } id && id != piece.EditionId;
            Current? own = hasOwn && spans.Of.TryGetValue(lesson.EditionId!.Value, out var found) ? found : null;
            var pieceIsReleased = piece.ReleasedAt is not null;
            var released = pieceIsReleased && lesson.ReleasedAt is not null;
            // Where it waits for an edition of its own that isn't planned, it isn't planned either.
            var waits = hasOwn && own is null;
            var planned = !released && lesson.Ready && !waits && whole.Out && (!pieceIsReleased || own is not null);
            var at = released ? Instant.Max(lesson.ReleasedAt!.Value, whole.At)
                : planned ? Instant.Max(whole.At, own?.From ?? Instant.MinValue) : Instant.MaxValue;
            var (from, until) = own is { } o ? (Instant.Max(at, o.From), o.Until) : (Instant.Max(at, whole.CurrentFrom), whole.CurrentUntil);
            return whole with
            {
                Out = released || planned,
                At = at,
                CurrentFrom = from,
                CurrentUntil = until,
                Standing = whole.Standing && own is null,
                Teaser = lesson.Teaser,
                Module = lesson.ModuleId?.Value ?? -1,
                Lesson = lesson.Id.Value,
                Place = lesson.Teaser ? -1 : whole.Place,
                Openings = own?.Openings ?? whole.Openings,
                Edition = own?.Index ?? whole.Edition,
                Own = lesson.Window,
            };
        }

        /// <summary>A module is out with the first of its lessons, and opens with it.</summary>
        Entry OfModule(Module module, in Entry whole, IReadOnlyList<Lesson> lessons)
        {
            Entry? first = null;
            foreach (var l in lessons)
                if (Entries[Positions[l.Id]] is { Out: true } e && (first is null || e.At < first.Value.At)) first = e;
            return (first ?? whole with { Out = false, At = Instant.MaxValue })
                with
            { Teaser = false, Module = module.Id.Value, Lesson = -1, Place = whole.Place, Previous = -1, Own = null };
        }
    }
}
