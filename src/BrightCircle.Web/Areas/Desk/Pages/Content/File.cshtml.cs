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
            FileUser.Piece when Now.PieceById.TryGetValue(new(u.UserId), out var p) => ($"/desk/pieces/{u.UserId}/facts", $"cover of {p.Title}"),
            FileUser.Shelf when Now.ShelfById.TryGetValue(new(u.UserId), out var s) => ($"/desk/shelves/{u.UserId}/edit", $"cover of the shelf {s.Name}"),
            _ => ("/desk/trash", "something in the trash"),
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
