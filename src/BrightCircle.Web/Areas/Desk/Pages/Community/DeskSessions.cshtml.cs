using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Live sessions: the series, what comes, and what was.</summary>
public sealed class DeskSessionsModel(ReadSessions read) : DeskPage
{
    public const int MostAhead = 60, MostWas = 20;

    IReadOnlyDictionary<LiveSessionId, SessionFigures> figures = new Dictionary<LiveSessionId, SessionFigures>();
    public override string Place => "sessions";
    public IReadOnlyList<LiveSession> Ahead { get; private set; } = [];
    public IReadOnlyList<LiveSession> Was { get; private set; } = [];

    public async Task OnGet()
    {
        Ahead = [.. Now.Community.Ahead(Moment)];
        Was = [.. Now.Community.Sessions.Reverse().Where(s => !s.IsAhead(Moment)).Take(MostWas)];
        figures = await read.Of([.. Ahead.Take(MostAhead).Concat(Was).Select(s => s.Id)], null, Ct);
    }

    public SessionFigures Of(LiveSession s) => figures.GetValueOrDefault(s.Id, SessionFigures.None);
    public int Been(LiveSeries series) => Now.Community.Sessions.Count(s => s.SeriesId == series.Id && s.CancelledAt is null && s.IsOver(Moment));
    public string Promised(LiveSeries series) => DeskSpacesModel.OpenTo(series.ForGuests, Now.PlansNaming(new Coverage.OneSeries(series.Id)));
}
