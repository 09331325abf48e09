using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One of the owner's own fields.</summary>
public sealed class OwnFieldEditModel(OwnFields fields) : DeskPage
{
    public override string Place => "tags";
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public OwnFieldKind Kind { get; set; }
    [BindProperty] public string? Choices { get; set; }
    [BindProperty] public bool AskedAtJoining { get; set; }
    [BindProperty] public bool ByMembers { get; set; }
    [BindProperty] public bool OnCards { get; set; }
    public OwnField? Field { get; private set; }
    public int Filled { get; private set; }
    public string Key => Field?.Id.Value.ToString(CultureInfo.InvariantCulture) ?? "new";

    public async Task<IActionResult> OnGet(string id)
    {
        if (!await Find(id)) return NotFound();
        if (Field is { } f) (Name, Kind, Choices, AskedAtJoining, ByMembers, OnCards) =
            (f.Name, f.Kind, string.Join("\n", f.Choices), f.AskedAtJoining, f.ByMembers, f.OnCards);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var saved = !Enum.IsDefined(Kind) ? Result.Refused("Choose what stands in it.")
            : await fields.Save(Actor, Field?.Id, new(Name, Kind, Choices, AskedAtJoining, ByMembers, OnCards), Ct);
        if (saved.Ok)
        {
            Tell($"{Name!.Trim()} is saved.");
            return Redirect("/desk/tags");
        }
        Refuse(saved.Refusal!, saved.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!await Find(id) || Field is null) return NotFound();
        var done = await fields.Remove(Actor, Field.Id, Ct);
        Tell(done.Ok ? $"{Field.Name} is taken away." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/tags" : $"/desk/fields/{id}");
    }

    public string Word(OwnFieldKind kind) => kind switch
    {
        OwnFieldKind.Text => "Words",
        OwnFieldKind.Number => "A number",
        OwnFieldKind.Date => "A day",
        OwnFieldKind.Choice => "One of several",
        _ => throw new InvalidOperationException($"No such kind: {kind}"),
    };

    async Task<bool> Find(string id)
    {
        if (id == "new") return true;
        Field = long.TryParse(id, CultureInfo.InvariantCulture, out var n) ? Now.People.FieldById.GetValueOrDefault(new(n)) : null;
        if (Field is { } f) Filled = await fields.Filling(f.Id, Ct);
        return Field is not null;
    }
}
