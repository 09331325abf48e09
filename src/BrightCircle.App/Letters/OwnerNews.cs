using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Words;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>Writes to the owners about one thing with money, and to a host about one of their hours.</summary>
public sealed class OwnerNews(BrightContext db, OwnerLetter letter, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.OwnerNews;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        var told = await db.Journal.AsNoTracking().Where(j => numbers.Contains(j.Id)).Join(db.Members, j => j.MemberId, m => m.Id, (j, m) => new { j, m.Name })
            .ToDictionaryAsync(x => x.j.Id, ct);
        foreach (var item in items)
            if (told.TryGetValue(item.Row.SubjectId, out var one))
            {
                if (one.j.Event is Event.HourNews news)
                {
                    await ToHost(news, one.Name, item, happened, ct);
                    continue;
                }
                var line = $"{one.Name} {EventWords.Of(one.j.Event, catalogue.Now)}";
                await letter.Write(item.Row.Key, line, [line], "Their page", $"/desk/members/{one.j.MemberId!.Value.Value}", item.Moment, ct);
                happened.Add("owner told");
            }
    }

    /// <summary>In the site’s time, with what they want to talk about.</summary>
    async Task ToHost(Event.HourNews news, string name, DueItem item, Happenings happened, CancellationToken ct)
    {
        if (await db.HourBookings.AsNoTracking().FirstOrDefaultAsync(h => h.Id == news.Hour, ct) is not { HostId: { } host } hour) return;
        var (now, path) = (catalogue.Now, $"/desk/sessions/series/{news.Series.Value}/hours");
        var when = now.Calendar.Local(news.StartsAt).ToString("dddd, d MMMM, HH:mm", now.Culture);
        var did = news.What switch
        {
            HourNewsKind.Booked => "booked",
            HourNewsKind.Moved => "moved",
            HourNewsKind.GaveBack => "gave back",
            _ => throw new ArgumentOutOfRangeException(nameof(news), news.What, "A host hears nothing of it."),
        };
        var about = string.Join(' ', hour.About.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        await letter.WriteTo(host, item.Row.Key, $"{name} {did} {now.Community.SeriesById[news.Series].Name}: {when}",
            [$"{news.Minutes} minutes on {when}.", .. about.Length > 0 ? [$"About: {about}"] : Array.Empty<string>()], "All hours", path, item.Moment,
            new("the hours you give", "when you are free", path), ct);
        happened.Add("host told");
    }
}
