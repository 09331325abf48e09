using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Who is in the team, and what each may do.</summary>
public sealed class TeamModel(TeamAccounts team) : DeskPage
{
    public override string Place => "team";
    public IReadOnlyList<TeamRow> Rows { get; private set; } = [];
    /// <summary>Everybody has to have a second step.</summary>
    public bool Required => Now.Site!.TeamNeedsSecondStep;
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public string? Email { get; set; }
    [BindProperty] public TeamRole Role { get; set; } = TeamRole.Support;

    public static string Word(TeamRole role) => role.ToString().ToLowerInvariant();

    public async Task OnGet() => Rows = await team.List(Ct);

    public async Task<IActionResult> OnPost()
    {
        ModelState.Clear();
        var done = await team.Invite(Actor, Name, Email, Role, Ct);
        if (done.Ok)
        {
            Tell($"A letter is on its way to {Name!.Trim()}.");
            return Redirect("/desk/settings/team");
        }
        Refuse(done.Refusal!, done.Field);
        Rows = await team.List(Ct);
        return Page();
    }

    async Task<IActionResult> Said(Task<Result> act, string well)
    {
        var done = await act;
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect("/desk/settings/team");
    }

    public Task<IActionResult> OnPostAgain(long who) => Said(team.InviteAgain(Actor, who, Ct), "Another letter is on its way.");
    public Task<IActionResult> OnPostRole(long who, TeamRole role) => Said(team.SetRole(Actor, who, role, Ct), "It counts from now on.");
    public Task<IActionResult> OnPostShut(long who) => Said(team.Shut(Actor, who, Ct), "They are let in no longer.");
    public Task<IActionResult> OnPostStepOff(long who, [FromServices] SecondSteps steps) =>
        Said(steps.TakeOff(Actor, who, Ct), "They sign in without a second step, until they set one up.");
    public Task<IActionResult> OnPostRequire(bool all, [FromServices] SecondSteps steps) => Said(steps.Require(Actor, all, Ct),
        all ? "Whoever has none is led to set it up." : "Each decides by themselves.");
    public Task<IActionResult> OnPostLetIn(long who) => Said(team.LetIn(Actor, who, Ct), "They are let in again.");
}
