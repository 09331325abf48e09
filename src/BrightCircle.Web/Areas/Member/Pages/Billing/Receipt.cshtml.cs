using BrightCircle.App.Billing;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class ReceiptModel(FindReceipt find) : MemberPage
{
    public override string Place => "account";
    public ReceiptView Receipt { get; private set; } = null!;

    /// <summary>Only for whoever ordered: the team finds it at the Desk.</summary>
    public long? Order => Receipt.Payment.MemberId == Visitor.Member ? Receipt.Payment.OrderId : null;

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnGetPdf(long id) =>
        await Find(id) ? File(ReceiptPdf.Of(Receipt.Words), "application/pdf", $"receipt-{Receipt.Payment.Receipt}.pdf") : NotFound();

    async Task<bool> Find(long id)
    {
        // One's own receipts; the team may look at any.
        if (await find.Do(new(id), Ct) is not { } receipt || !(Visitor.IsTeam || receipt.Payment.MemberId == Visitor.Member)) return false;
        Receipt = new(receipt, this);
        return true;
    }
}
