using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>How far something is that is done for many people.</summary>
public sealed class BatchModel(PeopleBatches batches) : DeskPage
{
    public override string Place => "members";
    public PeopleBatch Batch { get; private set; } = null!;
    public string What => Batch.Kind switch
    {
        PeopleBatchKind.Gifts => "Giving to many",
        PeopleBatchKind.MoveIn => "Moving in",
        _ => throw new InvalidOperationException($"No such batch: {Batch.Kind}"),
    };

    public async Task<IActionResult> OnGet(long id)
    {
        Actor.NeedSupport();
        if (await batches.Find(id, Ct) is not { } batch) return NotFound();
        Batch = batch;
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_Batch", this) : Page();
    }
}
