using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Hours of a series for one member at a time: when there is time, and who has booked.</summary>
public sealed class DeskHoursModel(SaveHours save, BookHours hours) : DeskPage
{
    const int MostShown = 100;
    public override string Place => "sessions";
    public LiveSeries Series { get; private set; } = null!;
    public HoursDraft Draft { get; private set; } = null!;
    public IReadOnlyList<HourForTeam> Booked { get; private set; } = [];
    public IReadOnlyList<HourForTeam> Were { get; private set; } = [];
    public IReadOnlyList<(long Id, string Name)> Team { get; private set; } = [];

    /// <summary>"Monday" for 0.</summary>
    public string DayName(int n) => Now.Culture.DateTimeFormat.GetDayName((DayOfWeek)((n + 1) % 7));

    bool Find(long id)
    {
        if (!Now.Community.SeriesById.TryGetValue(new(id), out var series)) return false;
        (Series, Draft) = (series, HoursDraft.Of(series, Actor.AccountId));
        return true;
    }

    async Task<IActionResult> Show()
    {
        (Booked, Were, Team) = await hours.ForTeam(Series.Id, MostShown, Ct);
        return Page();
    }

    public async Task<IActionResult> OnGet(long id) => Find(id) ? await Show() : NotFound();

    public async Task<IActionResult> OnPost(long id, HoursDraft draft)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        Draft = draft with { Week = [.. Enumerable.Range(0, 7).Select(n => (string?)Request.Form[$"Week{n}"].ToString())] };
        var done = await save.Do(Actor, Series.Id, Draft, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return await Show();
        }
        Tell(Series.Hours is null ? "They can book now, whoever it is promised to." : "It is saved; what is booked stays as it is.");
        return Redirect($"/desk/sessions/series/{id}/hours");
    }

    async Task<IActionResult> Said(long id, Task<App.Result> doing, string well)
    {
        var done = await doing;
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect($"/desk/sessions/series/{id}/hours");
    }

    public async Task<IActionResult> OnPostEnd(long id) => Find(id) ? await Said(id, save.End(Actor, Series.Id, Ct), "No more hours are booked.") : NotFound();
    public async Task<IActionResult> OnPostCancel(long id, long hour, string? why) =>
        Find(id) ? await Said(id, hours.Cancel(Actor, hour, why, Ct), "It is cancelled, and they are told.") : NotFound();
    public async Task<IActionResult> OnPostMark(long id, long hour, bool came) =>
        Find(id) ? await Said(id, hours.Mark(Actor, hour, came, Ct), came ? "Marked: was there." : "Marked: wasn’t there.") : NotFound();
}
