using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>One's own card among the people here, and the name under which one's words stand afterwards.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = MostBytes), RequestSizeLimit(MostBytes)]
public sealed class ShownModel(SavePersonCard save, FileLinks links) : MemberPage
{
    const long MostBytes = PictureSizes.MaxBytes + (1 << 20);
    public override string Place => "account";
    public FileLinks Links => links;
    public PersonCard? Card { get; private set; }
    public PersonCardDraft Draft { get; private set; } = PersonCardDraft.Of(null);
    /// <summary>The owner's fields that stand on cards and that members fill in.</summary>
    public IReadOnlyList<string> Fields => [.. Now.OwnFields.Where(f => f.OnCards && f.IsTheirs).Select(f => f.Name)];

    public async Task OnGet() => Draft = PersonCardDraft.Of(Card = await save.Of(Visitor.Person!.AccountId, Ct));

    public async Task<IActionResult> OnPost(bool shown, string? line, string? cardPlace, bool unnamedAfter, bool noPicture, IFormFile? picture, bool takesWords,
        bool tellsRead)
    {
        var (person, draft) = (Visitor.Person!, new PersonCardDraft(shown, line, cardPlace, unnamedAfter, noPicture, takesWords, tellsRead));
        ModelState.Clear();
        Card = await save.Of(person.AccountId, Ct);
        // What isn't asked while members don't find one another stays as it is.
        if (!Now.Site!.ShowsPeople) draft = PersonCardDraft.Of(Card) with { UnnamedAfter = unnamedAfter };
        else if (!Now.Site!.MembersWrite) draft = draft with { TakesWords = Card?.TakesWords == true, TellsRead = Card?.TellsRead == true };
        var upload = picture is null ? null : new PictureUpload(Path.GetFileName(picture.FileName), picture.Length, picture.OpenReadStream);
        var done = await save.Do(person.AccountId, person.Confirmed, draft, upload, Ct);
        if (done.Ok)
        {
            Tell("It is kept.");
            return Redirect("/me/shown");
        }
        Draft = draft;
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
