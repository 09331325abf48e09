using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One tally: what it counts, where it is kept, how its weeks went.</summary>
public sealed class DeskTallyModel(Tallies tallies) : DeskPage
{
    const int WeeksShown = 12;
    public override string Place => "tallies";
    public Tally? Tally { get; private set; }
    public TallyDraft Draft { get; private set; } = new("", "", 3);
    public IReadOnlyList<Lesson> Lessons { get; private set; } = [];
    public IReadOnlyList<TallyTeamWeek> Weeks { get; private set; } = [];
    public IReadOnlyList<TallyMember> Members { get; private set; } = [];
    public IReadOnlyList<Plan> Promised =>
        [.. Now.Plans.Where(p => p.Promise.Any(i => i.Covers is Coverage.Everything && !Now.Community.TalliesApart.Contains(Tally!.Id)
            || i.Covers is Coverage.OneTally t && t.Tally == Tally!.Id))];

    public async Task<IActionResult> OnGet(string id)
    {
        if (!Find(id)) return NotFound();
        if (Tally is not null) Draft = new(Tally.Name, Tally.Description, Tally.AimIn(ThisWeek));
        await Figures();
        return Page();
    }

    async Task Figures()
    {
        if (Tally is null) return;
        (Lessons, Weeks, Members) = await tallies.Figures(Tally, WeeksShown, Ct);
    }

    public async Task<IActionResult> OnPost(string id, string? name, string? description, string? aWeek)
    {
        if (!Find(id)) return NotFound();
        var number = int.TryParse(aWeek?.Trim(), out var n);
        Draft = new(name, description, n);
        if (!number) Refuse("The aim is a whole number.", "AWeek");
        else if (await tallies.Save(Actor, Tally?.Id, Draft, Ct) is { Ok: false } refused) Refuse(refused.Refusal!, refused.Field);
        if (!ModelState.IsValid)
        {
            await Figures();
            return Page();
        }
        Tell($"{name} is saved.");
        return Redirect("/desk/tallies");
    }

    public async Task<IActionResult> OnPostArchive(string id, bool closed)
    {
        if (!Find(id) || Tally is null) return NotFound();
        var done = await tallies.Archive(Actor, Tally.Id, closed, Ct);
        Tell(!done.Ok ? done.Refusal! : closed ? "It is closed. What was marked stays with those who marked it." : "It is open again.");
        return Redirect($"/desk/tallies/{id}");
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Tally is null) return NotFound();
        var done = await tallies.Remove(Actor, Tally.Id, Ct);
        Tell(done.Ok ? $"{Tally.Name} is taken away." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/tallies" : $"/desk/tallies/{id}");
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Tally = long.TryParse(id, out var n) ? Now.TallyById.GetValueOrDefault(new(n)) : null;
        return Tally is not null;
    }
}
