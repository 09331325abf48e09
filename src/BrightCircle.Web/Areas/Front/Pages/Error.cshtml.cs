using System.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace BrightCircle.Web.Areas.Front.Pages;

[IgnoreAntiforgeryToken, ResponseCache(NoStore = true)]
public sealed class ErrorModel : PageModel
{
    public string Number => Activity.Current?.TraceId.ToString()[..8] ?? HttpContext.TraceIdentifier;
    public void OnGet() { }
    public void OnPost() { }
}
