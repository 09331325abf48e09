using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Somebody's face.</summary>
/// <param name="Picture">On their card; null for how their name begins.</param>
public sealed record FaceShown(string Name, long? Picture, FileLinks Links);

/// <summary>Somebody's card.</summary>
/// <param name="IsLink">It leads to their own page.</param>
public sealed record PersonShown(PersonRow Person, FileLinks Links, bool IsLink);

/// <summary>The people who want to be found.</summary>
public sealed class PeopleModel(ReadPeople people, FileLinks links) : MemberPage
{
    const int PageSize = 24;
    public override string Place => "spaces";
    public FileLinks Links => links;
    public IReadOnlyList<PersonRow> People { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;
    public string Typed { get; private set; } = "";
    public bool Lately { get; private set; }
    /// <summary>They can ask others whether they write to each other.</summary>
    public bool MayWrite { get; private set; }

    public async Task<IActionResult> OnGet(string? q, bool lately = false, int page = 1)
    {
        if (PeopleReader.For(Now, Visitor.AllTalks(Now, Moment)) is not { } by)
        {
            Tell("Nobody is shown here.");
            return Redirect("/spaces");
        }
        (page, MayWrite) = (Math.Clamp(page, 1, 100_000), by.MayWriteToOthers);
        (Typed, Lately) = (App.Bounded.To((q ?? "").Trim(), 80), lately);
        (People, var count) = await people.List(by, Typed, lately, page, PageSize, Moment, Ct);
        var query = (Typed.Length > 0 ? $"q={Uri.EscapeDataString(Typed)}&" : "") + (lately ? "lately=true&" : "");
        Pager = new(page, count, PageSize, p => $"/people?{query}page={p}");
        return Page();
    }
}
