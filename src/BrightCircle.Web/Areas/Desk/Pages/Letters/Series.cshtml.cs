using BrightCircle.App.Letters;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The letters that come again: their names, days and audiences.</summary>
public sealed class SeriesModel(SeriesOfLetters series) : DeskPage
{
    static readonly LocalTimePattern Time = LocalTimePattern.CreateWithInvariantCulture("HH:mm");
    public override string Place => "mailings";
    /// <summary>Which of them couldn't be saved: 0 for the new one, -1 for none.</summary>
    public long Wrong { get; private set; } = -1;
    public string? Name { get; private set; }
    public int Weekday { get; private set; }
    public string? At { get; private set; }
    public long? Audience { get; private set; }

    public static string DayName(int day) => ((IsoDayOfWeek)day).ToString();

    public void OnGet() { }

    public async Task<IActionResult> OnPost(long? id, string? name, int day, string? at, long? audience)
    {
        ModelState.Clear();
        (Name, Weekday, At, Audience) = (name, day, at, audience);
        var time = Time.Parse(at is { Length: > 5 } ? at[..5] : at ?? "");
        var saved = time.Success ? await series.Save(Actor, id, name, day, time.Value, audience is { } a ? new AudienceId(a) : null, Ct)
            : Result.Refused("The time is written like 07:30.", "At");
        if (saved.Ok)
        {
            Tell($"{name!.Trim()} is saved.");
            return Redirect("/desk/mailings/series");
        }
        Wrong = id ?? 0;
        Refuse(saved.Refusal!, saved.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostRemove(long id)
    {
        var done = await series.Remove(Actor, id, Ct);
        Tell(done.Ok ? "It is taken away." : done.Refusal!);
        return Redirect("/desk/mailings/series");
    }
}
