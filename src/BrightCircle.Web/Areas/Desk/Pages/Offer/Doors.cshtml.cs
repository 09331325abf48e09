using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Which plan opens which piece, and what is open to everybody or to nobody.</summary>
public sealed class DoorsModel : DeskPage
{
    const int Most = 400;

    public override string Place => "doors";
    [BindProperty(SupportsGet = true)] public long Shelf { get; set; }
    /// <summary>all, nobody, everybody.</summary>
    [BindProperty(SupportsGet = true)] public string Show { get; set; } = "all";
    public IReadOnlyList<(Piece Piece, IReadOnlyList<PromisedCell> Cells)> Rows { get; private set; } = [];
    public int Total { get; private set; }
    /// <summary>What strangers can open: whole pieces, and single lessons of others.</summary>
    public IReadOnlyList<(Piece Piece, Lesson? Lesson)> ToEverybody { get; private set; } = [];
    public IReadOnlyList<Piece> ToNobody { get; private set; } = [];

    public void OnGet()
    {
        var all = Pieces().ToArray();
        (Total, Rows) = (all.Length, [.. all.Take(Most).Select(p => (p, (IReadOnlyList<PromisedCell>)[.. Now.Plans.Select(x => PromiseTable.Of(x, p,
            Now.PlanById.GetValueOrDefault))]))]);
        ToEverybody = [.. Out.Where(p => p.OpenToAll).Select(p => (p, (Lesson?)null))
            .Concat(Out.Where(p => !p.OpenToAll).SelectMany(
                p => p.Outline.Lessons.Where(l => l.Teaser && Now.Book.Decide(MemberFacts.Nobody, l.Id, Moment).IsOpen)
                .Select(l => (p, (Lesson?)l))))];
        ToNobody = Now.ForNobody;
    }

    public IActionResult OnGetCsv()
    {
        using var text = new StringWriter();
        using (var csv = Csv.Writer(text))
        {
            csv.WriteRecord([.. Now.Plans.Select(p => p.Name).Prepend("Shelf").Prepend("State").Prepend("Piece")]);
            foreach (var p in Pieces())
                csv.WriteRecord([.. Now.Plans.Select(x => Word(PromiseTable.Of(x, p, Now.PlanById.GetValueOrDefault))).Prepend(Now.ShelfById[p.ShelfId].Name)
                    .Prepend(p.State.ToString().ToLowerInvariant()).Prepend(p.Title)]);
        }
        return File(System.Text.Encoding.UTF8.GetBytes(text.ToString()), "text/csv; charset=utf-8",
            $"doors-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.csv");
    }

    IEnumerable<Piece> Out => Now.Pieces.Where(p => Now.Book.ReleaseOf(p.Id) is not null);

    IEnumerable<Piece> Pieces() => Now.Pieces.Where(p => (Shelf == 0 || p.ShelfId.Value == Shelf)
        && Show switch { "nobody" => Now.ForNobody.Contains(p), "everybody" => p.OpenToAll || p.Outline.Lessons.Any(l => l.Teaser), _ => true })
        .OrderBy(p => Now.ShelfById[p.ShelfId].Order).ThenByDescending(p => Now.EditionOf(p)?.FirstDay).ThenByDescending(p => p.Id.Value);

    public static string Word(PromisedCell c) => (c.Way switch
    {
        PromisedWay.Not => "",
        PromisedWay.Part => "in part",
        PromisedWay.Latest => "the latest",
        PromisedWay.WhilePaid => "while paid",
        PromisedWay.FromJoining => "from joining",
        PromisedWay.Open => "open",
    }) + (c.Paced ? ", bit by bit" : "");
}
