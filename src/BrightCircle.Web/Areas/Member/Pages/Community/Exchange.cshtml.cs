using BrightCircle.App.Catalogues;
using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What two members write to one another. The team never sees it, not through somebody’s eyes either.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = PicturesSent.MostBytes), RequestSizeLimit(PicturesSent.MostBytes)]
public sealed class ExchangeModel(ReadExchanges read, Exchanges exchanges, FileLinks links) : MemberPage
{
    public override string Place => "account";
    public FileLinks Links => links;
    public ExchangeView View { get; private set; } = null!;
    /// <summary>Null where members don’t write to one another just now.</summary>
    public PeopleReader? By { get; private set; }
    [BindProperty] public string? Body { get; set; }
    public PicturesChosen Chosen { get; private set; } = null!;
    Uploader Uploader => new(Member.Value, false);

    /// <summary>Why nothing can be written: nobody does, or no space is open to them any more.</summary>
    public static string WordsOff(CatalogueSnapshot now) => now.Site is { ShowsPeople: true, MembersWrite: true }
        ? "No space is open to you, so you can read here and not write." : "Members don’t write to one another here just now.";

    PeopleReader? Writes => PeopleReader.For(Now, Visitor.AllTalks(Now, Moment)) is { MayWriteToOthers: true } by ? by : null;
    Writer Who => new(Member, Visitor.Person!.Confirmed);

    async Task<bool> Find(long id)
    {
        if (Visitor.Recorded is not { } me || await read.One(me, id, Ct) is not { } view) return false;
        (View, By) = (view, Writes);
        Chosen = await new PicturesSent().Again(this, Uploader);
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, PicturesSent sent)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = By is not { } by ? App.Result.Refused(WordsOff(Now), "Body")
            : await sent.Take(this, Uploader, () => exchanges.Refused(Who, id, Ct)) is var shown && !shown.Ok ? App.Result.Refused(shown.Refusal!, shown.Field)
            : await exchanges.Write(by, Who, id, Body, Ct, shown.Value);
        if (done.Ok) return Redirect($"/me/messages/{id}");
        Chosen = await sent.Again(this, Uploader);
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostAgree(long id, bool yes)
    {
        if (Visitor.Recorded is not { } me) return NotFound();
        var done = await exchanges.Agree(me, id, yes, Ct);
        Tell(!done.Ok ? done.Refusal! : yes ? "You can write to each other now." : "Nothing more comes from them.");
        return Redirect(done.Ok && yes ? $"/me/messages/{id}" : "/me/messages");
    }

    public async Task<IActionResult> OnPostShut(long id, bool shut)
    {
        if (Visitor.Recorded is not { } me) return NotFound();
        var done = await exchanges.Shut(me, id, shut, Ct);
        Tell(!done.Ok ? done.Refusal! : shut ? "Nothing more comes from them." : "It is open again.");
        return Redirect(done.Ok ? $"/me/messages/{id}" : "/me/messages");
    }
}
