using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Somebody who wants to be found.</summary>
public sealed class PersonModel(ReadPeople people, FileLinks links) : MemberPage
{
    public override string Place => "spaces";
    public FileLinks Links => links;
    public PeopleReader By { get; private set; } = null!;
    public PersonRow Person { get; private set; } = null!;
    public IReadOnlyList<BegunThread> Begun { get; private set; } = [];

    public async Task<IActionResult> OnGet(long id)
    {
        if (PeopleReader.For(Now, Visitor.AllTalks(Now, Moment)) is not { } by || await people.One(by, id, Ct) is not var (person, begun)) return NotFound();
        (By, Person, Begun) = (by, person, begun);
        return Page();
    }

    public async Task<IActionResult> OnPostDown(long id, [FromServices] SavePersonCard save)
    {
        if (PeopleReader.For(Now, Visitor.AllTalks(Now, Moment)) is not { Keeps: true }) return NotFound();
        var done = await save.TakeDown(Visitor.Actor, id, Ct);
        Tell(done.Ok ? "The card is taken down. They can put it up again." : done.Refusal!);
        return Redirect("/people");
    }
}
