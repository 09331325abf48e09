using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class TagListModel(MemberTags tags, OwnFields fields) : DeskPage
{
    public override string Place => "tags";
    public IReadOnlyList<TagRow> Tags { get; private set; } = [];
    public IReadOnlyDictionary<OwnFieldId, int> Filled { get; private set; } = new Dictionary<OwnFieldId, int>();

    public async Task OnGet()
    {
        Answer<List<FieldFilled>>? filled = null;
        Tags = await tags.All(Ct, trip => filled = trip.List(fields.Filled));
        Filled = filled!.Value.ToDictionary(f => f.Field, f => f.Members);
    }

    public string Kind(OwnField f) => f.Kind switch
    {
        OwnFieldKind.Text => "words",
        OwnFieldKind.Number => "a number",
        OwnFieldKind.Date => "a day",
        OwnFieldKind.Choice => Count(f.Choices.Count, "choice"),
        _ => throw new InvalidOperationException($"No such kind: {f.Kind}"),
    };

    public string Who(OwnField f) => (f.AskedAtJoining, f.ByMembers) switch
    {
        (true, true) => "whoever joins, and members themselves",
        (true, false) => "whoever joins, and the team",
        (false, true) => "members themselves, and the team",
        (false, false) => "the team",
    };
}
