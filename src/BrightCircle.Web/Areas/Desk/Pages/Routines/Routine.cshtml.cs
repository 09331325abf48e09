using BrightCircle.App.Routines;
using BrightCircle.Core.Routines;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Html;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One routine, as a line of sentences that are changed in place, with how many stand at each.</summary>
public sealed class RoutineModel(LookAtRoutines look, EditRoutine edit) : DeskPage
{
    public override string Place => "routines";
    public Routine Routine { get; private set; } = null!;
    public RoutineView View { get; private set; } = null!;
    /// <summary>The step whose form stands open; 0 for the beginning.</summary>
    public int? Opened { get; private set; }
    public string? Wrong { get; private set; }

    /// <summary>On whom it is tried, by their address.</summary>
    public string? Try { get; private set; }
    public bool Comes { get; private set; }

    [BindProperty] public string? Name { get; set; }
    [BindProperty] public long And { get; set; }
    [BindProperty] public Again Again { get; set; } = Again.WhenThrough;
    [BindProperty] public TriggerInput When { get; set; } = new();
    [BindProperty] public TriggerInput Goal { get; set; } = new();
    [BindProperty] public StepInput Step { get; set; } = new();

    public Script Script => Routine.Script;
    public string Letter(long id) => View.Letters.GetValueOrDefault(id)?.Subject ?? "";

    bool Find(long id)
    {
        if (!Now.People.RoutineById.TryGetValue(id, out var found)) return false;
        Routine = found;
        return true;
    }

    void Fill() => (Name, And, Again, When, Goal) = (Routine.Name, Script.And?.Value ?? 0, Script.Again, TriggerInput.Of(Script.When),
        TriggerInput.Of(Script.Goal));

    async Task<IActionResult> Show()
    {
        View = await look.Open(Routine, Try, Comes, Ct);
        return Page();
    }

    /// <param name="open">The step whose form stands open.</param>
    /// <param name="on">The address of somebody to try it on.</param>
    public async Task<IActionResult> OnGet(long id, int? open, string? on, bool comes)
    {
        if (!Find(id)) return NotFound();
        Fill();
        (Opened, Try, Comes) = (open, string.IsNullOrWhiteSpace(on) ? null : on, comes);
        return await Show();
    }

    /// <summary>The fields of a trigger, as its kind is chosen.</summary>
    /// <param name="prefix">When., Goal. or Step.What.</param>
    public IActionResult OnPostTrigger(long id, string? prefix)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        return prefix switch
        {
            "When." => Partial("_TriggerFields", (When, "When.", this)),
            "Goal." => Partial("_TriggerFields", (Goal, "Goal.", this)),
            "Step.What." => Partial("_TriggerFields", (Step.What, "Step.What.", this)),
            _ => NotFound(),
        };
    }

    /// <summary>When it begins, for whom, and what it is for.</summary>
    public async Task<IActionResult> OnPost(long id, int basedOn)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        if (!Enum.IsDefined(Again)) return BadRequest();
        var wanted = Goal.Kind is not (null or "" or "none");
        var goal = wanted ? Goal.Read() : null;
        var done = When.Read() is not { } when ? Result.Refused("Choose what it begins with.", "Step")
            : goal is null && wanted ? Result.Refused("Choose what it is for, or nothing.", "Step")
            : await edit.Change(Actor, id, basedOn, Name, s => s with { When = when, And = And == 0 ? null : new(And), Again = Again, Goal = goal }, Ct);
        if (done.Ok)
        {
            Tell("It is saved.");
            return Redirect($"/desk/routines/{id}");
        }
        if (done.Field == "Name") Refuse(done.Refusal!, done.Field);
        (Wrong, Opened) = (done.Refusal, 0);
        return await Show();
    }

    public async Task<IActionResult> OnPostStep(long id, int basedOn, int step)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = Result.Refused("This step isn’t there any more.", "Step");
        if (Script.Find(step) is { } stands)
        {
            var read = Step.Read(stands);
            done = read.Ok ? await edit.Change(Actor, id, basedOn, null, s => s.Replace(read.Value!), Ct) : Result.Refused(read.Refusal!, read.Field);
        }
        if (done.Ok) return Redirect($"/desk/routines/{id}#step-{step}");
        var typed = Step;
        Fill();
        (Wrong, Opened, Step) = (done.Refusal, step, typed);
        return await Show();
    }

    public async Task<IActionResult> OnPostAdd(long id, int basedOn, int behind, bool? way, string? kind)
    {
        if (!Find(id)) return NotFound();
        if (StepInput.Kinds.All(k => k.Key != kind)) return BadRequest();
        if (StepInput.Missing(kind, Now) is { } missing)
        {
            Tell(missing);
            return Redirect($"/desk/routines/{id}");
        }
        var letter = kind == "letter" ? await edit.NewLetter(Actor, id, Ct) : 0;
        var number = 0;
        var done = await edit.Change(Actor, id, basedOn, null, s => s.Add(behind, way, n => StepInput.New(Now, kind, number = n, letter, Moment)!), Ct);
        if (done.Ok) return Redirect(kind == "letter" ? $"/desk/mailings/{letter}" : $"/desk/routines/{id}?open={number}#step-{number}");
        Tell(done.Refusal!);
        return Redirect($"/desk/routines/{id}");
    }

    async Task<IActionResult> Said(long id, Task<Result> act, string well, string? to = null)
    {
        var done = await act;
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect(done.Ok && to is not null ? to : $"/desk/routines/{id}");
    }

    public Task<IActionResult> OnPostMove(long id, int basedOn, int step, bool up) =>
        Said(id, edit.Change(Actor, id, basedOn, null, s => s.Move(step, up), Ct), "It is moved.");

    public Task<IActionResult> OnPostTake(long id, int basedOn, int step) =>
        Said(id, edit.Change(Actor, id, basedOn, null, s => s.Remove(step), Ct), "The step is taken out. Whoever stood there goes on with the next.");

    public Task<IActionResult> OnPostTurn(long id, bool on) =>
        Said(id, edit.Turn(Actor, id, on, Ct), on ? "It is on: from now on people begin it."
            : "It is off: nobody begins it, and whoever is in it goes on to the end.");

    public async Task<IActionResult> OnPostFill(long id)
    {
        var done = await edit.FillIn(Actor, id, Ct);
        Tell(done.Ok ? $"{Count(done.Value, "person begins", "people begin")} it now." : done.Refusal!);
        return Redirect($"/desk/routines/{id}");
    }

    public async Task<IActionResult> OnPostOut(long id)
    {
        var done = await edit.TakeOut(Actor, id, null, Ct);
        Tell(done.Ok ? $"{Count(done.Value, "person is", "people are")} taken out of it." : done.Refusal!);
        return Redirect($"/desk/routines/{id}");
    }

    public Task<IActionResult> OnPostRemove(long id) => Said(id, edit.Remove(Actor, id, Ct), "The routine is thrown away.", "/desk/routines");

    /// <summary>A sentence with what can be changed of it marked.</summary>
    public static IHtmlContent Slots(string sentence)
    {
        var markup = Markup.Of($"");
        foreach (var (i, part) in sentence.Split(RoutineWords.Open, RoutineWords.Close).Index())
        {
            if (part.Length == 0) continue;
            if (i % 2 == 0) markup.Add($"{part}");
            else markup.Add($"<span class=\"slot\">{part}</span>");
        }
        return markup;
    }
}
