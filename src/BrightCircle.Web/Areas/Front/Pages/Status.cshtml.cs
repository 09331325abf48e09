using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

[IgnoreAntiforgeryToken]
public sealed class StatusModel : BrightPage
{
    public string Title { get; private set; } = "";
    public string Text { get; private set; } = "";
    /// <summary>Where whoever reads this begins.</summary>
    public string Start => Now.Site is null ? "/setup" : Visitor.IsTeam && !Visitor.IsLooking ? "/desk" : Visitor.Person is not null ? "/me" : "/";

    public void OnGet(string code) => Say(code);
    public void OnPost(string code) => Say(code);

    void Say(string code) => (Title, Text) = code switch
    {
        "404" => ("Not found", "There is nothing at this address, or it isn’t there for you."),
        "403" => ("Not allowed", "Your role on the team doesn’t include this."),
        "429" => ("Too quick", "That was tried very often in a short time. Wait a minute, then try again."),
        "400" => ("This page is out of date", "Go back, load the page again, and send the form once more. What you typed is still in it."),
        "looking" => ("You’re only looking", "While you see the site as somebody else, nothing can be changed. Go back to the Desk to act yourself."),
        _ => ("That didn’t work", "The request couldn’t be answered."),
    };
}
