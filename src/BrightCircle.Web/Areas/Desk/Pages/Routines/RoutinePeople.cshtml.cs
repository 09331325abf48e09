using BrightCircle.App.Routines;
using BrightCircle.Core.Routines;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Who is or was in a routine, and where.</summary>
public sealed class RoutinePeopleModel(LookAtRoutines look) : DeskPage
{
    public override string Place => "routines";
    public Routine Routine { get; private set; } = null!;
    public int? Step { get; private set; }
    public IReadOnlyList<RunRow> Rows { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public async Task<IActionResult> OnGet(long id, int? step, int page = 1)
    {
        if (!Now.People.RoutineById.TryGetValue(id, out var routine)) return NotFound();
        (Routine, Step, PageNumber) = (routine, step, Math.Clamp(page, 1, 100_000));
        (Rows, Total) = await look.People(routine, step, PageNumber, Ct);
        return Page();
    }

    public string Query(int page) => $"?page={page}{(Step is { } s ? $"&step={s}" : "")}";

    /// <summary>Where somebody stands, or how it ended.</summary>
    public string Where(RunRow run) => run.EndedAt is { } at ? $"{RunWords.Word(run.End!.Value)} on {Day(at)}"
        : run.Until is { } until ? $"waits until {DayTime(until)}" : "goes on in a moment";
}

/// <summary>How a way through a routine ended, in words.</summary>
public static class RunWords
{
    public static string Word(RunEnd end) => end switch
    {
        RunEnd.Through => "through",
        RunEnd.Goal => "did what it is for,",
        RunEnd.BegunAnew => "began anew",
        RunEnd.TakenOut => "was taken out",
        _ => throw new InvalidOperationException($"No such end: {end}"),
    };
}
