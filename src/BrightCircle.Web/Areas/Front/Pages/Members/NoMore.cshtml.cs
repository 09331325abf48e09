using BrightCircle.App.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class NoMoreModel(SignInTokens tokens) : BrightPage
{
    public bool Known { get; private set; }
    public bool Done { get; private set; }

    public void OnGet(string token, bool done) => (Known, Done) = (tokens.ReadUnsubscribe(token) is not null, done);
}
