using BrightCircle.App.Letters;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Every letter that the house writes by itself, and whose words it has.</summary>
public sealed class HouseLettersModel : DeskPage
{
    public override string Place => "house-letters";
    public int Changed => Now.People.Texts.Select(t => t.Kind).Distinct().Count();

    /// <summary>The plans for which it reads differently.</summary>
    public IEnumerable<(string Name, long Id)> PlansWithOwn(LetterKind kind) =>
        Now.Plans.Where(p => Now.People.TextOf(kind, p.Id) is not null).Select(p => (p.Name, p.Id.Value));

    public void OnGet() => Mailings.NeedRole(Actor);
}
