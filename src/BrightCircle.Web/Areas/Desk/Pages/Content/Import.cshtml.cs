using System.Text;
using BrightCircle.App.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

[RequestFormLimits(MultipartBodyLengthLimit = 4L * 1024 * 1024 * 1024), RequestSizeLimit(4L * 1024 * 1024 * 1024)]
public sealed class ImportModel(ImportJobs jobs, ExportContent export) : DeskPage
{
    public override string Place => "import";
    public ImportRun? Job { get; private set; }
    public ImportReport? Report { get; private set; }

    public async Task<IActionResult> OnGet(long? job)
    {
        if (job is { } id)
        {
            if (await jobs.Find(id, Ct) is not { } found) return NotFound();
            (Job, Report) = found;
        }
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
            return Redirect($"/desk/import?job={await jobs.Start(Actor, text, "the list", kind, piece.Trim(), dry: true, Ct)}");
        }
        if (upload is not { Length: > 0 })
        {
            Refuse("Choose a file first.", kind == "csv" ? "Csv" : "Zip");
            return Page();
        }
        await using var stream = upload.OpenReadStream();
        return Redirect($"/desk/import?job={await jobs.Start(Actor, stream, upload.FileName, kind == "csv" ? "csv" : "zip", "", dry: true, Ct)}");
    }

    public async Task<IActionResult> OnPostGo(long job)
    {
        Actor.NeedEditor();
        return await jobs.Again(Actor, job, Ct) is { } id ? Redirect($"/desk/import?job={id}") : NotFound();
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
