using System.Globalization;
using BrightCircle.App.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What runs: recurring, in instalments, bought once, given; with what each pays next.</summary>
public sealed class SubscriptionsModel(SubscriptionList list) : DeskPage
{
    public override string Place => "subscriptions";
    public SubscriptionPage List { get; private set; } = null!;
    public PaidHow How { get; private set; }
    public PlanId? Plan { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public static string Word(PaidHow how) => how switch
    {
        PaidHow.Recurring => "again and again",
        PaidHow.Instalments => "in instalments",
        PaidHow.Once => "once",
        PaidHow.Given => "not at all: given",
        _ => throw new ArgumentOutOfRangeException(nameof(how)),
    };

    public string At(Holding h) => h.IsGiven ? h.Source.Word() : Say.Price(h.Agreement.Terms, Now.Culture)
        + (h.Agreement.Coupon is { } c ? $", coupon {c.Code}" : "");

    public string State(SubscriptionRow r) => r.Owes.State switch
    {
        HoldingState.NotYet => $"begins {Day(r.Holding.StartsAt)}",
        HoldingState.Trial => "trial",
        HoldingState.Active => r.Holding.Timeline.Leaving is null ? "active" : "changes soon",
        HoldingState.Grace => "grace",
        HoldingState.Ending => "ending",
        HoldingState.Over => "over",
        HoldingState.Paused => $"paused until {Day(r.Owes.PausedUntil!.Value)}",
        HoldingState.Closed => "closed until paid",
    };

    public async Task OnGet(string? how, string? plan, int page = 1)
    {
        How = Enum.TryParse<PaidHow>(how, out var h) && Enum.IsDefined(h) ? h : PaidHow.Recurring;
        Plan = long.TryParse(plan, NumberStyles.None, CultureInfo.InvariantCulture, out var id) && Now.PlanById.ContainsKey(new(id)) ? new(id) : null;
        PageNumber = Math.Max(1, page);
        List = await list.Page(How, Plan, PageNumber, Ct);
    }

    public string Query(int page) => $"?how={How}&plan={Plan?.Value.ToString(CultureInfo.InvariantCulture)}&page={page.ToString(CultureInfo.InvariantCulture)}";
}
