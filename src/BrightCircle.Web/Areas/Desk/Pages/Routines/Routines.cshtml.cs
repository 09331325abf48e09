using BrightCircle.App.Routines;
using BrightCircle.Core.Routines;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What goes by itself for members: all routines, and patterns to begin with.</summary>
public sealed class RoutinesModel(LookAtRoutines look) : DeskPage
{
    public override string Place => "routines";
    public IReadOnlyDictionary<long, RoutineFigures> Figures { get; private set; } = new Dictionary<long, RoutineFigures>();
    public IReadOnlyList<(RoutinePattern Pattern, Script? Script, IReadOnlyDictionary<long, string> Letters)> Patterns { get; private set; } = [];

    public RoutineFigures Of(Routine r) => Figures.GetValueOrDefault(r.Id) ?? new(0, 0, 0, 0, 0);

    public async Task OnGet()
    {
        Figures = await look.Figures(Ct);
        Patterns = [.. RoutinePattern.All(Now).Select(p => Read(p))];
    }

    /// <summary>A pattern with what it says, to be read before it is used.</summary>
    (RoutinePattern, Script?, IReadOnlyDictionary<long, string>) Read(RoutinePattern pattern)
    {
        var letters = new Dictionary<long, string>();
        if (pattern.Needs is not null) return (pattern, null, letters);
        var script = pattern.Make(Now, (subject, _) =>
        {
            letters[letters.Count + 1] = subject;
            return letters.Count;
        });
        return (pattern, script, letters);
    }

    public async Task<IActionResult> OnPostNew([FromServices] EditRoutine edit, string? pattern)
    {
        var from = RoutinePattern.All(Now).FirstOrDefault(p => p.Key == pattern && p.Needs is null);
        if (from is null && !string.IsNullOrEmpty(pattern)) return NotFound();
        var made = await edit.New(Actor, from, Ct);
        if (made.Ok) return Redirect($"/desk/routines/{made.Value}");
        Tell(made.Refusal!);
        return Redirect("/desk/routines");
    }
}
