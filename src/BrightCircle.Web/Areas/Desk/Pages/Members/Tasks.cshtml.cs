using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What the team is to do for members.</summary>
public sealed class TasksModel(TeamTasks tasks) : DeskPage
{
    public override string Place => "tasks";
    public bool Done { get; private set; }
    public IReadOnlyList<TaskRow> Rows { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;
    public string Query(int page) => $"?page={page}{(Done ? "&done=true" : "")}";

    public async Task OnGet(bool done, int page = 1)
    {
        (Done, PageNumber) = (done, Math.Clamp(page, 1, 100_000));
        (Rows, Total) = await tasks.List(done, PageNumber, Ct);
    }

    public async Task<IActionResult> OnPostDone(long task)
    {
        var done = await tasks.Done(Actor, task, Ct);
        Tell(done.Ok ? "Done." : done.Refusal!);
        return Redirect("/desk/tasks");
    }

    public async Task<IActionResult> OnPostReopen(long task)
    {
        var done = await tasks.Reopen(Actor, task, Ct);
        Tell(done.Ok ? "It is open again." : done.Refusal!);
        return Redirect("/desk/tasks?done=true");
    }
}
