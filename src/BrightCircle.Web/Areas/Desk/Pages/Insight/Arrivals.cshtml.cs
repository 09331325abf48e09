using BrightCircle.App.Insight;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Everybody new, by how far they have come, with whoever is stuck and the way to help.</summary>
public sealed class ArrivalsModel(Arrivals arrivals) : DeskPage
{
    /// <summary>So many stand in a column; all of it are one click away.</summary>
    public const int Shown = 6;
    public override string Place => "arrivals";
    public ArrivalsView View { get; private set; } = null!;
    /// <summary>Only one column, whole.</summary>
    public ArrivalStep? Only { get; private set; }
    public IReadOnlyList<(ArrivalStep Step, IReadOnlyList<(Arrival Who, Stuck? Why)> People)> Columns { get; private set; } = [];
    public int StuckCount { get; private set; }

    public async Task OnGet(ArrivalStep? only)
    {
        Only = only is { } o && Enum.IsDefined(o) ? o : null;
        View = await arrivals.Load(Moment, Ct);
        var people = View.People.Select(p => (Who: p, Why: p.Facts.StuckAt(Moment))).ToLookup(p => p.Who.Facts.Step);
        // Whoever needs a hand stands first, then the latest.
        Columns = [.. Enum.GetValues<ArrivalStep>().Where(s => Only is null || Only == s).Select(s => (s,
            (IReadOnlyList<(Arrival, Stuck?)>)[.. people[s].OrderBy(p => p.Why is null).ThenByDescending(p => p.Who.Facts.At)]))];
        StuckCount = View.People.Count(p => p.Facts.StuckAt(Moment) is not null);
    }

    public static string Title(ArrivalStep step) => step switch
    {
        ArrivalStep.HalfWay => "Half-way",
        ArrivalStep.Joined => "Joined",
        ArrivalStep.SignedIn => "Was here",
        ArrivalStep.Opened => "First thing opened",
        ArrivalStep.BackAgain => "Back after a week",
    };

    /// <summary>What is the matter, in a sentence.</summary>
    public string Matter(Arrival who, Stuck why) => why switch
    {
        Stuck.LeftHalfWay => $"Went away while joining, {Ago(who.Facts.At)}."
            + (who.Reminded is { } at ? $" Written to {Ago(at)}." : ""),
        Stuck.NoLetter => "No letter with a way in was written.",
        Stuck.LetterRefused => $"Letter refused: {(who.Refusal is { Length: > 0 } said ? Bounded.To(said, 90) : "no reason said")}.",
        Stuck.LetterWaits => "The letter with the way in hasn’t gone yet.",
        Stuck.NeverCame => $"The letter was taken {Ago(who.Facts.LetterTakenAt!.Value)}; never came in.",
        Stuck.OpenedNothing => $"Was here {Ago(who.Facts.SignedInAt ?? who.Facts.SeenAt!.Value)}, opened nothing.",
        Stuck.NotBack => $"Opened {Count(who.Opened, "thing")}, then nothing for "
            + $"{Count((int)(Moment - (who.Facts.SeenAt ?? who.Facts.OpenedAt!.Value)).TotalDays, "day")}.",
    };

    /// <summary>Where it is put right, and what stands on the button.</summary>
    public static (string Path, string Words) Repair(Arrival who, Stuck why) => why switch
    {
        Stuck.LeftHalfWay => ($"/desk/orders/{who.Order}", "See the order"),
        Stuck.LetterRefused => ($"/desk/members/{who.Member!.Value.Value}/edit", "Correct the address"),
        Stuck.LetterWaits => (who.Letter is { } l ? $"/desk/letters/{l}" : "/desk/letters", "Look at the letter"),
        Stuck.NeverCame or Stuck.NoLetter => ($"/desk/members/{who.Member!.Value.Value}/way-in", "A link to pass on"),
        Stuck.OpenedNothing or Stuck.NotBack => ($"/desk/members/{who.Member!.Value.Value}", "See what they have"),
    };

    /// <summary>How they get on, where they do.</summary>
    public string Says(Arrival who) => who.Facts.Step switch
    {
        ArrivalStep.HalfWay => $"begun {Ago(who.Facts.At)}",
        ArrivalStep.Joined => who.Facts.LetterTakenAt is { } at ? $"letter taken {Ago(at)}" : $"joined {Ago(who.Facts.At)}",
        ArrivalStep.SignedIn => $"here {Ago(who.Facts.SignedInAt ?? who.Facts.SeenAt!.Value)}",
        ArrivalStep.Opened => $"{After(who.Facts.OpenedAt!.Value - who.Facts.At)} after joining",
        ArrivalStep.BackAgain => $"opened {Count(who.Opened, "thing")}",
    };

    /// <summary>How long something took.</summary>
    public string After(Duration took) => took.TotalMinutes < 90 ? Count(Math.Max(1, (int)took.TotalMinutes), "minute")
        : took.TotalHours < 48 ? Count((int)Math.Round(took.TotalHours), "hour") : Count((int)Math.Round(took.TotalDays), "day");

    public static string Missing(BrokenOrder order) => string.Join(", ",
        new[] { order.Holding ? "nothing is held by it" : null, order.Letter ? "no letter was written" : null,
        order.Account ? "there is no account" : null }.Where(x => x is not null));
}
