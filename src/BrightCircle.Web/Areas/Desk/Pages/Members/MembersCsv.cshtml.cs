using BrightCircle.App.Members;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class MembersCsvModel(MemberList list) : MemberFilterPage
{
    public async Task<IActionResult> OnGet()
    {
        ReadFilter();
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = $"attachment; filename=\"members-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.csv\"";
        await list.WriteCsv(Listing, Response.Body, Ct);
        return new EmptyResult();
    }
}
