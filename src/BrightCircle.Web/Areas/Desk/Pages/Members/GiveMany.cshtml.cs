using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Members;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Gives something to everybody in a list.</summary>
public sealed class GiveManyModel(PeopleBatches batches) : MemberFilterPage
{
    public GiveForm Form { get; private set; } = new();
    public int All { get; private set; }
    public int Already { get; private set; }
    public IReadOnlyList<string> Names { get; private set; } = [];
    public bool Letters { get; private set; } = true;

    public async Task<IActionResult> OnGet(string? what)
    {
        Actor.NeedSupport();
        Form.What = what;
        await Look();
        return Page();
    }

    async Task Look()
    {
        ReadFilter();
        var plan = Form.Read().Value.Grant?.Plan ?? Now.Plans.LastOrDefault()?.Id ?? default;
        (All, Already, Names) = await batches.Look(Filter, plan, Ct);
    }

    /// <summary>For whom it would be, by what is chosen.</summary>
    public async Task<IActionResult> OnPostLook(GiveForm form)
    {
        Actor.NeedSupport();
        ModelState.Clear();
        Form = form;
        await Look();
        return Partial("_GiveManyLook", this);
    }

    public async Task<IActionResult> OnPost(GiveForm form, bool letters)
    {
        ModelState.Clear();
        (Form, Letters) = (form, letters);
        await Look();
        var read = form.Read();
        var begun = read.Ok ? await batches.Give(Actor, Filter, read.Value.Grant with { Source = HoldingSource.Gift, Quietly = !letters, Seats = null }, Ct)
            : Result.Refused(read.Refusal!, read.Field);
        if (begun.Ok) return Redirect($"/desk/members/batches/{begun.Value}");
        Refuse(begun.Refusal!, GiveForm.Field(begun.Field));
        return Page();
    }
}
