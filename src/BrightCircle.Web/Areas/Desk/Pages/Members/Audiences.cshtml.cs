using BrightCircle.App.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class AudiencesModel(Audiences audiences) : DeskPage
{
    public override string Place => "audiences";
    public IReadOnlyDictionary<AudienceId, int> People { get; private set; } = new Dictionary<AudienceId, int>();

    public async Task OnGet() => People = await audiences.Counts(Now.Audiences, Ct);
}
