using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Shows the team something another member wrote.</summary>
public sealed class ExchangeReportModel(ReadExchanges read, Exchanges exchanges) : MemberPage
{
    public override string Place => "account";
    public ExchangeView View { get; private set; } = null!;
    public ExchangeMessage Said { get; private set; } = null!;
    [BindProperty] public string? Why { get; set; }

    async Task<bool> Find(long id, long message)
    {
        if (Visitor.Recorded is not { } me || await read.One(me, id, Ct) is not { } view
            || view.Messages.FirstOrDefault(m => m.Id == message && m.MemberId is not null && m.MemberId != me) is not { } said) return false;
        (View, Said) = (view, said);
        return true;
    }

    public async Task<IActionResult> OnGet(long id, long message) => await Find(id, message) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, long message)
    {
        if (!await Find(id, message)) return NotFound();
        ModelState.Clear();
        var done = await exchanges.Report(new(Member, Visitor.Person!.Confirmed), id, message, Why, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field == "Body" ? "Why" : done.Field);
            return Page();
        }
        Tell("The team has it, and answers here.");
        return Redirect("/me/messages");
    }
}
