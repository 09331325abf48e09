using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Puts a tag on everybody in a list, or takes it off them.</summary>
public sealed class TagManyModel(MemberTags tags, MemberList list) : MemberFilterPage
{
    public IReadOnlyList<Tag> Choices => [.. Now.Tags.Where(t => !t.IsByItself)];
    public TagId Tag { get; private set; }
    public bool Off { get; private set; }
    public int With { get; private set; }
    public int Without { get; private set; }

    // The address already has a tag where the list is one; what is chosen here comes with the form.
    async Task Look(long? tag, bool off)
    {
        ReadFilter();
        Off = off;
        Tag = Choices.FirstOrDefault(t => t.Id.Value == tag)?.Id ?? Choices.FirstOrDefault()?.Id ?? default;
        if (Choices.Count > 0) (With, Without) = await tags.Among(list.Query(Filter), Tag, Ct);
    }

    public async Task<IActionResult> OnGet()
    {
        await Look(null, false);
        return Page();
    }

    public async Task<IActionResult> OnPostLook([FromForm] long? tag, [FromForm] bool off)
    {
        await Look(tag, off);
        return Partial("_TagManyLook", this);
    }

    public async Task<IActionResult> OnPost([FromForm] long? tag, [FromForm] bool off)
    {
        await Look(tag, off);
        var done = await tags.OnMany(Actor, list.Query(Filter), Tag, !off, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell(off ? $"{Now.TagById[Tag].Name} is taken off {Count(done.Value, "person", "people")}."
            : $"{Now.TagById[Tag].Name} is put on {Count(done.Value, "person", "people")}.");
        return Redirect("/desk/members" + Query());
    }
}
