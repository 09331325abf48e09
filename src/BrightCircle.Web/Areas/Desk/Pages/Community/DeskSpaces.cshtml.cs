using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The spaces, in the order members see them.</summary>
public sealed class DeskSpacesModel(ReadTalk talk) : DeskPage
{
    public override string Place => "spaces";
    public IReadOnlyList<SpaceSeenFromOutside> Spaces { get; private set; } = [];

    public async Task OnGet() => (Spaces, _) = await talk.Spaces(Visitor.AllTalks(Now, Moment), Ct);

    public async Task<IActionResult> OnPostMove(long id, int step, [FromServices] SaveSpace save)
    {
        var done = await save.Move(Actor, new(id), step, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect("/desk/spaces");
    }

    public async Task<IActionResult> OnPostPeople(bool shows, [FromServices] SavePersonCard save)
    {
        var done = await save.Switch(Actor, shows, Ct);
        Tell(!done.Ok ? done.Refusal! : shows ? "Members find one another now: each says for themselves whether they want to." : "Nobody is shown any more.");
        return Redirect("/desk/spaces");
    }

    public async Task<IActionResult> OnPostWriting(bool writes, [FromServices] SavePersonCard save)
    {
        var done = await save.SwitchWriting(Actor, writes, Ct);
        Tell(!done.Ok ? done.Refusal! : writes ? "Members can ask one another now: whoever wants that says so on their card."
            : "Nobody writes to another any more. What they wrote stays with them.");
        return Redirect("/desk/spaces");
    }

    public string Promised(Space space) => space.LikeId is { } like && Now.SpaceById.GetValueOrDefault(like) is { } model ? $"as {model.Name}"
        : space.CohortId is { } of && Now.Paces.CohortById.GetValueOrDefault(of) is { } cohort && Now.PieceById.GetValueOrDefault(cohort.Piece) is { } together
        ? $"whoever starts {together.Title} with {cohort.Name}"
        : space.PieceId is { } id && Now.PieceById.GetValueOrDefault(id) is { } piece && !space.ForGuests
        ? $"whoever {piece.Title} is open to" + string.Concat(Now.PlansNaming(space.Id).Select(p => $", {p.Name}"))
        : OpenTo(space.ForGuests, Now.PlansNaming(space.Id));

    /// <summary>Who comes in, in words.</summary>
    public static string OpenTo(bool forGuests, IEnumerable<Plan> promised)
    {
        var plans = promised.Select(p => p.Name).ToArray();
        return forGuests ? "everybody with an account" : plans.Length == 0 ? "nobody yet" : string.Join(", ", plans);
    }

    public static string Word(SpaceKind kind) => kind switch
    {
        SpaceKind.Talk => "talk",
        SpaceKind.Questions => "questions and answers",
        SpaceKind.Announcements => "the team announces",
        SpaceKind.Introductions => "introductions",
        SpaceKind.Showcase => "showing things, with pictures",
        _ => throw new InvalidOperationException($"No such kind: {kind}"),
    };
}
