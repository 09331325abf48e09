using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskShelvesModel : DeskPage
{
    public override string Place => "shelves";
    public void OnGet() { }
}
