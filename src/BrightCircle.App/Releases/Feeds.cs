using System.ServiceModel.Syndication;
using System.Text;
using System.Xml;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using NodaTime;
using Duration = NodaTime.Duration;

namespace BrightCircle.App.Releases;

/// <param name="Method">PUBLISH, or CANCEL for what doesn’t take place (RFC 5546, 3.2).</param>
public sealed record CalendarFile(string Method, string Text);

/// <summary>An hour with a host, as it stands in a calendar.</summary>
/// <param name="Path">Its page.</param>
public sealed record CalendarHour(long Id, string Title, Instant StartsAt, int Minutes, int Sequence, string Place, string Path, bool Cancelled);

/// <summary>What is told to programs: the releases as a calendar (RFC 5545), what is new as Atom (RFC 4287). Never the text of a lesson.</summary>
public sealed class Feeds(Catalogue catalogue, SiteAddress address)
{
    const int Newest = 30, MostOpenings = 400;
    /// <summary>Sessions stay in the calendar for so long after they were: what was cancelled has to be seen to be.</summary>
    static readonly Duration SessionsBack = Duration.FromDays(60);
    CatalogueSnapshot Now => catalogue.Now;

    static CalDateTime At(Instant moment) => new(moment.ToDateTimeUtc(), "UTC");

    /// <summary>The releases of all editions, for the team's own calendar.</summary>
    public string TeamCalendar(Instant moment)
    {
        var calendar = New($"{Now.Site!.Name}: editions");
        foreach (var e in Now.Editions)
        {
            var parts = Now.PartsOf[e.Id].ToArray();
            calendar.Events.Add(new CalendarEvent
            {
                Uid = $"edition-{e.Id.Value}@{new Uri(address.Url).Host}",
                DtStamp = At(moment),
                Start = At(e.ReleasedAt ?? e.ReleaseAt),
                End = At((e.ReleasedAt ?? e.ReleaseAt) + Duration.FromMinutes(15)),
                Summary = e.Title + e.State switch { EditionState.Draft => " (draft)", EditionState.Scheduled => " opens", _ => "" },
                Description = parts.Length == 0 ? "Nothing is in it yet."
                    : string.Join('\n', parts.Select(p => $"{Now.ShelfById[p.ShelfId].Name}: {p.Title}{(p.State == PieceState.Draft ? " (draft)" : "")}")),
                Url = new Uri($"{address.Url}/desk/editions/{e.Id.Value}"),
                Status = e.State == EditionState.Draft ? "TENTATIVE" : "CONFIRMED",
            });
        }
        return new CalendarSerializer().SerializeToString(calendar)!;
    }

    /// <summary>What will open to one member, and the live sessions that are open to them, for the calendar on their phone.</summary>
    /// <param name="hours">Theirs with a host alone.</param>
    public string OpeningsCalendar(MemberFacts facts, Instant moment, IReadOnlyList<CalendarHour> hours)
    {
        var calendar = New($"{Now.Site!.Name}: what opens for you");
        foreach (var r in Now.ComingTo(facts, moment).Take(MostOpenings))
            calendar.Events.Add(new CalendarEvent
            {
                Uid = $"opens-{r.Thing.Kind.ToString().ToLowerInvariant()}-{r.Thing.Id}@{new Uri(address.Url).Host}",
                DtStamp = At(moment),
                Start = At(r.At),
                End = At(r.At + Duration.FromMinutes(15)),
                Summary = r.Lesson is null ? $"{r.Title} opens" : $"{r.Title} opens ({r.Piece.Title})",
                Url = new Uri(r.Lesson is { } l && r.Piece.IsCourse ? $"{address.Url}/lessons/{l.Id.Value}" : $"{address.Url}/read/{r.Piece.Id.Value}"),
                // It takes nobody's time.
                Transparency = "TRANSPARENT",
            });
        foreach (var s in Now.Community.Sessions.Where(s => s.EndsAt > moment - SessionsBack && Now.Book.Decide(facts, s.SeriesId, moment).IsOpen))
            calendar.Events.Add(Entry(s, moment));
        foreach (var h in hours) calendar.Events.Add(Entry(h, moment));
        return new CalendarSerializer().SerializeToString(calendar)!;
    }

    /// <summary>An hour with a host by itself: what was moved takes the place of what was, as with sessions.</summary>
    public CalendarFile Hour(CalendarHour hour, Instant moment)
    {
        var calendar = New(Now.Site!.Name);
        calendar.Method = hour.Cancelled ? "CANCEL" : "PUBLISH";
        calendar.Events.Add(Entry(hour, moment));
        return new(calendar.Method, new CalendarSerializer().SerializeToString(calendar)!);
    }

    CalendarEvent Entry(CalendarHour hour, Instant moment) => new()
    {
        Uid = $"hour-{hour.Id}@{new Uri(address.Url).Host}",
        Sequence = hour.Sequence,
        DtStamp = At(moment),
        Start = At(hour.StartsAt),
        End = At(hour.StartsAt + Duration.FromMinutes(hour.Minutes)),
        Summary = hour.Title + (hour.Cancelled ? " (cancelled)" : ""),
        Location = hour.Place.Length > 0 ? hour.Place : null,
        Url = new Uri(address.Url + hour.Path),
        Status = hour.Cancelled ? "CANCELLED" : "CONFIRMED",
    };

    /// <summary>One live session, to be put into a calendar.</summary>
    public string LiveSession(Block.Live live, Lesson lesson, Instant moment)
    {
        var start = Now.Calendar.At(live.StartsAt ?? throw new ArgumentException("It has no date yet.", nameof(live)));
        var calendar = New(Now.Site!.Name);
        calendar.Events.Add(new CalendarEvent
        {
            Uid = $"live-{live.Id.Value}@{new Uri(address.Url).Host}",
            DtStamp = At(moment),
            Start = At(start),
            End = At(start + Duration.FromMinutes(live.Minutes)),
            Summary = live.Title,
            Url = new Uri($"{address.Url}/lessons/{lesson.Id.Value}"),
        });
        return new CalendarSerializer().SerializeToString(calendar)!;
    }

    /// <summary>One session of a series: a later version of it takes the place of an earlier one, by UID and SEQUENCE (RFC 5545, 3.8.4.7 and 3.8.7.4). The
    /// address of its room isn’t in it: the way in shows on the session’s page, to whoever may come.</summary>
    /// <returns>Null where there is no such session.</returns>
    public CalendarFile? Session(LiveSessionId id, Instant moment)
    {
        if (!Now.Community.SessionById.TryGetValue(id, out var session)) return null;
        var calendar = New(Now.Site!.Name);
        calendar.Method = session.CancelledAt is null ? "PUBLISH" : "CANCEL";
        calendar.Events.Add(Entry(session, moment));
        return new(calendar.Method, new CalendarSerializer().SerializeToString(calendar)!);
    }

    CalendarEvent Entry(LiveSession session, Instant moment)
    {
        var series = Now.Community.SeriesById[session.SeriesId];
        return new()
        {
            Uid = $"session-{session.Id.Value}@{new Uri(address.Url).Host}",
            Sequence = session.Sequence,
            DtStamp = At(moment),
            Start = At(session.StartsAt),
            End = At(session.EndsAt),
            Summary = session.Titled(series) + (session.CancelledAt is null ? "" : " (cancelled)"),
            Description = series.About.Length > 0 ? series.About : null,
            Location = session.Room is null && session.Place.Length > 0 ? session.Place : null,
            Url = new Uri($"{address.Url}/sessions/{session.Id.Value}"),
            Status = session.CancelledAt is null ? "CONFIRMED" : "CANCELLED",
        };
    }

    static Calendar New(string name)
    {
        var calendar = new Calendar { ProductId = "-//Bright Circle//Editions//EN", Method = "PUBLISH" };
        calendar.AddProperty("X-WR-CALNAME", name);
        return calendar;
    }

    /// <summary>What is new, for everybody: titles and summaries.</summary>
    public string Public(Instant moment) =>
        Atom($"{Now.Site!.Name}: what’s new", $"{address.Url}/feed.xml", "public", Now.Releases.ByRelease.Where(r => r.At <= moment
            && Now.Book.Decide(MemberFacts.Nobody, r.Thing, moment).IsKnown), strangers: true);

    /// <summary>What is new and open to one member, however it came out.</summary>
    public string Private(MemberFacts facts, string name, string self, Instant moment) =>
        Atom($"{Now.Site!.Name} for {name}", self, "private", Now.OpenTo(facts, moment));

    string Atom(string title, string self, string kind, IEnumerable<Released> things, bool strangers = false)
    {
        var newest = things.Take(Newest).ToArray();
        var updated = newest.Length > 0 ? newest[0].At : Now.Site!.SetUpAt;
        var feed = new SyndicationFeed(title, Now.Site!.Tagline, new Uri(address.Url), $"{address.Url}/feed/{kind}", updated.ToDateTimeOffset());
        feed.Authors.Add(new SyndicationPerson { Name = Now.Site.Name });
        feed.Links.Add(SyndicationLink.CreateSelfLink(new Uri(self)));
        feed.Items = [.. newest.Select(r => Item(r, strangers && !Now.Book.Decide(MemberFacts.Nobody, r.Thing, updated).IsOpen
            ? Now.DoorwayOf(r.Piece).Strangers : ""))];
        using var text = new MemoryStream();
        using (var xml = XmlWriter.Create(text, new XmlWriterSettings { Encoding = new UTF8Encoding(false), Indent = true })) feed.SaveAsAtom10(xml);
        return Encoding.UTF8.GetString(text.ToArray());
    }

    /// <param name="door">What the owner says to those who can’t open it; empty for nothing.</param>
    SyndicationItem Item(Released r, string door)
    {
        var link = r.Lesson is { } l ? $"{address.Url}/lessons/{l.Id.Value}" : $"{address.Url}/read/{r.Piece.Id.Value}";
        var shelf = Now.ShelfById[r.Piece.ShelfId].Name;
        var item = new SyndicationItem
        {
            Id = link,
            Title = new TextSyndicationContent(r.Lesson is { } lesson ? $"{r.Piece.Title}: {lesson.Title}" : r.Piece.Title),
            Summary = new TextSyndicationContent((r.Piece.Summary.Length > 0 ? r.Piece.Summary : shelf) + (door.Length > 0 ? "\n" + door : "")),
            PublishDate = r.At.ToDateTimeOffset(),
            LastUpdatedTime = r.At.ToDateTimeOffset(),
        };
        item.Links.Add(SyndicationLink.CreateAlternateLink(new Uri(link)));
        item.Categories.Add(new SyndicationCategory(shelf));
        return item;
    }
}
