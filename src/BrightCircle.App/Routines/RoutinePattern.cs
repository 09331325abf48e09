using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>A routine to begin with: made as one of one's own, off, to be read and changed.</summary>
/// <param name="Key">By which it is chosen.</param>
/// <param name="Says">What it is good for.</param>
/// <param name="Needs">What has to be there first; null where nothing is missing.</param>
/// <param name="Make">Makes its script; is given how to make a letter of a subject and a text.</param>
public sealed record RoutinePattern(string Key, string Name, string Says, string? Needs, Func<CatalogueSnapshot, Func<string, string, long>, Script> Make)
{
    const string Dear = "<div>Dear {{ first_name | default: \"friend\" }},</div><div><br></div>";

    static string Body(params string[] paragraphs) => Dear + string.Join("<div><br></div>", paragraphs.Select(p => $"<div>{p}</div>"));

    public static IReadOnlyList<RoutinePattern> All(CatalogueSnapshot now)
    {
        var day = now.OwnFields.FirstOrDefault(f => f.Kind == OwnFieldKind.Date);
        return
        [
            new("welcome", "Welcome in three letters", "The first day, the fourth and the tenth: where to begin, what others like, and a hand held out.", null,
                (_, letter) => Script.Of(new Trigger.Joins([], null, false),
                    new Step.SendLetter(1, letter("Where to begin", Body("how good that you are here. You don’t have to read everything: choose one thing, and "
                        + "take a quarter of an hour for it.", "<strong><a href=\"/me\">Begin here</a></strong>"))),
                    new Step.Wait(2, 3, 0),
                    new Step.WaitForTime(3, null, new(9, 0)),
                    new Step.SendLetter(4, letter("What others come back for", Body("here is what many of us come back for again and again.",
                        "<strong><a href=\"/shelves\">Look along the shelves</a></strong>"))),
                    new Step.Wait(5, 6, 0),
                    new Step.SendLetter(6,
                        letter("How is it going?", Body("you have been with us for ten days now. Is there anything you can’t find, or something "
                        + "that doesn’t work? Just answer this letter: a person reads it."))))
                    with { Again = Again.Never }),
            new("first-step", "The first step", "Whoever hasn’t opened anything after three days is shown the way, and the team hears of it after ten.", null,
                (_, letter) => Script.Of(new Trigger.Joins([]),
                    new Step.WaitFor(1, new Trigger.Opens(null), 3, [],
                    [
                        new Step.SendLetter(2, letter("Shall we begin together?",
                            Body("many don’t know where to begin, and that is our fault and not yours. Everything "
                            + "that is open for you stands on one page.", "<strong><a href=\"/me\">Begin here</a></strong>"))),
                        new Step.WaitFor(3, new Trigger.Opens(null), 7, [],
                            [new Step.AddTask(4, "Hasn’t opened anything since joining: ask whether they can get in.")]),
                    ]))),
            new("card", "A payment fails",
                "A friendly line of one’s own after two days, and a task for the team before it is over. It ends as soon as they pay.", null,
                (_, letter) => Script.Of(new Trigger.PaymentFails([]),
                    new Step.Wait(1, 2, 0),
                    new Step.SendLetter(2, letter("Your payment didn’t go through",
                        Body("your payment didn’t go through, which happens to everybody once: a card runs out, "
                        + "a bank is careful. It takes a minute to put right.", "<strong><a href=\"/me/card\">Use another card</a></strong>"))),
                    new Step.Wait(3, 5, 0),
                    new Step.AddTask(4, "Their payment still fails: write them a personal line."))
                    with { Goal = new Trigger.Recovers([]) }),
            new("leaving", "Somebody leaves", "A question the next morning, without an offer: why they go is worth more than one more month.", null,
                (_, letter) => Script.Of(new Trigger.Leaves([]),
                    new Step.Wait(1, 0, 12),
                    new Step.WaitForTime(2, null, new(9, 30)),
                    new Step.SendLetter(3, letter("May I ask you one thing?",
                        Body("you are leaving, and that is fine. What would have had to be different? One sentence "
                        + "helps us: just answer this letter.", "Until then everything stays open for you.")))) ),
            new("back", "Come back", "Sixty days after a membership ended: what is new, and the way back. It ends as soon as they join.", null,
                (_, letter) => Script.Of(new Trigger.PlanEnds([]),
                    new Step.Wait(1, 60, 0),
                    new Step.WaitForTime(2, 2, new(10, 0)),
                    new Step.SendLetter(3, letter("What is new since you left",
                        Body("two months ago you were still with us. Since then a good deal has come; the newest is "
                        + "{{ edition | default: \"on the shelves\" }}.", "<strong><a href=\"/tiers\">Come back</a></strong>"))))
                    with { Goal = new Trigger.Joins([]) }),
            new("day", "A day of theirs", "On a day that members told you of, each year: a birthday, say.", day is null ? "An own field for a day" : null,
                (_, letter) => Script.Of(new Trigger.DayOf(day!.Id, 0, true),
                    new Step.SendLetter(1, letter("Today is your day", Body("we thought of you today. All the best, from all of us."))))),
        ];
    }
}
