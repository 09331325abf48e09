using BrightCircle.App.Releases;
using BrightCircle.Core.Content;
using BrightCircle.Core.Releases;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskEditionModel(SaveEdition save, ReleaseContent release) : DeskPage
{

    public override string Place => "editions";
    public Edition? Edition { get; private set; }
    public EditionSpan Span { get; private set; }
    public string DayIn { get; private set; } = "";
    public string Title { get; private set; } = "";
    public string Opening { get; private set; } = "";
    public string ReleaseAt { get; private set; } = "";
    public bool Announce { get; private set; } = true;
    public IReadOnlyList<Piece> Parts => Edition is null ? [] : [.. Now.PartsOf[Edition.Id]];
    public IReadOnlyList<Lesson> LessonParts => Edition is null ? [] : [.. Now.LessonPartsOf[Edition.Id]];
    public IReadOnlyList<ReadinessItem> Readiness => EditionReadiness.Of(Edition!, Parts, LessonParts, Now.Book);
    public IReadOnlyList<PlanGets> Gives => EditionReadiness.Gives(Parts, LessonParts, Now.Book, Moment);

    public IActionResult OnGet(string id, string? month)
    {
        if (!Find(id)) return NotFound();
        if (Edition is { } e) (Span, DayIn, Title, Opening, ReleaseAt, Announce) =
            (e.Span, e.FirstDay.ToString("uuuu-MM-dd", null), e.Title, e.Opening, LocalInput.Write(Now.Calendar.Local(e.ReleaseAt)), e.Announce);
        else DayIn = (YearMonthPattern.Iso.Parse(month ?? "") is { Success: true, Value: var m } ? m : FirstFree()).OnDayOfMonth(1)
            .ToString("uuuu-MM-dd", null);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, EditionSpan span, string? day, string? title, string? opening, string? releaseAt, bool announce)
    {
        if (!Find(id)) return NotFound();
        (Span, DayIn, Title, Opening, ReleaseAt, Announce) = (Edition?.Span ?? span, day ?? "", title ?? "", opening ?? "", releaseAt ?? "", announce);
        var parsed = LocalDatePattern.Iso.Parse(DayIn);
        var at = LocalInput.TryReadMoment(releaseAt, out var moment) ? moment : (LocalDateTime?)null;
        if (Edition is null && !parsed.Success) Refuse("Choose a day.", "Day");
        if (at is null && !string.IsNullOrWhiteSpace(releaseAt)) Refuse("That isn’t a day and a time.", "ReleaseAt");
        if (!ModelState.IsValid) return Page();
        var saved = await save.Do(Actor, Edition?.Id, new(Span, Edition?.FirstDay ?? parsed.Value, title, opening, at, announce), Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        // Another moment for one that is scheduled already.
        if (Edition is { State: EditionState.Scheduled } && at is { } moved && Now.Calendar.At(moved) != Edition.ReleaseAt)
        {
            var again = await save.Reschedule(Actor, Edition.Id, moved, Ct);
            if (!again.Ok)
            {
                Refuse(again.Refusal!, again.Field);
                return Page();
            }
        }
        Tell("Saved.");
        return Redirect($"/desk/editions/{saved.Value.Value}");
    }

    IActionResult Done(Result r, string told)
    {
        Tell(r.Ok ? told : r.Refusal!);
        return Redirect($"/desk/editions/{Edition!.Id.Value}");
    }

    public async Task<IActionResult> OnPostSchedule(string id, bool scheduled) =>
        !Find(id) || Edition is null ? NotFound() : Done(
            await save.Schedule(Actor, Edition.Id, scheduled, Ct), scheduled ? $"It opens {DayTime(Edition.ReleaseAt)}, by itself." : "It is a draft again.");

    public async Task<IActionResult> OnPostWithdraw(string id) => !Find(id)
        || Edition is null ? NotFound() : Done(await save.Withdraw(Actor, Edition.Id, Ct),
        "It is a draft again and closed for everybody. What members did in it is kept.");

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Edition is null) return NotFound();
        var gone = await save.Remove(Actor, Edition.Id, Ct);
        Tell(gone.Ok ? "The edition is gone; its parts are to come." : gone.Refusal!);
        return Redirect(gone.Ok ? "/desk/editions" : $"/desk/editions/{id}");
    }

    public async Task<IActionResult> OnPostAnnounce(string id, string? at, string? when)
    {
        if (!Find(id) || Edition is null) return NotFound();
        LocalDateTime? local = null;
        if (when != "now")
        {
            if (string.IsNullOrWhiteSpace(at)) return Done(Result.Refused("Say the day on which the letters go out."), "");
            if (!LocalInput.TryReadMoment(at, out var typed)) return Done(Result.Refused("That isn’t a day and a time."), "");
            local = typed;
        }
        return Done(await save.AnnounceLater(Actor, Edition.Id, local, Ct), local is null ? "The letters are on their way." : "The letters go out then.");
    }

    /// <summary>For whom it opens or closes something.</summary>
    public async Task<IActionResult> OnGetEffect(string id)
    {
        if (!Find(id) || Edition is null) return NotFound();
        var withdraw = Edition.ReleasedAt is not null;
        return Partial("_Effect", (await release.Effect([.. Parts.Where(p => p.State != PieceState.Draft).Select(p => p.Id)], withdraw, Ct), withdraw));
    }

    YearMonth FirstFree()
    {
        var m = Now.Calendar.Month(Moment).PlusMonths(1);
        while (Now.EditionsIn[m].Any(e => e.Span == EditionSpan.Month)) m = m.PlusMonths(1);
        return m;
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Edition = long.TryParse(id, out var n) ? Now.EditionById.GetValueOrDefault(new(n)) : null;
        return Edition is not null;
    }
}
