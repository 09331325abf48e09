using System.Globalization;
using BrightCircle.App;
using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One live session: who comes, what they ask, how it is changed or cancelled, and what stays of it.</summary>
public sealed class DeskSessionModel(ReadSessions read, PlanSessions plan) : DeskPage
{
    public override string Place => "sessions";
    public LiveSession Session { get; private set; } = null!;
    public LiveSeries Series { get; private set; } = null!;
    public SessionDraft Draft { get; private set; } = null!;
    public IReadOnlyList<SessionGuest> People { get; private set; } = [];
    public new int Count { get; private set; }
    public IReadOnlyList<AskedAtSession> Questions { get; private set; } = [];
    public string? Recording { get; private set; }
    public string? Notes { get; private set; }
    public bool WithQuestions { get; private set; } = true;

    public bool MayMark => Session.CancelledAt is null && Moment >= Session.StartsAt - LiveSession.DoorBefore && May(true,
        $"/desk/sessions/{Session.Id.Value}");
    public bool MayKeep => Session.CancelledAt is null && Moment >= Session.StartsAt && (Session.LessonId is not { } l || !Now.LessonById.ContainsKey(l))
        && May(true, $"/desk/sessions/{Session.Id.Value}?handler=keep") && Now.Pieces.Count > 0;
    /// <summary>Where the last one of the series went.</summary>
    public PieceId? KeptIn => Now.Community.Sessions.Reverse().Where(s => s.SeriesId == Series.Id && s.LessonId is not null)
        .Select(s => Now.LessonById.GetValueOrDefault(s.LessonId!.Value)?.PieceId).FirstOrDefault(p => p is not null);
    public string Time(Instant at) => Now.Calendar.Local(at).ToString("HH:mm", Now.Culture);

    bool Find(long id)
    {
        if (!Now.Community.SessionById.TryGetValue(new(id), out var session)) return false;
        (Session, Series) = (session, Now.Community.SeriesById[session.SeriesId]);
        Draft = new(session.Title, LocalInput.Write(Now.Calendar.Local(session.StartsAt)), session.Minutes.ToString(CultureInfo.InvariantCulture),
            session.Place,
            session.Seats?.ToString(CultureInfo.InvariantCulture));
        return true;
    }

    async Task<IActionResult> Show()
    {
        (People, Count, Questions) = await read.ForTeam(Session.Id, Ct);
        return Page();
    }

    public async Task<IActionResult> OnGet(long id) => Find(id) ? await Show() : NotFound();

    public async Task<IActionResult> OnPost(long id, SessionDraft draft)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = await plan.Change(Actor, Session.Id, draft, Ct);
        if (!done.Ok)
        {
            Draft = draft;
            Refuse(done.Refusal!, done.Field);
            return await Show();
        }
        return Back(id, "It is saved.");
    }

    IActionResult Back(long id, string said)
    {
        Tell(said);
        return Redirect($"/desk/sessions/{id}");
    }

    public async Task<IActionResult> OnPostCancel(long id, string? why)
    {
        if (!Find(id)) return NotFound();
        var done = await plan.Cancel(Actor, Session.Id, why, Ct);
        return Back(id, done.Ok ? "It is cancelled, and whoever comes is told." : done.Refusal!);
    }

    public async Task<IActionResult> OnPostRemove(long id)
    {
        if (!Find(id)) return NotFound();
        var done = await plan.Remove(Actor, Session.Id, Ct);
        if (!done.Ok) return Back(id, done.Refusal!);
        Tell("It is taken away.");
        return Redirect($"/desk/sessions/series/{Series.Id.Value}");
    }

    public async Task<IActionResult> OnPostMark(long id, long member, bool came, [FromServices] Attend attend)
    {
        if (!Find(id)) return NotFound();
        var done = await attend.Mark(Actor, Session.Id, new(member), came, Ct);
        return done.Ok ? Redirect($"/desk/sessions/{id}") : Back(id, done.Refusal!);
    }

    public async Task<IActionResult> OnPostKeep(long id, long piece, string? recording, string? notes, bool withQuestions, [FromServices] KeepSession keep)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = await keep.Do(Actor, Session.Id, new(piece), recording, notes, withQuestions, Ct);
        if (!done.Ok)
        {
            (Recording, Notes, WithQuestions) = (recording, notes, withQuestions);
            Refuse(done.Refusal!, done.Field);
            return await Show();
        }
        Tell("The lesson is there, as a draft. Files go in here.");
        return Redirect($"/desk/lessons/{done.Value.Value}");
    }
}
