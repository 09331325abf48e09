using System.ServiceModel.Syndication;
using System.Text;
using System.Xml;
using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using NodaTime;
using Duration = NodaTime.Duration;

namespace BrightCircle.App.Releases;

/// <summary>What is told to programs: the releases as a calendar (RFC 5545), what is new as Atom (RFC 4287). Never the text of a lesson.</summary>
public sealed class Feeds(Catalogue catalogue, SiteAddress address)
{
    const int Newest = 30;
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
                Description = parts.Length == 0 ? "Nothing is in it yet." : string.Join('\n', parts.Select(p => $"{Now.ShelfById[p.ShelfId].Name}: {p.Title}{(p.State == PieceState.Draft ? " (draft)" : "")}")),
                Url = new Uri($"{address.Url}/desk/editions/{e.Id.Value}"),
                Status = e.State == EditionState.Draft ? "TENTATIVE" : "CONFIRMED",
            });
        }
        return new CalendarSerializer().SerializeToString(calendar)!;
    }

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

    static Calendar New(string name)
    {
        var calendar = new Calendar { ProductId = "-//Bright Circle//Editions//EN", Method = "PUBLISH" };
        calendar.AddProperty("X-WR-CALNAME", name);
        return calendar;
    }

    /// <summary>What is new, for everybody: titles and summaries.</summary>
    public string Public() => Atom($"{Now.Site!.Name}: what’s new", $"{address.Url}/feed.xml", "public", Now.Pieces.Where(p => p.ReleasedAt is not null));

    /// <summary>What is new and open to one member.</summary>
    public string Private(MemberFacts facts, string name, string self, Instant moment) =>
        Atom($"{Now.Site!.Name} for {name}", self, "private", Now.Pieces.Where(p => p.ReleasedAt is not null && Now.Book.Decide(facts, p.Id, moment).IsOpen));

    string Atom(string title, string self, string kind, IEnumerable<Piece> pieces)
    {
        var newest = pieces.OrderByDescending(p => p.ReleasedAt).ThenByDescending(p => p.Id.Value).Take(Newest).ToArray();
        var feed = new SyndicationFeed(title, Now.Site!.Tagline, new Uri(address.Url), $"{address.Url}/feed/{kind}", newest.Length > 0 ? newest[0].ReleasedAt!.Value.ToDateTimeOffset() : Now.Site.SetUpAt.ToDateTimeOffset());
        feed.Authors.Add(new SyndicationPerson { Name = Now.Site.Name });
        feed.Links.Add(SyndicationLink.CreateSelfLink(new Uri(self)));
        feed.Items = [.. newest.Select(p => new SyndicationItem
        {
            Id = $"{address.Url}/read/{p.Id.Value}",
            Title = new TextSyndicationContent(p.Title),
            Summary = new TextSyndicationContent(p.Summary.Length > 0 ? p.Summary : Now.ShelfById[p.ShelfId].Name),
            PublishDate = p.ReleasedAt!.Value.ToDateTimeOffset(),
            LastUpdatedTime = p.ReleasedAt!.Value.ToDateTimeOffset(),
        }).Select((item, i) =>
        {
            item.Links.Add(SyndicationLink.CreateAlternateLink(new Uri($"{address.Url}/read/{newest[i].Id.Value}")));
            item.Categories.Add(new SyndicationCategory(Now.ShelfById[newest[i].ShelfId].Name));
            return item;
        })];
        using var text = new MemoryStream();
        using (var xml = XmlWriter.Create(text, new XmlWriterSettings { Encoding = new UTF8Encoding(false), Indent = true })) feed.SaveAsAtom10(xml);
        return Encoding.UTF8.GetString(text.ToArray());
    }
}
