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
    /// <summary>Where the two write to each other; null where they don’t.</summary>
    public long? Exchange { get; private set; }
    /// <summary>They can be asked whether one may write to them.</summary>
    public bool MayAsk { get; private set; }
    public bool SeenThemselves { get; private set; }
    [BindProperty] public string? Body { get; set; }

    async Task<bool> Find(long id)
    {
        if (PeopleReader.For(Now, Visitor.AllTalks(Now, Moment)) is not { } by || await people.One(by, id, Ct) is not { } seen) return false;
        (By, Person, Begun, Exchange, SeenThemselves) = (by, seen.Person, seen.Begun, seen.Exchange, seen.SeenThemselves);
        MayAsk = by.MayWriteToOthers && seen is { TakesWords: true, Exchange: null } && id != by.Account;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsk(long id, [FromServices] Exchanges exchanges)
    {
        if (Visitor.Recorded is not { } me || !await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await exchanges.Ask(By, new(me, Visitor.Person!.Confirmed), new(id), Body, Ct);
        if (done.Ok)
        {
            Tell("You have asked. Once they say yes, you can write to each other.");
            return Redirect($"/me/messages/{done.Value}");
        }
        Refuse(done.Refusal!, done.Field);
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
