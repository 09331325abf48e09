using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Bench.Pages;

/// <summary>What a page with one indexed EF query costs: the yardstick.</summary>
public sealed class BenchOneQueryModel(BrightContext db) : PageModel
{
    public string? Name { get; private set; }

    public async Task OnGet(long id) => Name = await db.Members.AsNoTracking().Where(m => m.Id == new MemberId(id)).Select(m => m.Name).FirstOrDefaultAsync();
}
