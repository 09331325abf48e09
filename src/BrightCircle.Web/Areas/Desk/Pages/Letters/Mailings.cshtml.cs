using BrightCircle.App.Letters;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Letters to many: those of each week, and all there are.</summary>
public sealed class MailingsModel(SeriesOfLetters series) : DeskPage
{
    public const int PageSize = 30;
    public override string Place => "mailings";
    public IReadOnlyList<SeriesWeek> Weeks { get; private set; } = [];
    public IReadOnlyList<Mailing> Letters { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public static string Query(int page) => $"?page={page}";

    public async Task OnGet(int page = 1)
    {
        PageNumber = Math.Max(1, page);
        (Weeks, Letters, Total) = await series.Board(PageNumber, PageSize, Ct);
    }

    /// <summary>A new letter, a copy, or the one of a week.</summary>
    public async Task<IActionResult> OnPostNew([FromServices] Mailings mailings, long? of, long? from, string? week)
    {
        var made = await mailings.New(Actor, of, from, LocalInput.DayOrNone(week), Ct);
        if (made.Ok) return Redirect($"/desk/mailings/{made.Value}");
        Tell(made.Refusal!);
        return Redirect("/desk/mailings");
    }

    /// <summary>A letter to one member.</summary>
    public async Task<IActionResult> OnPostTo([FromServices] Mailings mailings, long member, long? price)
    {
        var made = await mailings.NewTo(Actor, new(member), price is { } p ? new PriceId(p) : null, Ct);
        if (made.Ok) return Redirect($"/desk/mailings/{made.Value}");
        Tell(made.Refusal!);
        return Redirect("/desk/members");
    }
}

/// <summary>States of letters to many, in words.</summary>
public static class MailingWords
{
    public static string Word(MailingState state) => state switch
    {
        MailingState.Draft => "draft",
        MailingState.Planned => "planned",
        MailingState.Going => "on its way",
        MailingState.Paused => "held up",
        MailingState.Stopped => "stopped",
        MailingState.Done => "sent",
        _ => throw new InvalidOperationException($"No such state: {state}"),
    };

    public static string Colour(MailingState state) => state switch
    {
        MailingState.Done => "good",
        MailingState.Planned or MailingState.Going => "plum",
        MailingState.Paused or MailingState.Stopped => "bad",
        MailingState.Draft => "",
        _ => throw new InvalidOperationException($"No such state: {state}"),
    };
}
