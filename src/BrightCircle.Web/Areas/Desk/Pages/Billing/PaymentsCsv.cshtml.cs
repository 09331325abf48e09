using BrightCircle.App.Billing;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The filtered payments as a file.</summary>
public sealed class PaymentsCsvModel(PaymentList list) : PaymentFilterPage
{
    public async Task<IActionResult> OnGet()
    {
        ReadFilter();
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = $"attachment; filename=\"payments-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.csv\"";
        await list.WriteCsv(Filter, Response.Body, Ct);
        return new EmptyResult();
    }
}
