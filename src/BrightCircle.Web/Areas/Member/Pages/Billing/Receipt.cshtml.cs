using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class ReceiptModel(BrightContext db) : MemberPage
{
    public override string Place => "account";
    public ReceiptView Receipt { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id)
    {
        // One's own receipts; the team may look at any.
        var receipt = await ReceiptView.Load(db, this, new(id), Ct);
        if (receipt is null || !receipt.Payment.IsPaid || !(Visitor.IsTeam || receipt.Payment.MemberId == Visitor.Member)) return NotFound();
        Receipt = receipt;
        return Page();
    }
}
