using System.Globalization;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>One thing that would change a decision: a plan to join, a moment to wait for, or a place to take.</summary>
public abstract record WouldOpen
{
    private WouldOpen() { }
    public sealed record Joining(Plan Plan) : WouldOpen;
    public sealed record Waiting(Instant Until) : WouldOpen;
    public sealed record TakingAPlace : WouldOpen;
    /// <summary>Finishing another lesson first.</summary>
    public sealed record Finishing(LessonId Lesson) : WouldOpen;
}

/// <summary>An access decision in words: the answer first, then what it rests on, then what would change it.</summary>
/// <param name="Decision">What it explains.</param>
/// <param name="Answer">"Open." or "Locked." or when it opens.</param>
/// <param name="ForMember">One kind sentence to the member.</param>
/// <param name="ForTeam">One sentence with the facts.</param>
/// <param name="RestsOn">The holding, the inclusion and the rule.</param>
public sealed record Why(AccessDecision Decision, string Answer, string ForMember, string ForTeam, IReadOnlyList<string> RestsOn,
    IReadOnlyList<WouldOpen> WouldOpen)
{
    static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");

    /// <summary>Explains the decision about a piece, or about a lesson of it by the lesson's own release.</summary>
    /// <param name="nameOf">Names what an inclusion covers.</param>
    public static Why Explain(AccessBook book, MemberFacts facts, Piece piece, Lesson? lesson, Instant moment, SiteCalendar calendar,
        Func<Coverage, string>? nameOf = null)
    {
        Thing thing = lesson is null ? piece.Id : lesson.Id;
        var decision = book.Decide(facts, thing, moment);
        var holding = decision.Holding < 0 ? null : facts.At(decision.Holding);
        var plan = holding is null ? null : book.Plan(holding.PlanId);
        var inclusion = plan is null || decision.Inclusion < 0 ? null : book.PromiseBehind(facts, decision)[decision.Inclusion];
        string Day(Instant i) => calendar.Date(i).ToString("d MMMM uuuu", English);
        var turn = book.TurnOf(facts, decision, thing);
        var said = new Said(decision, plan?.Name ?? "", holding is null ? "" : Day(holding.StartsAt), Day,
            i => calendar.Local(i).ToString("dddd, d MMMM 'at' HH:mm", English), inclusion, holding, piece, turn);

        var words = Words(said);
        return new(decision, words.Answer, words.Member, words.Team,
            Grounds(book, facts, thing, moment, holding, plan, inclusion, turn, Day, nameOf), Changes(book, decision, thing, moment));
    }

    public static Why Explain(AccessBook book, MemberFacts facts, Piece piece, Instant moment, SiteCalendar calendar) =>
        Explain(book, facts, piece, null, moment, calendar);

    static List<string> Grounds(AccessBook book, MemberFacts facts, Thing thing, Instant moment, Holding? holding, Plan? plan, Inclusion? inclusion,
        Turn? turn, Func<Instant, string> day, Func<Coverage, string>? nameOf)
    {
        var rests = new List<string>();
        if (holding is not null && plan is not null)
        {
            var paid = holding.PaidThrough(facts.AsOf);
            rests.Add(holding.Ending is { } end && end.At <= facts.AsOf
                ? $"{plan.Name}, held from {day(holding.StartsAt)} to {day(end.At)}"
                : holding.StateAt(facts.AsOf) == HoldingState.NotYet ? $"{plan.Name}, to begin on {day(holding.StartsAt)}"
                : $"{plan.Name}, held since {day(holding.StartsAt)}" + (paid is null ? "" : $", paid through {day(paid.Value)}"));
        }
        if (inclusion is not null)
            rests.Add("Promise: " + PromiseWords.Describe(inclusion, nameOf, plan!.IsTier)
                + (holding is not null && holding.LivesBy != plan.PromiseNumber
                    ? $" (version {holding.LivesBy}; who joins now gets version {plan.PromiseNumber})" : ""));
        if (holding?.AllAtOnce == true) rests.Add("It was given all at once: no pace holds it back");
        if (turn is not null)
            rests.Add(
            $"Pace: {PaceWords.Describe(turn.Pace)}; part {turn.Step + 1}{(turn.Moved is null ? "" : ", moved by hand")}, counted from {day(turn.Anchor)}");
        var released = book.ReleaseOf(thing);
        rests.Add(released is null ? "Not released, and no release is planned" : (released <= moment ? "Released " : "Release planned for ")
            + day(released.Value));
        return rests;
    }

    static List<WouldOpen> Changes(AccessBook book, AccessDecision decision, Thing thing, Instant moment)
    {
        var changes = new List<WouldOpen>();
        switch (decision.State)
        {
            case AccessState.OpensAt:
                changes.Add(new WouldOpen.Waiting(decision.OpensAt));
                break;
            case AccessState.Locked when decision.Rule == AccessRule.NoPlace:
                changes.Add(new WouldOpen.TakingAPlace());
                break;
            case AccessState.Locked when decision.Rule is AccessRule.WindowOver or AccessRule.NoDateYet:
                break;
            case AccessState.Locked when decision.Rule == AccessRule.PreviousFirst:
                if (book.Before(thing) is { } before) changes.Add(new WouldOpen.Finishing(before));
                break;
            case AccessState.Locked:
                changes.AddRange(book.PlansThatOpen(thing, moment).Select(p => new WouldOpen.Joining(p)));
                break;
            case AccessState.Hidden when decision.Rule == AccessRule.KeptQuiet:
                changes.AddRange(book.PlansThatOpen(thing, moment).Select(p => new WouldOpen.Joining(p)));
                break;
            case AccessState.Hidden or AccessState.Open:
                break;
        }
        return changes;
    }

    /// <summary>What the sentences speak of.</summary>
    sealed record Said(AccessDecision Decision, string Plan, string Start, Func<Instant, string> Day, Func<Instant, string> Moment, Inclusion? Inclusion,
        Holding? Holding, Piece Piece, Turn? Turn);

    static (string Answer, string Member, string Team) Words(Said said)
    {
        var (d, name, start, day, inclusion, holding) = (said.Decision, said.Plan, said.Start, said.Day, said.Inclusion, said.Holding);
        var coming = d.IsComing ? $" It comes out on {day(d.OpensAt)}." : "";
        var locked = d.IsComing ? $"Locked; comes out {day(d.OpensAt)}." : "Locked.";
        return d.Rule switch
        {
            AccessRule.Team => ("Open.", "You’re on the team.", "The team sees everything."),
            AccessRule.Teaser => ("Open.", "This lesson is open to everybody.", "A teaser: open to everybody."),
            AccessRule.OpenToAll => ("Open.", "This is open to everybody.", "The piece is open to everybody."),
            AccessRule.EverythingReleased => ("Open.", $"{name} opens everything here, old and new.", $"{name} reaches everything released."),
            AccessRule.SinceJoining => ("Open.", $"It came out while you’ve been with {name}.", $"Released after {name} began on {start}."),
            AccessRule.CurrentWhenJoining => ("Open.", $"It was in the edition of the time when you joined {name}.",
                $"Its edition was current when {name} began on {start}."),
            AccessRule.StandingContent => ("Open.", $"It belongs to no month, and is open to everyone with {name}.",
                $"Released outside any edition: open to everyone who joins {name} later."),
            AccessRule.InPaidTime => ("Open.", $"It came out in a time you paid for with {name}.", $"Released or current in a paid stretch of {name}."),
            AccessRule.InLatestEditions => ("Open.", $"It is among the latest that {name} opens.", $"In the latest editions that {name} opens."),
            AccessRule.KeptAfterLeaving => inclusion?.Keep is Keep.ForPeriod kept
                ? ("Open.", $"It had opened while you were with {name}, and stays open for {kept.Length} after.",
                    $"{name} is over, and its promise keeps what had opened for {kept.Length}.")
                : ("Open.", $"It had opened while you were with {name}, and stays yours.", $"{name} is over, and its promise keeps what had opened."),
            AccessRule.WhileHeld => ("Open.", $"It goes on as long as you’re with {name}.", $"{name} is held and covers it."),
            AccessRule.ScheduledRelease => ($"Opens {day(d.OpensAt)}.", $"It isn’t out yet. It opens for you on {day(d.OpensAt)}, by itself.",
                $"It comes out on {day(d.OpensAt)}, and {name} covers it."),
            AccessRule.Paced => ($"Opens {day(d.OpensAt)}.", $"Opens {said.Moment(d.OpensAt)}{Because(said, ": ")}.",
                $"It is its turn on {said.Moment(d.OpensAt)}{Because(said, ", by the pace: ")}."),
            AccessRule.OpensLater => ($"Opens {day(d.OpensAt)}.", $"Opens {said.Moment(d.OpensAt)}, by itself.",
                $"It may be opened from {said.Moment(d.OpensAt)} on" + (name.Length > 0 ? $", and {name} covers it." : ".")),
            AccessRule.HoldingBegins => ($"Opens {day(d.OpensAt)}.", $"{name} begins for you on {said.Moment(d.OpensAt)}, and this opens with it.",
                $"{name} covers it, and begins on {said.Moment(d.OpensAt)}."),
            AccessRule.KeptQuiet => ("Not shown.", "This isn’t here.", "It is out, and kept from those who can’t open it: its doorway is “not found”."),
            AccessRule.NotReleased => ("Hidden.", "This isn’t here yet.", "A draft: members don’t see that it exists."),
            AccessRule.NothingHeld => (locked, "You don’t hold anything that opens this." + coming, "Nothing is held." + coming),
            AccessRule.NotCovered => (locked, "What you hold doesn’t include this one." + coming, "Nothing held covers it." + coming),
            AccessRule.BeforeJoining => (locked, $"It came out before you joined {name} on {start}, and {name} opens what comes after.",
                $"Released before {name} began on {start}; its reach is from joining."),
            AccessRule.OutsidePaidTime => (locked, $"It came out in a time you weren’t paying for {name}.",
                $"Not released or current in any paid stretch of {name}."),
            AccessRule.EndsBefore => (locked, $"Your {name} ends before it comes out." + coming, $"{name} ends before it comes out." + coming),
            AccessRule.HoldingOver => (locked, $"Your {name} has ended. It opens again as soon as you come back.",
                $"{name} is over ({Ended(holding)}), and its promise keeps {(inclusion?.Keep is Keep.WhatHadOpened ? "only what had opened" : "nothing")}."),
            AccessRule.OutOfLatest => (locked, $"Newer ones have taken its place: {name} opens the latest.",
                $"Not in the latest editions that {name} opens any more."),
            AccessRule.InclusionOver => (locked, $"{name} opened this for {inclusion?.Ends} from joining, and that time is over.",
                $"What covers it in {name} ended {inclusion?.Ends} after {start}."),
            AccessRule.WindowOver => (locked, "It could be opened until its time was over.", "The time in which it can be opened is over."),
            AccessRule.NeedUnmet => (locked, $"{name} opens this once something else is done or held as well.",
                $"{name} covers it, and asks for something else that isn’t so."),
            AccessRule.NoDateYet => (locked, "Its date isn’t fixed yet.", $"{name} covers it; its pace names no date for it yet."),
            AccessRule.PreviousFirst => (locked, "It opens as soon as you have finished the one before it.",
                $"{name} covers it; the part before it isn’t done."),
            AccessRule.NoPlace => (locked, "Only so many can take part, and you don’t have a place yet.", $"{name} covers it, but they have no place."),
        };
    }

    static string Because(Said said, string before) => said.Turn is { } turn ? before + Of(turn, said.Piece, said.Day) : "";

    /// <summary>"part 4 of Wintering, one lesson every 7 days since 12 November 2026".</summary>
    public static string Of(Turn turn, Piece piece, Func<Instant, string> day) => $"part {turn.Step + 1} of {piece.Title}, {PaceWords.Describe(turn.Pace)}"
        + turn.Pace switch
        {
            Pace.Steps { From: PaceFrom.Cohort } => $", counted from {day(turn.Anchor)}",
            Pace.Steps => $" since {day(turn.Anchor)}",
            Pace.AtOnce or Pace.OnDates => "",
            _ => throw new InvalidOperationException($"No such pace: {turn.Pace}"),
        };

    static string Ended(Holding? holding) => holding?.Ending?.Reason is { } reason ? reason.Words() : "left";
}
