using BrightCircle.App.Settings;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What newcomers are asked to do first, and what each plan starts with.</summary>
public sealed class SettingsWelcomeModel(WelcomeSettings settings) : DeskPage
{
    public override string Place => "welcome";
    public IReadOnlyCollection<FirstStep> Steps { get; private set; } = [];
    public string Words { get; private set; } = "";
    public bool HalfWay { get; private set; }

    public static IReadOnlyList<(FirstStep Step, string Word, string Says)> All { get; } =
    [
        (FirstStep.Hello, "Say hello", "a few words to you; they stand among your tasks until they are answered"),
        (FirstStep.Zone, "Say where they are", "so that their days and weeks begin there"),
        (FirstStep.About, "A little about them", "what you ask members about themselves"),
    ];

    public void OnGet()
    {
        Actor.NeedEditor();
        (Steps, Words, HalfWay) = (Now.Site!.FirstSteps, Now.Site.HelloWords, Now.Site.WritesHalfWay);
    }

    public async Task<IActionResult> OnPost(FirstStep[] steps, string? words, bool halfWay)
    {
        (Steps, Words, HalfWay) = (steps, words ?? "", halfWay);
        if (!ModelState.IsValid) return Page();
        var done = await settings.Save(Actor, steps, words, halfWay, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect("/desk/settings/welcome");
    }
}
