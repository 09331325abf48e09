using System.Globalization;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>One thing that would change a decision: a plan to join, or a moment to wait for.</summary>
public abstract record WouldOpen
{
    private WouldOpen() { }
    public sealed record Joining(Plan Plan) : WouldOpen;
    public sealed record Waiting(Instant Until) : WouldOpen;
}

/// <summary>An access decision in words: the answer first, then what it rests on, then what would change it.</summary>
/// <param name="Answer">"Open." or "Locked." or when it opens.</param>
/// <param name="ForMember">One kind sentence to the member.</param>
/// <param name="ForTeam">One sentence with the facts.</param>
/// <param name="RestsOn">The holding, the inclusion and the rule.</param>
public sealed record Why(string Answer, string ForMember, string ForTeam, IReadOnlyList<string> RestsOn, IReadOnlyList<WouldOpen> WouldOpen)
{
    static readonly CultureInfo Words = CultureInfo.GetCultureInfo("en-GB");

    public static Why Explain(AccessBook book, MemberFacts facts, Piece piece, Instant moment, SiteCalendar calendar)
        => Explain(book, facts, piece, null, moment, calendar);

    /// <summary>The same for a lesson of the piece, by the lesson's own release.</summary>
    public static Why Explain(AccessBook book, MemberFacts facts, Piece piece, Lesson? lesson, Instant moment, SiteCalendar calendar)
    {
        var decision = lesson is null ? book.Decide(facts, piece.Id, moment) : book.Decide(facts, lesson.Id, moment);
        var holding = decision.Holding < 0 ? null : facts.At(decision.Holding);
        var plan = holding is null ? null : book.Plan(holding.PlanId);
        var inclusion = plan is null || decision.Inclusion < 0 ? null : plan.Promise[decision.Inclusion];
        string Day(Instant i) => calendar.Date(i).ToString("d MMMM uuuu", Words);

        var released = lesson is null ? book.ReleaseOf(piece.Id) : book.ReleaseOf(lesson.Id);
        var isOut = (lesson is null ? piece.ReleasedAt : lesson.ReleasedAt) is not null;
        var rests = new List<string>();
        if (holding is not null && plan is not null)
        {
            var until = holding.PaidThrough(facts.AsOf);
            rests.Add(holding.Ending is { } end && end.At <= facts.AsOf
                ? $"{plan.Name}, held from {Day(holding.StartsAt)} to {Day(end.At)}"
                : $"{plan.Name}, held since {Day(holding.StartsAt)}" + (until is null ? "" : $", paid through {Day(until.Value)}"));
        }
        if (inclusion is not null) rests.Add("Promise: " + Describe(inclusion));
        rests.Add(released is null ? "Not released, and no release is planned"
            : (isOut ? "Released " : "Release planned for ") + Day(released.Value));

        var changes = new List<WouldOpen>();
        if (decision.State == AccessState.OpensAt) changes.Add(new WouldOpen.Waiting(decision.OpensAt));
        if (decision.State == AccessState.Locked)
            changes.AddRange((lesson is null ? book.PlansThatOpen(piece.Id, moment) : book.PlansThatOpen(lesson.Id, moment)).Select(p => new WouldOpen.Joining(p)));

        var name = plan?.Name ?? "";
        var start = holding is null ? "" : Day(holding.StartsAt);
        var (answer, member, team) = decision.Rule switch
        {
            AccessRule.Team => ("Open.", "You’re on the team.", "The team sees everything."),
            AccessRule.Teaser => ("Open.", "This lesson is open to everybody.", "A teaser: open to everybody."),
            AccessRule.EverythingReleased => ("Open.", $"{name} opens everything released here.", $"{name} reaches everything released."),
            AccessRule.SinceJoining => ("Open.", $"It came out while you’ve been with {name}.", $"Released after the start of {name} on {start}."),
            AccessRule.CurrentWhenJoining => ("Open.", $"It was in the edition of the month you joined {name}.", $"Its edition was current when {name} began on {start}."),
            AccessRule.InPaidTime => ("Open.", $"It came out in a time you paid for with {name}.", $"Released or current in a paid interval of {name}."),
            AccessRule.KeptAfterLeaving => ("Open.", $"It had opened while you were with {name}, and stays yours.", $"{name} is over, and its promise keeps what had opened."),
            AccessRule.WhileHeld => ("Open.", $"It goes on as long as you’re with {name}.", $"{name} is held and covers it."),
            AccessRule.ScheduledRelease => ($"Opens {Day(decision.OpensAt)}.", "It isn’t out yet; it opens by itself.", $"Its edition is scheduled, and {name} covers it."),
            AccessRule.NotReleased => ("Hidden.", "This isn’t here yet.", "Not released; members don’t see that it exists."),
            AccessRule.NothingHeld => ("Locked.", "You don’t hold a membership that opens this.", "Nothing is held."),
            AccessRule.NotCovered => ("Locked.", "Your membership doesn’t include this one.", "Nothing held covers it."),
            AccessRule.BeforeJoining => ("Locked.", $"It came out before you joined {name} on {start}, and {name} opens what comes after.", $"Released before {name} began on {start}; its reach is from joining."),
            AccessRule.OutsidePaidTime => ("Locked.", $"It came out in a time you weren’t paying for {name}.", $"Not released or current in any paid interval of {name}."),
            AccessRule.HoldingOver => ("Locked.", $"Your {name} has ended. It opens again as soon as you come back.", $"{name} is over ({EndWords(holding?.Ending?.Reason)}), and its promise keeps {(inclusion?.Keep is Keep.WhatHadOpened ? "only what had opened" : "nothing")}."),
            _ => throw new InvalidOperationException($"No such rule: {decision.Rule}"),
        };
        return new(answer, member, team, rests, changes);
    }

    /// <summary>An inclusion as a sentence part: "everything, from joining on; what had opened stays".</summary>
    public static string Describe(Inclusion inclusion, Func<Coverage, string>? nameOf = null)
    {
        var covers = nameOf?.Invoke(inclusion.Covers) ?? inclusion.Covers switch
        {
            Coverage.Everything => "everything",
            Coverage.OnShelf => "the shelf",
            Coverage.OnePiece => "this piece",
            Coverage.OneModule => "this module",
            Coverage.OneLesson => "this lesson",
            Coverage.OneTally => "the tally",
            _ => throw new InvalidOperationException(),
        };
        return inclusion.Covers is Coverage.OneTally ? $"{covers}, for as long as one stays" : $"{covers}, {ReachWords(inclusion.Reach)}; {KeepWords(inclusion.Keep)}";
    }

    public static string ReachWords(Reach reach) => reach switch
    {
        Reach.EverythingReleased => "all that has been released",
        Reach.FromJoining => "from joining on",
        Reach.WhilePaid => "what comes out while paid",
        _ => throw new InvalidOperationException(),
    };

    public static string KeepWords(Keep keep) => keep switch
    {
        Keep.Nothing => "closes on leaving",
        Keep.WhatHadOpened => "what had opened stays open after leaving",
        _ => throw new InvalidOperationException(),
    };

    /// <summary>Why a holding ended, to stand in a sentence.</summary>
    public static string EndWords(Members.EndReason? reason) => reason switch
    {
        Members.EndReason.Left or null => "left",
        Members.EndReason.Lapsed => "payment failed",
        Members.EndReason.RanOut => "its time ran out",
        Members.EndReason.Replaced => "changed for another",
        Members.EndReason.EndedByTeam => "ended by the team",
        Members.EndReason.Refunded => "refunded",
        Members.EndReason.ChargedBack => "charged back",
        _ => throw new InvalidOperationException(),
    };
}
