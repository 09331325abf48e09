using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What banks took back, with the days until which it can be answered.</summary>
public sealed class DisputeListModel(Disputes disputes) : DeskPage
{
    public override string Place => "disputes";
    public IReadOnlyList<(Dispute Dispute, string Name)> Rows { get; private set; } = [];

    public static string Stands(Dispute d, BrightPage page) => d.State switch
    {
        DisputeState.Open => d.CanBeAnswered(page.Moment) ? $"answer until {page.FullDay(d.AnswerBy)}" : "not answered in time",
        DisputeState.Answered => $"answered on {page.FullDay(d.AnsweredAt!.Value)}; the bank decides",
        DisputeState.Won => $"decided for you on {page.FullDay(d.DecidedAt!.Value)}: the money came back",
        DisputeState.Lost => $"decided for the cardholder on {page.FullDay(d.DecidedAt!.Value)}",
        _ => throw new InvalidOperationException($"No such state: {d.State}"),
    };

    public async Task OnGet() => Rows = await disputes.All(Ct);
}
