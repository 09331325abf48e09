using BrightCircle.App.Settings;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The menus: entries in their order, each for those it is meant for.</summary>
public sealed class SettingsMenuModel(SaveMenu save) : DeskPage
{
    public override string Place => "menu";
    public IReadOnlyList<MenuItem> Items { get; private set; } = [];
    public bool IsUsual => Now.Site!.Menu is null;

    public void OnGet()
    {
        Actor.NeedEditor();
        Items = Now.Site!.Menu ?? MenuItem.Usual;
    }

    /// <param name="act">up:2, down:2, drop:2 or add, beside saving.</param>
    public async Task<IActionResult> OnPost(string?[] word, string?[] path, string?[] @for, int[] at, string? act)
    {
        ModelState.Clear();
        var items = new List<MenuItem>();
        for (var i = 0; i < Math.Min(word.Length, Math.Min(path.Length, @for.Length)); i++)
        {
            var kind = @for[i]?.Split('-') ?? [];
            var who = Enum.TryParse<MenuFor>(kind.ElementAtOrDefault(0), out var f) ? f : MenuFor.Everybody;
            PlanId? plan = who == MenuFor.Holders && long.TryParse(kind.ElementAtOrDefault(1), out var p) && p > 0 ? new PlanId(p) : null;
            items.Add(new(word[i]?.Trim() ?? "", path[i]?.Trim() ?? "", who, plan, at.Contains(i)));
        }
        // An emptied line goes.
        if (act is null) items.RemoveAll(i => i.Word.Length == 0 && i.Path.Length == 0);
        var n = act?.Split(':') is [_, var number] && int.TryParse(number, out var k) && k >= 0 && k < items.Count ? k : -1;
        switch (act?.Split(':')[0])
        {
            case "add" when items.Count < MenuItem.Most: items.Add(new("", "/")); break;
            case "up" when n > 0: (items[n - 1], items[n]) = (items[n], items[n - 1]); break;
            case "down" when n >= 0 && n + 1 < items.Count: (items[n + 1], items[n]) = (items[n], items[n + 1]); break;
            case "drop" when n >= 0: items.RemoveAt(n); break;
            case null:
                var done = await save.Do(Actor, items, Ct);
                if (done.Ok)
                {
                    Tell("Saved.");
                    return Redirect("/desk/settings/menu");
                }
                Refuse(done.Refusal!, done.Field);
                break;
        }
        Items = items;
        return Page();
    }

    public async Task<IActionResult> OnPostUsual()
    {
        var done = await save.Do(Actor, null, Ct);
        Tell(done.Ok ? "The menus are as they were at first." : done.Refusal!);
        return Redirect("/desk/settings/menu");
    }

    public static string Word(MenuFor who) => who switch
    {
        MenuFor.Everybody => "everybody",
        MenuFor.SignedOut => "those who aren’t signed in",
        MenuFor.SignedIn => "those who are signed in",
        MenuFor.Guests => "those who hold nothing",
        MenuFor.Holders => "those who hold something",
        _ => throw new ArgumentOutOfRangeException(nameof(who), who, "Nobody is that."),
    };
}
