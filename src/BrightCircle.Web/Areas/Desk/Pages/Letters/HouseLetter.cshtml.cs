using BrightCircle.App.Files;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The words of one letter of the house, beside how somebody gets it.</summary>
public sealed class HouseLetterModel(ChangeLetter change, ShowHouseLetter show, LetterModels models, FilesToChoose choose, MemberReader people,
    BrightContext db) : DeskPage
{
    /// <summary>So many versions are listed.</summary>
    const int MostVersions = 30;
    public override string Place => "house-letters";
    public HouseLetter House { get; private set; } = null!;
    /// <summary>For this plan only; null for whatever has no words of its own.</summary>
    [BindProperty(SupportsGet = true)] public long? Plan { get; set; }
    [BindProperty] public string? Subject { get; set; }
    [BindProperty] public string? Preheader { get; set; }
    [BindProperty] public string? Body { get; set; }
    [BindProperty] public long? Picture { get; set; }
    public FileField PictureField { get; private set; } = null!;
    [BindProperty] public int BasedOn { get; set; }
    /// <summary>As whom it is shown, by their address; empty for whoever got the last one.</summary>
    [BindProperty] public string? As { get; set; }
    public IReadOnlyList<LetterText> Versions { get; private set; } = [];
    public LetterLook Look { get; private set; } = new(null, "", null, new("", "", ""));
    public bool ShowFields { get; private set; }

    IReadOnlyDictionary<string, string>? samples;
    /// <summary>What a field can say; empty where it can say nothing.</summary>
    public string Sample(HouseField field) =>
        BrightCircle.App.Bounded.To((samples ??= models.Samples(House, Of, "Robin Hale", Moment)).GetValueOrDefault(field.Key, "").ReplaceLineEndings(" "), 90);

    PlanId? Of => Plan is { } p ? new PlanId(p) : null;
    /// <summary>The words of exactly this letter; null where there are none.</summary>
    public LetterText? Own => Now.People.TextOf(House.Kind, Of);

    public string StateLine => Own is { } own ? $"In your own words since {Day(own.At)}, by {own.By}."
        : Plan is null ? "It reads as it came." : Now.People.TextOf(House.Kind, null) is null ? "It reads as it came." : "It reads as for all.";

    bool Find(string kind)
    {
        Mailings.NeedRole(Actor);
        if (!Enum.TryParse<LetterKind>(kind, out var k) || HouseLetters.Of(k) is not { } house) return false;
        House = house;
        return Of is not { } plan || house.ByPlan && Now.PlanById.ContainsKey(plan);
    }

    async Task Load()
    {
        var trip = new OneTrip(db);
        var versions = change.Last(trip, MostVersions, House.Kind, Of);
        var pictures = choose.On(trip, LetterPicker.Of(Picture) is { } p ? [p] : [], FileKind.Picture, LetterPicker.Most);
        await trip.Ask(Ct);
        (Versions, PictureField) = (versions.Value, LetterPicker.Field(Picture, pictures.Value));
    }

    HouseLetterDraft Typed => new(Subject, Preheader, Body, BasedOn, LetterPicker.Of(Picture));

    public async Task<IActionResult> OnGet(string kind)
    {
        if (!Find(kind)) return NotFound();
        Picture = change.Open(House, Of, 0).Picture?.Value;
        await Load();
        (Subject, Preheader, Body, BasedOn, _) = change.Open(House, Of, Versions.Count > 0 ? Versions[0].Version : 0);
        return Page();
    }

    /// <summary>How it reads as it is typed.</summary>
    public async Task<IActionResult> OnPostLook(string kind)
    {
        if (!Find(kind)) return NotFound();
        ModelState.Clear();
        await See(change.Read(House, Of, Typed));
        if (Request.Headers.ContainsKey("HX-Request")) return Partial("_LetterLook", Look);
        await Load();
        return Page();
    }

    async Task See(Result<LetterText> read)
    {
        MemberId? whom = null;
        if (!string.IsNullOrWhiteSpace(As))
        {
            if (await people.Find(As, Ct) is not { IsTeam: false } member)
            {
                Look = Look with { Wrong = $"Nobody has the address “{As.Trim()}”." };
                return;
            }
            whom = member.MemberId;
        }
        if (!read.Ok)
        {
            (Look, ShowFields) = (Look with { Wrong = read.Refusal }, true);
            return;
        }
        var (name, letter) = await show.As(House, read.Value, Of, whom, Actor, Ct);
        Look = new(null, name, Preheader, letter);
    }

    public Task<IActionResult> OnPost(string kind) => Save(kind, trial: false);
    public Task<IActionResult> OnPostTrial(string kind) => Save(kind, trial: true);

    async Task<IActionResult> Save(string kind, bool trial)
    {
        if (!Find(kind)) return NotFound();
        ModelState.Clear();
        var saved = await change.Save(Actor, House, Of, Typed, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            ShowFields = true;
            await Load();
            return Page();
        }
        var said = "It is saved, and the next one reads so.";
        if (trial)
        {
            var done = await show.Trial(Actor, House, Now.People.TextFor(House.Kind, Of), Of, Ct);
            said = done.Ok ? "It is saved, and one is on its way to you." : $"It is saved. {done.Refusal}";
        }
        return Back(said);
    }

    public async Task<IActionResult> OnPostRestore(string kind)
    {
        if (!Find(kind)) return NotFound();
        var done = await change.Restore(Actor, House, Of, BasedOn, Ct);
        return Back(!done.Ok ? done.Refusal! : Plan is null ? "It reads as it came. Your words are kept as a version." : "It reads as for all again.");
    }

    public async Task<IActionResult> OnPostTake(string kind, int version)
    {
        if (!Find(kind)) return NotFound();
        var done = await change.Take(Actor, House, Of, version, BasedOn, Ct);
        return Back(done.Ok ? $"It reads as in version {version} again." : done.Refusal!);
    }

    IActionResult Back(string said)
    {
        Tell(said);
        return Redirect($"/desk/letters/house/{House.Kind}{(Plan is { } p ? $"?plan={p}" : "")}");
    }
}
