using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One tag: put on by hand, or following a condition.</summary>
public sealed class TagModel(Audiences audiences, MemberTags tags) : ConditionPage(audiences)
{
    public override string Place => "tags";
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public string? Group { get; set; }
    [BindProperty] public int Colour { get; set; } = 1;
    [BindProperty] public bool ByItself { get; set; }
    [BindProperty] public bool Badge { get; set; }
    public Tag? Tag { get; private set; }
    public string Key => Tag?.Id.Value.ToString(CultureInfo.InvariantCulture) ?? "new";
    public IReadOnlyList<(string Name, bool ByItself)> Uses => Tag is { } t ? tags.Uses(t.Id) : [];
    public int Bearers { get; private set; }

    public async Task<IActionResult> OnGet(string id)
    {
        if (!Find(id)) return NotFound();
        if (Tag is { } t) (Name, Group, Colour, ByItself, Badge) = (t.Name, t.Group, t.Colour, t.IsByItself, t.IsBadge);
        else Colour = 1 + Now.Tags.Count % 8;
        Write(Tag?.Follows ?? new Condition.InStanding([Standing.Active]));
        Read();
        return await Show();
    }

    public async Task<IActionResult> OnPost(string id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        Read();
        var saved = ByItself && Condition is null ? Result.Refused(Whole ?? "Something in the lines isn’t clear yet.", "Condition")
            : await tags.Save(Actor, Tag?.Id, Name, Group, Colour, ByItself ? Condition : null, Ct, Badge);
        if (saved.Ok)
        {
            Tell($"{Name!.Trim()} is saved.");
            return Redirect("/desk/tags");
        }
        Refuse(saved.Refusal!, saved.Field);
        return await Show();
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Tag is null) return NotFound();
        var done = await tags.Remove(Actor, Tag.Id, Ct);
        Tell(done.Ok ? $"{Tag.Name} is taken away." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/tags" : $"/desk/tags/{id}");
    }

    protected override async Task<IActionResult> Again() => Find((string)RouteData.Values["id"]!) ? await Show() : NotFound();

    async Task<IActionResult> Show()
    {
        await Look();
        if (Tag is { IsByItself: false } t) Bearers = await tags.Bearers(t.Id, Ct);
        return Page();
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Tag = long.TryParse(id, CultureInfo.InvariantCulture, out var n) ? Now.TagById.GetValueOrDefault(new(n)) : null;
        return Tag is not null;
    }
}
