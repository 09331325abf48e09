using NodaTime;

namespace BrightCircle.App.Demo;

/// <summary>What Tansy Lane’s people show each other.</summary>
public sealed partial class SeedDemo
{
    const string Window = "In the window";

    static IReadOnlyList<Thread> ShownThreads { get; } =
    [
        new(Window, new(2026, 2, 8), "They are still there",
        [
            new("After the big snow. I dug the entrance free with a spoon.", Shows: ["snow"], Alt: "A hive in deep snow, only its upper half to be seen"),
            new("With a spoon! Did they say thank you?", 4),
        ]),
        new(Window, new(2026, 4, 25), "Blossom, and the third box",
        [
            new("The orchard lets me stand here as long as I bring a jar in September.", Shows: ["orchard"], Alt: "A blue hive between apple trees in blossom"),
            new("That is the best rent I have heard of.", 7),
            new("Mine asks for two.", 5),
        ]),
        new(Window, new(2026, 6, 13), "What a frame looks like when they mean it",
        [
            new("Capped to the corners, brood in the middle. I held my breath and forgot to hold the smoker.", Shows: ["comb"],
                Alt: "A frame of comb, capped around, with open cells in the middle"),
            new("As it should be. Look how even the arch is: that queen is young.", 9, true),
        ]),
        new(Window, new(2026, 8, 22), "Three, and each has a colour now",
        [
            new("Painted with what was left in the shed. The grey one is the calm one, as if it knew.", Shows: ["row", "orchard"],
                Alt: "Three hives in a row, brown, grey and yellow"),
            new("The yellow one is where I would fly to.", 6),
        ]),
        new(Window, new(2026, 9, 26), "First label of our own",
        [
            new("My daughter drew the bee. It has five legs and we sell more than ever.", Shows: ["label", "jars"], Alt: "A jar of honey with a drawn label"),
            new("Five legs is plenty.", 3),
            new("A jar of it stands on our table. Gone by Sunday.", 12),
        ]),
        new(Window, new(2026, 11, 14), "Guards on, for once in time",
        [
            new("Eleven holes, and none of them large enough for who lived here last year.", Shows: ["guard"],
                Alt: "A metal guard with eleven round holes before an entrance"),
            new("Well done. And leave it on until the willow.", 10, true),
        ]),
        new(Window, new(2026, 11, 24), "Candles from the cappings",
        [
            new("From the course. The middle one leans; I call it character.", Shows: ["candles"], Alt: "Three lit candles on a table in the dark"),
            new("It smells of them even on a picture.", 2),
        ]),
    ];
}
