using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Hours with a host alone: one’s own, and what is free, a week with something in it at a time.</summary>
public sealed class HoursModel(BookHours hours) : MemberPage
{
    IReadOnlyList<IGrouping<LocalDate, Instant>> weeks = [];

    public override string Place => "sessions";
    public HourReader Reader { get; private set; } = null!;
    public IReadOnlyList<HourBooking> Own { get; private set; } = [];
    /// <summary>The one that is moved; null for a new one.</summary>
    public HourBooking? Moves { get; private set; }
    public int Week { get; private set; }
    public int Weeks => weeks.Count;
    public IEnumerable<Instant> Shown => weeks[Week];
    [BindProperty] public long? Start { get; set; }
    [BindProperty] public string? About { get; set; }
    /// <summary>As many as they may have aren't theirs yet, or one of theirs is moved.</summary>
    public bool MayChoose => Moves is not null || Own.Count < Reader.Times.MostEach;

    Core.Time.SiteCalendar Where => Now.Calendar.Of(Visitor.Person?.ZoneId);
    public LocalDate DayOf(Instant at) => Where.Date(at);
    public string TimeOf(Instant at) => Where.Local(at).ToString("HH:mm", Now.Culture);
    public string WeekLink(int week) => $"/sessions/hours/{Reader.Series.Id.Value}?week={week}{(Moves is null ? "" : $"&move={Moves.Id}")}#times";

    bool Find(long id)
    {
        if (Visitor.Books(Now, new(id), Moment) is not { } reader) return false;
        Reader = reader;
        return true;
    }

    async Task<IActionResult> Show(int week, long? move)
    {
        (var free, Own) = await hours.Look(Reader, Ct);
        Moves = Own.FirstOrDefault(h => h.Id == move && h.IsAhead(Moment));
        weeks = [.. free.GroupBy(at => Core.Time.IsoWeek.Of(DayOf(at)).Monday)];
        Week = Math.Clamp(week, 0, Math.Max(0, weeks.Count - 1));
        return Page();
    }

    public async Task<IActionResult> OnGet(long id, int week = 0, long? move = null) => Find(id) ? await Show(week, move) : NotFound();

    Instant? Chosen => Start is > 0 and < 253_402_300_799 ? Instant.FromUnixTimeSeconds(Start.Value) : null;

    async Task<IActionResult> Said(long id, App.Result done, string well, long? move = null)
    {
        if (done.Ok)
        {
            Tell(well);
            return Redirect($"/sessions/hours/{id}");
        }
        var week = 0;
        await Show(0, move);
        // Where they were stays shown.
        if (Chosen is { } at && weeks.Select((w, n) => (w.Key, n)).FirstOrDefault(w => w.Key == Core.Time.IsoWeek.Of(DayOf(at)).Monday) is var (_, n)) week = n;
        Week = Math.Clamp(week, 0, Math.Max(0, weeks.Count - 1));
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        if (Chosen is not { } at) return await Said(id, App.Result.Refused("Choose a time."), "");
        var done = await hours.Book(Reader, at, About, Ct);
        return await Said(id, done.Ok ? App.Result.Done : App.Result.Refused(done.Refusal!, done.Field),
            "It is yours. A letter with it for your calendar is on its way.");
    }

    public async Task<IActionResult> OnPostMove(long id, long move)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        return await Said(id, Chosen is { } at ? await hours.Move(Reader, move, at, Ct) : App.Result.Refused("Choose a time."), "It is moved.", move);
    }

    public async Task<IActionResult> OnPostBack(long id, long hour)
    {
        if (!Find(id)) return NotFound();
        var done = await hours.GiveBack(Reader, hour, Ct);
        Tell(done.Ok ? "You gave it back." : done.Refusal!);
        return Redirect($"/sessions/hours/{id}");
    }

    public async Task<IActionResult> OnPostIn(long id, long hour)
    {
        if (!Find(id)) return NotFound();
        var done = await hours.Arrive(Reader, hour, Ct);
        if (done.Ok) return Redirect(done.Value!.AbsoluteUri);
        Tell(done.Refusal!);
        return Redirect($"/sessions/hours/{id}");
    }
}
