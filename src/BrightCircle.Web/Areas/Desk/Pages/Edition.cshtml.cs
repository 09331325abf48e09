using BrightCircle.App.Releases;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskEditionModel(SaveEdition save) : DeskPage
{
    static readonly LocalDateTimePattern Typed = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm");

    public override string Place => "editions";
    public Edition? Edition { get; private set; }
    public string Month { get; private set; } = "";
    public string Title { get; private set; } = "";
    public string Opening { get; private set; } = "";
    public string ReleaseAt { get; private set; } = "";
    public bool Announce { get; private set; } = true;
    public IReadOnlyList<Piece> Parts => Edition is null ? [] : [.. Now.PartsOf[Edition.Id]];

    public IEnumerable<(bool Ok, string Text)> Readiness
    {
        get
        {
            yield return (Parts.Count > 0, Parts.Count > 0 ? $"{Count(Parts.Count, "part")} in it" : "nothing is in it yet");
            foreach (var draft in Parts.Where(p => !p.Ready)) yield return (false, $"“{draft.Title}” is a draft and would stay closed");
            if (Parts.Count > 0 && Parts.All(p => p.Ready)) yield return (true, "every part is ready");
            yield return (Parts.All(p => p.Minutes is not null), Parts.All(p => p.Minutes is not null) ? "minutes on all parts" : $"{Count(Parts.Count(p => p.Minutes is null), "part")} without minutes");
            yield return (Opening.Length > 0, Opening.Length > 0 ? "opening words are written" : "the opening words aren’t written");
        }
    }

    public IActionResult OnGet(string id, string? month)
    {
        if (!Find(id)) return NotFound();
        if (Edition is { } e) (Month, Title, Opening, ReleaseAt, Announce) = (e.MonthDate.ToString("uuuu-MM", null), e.Title, e.Opening, Typed.Format(Now.Calendar.Local(e.ReleaseAt)), e.Announce);
        else Month = month ?? FirstFree().ToString("uuuu-MM", null);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, string? month, string? title, string? opening, string? releaseAt, bool announce)
    {
        if (!Find(id)) return NotFound();
        (Month, Title, Opening, ReleaseAt, Announce) = (month ?? "", title ?? "", opening ?? "", releaseAt ?? "", announce);
        var parsed = YearMonthPattern.Iso.Parse(Month);
        var at = string.IsNullOrWhiteSpace(releaseAt) ? null : Typed.Parse(releaseAt.Length > 16 ? releaseAt[..16] : releaseAt);
        if (!parsed.Success) Refuse("Choose a month.", "Month");
        if (at is { Success: false }) Refuse("That isn’t a date and time.", "ReleaseAt");
        if (!ModelState.IsValid) return Page();
        var saved = await save.Do(Actor, Edition?.Id, new(Edition?.Month ?? parsed.Value, title, opening, at?.Value, announce), Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect($"/desk/editions/{saved.Value.Value}");
    }

    public async Task<IActionResult> OnPostSchedule(string id, bool scheduled)
    {
        if (!Find(id) || Edition is null) return NotFound();
        var done = await save.Schedule(Actor, Edition.Id, scheduled, Ct);
        Tell(done.Ok ? scheduled ? $"It opens {DayTime(Edition.ReleaseAt)}, by itself." : "It is a draft again." : done.Refusal!);
        return Redirect($"/desk/editions/{id}");
    }

    YearMonth FirstFree()
    {
        var m = Now.Calendar.Month(Moment).PlusMonths(1);
        while (Now.Editions.Any(e => e.Month == m)) m = m.PlusMonths(1);
        return m;
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Edition = long.TryParse(id, out var n) ? Now.Editions.FirstOrDefault(e => e.Id == new Core.EditionId(n)) : null;
        return Edition is not null;
    }
}
