using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One audience: its lines, and who fits them just now.</summary>
public sealed class AudienceModel(Audiences audiences) : ConditionPage(audiences)
{
    public override string Place => "audiences";
    [BindProperty] public string? Name { get; set; }
    public Audience? Audience { get; private set; }
    public string Key => Audience?.Id.Value.ToString(CultureInfo.InvariantCulture) ?? "new";
    public IReadOnlyList<Audience> Others => [.. Now.Audiences.Where(a => a.Id != Audience?.Id)];
    public Audience? With { get; private set; }
    public AudienceDifference? Difference { get; private set; }

    public async Task<IActionResult> OnGet(string id, long? with)
    {
        if (!Find(id)) return NotFound();
        (Name, With) = (Audience?.Name, with is { } w ? Now.People.AudienceById.GetValueOrDefault(new(w)) : null);
        Write(Audience?.Condition ?? new Condition.InStanding([Standing.Trial, Standing.Active]));
        Read();
        Difference = await Look(With?.Condition);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        Read();
        var saved = Condition is { } c ? await Audiences.Save(Actor, Audience?.Id, Name, c, Ct)
            : Result.Refused(Whole ?? "Something in the lines isn’t clear yet.", "Condition");
        if (saved.Ok)
        {
            Tell($"{Name!.Trim()} is saved.");
            return Redirect($"/desk/audiences/{saved.Value.Value}");
        }
        Refuse(saved.Refusal!, saved.Field);
        return await Again();
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Audience is null) return NotFound();
        var done = await Audiences.Remove(Actor, Audience.Id, Ct);
        Tell(done.Ok ? $"{Audience.Name} is taken away." : done.Refusal!);
        return Redirect("/desk/audiences");
    }

    protected override async Task<IActionResult> Again()
    {
        if (!Find((string)RouteData.Values["id"]!)) return NotFound();
        await Look();
        return Page();
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Audience = long.TryParse(id, CultureInfo.InvariantCulture, out var n) ? Now.People.AudienceById.GetValueOrDefault(new(n)) : null;
        return Audience is not null;
    }
}
