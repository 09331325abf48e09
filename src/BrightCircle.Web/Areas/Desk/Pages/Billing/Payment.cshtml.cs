using BrightCircle.App.Billing;
using BrightCircle.App.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class PaymentModel(PaymentList list, RefundPayment refund) : DeskPage
{
    public override string Place => "payments";
    public new PaymentFile File { get; private set; } = null!;
    public Money Debits => File.Ledger.Where(l => l.Amount.Minor > 0).Aggregate(Core.Money.Zero(File.Payment.Amount.Currency), (s, l) => s + l.Amount);
    public Money Credits => File.Ledger.Where(l => l.Amount.Minor < 0).Aggregate(Core.Money.Zero(File.Payment.Amount.Currency), (s, l) => s - l.Amount);

    public Core.Billing.Dispute? Dispute => File.Dispute;
    /// <summary>What was written to the bank and couldn't be sent.</summary>
    public string? Typed { get; private set; }

    public async Task<IActionResult> OnPostAnswer(long id, long dispute, string? answer, [FromServices] Disputes disputes)
    {
        if (await list.Load(new(id), Ct) is not { } file) return NotFound();
        (File, Typed) = (file, answer);
        var done = await disputes.Answer(Actor, dispute, answer, Ct);
        if (done.Ok)
        {
            Tell("It is sent. The bank decides, and you hear of it here.");
            return Redirect($"/desk/payments/{id}");
        }
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnGet(long id)
    {
        if (await list.Load(new(id), Ct) is not { } file) return NotFound();
        File = file;
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, string? amount, string? reason, bool endHolding, bool asCredit)
    {
        if (await list.Load(new(id), Ct) is not { } file) return NotFound();
        File = file;
        var read = Amounts.Read(amount, "Amount", Now);
        if (!read.Ok) Refuse(read.Refusal!, read.Field);
        else
        {
            var money = read.Value;
            var done = asCredit ? await refund.ToCredit(Actor, new(id), money, reason, Ct) : await refund.Do(Actor, new(id), money, endHolding, reason, Ct);
            if (done.Ok)
            {
                Tell(asCredit ? $"{Money(money)} is to their credit." : $"{Money(money)} goes back.");
                return Redirect($"/desk/payments/{id}");
            }
            Refuse(done.Refusal!, done.Field);
        }
        return Page();
    }
}
