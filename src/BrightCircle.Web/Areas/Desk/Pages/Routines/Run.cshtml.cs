using BrightCircle.App.Routines;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One member's way through a routine, step by step.</summary>
public sealed class RunModel(LookAtRoutines look, EditRoutine edit) : DeskPage
{
    public override string Place => "routines";
    public RunRow Run { get; private set; } = null!;
    public LookAtRoutines.Event? Because { get; private set; }
    public IReadOnlyList<RoutineDone> Done { get; private set; } = [];
    public Routine? Routine => Now.People.RoutineById.GetValueOrDefault(Run.Routine);

    public async Task<IActionResult> OnGet(long id)
    {
        if (await look.Run(id, Ct) is not { } found) return NotFound();
        (Run, Because, Done) = found;
        return Page();
    }

    public async Task<IActionResult> OnPostOut(long id, long routine)
    {
        var done = await edit.TakeOut(Actor, routine, id, Ct);
        Tell(done is { Ok: true, Value: 0 } ? "They are through already." : done.Ok ? "They are taken out of it." : done.Refusal!);
        return Redirect($"/desk/runs/{id}");
    }
}
