using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The team’s inbox.</summary>
public sealed class InboxModel(Correspond correspond) : DeskPage
{
    const int PageSize = 30;
    public override string Place => "inbox";
    public InboxShown Show { get; private set; }
    public IReadOnlyList<InboxRow> Rows { get; private set; } = [];
    public IReadOnlyDictionary<InboxShown, int> Counts { get; private set; } = new Dictionary<InboxShown, int>();
    public IReadOnlyList<SavedAnswer> Answers { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;
    [BindProperty] public string? Name { get; set; }
    [BindProperty] public string? Answer { get; set; }

    async Task<IActionResult> Look(InboxShown show, int page)
    {
        (Show, page) = (Enum.IsDefined(show) ? show : InboxShown.Open, Math.Clamp(page, 1, 100_000));
        (Rows, Counts, Answers) = await correspond.Inbox(Actor, Show, page, PageSize, Ct);
        Pager = new(page, Counts[Show], PageSize, p => $"/desk/inbox?show={Show}&page={p}");
        return Page();
    }

    public Task<IActionResult> OnGet(InboxShown show, int page = 1)
    {
        ModelState.Clear();
        return Look(show, page);
    }

    public async Task<IActionResult> OnPostKeep()
    {
        ModelState.Clear();
        var done = await correspond.Keep(Actor, Name, Answer, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return await Look(InboxShown.Open, 1);
        }
        Tell("It is kept: it stands beside every answer you write.");
        return Redirect("/desk/inbox");
    }

    public async Task<IActionResult> OnPostForget(long answer)
    {
        var done = await correspond.Forget(Actor, answer, Ct);
        Tell(done.Ok ? "It is taken away." : done.Refusal!);
        return Redirect("/desk/inbox");
    }

    public static string Nobody(InboxShown shown) => shown switch
    {
        InboxShown.Open => "Nobody waits for an answer.",
        InboxShown.Mine => "You have taken no conversation that goes on.",
        InboxShown.Waiting => "You wait for nobody’s answer.",
        InboxShown.Done => "Nothing is done yet.",
        _ => throw new InvalidOperationException($"No such list: {shown}"),
    };

    public static string Word(InboxShown shown) => shown switch
    {
        InboxShown.Open => "to answer",
        InboxShown.Mine => "mine",
        InboxShown.Waiting => "we wait",
        InboxShown.Done => "done",
        _ => throw new InvalidOperationException($"No such list: {shown}"),
    };
}
