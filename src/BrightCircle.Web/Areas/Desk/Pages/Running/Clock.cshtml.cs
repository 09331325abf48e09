using BrightCircle.App.Running;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class ClockModel(MoveClock mover) : DeskPage
{
    static readonly (string Key, string Words)[] Kinds =
    [
        ("editions released", "Editions opened"), ("parts released", "Parts opened with them"), ("charged", "Payments received"),
            ("failed", "Payments refused"), ("unanswered", "Payments without an answer, asked again"),
        ("lapsed", "Memberships lapsed"), ("ended", "Memberships ended"), ("refunded", "Refunds"), ("charged back", "Chargebacks"),
            ("letters", "Letters sent"), ("refused letters", "Letters refused"),
    ];

    public ClockMove? Move { get; private set; }
    public int Percent => Move is null ? 0 : Move.State == ClockMoveState.Done ? 100
        : (int)Math.Clamp((Move.Reached - Move.FromMoment) / (Move.ToMoment - Move.FromMoment) * 100, 0, 100);
    public IReadOnlyList<(string, long)> Happened => Move is null ? []
        : [.. Kinds.Where(k => Move.Counts.GetValueOrDefault(k.Key) > 0).Select(k => (k.Words, Move.Counts[k.Key]))];

    public async Task<IActionResult> OnGet(long? id)
    {
        if (id is null) return Page();
        Move = await mover.Find(id.Value, Ct);
        return Move is null ? NotFound() : Page();
    }

    public async Task<IActionResult> OnPost(string? by)
    {
        Actor.NeedOwner();
        var calendar = Now.Calendar;
        var until = by switch
        {
            "week" => calendar.PlusDays(Moment, 7),
            "first" => calendar.FirstOf(calendar.Month(Moment).PlusMonths(1), new LocalTime(9, 5)),
            _ => calendar.PlusDays(Moment, 1),
        };
        var started = await mover.Start(until, Ct);
        if (started.Ok) return Redirect($"/desk/clock/{started.Value}");
        Tell(started.Refusal!);
        return Redirect("/desk");
    }
}
