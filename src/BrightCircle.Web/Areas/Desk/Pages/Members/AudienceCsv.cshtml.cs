using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class AudienceCsvModel(Audiences audiences) : DeskPage
{
    public override string Place => "audiences";

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Now.People.AudienceById.TryGetValue(new(id), out var audience)) return NotFound();
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = $"attachment; filename=\"{Slug(audience.Name)}-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.csv\"";
        await audiences.WriteCsv(audience.Condition, Response.Body, Ct);
        return new EmptyResult();
    }
}
