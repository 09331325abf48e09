using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The live sessions that are open to whoever asks: those ahead, and what stays of those that were.</summary>
public sealed class SessionsModel(ReadSessions read, BookHours hours) : MemberPage
{
    const int MostAhead = 60, MostKept = 30;

    IReadOnlyDictionary<LiveSessionId, SessionFigures> figures = new Dictionary<LiveSessionId, SessionFigures>();
    public override string Place => "sessions";
    public IReadOnlyList<LiveSession> Ahead { get; private set; } = [];
    public IReadOnlyList<(LiveSession Session, Lesson Lesson)> Kept { get; private set; } = [];

    /// <summary>Series in which a member has time with the host alone.</summary>
    public IReadOnlyList<LiveSeries> Hours { get; private set; } = [];
    public IReadOnlyList<BrightCircle.Data.HourBooking> Own { get; private set; } = [];

    bool IsOpen(LiveSession s) => Now.Book.Decide(Visitor.Facts, s.SeriesId, Moment).IsOpen;

    public async Task OnGet()
    {
        Ahead = [.. SessionsAhead.Take(MostAhead)];
        Kept = [.. Now.Community.Sessions.Reverse().Where(s => s.IsOver(Moment) && s.LessonId is not null && IsOpen(s))
            .Select(s => (s, Now.LessonById.GetValueOrDefault(s.LessonId!.Value))).Where(x => x.Item2 is not null && Decide(x.Item2).IsOpen)
            .Select(x => (x.s, x.Item2!)).Take(MostKept)];
        Hours = [.. Now.Community.Series.Where(s => Visitor.Books(Now, s.Id, Moment) is not null)];
        figures = await read.Of([.. Ahead.Select(s => s.Id)], Visitor.Member, Ct);
        if (Hours.Count > 0 && Visitor.Member is { } me) Own = [.. (await hours.OwnAhead(me, Ct)).Where(h => Hours.Any(s => s.Id == h.SeriesId))];
    }

    public YearMonth MonthOf(Instant at) => Now.Calendar.Of(Visitor.Person?.ZoneId).Date(at).ToYearMonth();

    /// <summary>Whether they come, or whether there is a seat.</summary>
    public string Word(LiveSession s)
    {
        var f = figures.GetValueOrDefault(s.Id, SessionFigures.None);
        return f.Own is { Waiting: true } ? "you wait for a seat" : f.Own is not null ? "you come"
            : f.Free(s.Seats) is { } free ? free == 0 ? "full" : Count(free, "seat") + " free" : f.Coming > 0 ? $"{f.Coming:N0} come" : "";
    }
}
