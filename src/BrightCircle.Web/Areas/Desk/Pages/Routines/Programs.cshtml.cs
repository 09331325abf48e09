using BrightCircle.App.Routines;
using BrightCircle.App.Settings;
using BrightCircle.Core.Routines;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Other programs: what they report, what they are told, and what became of it.</summary>
public sealed class ProgramsModel(ProgramKey keys, ToldPrograms told, SiteAddress site) : DeskPage
{
    public override string Place => "programs";
    public string? Key => keys.Key;
    public string Address => $"{site.Url}/programs/{Key}";
    public IReadOnlyList<ToldPrograms.Row> Calls { get; private set; } = [];
    /// <summary>What routines listen for.</summary>
    public IReadOnlyList<string> Names => [.. Now.People.Routines.SelectMany(r => r.Script.Triggers()).OfType<Trigger.Reported>().Select(t => t.Name)
        .Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.CurrentCultureIgnoreCase)];
    public string NameOf(long routine) => Now.People.RoutineById.GetValueOrDefault(routine)?.Name ?? "";

    public async Task OnGet() => Calls = await told.Latest(Ct);

    /// <param name="instead">In the place of the one there is.</param>
    public async Task<IActionResult> OnPostKey([FromServices] MakeProgramKey make, bool instead, bool sure)
    {
        if (Key is not null && !(instead && sure)) Tell("Nothing was changed. Say that you’ll tell the other programs.");
        else
        {
            await make.Do(Actor, Ct);
            Tell("A key is made. It stands below.");
        }
        return Redirect("/desk/routines/programs");
    }

    public async Task<IActionResult> OnPostAgain(long? id)
    {
        Tell($"{Count(await told.Again(Actor, id, Ct), "thing")} will be told again.");
        return Redirect("/desk/routines/programs");
    }

    public async Task<IActionResult> OnPostLeave(long? id)
    {
        Tell($"{Count(await told.Leave(Actor, id, Ct), "thing")} left.");
        return Redirect("/desk/routines/programs");
    }
}
