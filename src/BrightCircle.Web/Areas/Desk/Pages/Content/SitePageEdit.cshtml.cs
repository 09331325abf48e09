using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.Areas.Desk.Blocks;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The editor of a page of the owner's own: the lesson's editor, with a page's sections.</summary>
[RequestFormLimits(ValueCountLimit = 20_000, ValueLengthLimit = 4 * 1024 * 1024)]
public sealed class SitePageEditModel(SitePages pages, FilesToChoose choose, RichText rich, Ids ids) : DeskPage
{
    const int RecentFiles = 60;

    public override string Place => "pages";
    public SitePage Written { get; private set; } = null!;
    public SitePageDraft Draft { get; private set; } = null!;
    public IReadOnlyList<BlockProblem> Problems => BlockRules.Problems(Draft.Sections);
    public IReadOnlyDictionary<string, Mistake> Wrong { get; private set; } = new Dictionary<string, Mistake>();
    public string? SavedNote { get; private set; }
    public FileField Picture { get; private set; } = null!;
    IReadOnlyList<StoredFile> files = [];

    public IEnumerable<BlockEdit> Edits => Draft.Sections.Select((b, i) => new BlockEdit(default, b, i + 1, Draft.Sections.Count,
        files.ToDictionary(f => f.Id), files, Problems, Wrong, [], Now.Site!.DocumentKinds)
    { Plans = Now.Plans });

    /// <summary>Where it stands, for the link beside it.</summary>
    public string Address => Written.Kind switch
    {
        SitePageKind.Free => $"/pages/{Written.Slug}",
        SitePageKind.Front => "/",
        SitePageKind.Plan => $"/tiers/{Written.PlanId!.Value.Value}/{Slug(Now.PlanName(Written.PlanId))}",
        SitePageKind.Join => Now.PricesOf(Written.PlanId!.Value).FirstOrDefault() is { } p ? $"/join/{p.Code}" : "/tiers",
        SitePageKind.Confirmation => "/welcome",
        _ => throw new InvalidOperationException($"No such page: {Written.Kind}"),
    };

    /// <summary>The same in words.</summary>
    public string Where => Written.Kind switch
    {
        SitePageKind.Free => "It stands by itself.",
        SitePageKind.Front => "It stands on the front, under its head.",
        SitePageKind.Plan => "It is the first thing on the plan’s own page.",
        SitePageKind.Join => "It stands beside the form with which the plan is joined.",
        SitePageKind.Confirmation => "It stands on the page that follows joining by this price.",
        _ => throw new InvalidOperationException($"No such page: {Written.Kind}"),
    };

    bool Find(long id)
    {
        if (Now.Pages.FirstOrDefault(p => p.Id == id) is not { } page) return false;
        Written = page;
        return true;
    }

    async Task<IActionResult> Show(bool partOnly = false)
    {
        FileId[] used = [.. Draft.Sections.SelectMany(b => b.UsedFiles()).Concat(Draft.Picture is { } p ? [p] : []).Distinct()];
        files = await choose.Do(used, null, RecentFiles, Ct);
        Picture = new("Picture", "Picture", "Picture for its link", [FileKind.Picture], Draft.Picture, files.Where(f => f.Kind == FileKind.Picture), []);
        return partOnly ? Partial("_SitePageForm", this) : Page();
    }

    public async Task<IActionResult> OnGet(long id)
    {
        Actor.NeedEditor();
        if (!Find(id)) return NotFound();
        Draft = new(Written.Title, Written.Slug, Written.Description, Written.Picture, Written.Sections, Written.IsPublic, Written.Version);
        return await Show();
    }

    public async Task<IActionResult> OnPost(long id, [FromForm(Name = "do")] string? action, string? title, string? slug, string? description, long? picture,
        bool isPublic, int version)
    {
        if (!Find(id)) return NotFound();
        action ??= "save";
        var (quiet, part) = (Request.Headers["X-Autosave"] == "1", Request.Headers.ContainsKey("HX-Request"));
        var read = new BlockForm(Request.Form, rich);
        var sections = read.Read();
        Wrong = read.Wrong;
        Draft = new(title, slug, description, picture is { } f ? new FileId(f) : null, BlockForm.Act(sections, action, ids.Next<BlockId>),
            action switch { "publish" => true, "withdraw" => false, _ => isPublic }, version);
        ModelState.Clear();
        var saved = await pages.Save(Actor, id, Draft, Ct);
        if (!saved.Ok)
        {
            if (quiet)
                return new JsonResult(new { wrong = new Dictionary<string, string> { [saved.Field ?? ""] = saved.Refusal! } }) { StatusCode = 422 };
            Refuse(saved.Refusal!, saved.Field);
            Draft = Draft with { IsPublic = Written.IsPublic };
            return await Show(part);
        }
        Draft = Draft with { Version = saved.Value };
        var at = Now.Calendar.Local(Moment).ToString("HH:mm", Now.Culture);
        if (quiet)
            return new JsonResult(new { version = saved.Value, at, problems = Problems.Select(p => new { block = p.Block.Value, text = p.Text }) });
        if (part)
        {
            SavedNote = $"saved {at}";
            return await Show(true);
        }
        Tell(action switch { "publish" => "It is public.", "withdraw" => "Nobody but the team sees it now.", _ => "Saved." });
        return Redirect($"/desk/pages/{id}");
    }

    public async Task<IActionResult> OnPostRemove(long id)
    {
        if (!Find(id)) return NotFound();
        var done = await pages.Remove(Actor, id, Ct);
        Tell(done.Ok ? $"“{Written.Title}” is gone." : done.Refusal!);
        return Redirect("/desk/pages");
    }
}
