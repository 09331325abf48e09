using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Those who start a piece together.</summary>
public sealed class CohortsModel(Cohorts cohorts, SpacesOfCohorts spaces) : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public IReadOnlyList<Cohort> All => [.. Now.Paces.CohortsOf[Piece.Id]];
    public ILookup<CohortId, (MemberId Id, string Name)> PutIn { get; private set; } = null!;
    /// <summary>A new one gets a space, as the one before has.</summary>
    public bool WithSpace { get; private set; }
    /// <summary>What was typed into the form that was refused.</summary>
    public (long Cohort, string? Name, string? Starts) Typed { get; private set; }

    public async Task<IActionResult> OnGet(long id)
    {
        if (!await Find(id)) return NotFound();
        WithSpace = All.LastOrDefault() is { } last && Now.Community.SpaceOf(last.Id) is not null;
        return Page();
    }

    public async Task<IActionResult> OnPostSave(long id, long cohort, string? name, string? starts, long copy, bool space)
    {
        if (!await Find(id)) return NotFound();
        (Typed, WithSpace) = ((cohort, name, starts), space);
        var done = await cohorts.Save(Actor, Piece.Id, cohort == 0 ? null : new CohortId(cohort), name,
            LocalInput.TryReadMoment(starts, out var at) ? at : null, copy == 0 ? null : new CohortId(copy), Ct);
        if (done.Ok && space && cohort == 0 && await spaces.Make(Actor, done.Value, Ct) is { Ok: false } without)
            return Done($"{name?.Trim()} is saved, and has no space: {without.Refusal}");
        if (done.Ok) return Done($"{name?.Trim()} is saved.");
        Refuse(done.Refusal!, cohort == 0 ? done.Field : null);
        return Page();
    }

    public async Task<IActionResult> OnPostSpace(long id, long cohort)
    {
        if (!await Find(id)) return NotFound();
        var made = await spaces.Make(Actor, new(cohort), Ct);
        return Done(made.Ok ? "They have a space: whoever starts with this cohort finds it on the piece’s page." : made.Refusal!);
    }

    public async Task<IActionResult> OnPostRemove(long id, long cohort)
    {
        if (!await Find(id)) return NotFound();
        var done = await cohorts.Remove(Actor, Piece.Id, new(cohort), Ct);
        return Done(done.Ok ? "It is gone. Who was in it starts with the next." : done.Refusal!);
    }

    public async Task<IActionResult> OnPostPut(long id, long cohort, string? email)
    {
        if (!await Find(id)) return NotFound();
        var done = await cohorts.Put(Actor, Piece.Id, new(cohort), email, Ct);
        return Done(done.Ok ? "They start with this cohort." : done.Refusal!);
    }

    public async Task<IActionResult> OnPostOut(long id, long cohort, long member)
    {
        if (!await Find(id)) return NotFound();
        await cohorts.Out(Actor, new(cohort), new(member), Ct);
        return Done("They start with the next after they joined again.");
    }

    IActionResult Done(string told)
    {
        Tell(told);
        return Redirect($"/desk/pieces/{Piece.Id.Value}/cohorts");
    }

    async Task<bool> Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return false;
        Piece = piece;
        PutIn = await cohorts.PutIn(piece.Id, Ct);
        return true;
    }
}
