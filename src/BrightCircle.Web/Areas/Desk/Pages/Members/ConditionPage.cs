using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A page on which a condition is put together, with who fits it beside.</summary>
public abstract class ConditionPage(Audiences audiences) : DeskPage
{
    public override string Place => "members";
    [BindProperty] public string? Mode { get; set; } = "all";
    [BindProperty] public List<ConditionLine> Lines { get; set; } = [];
    public IReadOnlyList<string?> Wrongs { get; private set; } = [];
    public Condition? Condition { get; private set; }
    public AudienceLook? Fit { get; private set; }
    public string Sentence => Condition is { } c ? ConditionWords.Sentence(c, Now) : "";
    protected Audiences Audiences => audiences;

    protected void Write(Condition condition) => (Mode, Lines) = new ConditionReading(Now).Write(condition);

    protected void Read()
    {
        Mode = Mode is "any" or "none" ? Mode : "all";
        ConditionReading.Tidy(Lines);
        (Condition, Wrongs) = new ConditionReading(Now).Read(Mode, Lines);
        // What is wrong with the whole, and with no line of it.
        if (Condition is { } c && ConditionRules.WrongWith(c, Now) is { } wrong && Lines.Count > 0) (Condition, Whole) = (null, wrong);
    }

    public string? Whole { get; private set; }

    /// <returns>What another condition is beside it, where one is given.</returns>
    protected async Task<AudienceDifference?> Look(Condition? other = null)
    {
        if (Condition is not { } c) return null;
        (Fit, var beside) = await audiences.Look(c, other, Ct);
        return beside;
    }

    /// <summary>Who fits what is typed.</summary>
    public async Task<IActionResult> OnPostLook()
    {
        ModelState.Clear();
        Read();
        await Look();
        return Partial("_ConditionLook", this);
    }

    /// <summary>A line more, a line less, or of another kind.</summary>
    /// <param name="at">The line it is about; -1 for the outermost group.</param>
    public virtual async Task<IActionResult> OnPostLines(string act, int at)
    {
        ModelState.Clear();
        ConditionReading.Tidy(Lines);
        var here = at >= 0 && at < Lines.Count;
        switch (act)
        {
            case "add" or "group" when Lines.Count < ConditionReading.MostLines && (at == -1 || here && Lines[at].IsGroup):
                var depth = here ? Lines[at].Depth + 1 : 1;
                if (depth > Core.Members.Condition.MostDeep || act == "group" && depth == Core.Members.Condition.MostDeep) break;
                Lines.Insert(here ? EndOf(at) : Lines.Count, new() { Depth = depth, Kind = act == "group" ? "group" : "standing", Mode = "any" });
                break;
            case "drop" when here:
                Lines.RemoveRange(at, EndOf(at) - at);
                break;
        }
        Read();
        await Look();
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_ConditionLines", this) : await Again();
    }

    /// <summary>The whole page again, for browsers without scripts.</summary>
    protected abstract Task<IActionResult> Again();

    /// <summary>The line after a line and all that stands in it.</summary>
    int EndOf(int at)
    {
        var end = at + 1;
        while (end < Lines.Count && Lines[end].Depth > Lines[at].Depth) end++;
        return end;
    }
}
