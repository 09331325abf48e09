using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class MemberFileModel(MemberPageQuery query) : DeskPage
{
    public override string Place => "members";
    public new MemberFile File { get; private set; } = null!;
    public LifeLine Life { get; private set; } = null!;
    public Piece? Asked { get; private set; }
    /// <summary>One lesson of it, where it is asked for.</summary>
    public Lesson? AskedLesson { get; private set; }
    public LocalDate On { get; private set; }
    public Why? Why { get; private set; }
    public IReadOnlyList<Piece> Pieces => [.. Now.Pieces.OrderByDescending(p => Now.EditionOf(p)?.FirstDay).ThenBy(p => p.Id.Value).Take(300)];
    public Money PaidTotal => File.Payments.Where(p => p.IsPaid).Aggregate(Core.Money.Zero(Now.Currency), (sum, p) => sum + p.Amount - p.Refunded);
    /// <summary>Their tallies, by the week where they are.</summary>
    public IReadOnlyList<TallyStanding> Tallies =>
        [.. Now.Tallies.Where(t => File.Tallies.Of(t.Id).Count > 0)
        .Select(t => TallyStanding.Of(t, File.Tallies.Of(t.Id), IsoWeek.Of(Now.Calendar.Of(File.Member.ZoneId).Date(Moment))))];
    /// <summary>What their clock says, and where that is.</summary>
    public string TheirTime => $"{Now.Calendar.Of(File.Member.ZoneId).Local(Moment).ToString("HH:mm", Now.Culture)}, {File.Member.ZoneId}";
    public IReadOnlyList<(Instant, bool)> Dots => [.. File.Payments.Select(p => (p.At, p.IsPaid))];
    public IReadOnlyList<Svg.LifeRow> Rows => [.. File.Holdings.GroupBy(h => (h.PlanId, h.Source))
        .Select(g => new Svg.LifeRow(Now.PlanName(g.Key.PlanId) + (g.Key.Source.Word() is { Length: > 0 } way ? $", {way}" : ""),
            g.Key.Source != HoldingSource.Bought,
        [.. g.Select(h => (h.StartsAt, h.Ending?.At ?? h.LeavingAt(Moment)))]))];

    /// <summary>How far they are in a piece.</summary>
    /// <param name="Out">So many of its lessons are out.</param>
    public sealed record Progress(Piece Piece, int Opened, int Done, int Out, Instant Last);

    /// <summary>The pieces of which they opened something, the latest first.</summary>
    public IReadOnlyList<Progress> HowFar => [.. File.Openings.Values.Where(o => Now.LessonById.ContainsKey(o.Lesson))
        .GroupBy(o => Now.PieceOf(Now.LessonById[o.Lesson]))
        .Select(g => new Progress(g.Key, g.Count(), g.Count(o => o.DoneAt is not null), g.Key.Outline.Lessons.Count(l => l.ReleasedAt is not null),
            g.Max(o => o.LastAt)))
        .OrderByDescending(p => p.Last).ThenBy(p => p.Piece.Id.Value)];

    public async Task<IActionResult> OnGet(long id, long? piece, long? lesson, string? on)
    {
        if (await query.Load(new(id), Ct) is not { } file) return NotFound();
        File = file;
        Life = LifeLine.Of(file.Holdings, Now.Book.Plan, file.Member.JoinedAt, Instant.Max(Moment, file.Member.JoinedAt + Duration.FromMinutes(1)));
        var today = Now.Calendar.Date(Moment);
        On = NodaTime.Text.LocalDatePattern.Iso.Parse(on ?? "") is { Success: true } d && d.Value.Year is > 2000 and < 2100 ? d.Value : today;
        Asked = piece is { } p && Now.PieceById.TryGetValue(new(p), out var known) ? known
            : (Now.CurrentEdition is { } e ? Now.PartsOf[e.Id].FirstOrDefault() : null) ?? Pieces.FirstOrDefault();
        if (Asked is not null)
        {
            AskedLesson = lesson is { } l && Asked.IsCourse ? Asked.Outline.Lessons.FirstOrDefault(x => x.Id.Value == l) : null;
            var moment = On == today ? Moment : Now.Calendar.At(On.At(new LocalTime(12, 0)));
            Why = Why.Explain(Now.Book, file.FactsAt(Instant.Min(moment, Moment)), Asked, AskedLesson, moment, Now.Calendar,
                Now.NameOf);
        }
        return Page();
    }

    public string Until(Holding h)
    {
        var owes = Obligations.Of(h, Moment);
        return owes.State switch
        {
            HoldingState.Over =>
                $"{Day(owes.AccessEnds!.Value)} ({(h.Ending?.Reason is { } reason ? reason.Words() : h.LeavingAt(Moment) is null ? "its time ran "
                + $"out" : "left")})",
            HoldingState.Ending => Day(owes.AccessEnds!.Value) + ", leaving",
            HoldingState.Grace => Day(owes.GraceUntil!.Value) + ", in grace",
            HoldingState.Paused => $"paused until {Day(owes.PausedUntil!.Value)}",
            HoldingState.Closed => $"closed until {Money(owes.Next!.Amount)} is paid",
            HoldingState.Active when h.Timeline.Leaving is { To: { } changes } => $"{Day(changes)}, then something else",
            HoldingState.Active or HoldingState.Trial or HoldingState.NotYet => owes.Next is { Purpose: PaymentPurpose.Instalment } part
                ? $"{Day(part.DueAt)}: {part.For(h.Agreement.Terms)}" : owes.Next is { } next ? "renews " + Day(next.DueAt)
                : owes.AccessEnds is { } ends ? Day(ends) : "for good",
        };
    }

    public string Through(Holding h) => h.IsGiven ? h.Source.Word() + (h.Seats is { } seats ? $", {Count(seats, "seat")} for others" : "")
        + (h.Note is { } note ? $": {note}" : "")
        : Say.Price(h.Agreement.Terms, Now.Culture) + (h.Agreement.Coupon is { } coupon ? $", coupon {coupon.Code}" : "")
            + (Obligations.Of(h, Moment).Balance is { } balance ? $", {Money(balance)} of credit" : "");

    /// <summary>What a standstill left uncharged.</summary>
    public IEnumerable<(Holding Holding, Money Amount)> Open =>
        File.Holdings.Select(h => (h, Obligations.Of(h, Moment).Open)).Where(x => x.Open is not null).Select(x => (x.h, x.Open!.Value));

    /// <summary>What can be paused, or is.</summary>
    public bool CanPause(Holding h) => Pausing.Refuses(h, Now.Calendar.Date(Moment).PlusDays(1), null, byTeam: true, Moment) is null;

    IActionResult Said(long id, Result done, string well)
    {
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect($"/desk/members/{id}");
    }

    public async Task<IActionResult> OnPostTag(long id, string? tags, [FromServices] MemberTags use) =>
        Said(id, await use.PutOn(Actor, new(id), tags, Ct), "It is put on.");

    public async Task<IActionResult> OnPostUntag(long id, long tag, [FromServices] MemberTags use) =>
        Said(id, await use.TakeOff(Actor, new(id), new(tag), Ct), "It is taken off.");

    public async Task<IActionResult> OnPostNote(long id, string? note, [FromServices] TeamNotes notes) =>
        Said(id, await notes.Add(Actor, new(id), note, Ct), "Noted.");

    public async Task<IActionResult> OnPostUnnote(long id, long note, [FromServices] TeamNotes notes) =>
        Said(id, await notes.Remove(Actor, new(id), note, Ct), "The note is taken away.");

    public async Task<IActionResult> OnPostTask(long id, string? task, [FromServices] TeamTasks tasks) =>
        Said(id, await tasks.Add(Actor, new(id), task, Ct), "It stands on Today.");

    public async Task<IActionResult> OnPostTaskDone(long id, long task, [FromServices] TeamTasks tasks) => Said(id, await tasks.Done(Actor, task, Ct), "Done.");

    /// <summary>Whether whoever is signed in may take a note away.</summary>
    public bool MayTakeAway(BrightCircle.Data.TeamNote note) => Actor.Role == BrightCircle.Data.TeamRole.Owner || note.By == Actor.Name;

    public async Task<IActionResult> OnPostResume(long id, long holding, [FromServices] PausePlan pause)
    {
        var done = await pause.Resume(new(id), new(holding), Actor, Ct);
        Tell(done.Ok ? "It goes on." : done.Refusal!);
        return Redirect($"/desk/members/{id}");
    }

    public async Task<IActionResult> OnPostWaive(long id, long holding, [FromServices] WaiveOpen waive)
    {
        var done = await waive.Do(Actor, new(id), new(holding), Ct);
        Tell(done.Ok ? "It is waived." : done.Refusal!);
        return Redirect($"/desk/members/{id}");
    }
}
