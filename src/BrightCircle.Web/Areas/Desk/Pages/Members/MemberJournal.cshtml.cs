using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class MemberJournalModel(MemberJournal journal) : DeskPage
{
    public override string Place => "members";
    public JournalPage Journal { get; private set; } = null!;
    public bool Small { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public string Query(int page) => $"?small={(Small ? "true" : "false")}&page={page}";

    public async Task<IActionResult> OnGet(long id, bool small, int page = 1)
    {
        (Small, PageNumber) = (small, Math.Clamp(page, 1, 1_000_000));
        if (await journal.Page(new(id), small, PageNumber, Ct) is not { } found) return NotFound();
        Journal = found;
        return Page();
    }
}
