using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What is given, as it is typed.</summary>
public sealed class GiveForm
{
    /// <summary>plan-7 or piece-7.</summary>
    public string? What { get; set; }
    public string? From { get; set; }
    public string? Until { get; set; }
    public string? Seats { get; set; }
    public bool AllAtOnce { get; set; }
    public string? Note { get; set; }

    /// <summary>What it says; a refusal where it can't be read.</summary>
    public Result<(Grant Grant, PieceId? Piece)> Read()
    {
        if (What?.Split('-') is not [var kind, var n] || !long.TryParse(n, out var id)) return Result.Refused("Choose what to give.", "What");
        if (!LocalInput.TryReadDay(From, out var from)) return Result.Refused("That isn’t a date.", "From");
        if (!LocalInput.TryReadDay(Until, out var until)) return Result.Refused("That isn’t a date.", "Until");
        int? seats = null;
        if (!string.IsNullOrWhiteSpace(Seats))
            if (int.TryParse(Seats, out var many)) seats = many;
            else return Result.Refused("That isn’t a number.", "Seats");
        return (new Grant(kind == "plan" ? new PlanId(id) : default, HoldingSource.Gift, from, until, AllAtOnce, Note, Seats: seats),
            kind == "piece" ? new PieceId(id) : null);
    }

    /// <summary>Its fields by the names that a refusal has.</summary>
    public static string? Field(string? refused) => refused is "Plan" or "Piece" ? "What" : refused;
}

public sealed class GiveModel(GivePlan give) : DeskPage
{
    public override string Place => "members";
    public string Name { get; private set; } = "";
    public GiveForm Form { get; private set; } = new();

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, GiveForm form)
    {
        ModelState.Clear();
        if (!await Find(id)) return NotFound();
        Form = form;
        var read = form.Read();
        var done = !read.Ok ? Result.Refused(read.Refusal!, read.Field)
            : read.Value.Piece is { } piece ? await give.Do(Actor, new(id), piece, read.Value.Grant, Ct)
            : await give.Do(Actor, new(id), read.Value.Grant, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, GiveForm.Field(done.Field));
            return Page();
        }
        Tell(read.Value.Grant.From > Now.Calendar.Date(Moment) ? "Given. The welcome letter goes out on that day."
            : "Given. The welcome letter is on its way.");
        return Redirect($"/desk/members/{id}");
    }

    async Task<bool> Find(long id) => (Name = await give.NameOf(new(id), Ct) ?? "").Length > 0;
}
