using System.Text;
using BrightCircle.App.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

[RequestFormLimits(MultipartBodyLengthLimit = 4L * 1024 * 1024 * 1024), RequestSizeLimit(4L * 1024 * 1024 * 1024)]
public sealed class ImportModel(ImportJobs jobs, ExportContent export) : DeskPage
{
    public override string Place => "shelves";
    public ImportJob? Job { get; private set; }

    public IActionResult OnGet(long? job)
    {
        if (job is { } id && (Job = jobs.Find(id)) is null) return NotFound();
        return Request.Headers.ContainsKey("HX-Request") && Job is not null ? Partial("_ImportJob", this) : Page();
    }

    public async Task<IActionResult> OnPost(string kind, IFormFile? upload, string? list, string? piece)
    {
        Actor.NeedEditor();
        if (kind == "videos")
        {
            if (string.IsNullOrWhiteSpace(list) || string.IsNullOrWhiteSpace(piece))
            {
                Refuse("Write the list, and the piece it goes into.", "List");
                return Page();
            }
            using var text = new MemoryStream(Encoding.UTF8.GetBytes(list));
            return Redirect($"/desk/import?job={(await jobs.Start(Actor, text, "the list", kind, piece.Trim(), dry: true, Ct)).Id}");
        }
        if (upload is not { Length: > 0 })
        {
            Refuse("Choose a file first.", kind == "csv" ? "Csv" : "Zip");
            return Page();
        }
        await using var stream = upload.OpenReadStream();
        return Redirect($"/desk/import?job={(await jobs.Start(Actor, stream, upload.FileName, kind == "csv" ? "csv" : "zip", "", dry: true, Ct)).Id}");
    }

    public IActionResult OnPostGo(long job)
    {
        Actor.NeedEditor();
        return jobs.Find(job) is { Dry: true, Report: not null } dry ? Redirect($"/desk/import?job={jobs.Again(Actor, dry).Id}") : NotFound();
    }

    public async Task<IActionResult> OnGetExport()
    {
        Actor.NeedEditor();
        Response.ContentType = "application/zip";
        Response.Headers.ContentDisposition = $"attachment; filename=\"content-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.zip\"";
        await export.Write(Actor, Response.BodyWriter.AsStream(), Ct);
        return new EmptyResult();
    }
}
