using System.Globalization;
using BrightCircle.App.Files;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One letter to many: written beside how a reader gets it; later, what came of it.</summary>
public sealed class MailingModel(Mailings mailings, SendMailing send, ShowMailing show, MailingReaders readers,
    FilesToChoose choose, MemberReader people, BrightContext db) : DeskPage
{
    public override string Place => Mailing?.RoutineId is null ? "mailings" : "routines";
    public Mailing Mailing { get; private set; } = null!;
    /// <summary>Letters to many are the owner’s and editors’; support writes to one.</summary>
    public override bool May(bool sends, string address) => base.May(sends, address)
        && (!sends || Mailing is not { MemberId: null } || Actor.Role is not TeamRole.Support);
    [BindProperty] public string? Subject { get; set; }
    [BindProperty] public string? Preheader { get; set; }
    [BindProperty] public string? Body { get; set; }
    [BindProperty] public long? Audience { get; set; }
    [BindProperty] public long? Picture { get; set; }
    IReadOnlyList<StoredFile> pictures = [];
    public FileField PictureField => LetterPicker.Field(Picture, pictures);
    [BindProperty] public bool Plain { get; set; }
    [BindProperty] public string? PerHour { get; set; }
    [BindProperty] public string? OtherSubject { get; set; }
    [BindProperty] public string? TryPart { get; set; }
    [BindProperty] public string? TryHours { get; set; }
    [BindProperty] public int BasedOn { get; set; }
    /// <summary>As whom it is shown, by their address; empty for the first who get it.</summary>
    [BindProperty] public string? As { get; set; }
    public string When { get; private set; } = "now";
    public string? SendAt { get; private set; }

    public LetterSeries? Series => Mailing.SeriesId is { } s ? Now.People.SeriesById.GetValueOrDefault(s) : null;
    /// <summary>The routine it is a step of.</summary>
    public Core.Routines.Routine? Routine => Mailing.RoutineId is { } r ? Now.People.RoutineById.GetValueOrDefault(r) : null;
    /// <summary>Null while it isn’t asked for: the page stands without it, and it comes after.</summary>
    public MailingReach? Reach { get; private set; }
    public MailingFigures Figures { get; private set; } = MailingFigures.None;
    /// <summary>The one it is written to; null for a letter to many.</summary>
    public Core.Members.Member? To { get; private set; }
    public string ReaderName { get; private set; } = "";
    public RenderedLetter Rendered { get; private set; } = new("", "", "");
    public string? LookWrong { get; private set; }

    async Task<bool> Find(long id)
    {
        var trip = new OneTrip(db);
        // What is chosen in the form stands among them too.
        var pictures = choose.On(trip, db.Mailings.Where(m => m.Id == id).Select(m => m.PictureId).Concat(
            db.Files.Where(f => f.Id == LetterPicker.Of(Picture)).Select(f => (FileId?)f.Id)), FileKind.Picture, LetterPicker.Most);
        if (await mailings.Open(id, trip, Ct) is not { } found) return false;
        (Mailing, Figures, To) = found;
        this.pictures = pictures.Value;
        return true;
    }

    void Fill()
    {
        (Subject, Preheader, Body, Audience, Plain, BasedOn) =
            (Mailing.Subject, Mailing.Preheader, Mailing.Body, Mailing.AudienceId?.Value, Mailing.Plain, Mailing.Version);
        Picture = Mailing.PictureId?.Value;
        PerHour = Mailing.PerHour?.ToString(CultureInfo.InvariantCulture);
        (OtherSubject, TryPart, TryHours) = (Mailing.OtherSubject, (Mailing.TryPart ?? TwoSubjects.UsualPart).ToString(CultureInfo.InvariantCulture),
            (Mailing.TryHours ?? TwoSubjects.UsualHours).ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>What is typed, read; what can't be is said.</summary>
    Result<MailingDraft> Typed()
    {
        var numbers = new int?[3];
        foreach (var (typed, field, i) in new[] { (PerHour, "PerHour", 0), (TryPart, "TryPart", 1), (TryHours, "TryHours", 2) })
            if (!string.IsNullOrWhiteSpace(typed))
            {
                if (!int.TryParse(typed, NumberStyles.Integer, CultureInfo.InvariantCulture, out var n))
                    return Result.Refused($"“{typed}” isn’t a whole number.", field);
                numbers[i] = n;
            }
        return new MailingDraft(Subject, Preheader, Body, Audience is { } a ? new AudienceId(a) : null, Plain, numbers[0], BasedOn, Mailing.SeriesId,
            Mailing.Week, OtherSubject, numbers[1] ?? TwoSubjects.UsualPart, numbers[2] ?? TwoSubjects.UsualHours, LetterPicker.Of(Picture));
    }

    Result<Mailing> ReadTyped()
    {
        var typed = Typed();
        return typed.Ok ? mailings.Read(Mailing, typed.Value!) : Result.Refused(typed.Refusal!, typed.Field);
    }

    /// <summary>What stands beside the form: to how many it goes, and how somebody gets it.</summary>
    async Task Look(Mailing? shown)
    {
        if (shown is null) return;
        if (Routine is null) Reach = await readers.Look(shown, Ct);
        MemberId? whom = null;
        if (!string.IsNullOrWhiteSpace(As))
        {
            if (await people.Find(As, Ct) is not { IsTeam: false } member)
            {
                LookWrong = $"Nobody has the address “{As.Trim()}”.";
                return;
            }
            whom = member.MemberId;
        }
        (ReaderName, Rendered) = await show.As(shown, whom, Ct);
    }

    async Task<IActionResult> Show(Mailing? shown = null, bool look = true)
    {
        if (look) await Look(shown ?? (LookWrong is null ? Mailing : null));
        SendAt ??= Usual is { } usual ? LocalInput.Write(usual) : null;
        if (When == "now" && Usual is not null) When = "site";
        return Page();
    }

    /// <summary>When the letters of its series usually go, if that is still to come.</summary>
    LocalDateTime? Usual => Series is { } s && Mailing.Week is { } w && SeriesOfLetters.Usual(s, new(w)) is var usual && Now.Calendar.At(usual) > Moment
        ? usual : null;

    /// <param name="look">With who gets it and how; otherwise that comes after the page.</param>
    public async Task<IActionResult> OnGet(long id, bool look)
    {
        if (!await Find(id)) return NotFound();
        Fill();
        return await Show(look: look);
    }

    /// <summary>How it looks as it is typed.</summary>
    public async Task<IActionResult> OnPostLook(long id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var read = ReadTyped();
        LookWrong = read.Refusal;
        if (!Request.Headers.ContainsKey("HX-Request")) return await Show(read.Value);
        await Look(read.Value);
        return Partial("_MailingLook", this);
    }

    public async Task<IActionResult> OnPost(long id) => await Save(id, null);

    public async Task<IActionResult> OnPostTrial(long id) => await Save(id, async read => await show.Trial(Actor, read, Ct));

    async Task<IActionResult> Save(long id, Func<Mailing, Task<Result>>? then)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var typed = Typed();
        var saved = typed.Ok ? await mailings.Save(Actor, id, typed.Value!, Ct) : Result.Refused(typed.Refusal!, typed.Field);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            LookWrong = saved.Field is "Overtaken" ? null : saved.Refusal;
            return await Show();
        }
        var said = "It is saved.";
        if (then is not null)
        {
            var done = await then((await mailings.Find(id, Ct))!);
            said = done.Ok ? "It is saved, and one is on its way to you." : $"It is saved. {done.Refusal}";
        }
        Tell(said);
        return Redirect($"/desk/mailings/{id}?look=true");
    }

    public async Task<IActionResult> OnPostSend(long id, string? when, string? sendAt)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        LocalDateTime moment = default;
        var done = when is "site" or "reader" && !LocalInput.TryReadMoment(sendAt, out moment) ? Result.Refused("Say on which day, and when.", "SendAt")
            : await send.Do(Actor, id, when is "site" or "reader" ? moment : null, when == "reader", Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            (When, SendAt) = (when ?? "now", sendAt);
            Fill();
            return await Show();
        }
        Tell(when is "site" or "reader" ? "It is planned." : "It is on its way.");
        return Redirect($"/desk/mailings/{id}");
    }

    Task<IActionResult> Act(long id, Task<Result> act, string well) => Said(id, act, well, $"/desk/mailings/{id}");

    async Task<IActionResult> Said(long id, Task<Result> act, string well, string to)
    {
        var done = await act;
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect(done.Ok ? to : $"/desk/mailings/{id}");
    }

    public Task<IActionResult> OnPostWithdraw(long id) => Act(id, send.Withdraw(Actor, id, Ct), "It is a draft again.");
    public Task<IActionResult> OnPostPause(long id) => Act(id, send.Pause(Actor, id, Ct), "It is held up: what hasn’t gone waits.");
    public Task<IActionResult> OnPostGoOn(long id) => Act(id, send.GoOn(Actor, id, Ct), "It goes on.");
    public Task<IActionResult> OnPostStop(long id) => Act(id, send.Stop(Actor, id, Ct), "It is stopped: what hasn’t gone doesn’t go.");
    public Task<IActionResult> OnPostRemove(long id) => Said(id, mailings.Remove(Actor, id, Ct), "The draft is thrown away.", "/desk/mailings");

    // ---- In words. ----

    public string StateLine => Mailing.State switch
    {
        MailingState.Draft when Routine is not null => $"A step of a routine, changed {Ago(Mailing.ChangedAt)} by {Mailing.ChangedBy}",
        MailingState.Draft => $"changed {Ago(Mailing.ChangedAt)} by {Mailing.ChangedBy}",
        MailingState.Planned => PlannedLine,
        MailingState.Going when Mailing is { TriedAt: { } tried, Tried: null } =>
            $"two subjects are tried until {DayTime(tried + Duration.FromHours(Mailing.TryHours!.Value))}",
        MailingState.Going => $"since {DayTime(Mailing.BegunAt!.Value)}",
        MailingState.Paused => $"since {DayTime(Mailing.PausedAt!.Value)}",
        MailingState.Stopped => $"on {DayTime(Mailing.StoppedAt!.Value)}",
        MailingState.Done => $"on {DayTime(Mailing.BegunAt!.Value)}",
        _ => throw new InvalidOperationException($"No such state: {Mailing.State}"),
    };

    public string PlannedLine => Mailing.SendAt is { } at
        ? $"It goes on {at.ToString("dddd, d MMMM, HH:mm", Now.Culture)}{(Mailing.WhereTheyLive ? ", where each reader is" : "")}" : "";

    public string SendLine => Mailing is { AudienceId: null, MemberId: null } ? "Choose to whom it goes, and save."
        : To is not null ? "It goes to them alone."
        : Reach is { } r ? $"{Count(r.Get, "person gets", "people get")} it."
        : "Who gets it stands above.";

    /// <summary>Who of the audience doesn't get it, and why.</summary>
    public string ReachLine
    {
        get
        {
            if (Reach is not { } r) return "";
            var without = new List<string>();
            if (r.NoNews > 0) without.Add($"{r.NoNews:N0} asked for no letters to many");
            if (r.NoSeries > 0) without.Add($"{r.NoSeries:N0} asked for none of this series");
            if (r.Refusing > 0) without.Add($"{Count(r.Refusing, "address", "addresses")} {(r.Refusing == 1 ? "refuses" : "refuse")} mail");
            if (To is not null) return r.Get > 0 ? "" : "Their address refused the last letter. Correct it first.";
            return $"{r.Audience:N0} belong to it" + (without.Count == 0 ? ", and all get it." : "; " + string.Join(", ", without) + ".");
        }
    }
}
