using BrightCircle.App.Insight;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class TodayModel(TodayQuery query) : RingPage
{
    public override string Place => "today";
    public TodayView View { get; private set; } = null!;
    public Edition? Ready => Now.NextEdition;
    public IReadOnlyList<Piece> Parts => Ready is { } e ? [.. Now.PartsOf[e.Id]] : [];
    public string Greeting => Now.Calendar.Local(Moment)
        .Hour switch
    { < 5 => "Good night", < 12 => "Good morning", < 18 => "Good afternoon", _ => "Good evening" };
    public string Line => View.Steps.Count > 0 ? $"{Count(View.Steps.Count, "step")} to go until people can join."
        : View.Needs.Count switch
        {
            0 => "Nothing needs you; all of it runs by itself.",
            1 => "One thing needs you; the rest runs by itself.",
            var n => $"{(n < 5 ? new[] { "Two", "Three", "Four" }[n - 2] : n.ToString(Now.Culture))} things need you; the rest runs by itself."
        };
    public string MonthStart => Now.Calendar.Month(Moment).OnDayOfMonth(1).ToString("uuuu-MM-dd", null);

    public async Task OnGet() => View = await query.Load(Actor, Moment, Ct);

    /// <summary>A payment that stood here was looked at.</summary>
    public async Task<Microsoft.AspNetCore.Mvc.IActionResult> OnPostSeen(long look, [Microsoft.AspNetCore.Mvc.FromServices] App.Billing.LookAtPayment payments)
    {
        var done = await payments.Settle(Actor, look, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect("/desk");
    }
}

/// <summary>A Desk page with the year ring.</summary>
public abstract class RingPage : DeskPage
{
    public YearRing? Ring => Now.Shelves.Count == 0 ? null : Now.RingFrom(RingStart);
    protected virtual NodaTime.YearMonth RingStart => YearRing.WindowAround(Now.Calendar.Month(Moment));

    public Svg.RingFill Fill(RingCell c) => c.State switch
    {
        RingState.Released => Svg.RingFill.Full,
        RingState.Scheduled => Svg.RingFill.Pale,
        RingState.Draft => Svg.RingFill.Draft,
        _ => Svg.RingFill.Empty,
    };

    public string Link(RingCell c) => c.Parts.Count == 1 ? $"/desk/pieces/{c.Parts[0].Id.Value}"
        : Now.Editions.FirstOrDefault(e => e.Month == c.Month) is { } edition ? $"/desk/editions/{edition.Id.Value}"
            : $"/desk/editions/new?month={c.Month.ToString("uuuu-MM", null)}";

    public static string Word(RingState state) => state switch
    {
        RingState.Released => "released",
        RingState.Scheduled => "scheduled",
        RingState.Draft => "draft",
        _ => "nothing yet"
    };
    public string Says(RingCell c) =>
        $"{c.Month.ToString("MMMM uuuu", Now.Culture)}, {c.Shelf.Name}: {Word(c.State)}{(c.Parts.Count > 0 ? ", " + string.Join(", "
        + $"", c.Parts.Select(p => p.Title)) : "")}";
}
