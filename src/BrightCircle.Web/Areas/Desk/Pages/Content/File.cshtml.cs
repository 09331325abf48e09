using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

[RequestFormLimits(MultipartBodyLengthLimit = 2L * 1024 * 1024 * 1024), RequestSizeLimit(2L * 1024 * 1024 * 1024)]
public sealed class FileModel(FileList list, KeepFiles files) : DeskPage
{
    public override string Place => "files";
    public StoredFile File_ { get; private set; } = null!;
    public IReadOnlyList<(string Link, string Text)> Uses { get; private set; } = [];

    public async Task<IActionResult> OnGet(long id)
    {
        if (await list.Load(new(id), Ct) is not ({ } file, var uses)) return NotFound();
        File_ = file;
        Uses = [.. uses.Select(u => u.User switch
        {
            FileUser.Lesson when Now.LessonById.TryGetValue(new(u.UserId), out var l) => ($"/desk/lessons/{u.UserId}", $"{Now.PieceOf(l).Title}: {l.Title}"),
            FileUser.Piece when Now.PieceById.TryGetValue(new(u.UserId), out var p) => p.Cover == file.Id
                ? ($"/desk/pieces/{u.UserId}/facts", $"cover of {p.Title}") : ($"/desk/doorway/piece/{u.UserId}", $"doorway of {p.Title}"),
            FileUser.Shelf when Now.ShelfById.TryGetValue(new(u.UserId), out var s) => s.Cover == file.Id
                ? ($"/desk/shelves/{u.UserId}/edit", $"cover of the shelf {s.Name}") : ($"/desk/doorway/shelf/{u.UserId}", $"doorways of the shelf {s.Name}"),
            FileUser.Site => Now.Site!.Logo == file.Id ? ("/desk/settings", "the site’s sign") : ("/desk/doorway/site", "doorways of the site"),
            FileUser.Page => ($"/desk/pages/{u.UserId}", $"the page {Now.Pages.FirstOrDefault(x => x.Id == u.UserId)?.Title}"),
            FileUser.Letter => ($"/desk/mailings/{u.UserId}", "a letter"),
            FileUser.HouseLetter => ("/desk/letters/house", "a version of one of the house’s letters"),
            FileUser.Lesson or FileUser.Piece or FileUser.Shelf => ("/desk/trash", "something in the trash"),
            _ => throw new InvalidOperationException($"Nothing is used by {u.User}."),
        })];
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, string? name, string? alt)
    {
        var done = await files.Describe(Actor, new(id), name, alt, Ct);
        Tell(done.Ok ? "Saved." : done.Refusal!);
        return Redirect($"/desk/files/{id}");
    }

    public async Task<IActionResult> OnPostReplace(long id, IFormFile? upload)
    {
        if (upload is null) Tell("Choose the file that takes its place.");
        else
        {
            await using var stream = upload.OpenReadStream();
            var done = await files.Replace(Actor, new(id), stream, upload.FileName, Ct);
            Tell(done.Ok ? "Replaced, everywhere it is used." : done.Refusal!);
        }
        return Redirect($"/desk/files/{id}");
    }

    public async Task<IActionResult> OnPostRemove(long id)
    {
        var done = await files.Remove(Actor, new(id), Ct);
        Tell(done.Ok ? "The file is gone." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/files" : $"/desk/files/{id}");
    }
}
