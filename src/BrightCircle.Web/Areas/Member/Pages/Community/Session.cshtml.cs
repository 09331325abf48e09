using BrightCircle.App.Community;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>One live session: when it is, whether one comes, what one asks, and the way in when it is time.</summary>
public sealed class SessionModel(ReadSessions read, Attend attend) : MemberPage
{
    public override string Place => "sessions";
    public SessionReader Reader { get; private set; } = null!;
    public SessionFigures Figures { get; private set; } = SessionFigures.None;
    public IReadOnlyList<SessionQuestion> Questions { get; private set; } = [];
    [BindProperty] public string? Text { get; set; }

    /// <summary>The lesson that stays of it, where it is open to them.</summary>
    public Lesson? Kept => Reader.Session.LessonId is { } id && Now.LessonById.TryGetValue(id, out var lesson) && Decide(lesson).IsOpen ? lesson : null;
    /// <summary>The site’s zone, where the reader’s is another.</summary>
    public string? OtherZone => Now.Calendar.Of(Visitor.Person?.ZoneId) != Now.Calendar ? Now.Calendar.Zone.Id.Split('/')[^1].Replace('_', ' ') : null;
    public string FullLocal(Instant at) => Now.Calendar.Of(Visitor.Person?.ZoneId).Local(at).ToString("dddd, d MMMM uuuu, HH:mm", Now.Culture);

    bool Find(long id)
    {
        if (Visitor.Attends(Now, new(id), Moment) is not { } reader) return false;
        Reader = reader;
        return true;
    }

    async Task<IActionResult> Show()
    {
        (Figures, Questions) = await read.One(Reader, Ct);
        return Page();
    }

    public async Task<IActionResult> OnGet(long id) => Find(id) ? await Show() : NotFound();

    IActionResult Back(long id, string said)
    {
        Tell(said);
        return Redirect($"/sessions/{id}");
    }

    public async Task<IActionResult> OnPost(long id)
    {
        if (!Find(id)) return NotFound();
        var done = await attend.Come(Reader, Ct);
        return Back(id, !done.Ok ? done.Refusal! : done.Value ? "Good. We remind you." : "All seats are taken. You are on the waiting list.");
    }

    public async Task<IActionResult> OnPostAway(long id)
    {
        if (!Find(id)) return NotFound();
        var done = await attend.StayAway(Reader, Ct);
        return Back(id, done.Ok ? "It is noted: you don’t come." : done.Refusal!);
    }

    public async Task<IActionResult> OnPostArrive(long id)
    {
        if (!Find(id)) return NotFound();
        var done = await attend.Arrive(Reader, Ct);
        return done.Ok ? Redirect(done.Value!.AbsoluteUri) : Back(id, done.Refusal!);
    }

    public async Task<IActionResult> OnPostAsk(long id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = await attend.Ask(Reader, Text, Ct);
        if (done.Ok) return Back(id, "Your question is in.");
        Refuse(done.Refusal!, done.Field);
        return await Show();
    }

    public async Task<IActionResult> OnPostBack(long id, long question)
    {
        if (!Find(id)) return NotFound();
        var done = await attend.TakeBack(Reader, question, Ct);
        return Back(id, done.Ok ? "It is taken back." : done.Refusal!);
    }
}
