using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Key links: all there are, and another one.</summary>
public sealed class KeysModel(KeyLinks keys) : DeskPage
{
    public override string Place => "keys";
    public IReadOnlyList<KeyLinkRow> Rows { get; private set; } = [];
    [BindProperty] public long Plan { get; set; }
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public string? PaidElsewhere { get; set; }
    [BindProperty] public string? Most { get; set; }
    [BindProperty] public string? LastDay { get; set; }
    [BindProperty] public string? OpenUntil { get; set; }
    [BindProperty] public bool AllAtOnce { get; set; }

    public async Task OnGet() => Rows = await keys.All(Ct);

    public async Task<IActionResult> OnPost()
    {
        ModelState.Clear();
        int? most = null;
        LocalDate? last = null, until = null;
        var wrong = !string.IsNullOrWhiteSpace(Most) && !Number(Most, out most) ? Result.Refused("That isn’t a number.", "Most")
            : !LocalInput.TryReadDay(LastDay, out last) ? Result.Refused("That isn’t a date.", "LastDay")
            : !LocalInput.TryReadDay(OpenUntil, out until) ? Result.Refused("That isn’t a date.", "OpenUntil") : Result.Done;
        var made = wrong.Ok ? await keys.Make(Actor, new(new(Plan), Name, PaidElsewhere, most, last, until, AllAtOnce), Ct)
            : Result.Refused(wrong.Refusal!, wrong.Field);
        if (made.Ok) return Redirect($"/desk/keys/{made.Value}");
        Refuse(made.Refusal!, made.Field);
        Rows = await keys.All(Ct);
        return Page();
    }

    static bool Number(string text, out int? number)
    {
        var good = int.TryParse(text, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var n);
        number = good ? n : null;
        return good;
    }

    public string State(KeyLink link) => link.RevokedAt is { } at ? $"taken back {Ago(at)}" : link.EndsAt is { } ends ? ends <= Moment
        ? $"over since {Day(ends)}"
        : $"until {Day(ends - Duration.Epsilon)}" : "until it is taken back";
}
