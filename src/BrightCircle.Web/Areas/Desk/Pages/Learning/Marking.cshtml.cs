using BrightCircle.App.Learning;
using BrightCircle.Core.Learning;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Open answers that wait to be read.</summary>
public sealed class MarkingModel(MarkSheets sheets) : DeskPage
{
    public override string Place => "marking";
    public IReadOnlyList<ToMark> List { get; private set; } = [];
    public int Waiting { get; private set; }

    public async Task OnGet() => (List, Waiting) = await sheets.List(Ct);

    public async Task<IActionResult> OnPost(long sheet, string[] key, int?[] points, string?[] comment)
    {
        var marks = new Dictionary<string, Mark>();
        for (var i = 0; i < key.Length; i++)
            if (i < points.Length && points[i] is { } p) marks[key[i]] = new(p, (i < comment.Length ? comment[i] : null)?.Trim() ?? "");
        var done = marks.Count == 0 ? Result.Refused("Give points first.") : await sheets.Mark(Actor, sheet, marks, Ct);
        Tell(done.Ok ? "Marked; the member is told when all of it is read." : done.Refusal!);
        return Redirect("/desk/marking");
    }
}
