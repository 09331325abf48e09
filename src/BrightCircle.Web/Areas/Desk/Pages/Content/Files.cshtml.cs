using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All files: found, put up (many at once), and chosen from where a field asks for one.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = 2L * 1024 * 1024 * 1024), RequestSizeLimit(2L * 1024 * 1024 * 1024)]
public sealed class FilesModel(FileList list, KeepFiles files) : DeskPage
{
    public override string Place => "files";
    public FileFilter Filter { get; private set; } = new();
    public IReadOnlyList<FileRow> Rows { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string? q, FileKind? kind, bool unused, int p = 1)
    {
        await Load(q, kind, unused, p);
        return Page();
    }

    async Task Load(string? q, FileKind? kind, bool unused, int p)
    {
        Filter = new(q, kind, unused, Math.Max(1, p));
        (Rows, var total) = await list.List(Filter, Ct);
        Pager = new(Filter.Page, total, FileList.PageSize, n => $"?q={Uri.EscapeDataString(q ?? "")}&kind={kind}&unused={(unused ? "true" : "false")}&p={n}");
    }

    /// <summary>What fits a field that takes some kinds of files.</summary>
    public async Task<IActionResult> OnGetPick(string? q, string? kind)
    {
        FileKind[] kinds = [.. (kind ?? "").Split(',').Select(k => Enum.TryParse<FileKind>(k, out var known) ? known : (FileKind?)null).OfType<FileKind>()];
        (Rows, _) = await list.List(new(q, Kinds: kinds), Ct);
        return Partial("_PickFiles", this);
    }

    public async Task<IActionResult> OnPost(List<IFormFile> upload, string? alt)
    {
        if (upload.Count == 0) Tell("Choose a file first.");
        var wrong = new List<string>();
        foreach (var f in upload)
        {
            await using var stream = f.OpenReadStream();
            var kept = await files.Whole(Actor, stream, f.FileName, alt, Ct);
            if (!kept.Ok) wrong.Add(kept.Refusal!);
        }
        if (upload.Count > 0) Tell(wrong.Count == 0 ? $"{Count(upload.Count, "file")} added." : string.Join(" ", wrong));
        return Redirect("/desk/files");
    }
}
