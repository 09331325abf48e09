using BrightCircle.App.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Questions members asked under lessons: the open ones first.</summary>
public sealed class QuestionsModel(AskAndAnswer ask) : DeskPage
{
    const int PageSize = 30;
    public override string Place => "questions";
    public bool All { get; private set; }
    public IReadOnlyList<LessonQuestion> Rows { get; private set; } = [];
    public ILookup<long, LessonQuestion> Answers { get; private set; } = null!;
    public Pager Pager { get; private set; } = null!;

    public async Task OnGet(bool all, int p = 1)
    {
        (All, p) = (all, Math.Max(1, p));
        (Rows, Answers, var total) = await ask.List(all, p, PageSize, Ct);
        Pager = new(p, total, PageSize, n => $"?all={(all ? "true" : "false")}&p={n}");
    }

    public async Task<IActionResult> OnPost(long question, string? text, bool all)
    {
        var done = await ask.Answer(Actor, question, text, Ct);
        Tell(done.Ok ? "Answered; a letter tells them." : done.Refusal!);
        return Redirect($"/desk/questions?all={(all ? "true" : "false")}");
    }

    public async Task<IActionResult> OnPostHide(long question, bool hide, bool all)
    {
        await ask.Hide(Actor, question, hide, Ct);
        return Redirect($"/desk/questions?all={(all ? "true" : "false")}");
    }

    public async Task<IActionResult> OnPostSettle(long question, bool all)
    {
        await ask.Settle(Actor, question, Ct);
        return Redirect($"/desk/questions?all={(all ? "true" : "false")}");
    }
}
