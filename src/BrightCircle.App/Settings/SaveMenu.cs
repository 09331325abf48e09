using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Settings;

/// <summary>The menu of the front and of the member side.</summary>
public sealed class SaveMenu(BrightContext db, Catalogue catalogue, Deeds deeds)
{
    /// <param name="items">Null for the usual one.</param>
    public async Task<Result> Do(TeamActor by, IReadOnlyList<MenuItem>? items, CancellationToken ct)
    {
        by.NeedEditor();
        if (items?.Count > MenuItem.Most) return Result.Refused($"A menu has {MenuItem.Most} entries at most.", "Menu");
        if (items?.Select(i => i.Wrong()).FirstOrDefault(w => w is not null) is { } wrong) return Result.Refused(wrong, "Menu");
        if (items?.Any(i => i.Plan is { } p
            && !catalogue.Now.PlanById.ContainsKey(p)) == true) return Result.Refused("One of the plans isn’t here any more.", "Menu");
        var site = await db.Sites.SingleAsync(ct);
        site.Menu = items is null || items.SequenceEqual(MenuItem.Usual) ? null : items;
        deeds.Note(by, "changed the menus", "/desk/settings/menu");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
