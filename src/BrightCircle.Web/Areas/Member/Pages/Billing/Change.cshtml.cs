using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Another price or plan instead of what is held: the ways there are, and each worked out before it is taken.</summary>
public sealed class ChangeModel(ChangePlan change) : MemberPage
{
    public override string Place => "account";
    public Holding Holding { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Holding.PlanId];
    public IReadOnlyList<Price> Ways { get; private set; } = [];
    public ChangeLook? Look { get; private set; }
    /// <summary>The payments after the first one.</summary>
    public IReadOnlyList<Charge> Next { get; private set; } = [];

    /// <summary>The plan, or of the same one the price.</summary>
    public string NameOf(ChangeLook look) => look.To.Id == look.From.Id ? $"“{look.Price.Name}”" : look.To.Name;

    bool Find(long id)
    {
        if (Visitor.Person!.Holdings.FirstOrDefault(h => h.Id == new HoldingId(id)) is not { } found) return false;
        Holding = found;
        Ways = [.. change.WaysFrom(found, Visitor.Buyer, Moment)];
        return true;
    }

    async Task<bool> Work(string? to, ChangeWhen? when)
    {
        if (to is null || Now.Prices.FirstOrDefault(p => p.Code == to) is not { } price) return to is null;
        var look = await change.Look(Member, Visitor.Buyer, Holding.Id, price.Id, when, Ct);
        if (!look.Ok)
        {
            Refuse(look.Refusal!);
            return false;
        }
        Look = look.Value;
        // One says it; where credit makes the next ones differ, a few.
        Payments(Look!.Change);
        return true;
    }

    void Payments(PlanChange change)
    {
        var all = PaymentSchedule.For(change.Agreement, change.Credit).Payments.Skip(1).ToArray();
        Next = [.. all.Take(Math.Min(4, 1 + all.TakeWhile(p => !p.CreditUsed.IsZero).Count()))];
    }

    public async Task<IActionResult> OnGet(long id, string? to, ChangeWhen? when)
    {
        if (!Visitor.IsMember || !Find(id)) return Redirect("/me/account");
        ModelState.Clear();
        if (!Visitor.IsLooking) await Work(to, when);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, string? to, ChangeWhen when, long shown)
    {
        if (!Find(id) || Now.Prices.FirstOrDefault(p => p.Code == to) is not { } price) return Redirect("/me/account");
        var done = await change.Do(Member, Holding.Id, price.Id, when, shown, Ct);
        if (done.Ok)
        {
            Tell(when == ChangeWhen.AtOnce ? $"It’s done: you’re on {Now.PlanName(price.PlanId)}." : "It’s noted. Until then everything stays as it is.");
            return Redirect("/me/account");
        }
        ModelState.Clear();
        await Work(to, when);
        Refuse(done.Refusal!);
        return Page();
    }
}
