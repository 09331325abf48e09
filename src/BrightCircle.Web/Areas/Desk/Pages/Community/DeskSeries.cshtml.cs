using BrightCircle.App;
using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One series of live sessions: what it is, who may come, and its sessions planned in one act.</summary>
public sealed class DeskSeriesModel(SaveSeries save, PlanSessions plan) : DeskPage
{
    public override string Place => "sessions";
    public LiveSeries? Series { get; private set; }
    public SeriesDraft Draft { get; private set; } = SeriesDraft.Empty;
    public SessionsDraft Plan { get; private set; } = new("", "", SessionRepeat.Monthly, "12");
    public IReadOnlyList<LiveSession> Ahead => Series is null ? [] : [.. Now.Community.Ahead(Moment).Where(s => s.SeriesId == Series.Id)];
    public IReadOnlyList<Core.Offer.Plan> Promised => Series is null ? [] : [.. Now.PlansNaming(new Coverage.OneSeries(Series.Id))];

    bool Find(string id)
    {
        if (id == "new") return true;
        Series = long.TryParse(id, out var n) ? Now.Community.SeriesById.GetValueOrDefault(new(n)) : null;
        if (Series is not null) Draft = SeriesDraft.Of(Series);
        return Series is not null;
    }

    public IActionResult OnGet(string id) => Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(string id, SeriesDraft draft)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        Draft = draft;
        var done = await save.Do(Actor, Series?.Id, draft, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell(Series is null ? "The series is there. Plan its sessions, and promise it with a tier." : "It is saved.");
        return Redirect($"/desk/sessions/series/{done.Value.Value}");
    }

    public async Task<IActionResult> OnPostPlan(string id, SessionsDraft draft)
    {
        if (!Find(id) || Series is null) return NotFound();
        ModelState.Clear();
        Plan = draft;
        var done = await plan.Make(Actor, Series.Id, draft, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        var first = LocalInput.TryReadMoment(draft.StartsAt, out var at) ? at.Date : default;
        Tell(done.Value == 1 ? "It is planned." : $"{done.Value} sessions are planned{(draft.Repeat == SessionRepeat.Monthly
            ? ", " + SessionDays.MonthlyWords(first, Now.Culture) : "")}.");
        return Redirect($"/desk/sessions/series/{id}");
    }

    public async Task<IActionResult> OnPostClose(string id, bool closed)
    {
        if (!Find(id) || Series is null) return NotFound();
        var done = await save.Close(Actor, Series.Id, closed, Ct);
        Tell(!done.Ok ? done.Refusal! : closed ? "It is closed: nothing more is planned." : "It is open again.");
        return Redirect($"/desk/sessions/series/{id}");
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Series is null) return NotFound();
        var done = await save.Remove(Actor, Series.Id, Ct);
        Tell(done.Ok ? $"{Series.Name} is taken away." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/sessions" : $"/desk/sessions/series/{id}");
    }
}
