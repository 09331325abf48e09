using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class GiveModel(GivePlan give) : DeskPage
{
    public override string Place => "members";
    public string Name { get; private set; } = "";
    public bool AllAtOnce { get; private set; }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, long plan, string? until, string? note, bool allAtOnce)
    {
        if (!await Find(id)) return NotFound();
        AllAtOnce = allAtOnce;
        var day = string.IsNullOrWhiteSpace(until) ? null : LocalDatePattern.Iso.Parse(until);
        if (day is { Success: false }) Refuse("That isn’t a date.", "Until");
        else
        {
            var done = await give.Do(Actor, new(id), new(plan), day?.Value, note, Ct, allAtOnce);
            if (done.Ok)
            {
                Tell("Given. The welcome letter is on its way.");
                return Redirect($"/desk/members/{id}");
            }
            Refuse(done.Refusal!, done.Field);
        }
        return Page();
    }

    async Task<bool> Find(long id) => (Name = await give.NameOf(new(id), Ct) ?? "").Length > 0;
}
