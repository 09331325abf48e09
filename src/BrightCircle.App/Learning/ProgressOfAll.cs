using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>Who of those who began is shown.</summary>
public enum ProgressShown { All, UnderWay, Stopped, Done }

/// <summary>One part of what is looked at: a lesson, or a whole piece.</summary>
/// <param name="Opened">So many have opened anything of it.</param>
/// <param name="Through">So many are through with all of it that is out.</param>
public sealed record ProgressPart(string Title, string Path, LessonId[] Lessons, int Opened = 0, int Through = 0);

/// <summary>One person’s way through it.</summary>
/// <param name="Parts">Of each part, how many lessons are opened and how many done.</param>
public sealed record ProgressRow(MemberId Id, string Name, Standing Standing, Instant FirstAt, Instant LastAt, int Done, (int Opened, int Done)[] Parts);

/// <param name="Of">So many lessons are out.</param>
public sealed record ProgressView(IReadOnlyList<ProgressPart> Parts, IReadOnlyList<ProgressRow> Rows, IReadOnlyDictionary<ProgressShown, int> Counts, int Of);

/// <summary>How far everybody has come who began: with a piece, an edition, a shelf.</summary>
public sealed class ProgressOfAll(BrightContext db, Catalogue catalogue, ConditionSql sql, IClock clock)
{
    /// <summary>Whoever wasn’t in it for so many days, and isn’t through, has stopped.</summary>
    public const int StoppedDays = 14;
    public const int MostParts = 40;

    bool IsOut(Lesson l) => catalogue.Now.Book.ReleaseOf(l.Id) is { } at && at <= clock.GetCurrentInstant();

    /// <summary>A piece by its lessons.</summary>
    public IReadOnlyList<ProgressPart> Of(Piece piece) => [.. piece.Outline.Lessons.Where(IsOut)
        .Select(l => new ProgressPart(l.Title, $"/desk/lessons/{l.Id.Value}", [l.Id]))];

    /// <summary>Several pieces, each as a whole; those of which nothing is out are left out.</summary>
    public IReadOnlyList<ProgressPart> Of(IEnumerable<Piece> pieces) => [.. pieces
        .Select(p => new ProgressPart(p.Title, $"/desk/pieces/{p.Id.Value}/progress", [.. p.Outline.Lessons.Where(IsOut).Select(l => l.Id)]))
        .Where(p => p.Lessons.Length > 0).Take(MostParts)];

    /// <summary>An edition: its pieces as wholes, and lessons of other pieces that came with it.</summary>
    public IReadOnlyList<ProgressPart> Of(EditionId edition) => [.. Of(catalogue.Now.PartsOf[edition]), .. catalogue.Now.LessonPartsOf[edition].Where(IsOut)
        .Select(l => new ProgressPart(l.Title, $"/desk/lessons/{l.Id.Value}", [l.Id]))];

    sealed class Person
    {
        public MemberId Id { get; init; }
        public Instant First { get; init; }
        public Instant Last { get; init; }
        public int Done { get; init; }
    }

    IQueryable<Opening> Openings(LessonId[] lessons, Condition? audience)
    {
        var those = db.Openings.AsNoTracking().Where(o => lessons.Contains(o.LessonId));
        if (audience is null) return those;
        var members = sql.Members(audience).Select(m => m.Id);
        return those.Where(o => members.Contains(o.MemberId));
    }

    static IQueryable<Person> People(IQueryable<Opening> openings) => openings.GroupBy(o => o.MemberId).Select(g => new Person
    {
        Id = g.Key,
        First = g.Min(o => o.FirstAt),
        Last = g.Max(o => o.LastAt),
        Done = g.Count(o => o.DoneAt != null),
    });

    IQueryable<Person> Shown(IQueryable<Person> people, ProgressShown shown, int of)
    {
        var last = clock.GetCurrentInstant() - Duration.FromDays(StoppedDays);
        return shown switch
        {
            ProgressShown.All => people,
            ProgressShown.UnderWay => people.Where(p => p.Done < of && p.Last >= last),
            ProgressShown.Stopped => people.Where(p => p.Done < of && p.Last < last),
            ProgressShown.Done => people.Where(p => p.Done >= of),
            _ => throw new ArgumentOutOfRangeException(nameof(shown), shown, "No such list."),
        };
    }

    /// <param name="audience">Only who fits it; null for everybody.</param>
    public async Task<ProgressView> Look(IReadOnlyList<ProgressPart> parts, Condition? audience, ProgressShown shown, int page, int size, CancellationToken ct)
    {
        LessonId[] lessons = [.. parts.SelectMany(p => p.Lessons).Distinct()];
        var nobody = Enum.GetValues<ProgressShown>().ToDictionary(s => s, _ => 0);
        if (lessons.Length == 0) return new(parts, [], nobody, 0);
        var openings = Openings(lessons, audience);
        var people = People(openings);
        var trip = new OneTrip(db);
        var counts = Enum.GetValues<ProgressShown>().Select(s => (s, Count: trip.Count(Shown(people, s, lessons.Length)))).ToArray();
        var byLesson = trip.List(openings.GroupBy(o => o.LessonId).Select(g => new { g.Key, Opened = g.Count(), Done = g.Count(o => o.DoneAt != null) }));
        var shownPeople = Shown(people, shown, lessons.Length).OrderByDescending(p => p.Last).ThenBy(p => p.Id).Skip((page - 1) * size).Take(size);
        var rows = trip.List(shownPeople.Join(db.Members, p => p.Id, m => m.Id, (p, m) => new { Person = p, m.Name, m.Standing }));
        var parted = trip.List(db.Openings.AsNoTracking().Where(o => lessons.Contains(o.LessonId) && shownPeople.Select(p => p.Id).Contains(o.MemberId))
            .Select(o => new { o.MemberId, o.LessonId, IsDone = o.DoneAt != null }));
        await trip.Ask(ct);
        var theirs = parted.Value.ToLookup(o => o.MemberId);
        var lessonCounts = byLesson.Value.ToDictionary(x => x.Key);
        return new(
            // Of a whole piece the lesson that most opened, and that fewest are through with, stand for it.
            [.. parts.Select(p => p with
            {
                Opened = p.Lessons.Max(l => lessonCounts.TryGetValue(l, out var c) ? c.Opened : 0),
                Through = p.Lessons.Min(l => lessonCounts.TryGetValue(l, out var c) ? c.Done : 0),
            })],
            [.. rows.Value.OrderByDescending(r => r.Person.Last).ThenBy(r => r.Person.Id).Select(r =>
            {
                var own = theirs[r.Person.Id].ToDictionary(o => o.LessonId, o => o.IsDone);
                return new ProgressRow(r.Person.Id, r.Name, r.Standing, r.Person.First, r.Person.Last, r.Person.Done,
                    [.. parts.Select(p => (p.Lessons.Count(own.ContainsKey), p.Lessons.Count(l => own.TryGetValue(l, out var done) && done)))]);
            })],
            counts.ToDictionary(c => c.s, c => c.Count.Value), lessons.Length);
    }

    /// <summary>All that is shown, as comma-separated values (RFC 4180).</summary>
    public async Task WriteCsv(IReadOnlyList<ProgressPart> parts, Condition? audience, ProgressShown shown, Stream to, CancellationToken ct)
    {
        const int batch = 500;
        await using var writer = new StreamWriter(to, new System.Text.UTF8Encoding(true), leaveOpen: true);
        await using var csv = Csv.Writer(writer);
        csv.WriteRecord(["name", "first", "last", "done", .. parts.Select(p => p.Title)]);
        var calendar = catalogue.Now.Calendar;
        for (var page = 1; ; page++)
        {
            var view = await Look(parts, audience, shown, page, batch, ct);
            foreach (var r in view.Rows)
                csv.WriteRecord([r.Name, LocalInput.Write(calendar.Date(r.FirstAt))!, LocalInput.Write(calendar.Date(r.LastAt))!, $"{r.Done} of {view.Of}",
                    .. parts.Select((p, i) => $"{r.Parts[i].Done} of {p.Lessons.Length}")]);
            if (view.Rows.Count < batch) break;
        }
        await csv.FlushAsync(ct);
    }
}
