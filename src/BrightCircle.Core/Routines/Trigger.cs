using System.Text.Json.Serialization;
using BrightCircle.Core.Events;
using NodaTime;

namespace BrightCircle.Core.Routines;

/// <summary>Something that happens to a member: it begins a routine, ends a wait, or is what a routine is for.</summary>
[JsonDerivedType(typeof(Joins), "joins")]
[JsonDerivedType(typeof(Gets), "gets")]
[JsonDerivedType(typeof(Pays), "pays")]
[JsonDerivedType(typeof(PaymentFails), "payment-fails")]
[JsonDerivedType(typeof(Recovers), "recovers")]
[JsonDerivedType(typeof(Leaves), "leaves")]
[JsonDerivedType(typeof(PlanEnds), "plan-ends")]
[JsonDerivedType(typeof(Opens), "opens")]
[JsonDerivedType(typeof(Finishes), "finishes")]
[JsonDerivedType(typeof(HandsIn), "hands-in")]
[JsonDerivedType(typeof(GetsTag), "gets-tag")]
[JsonDerivedType(typeof(SignsIn), "signs-in")]
[JsonDerivedType(typeof(Reported), "reported")]
[JsonDerivedType(typeof(EditionOpens), "edition-opens")]
[JsonDerivedType(typeof(DayOf), "day-of")]
[JsonDerivedType(typeof(NotSeen), "not-seen")]
[JsonDerivedType(typeof(TallyWeek), "tally-week")]
public abstract record Trigger
{
    private Trigger() { }

    /// <summary>A trigger that rests on plans.</summary>
    /// <param name="Plans">Empty for any.</param>
    public abstract record OfPlans(IReadOnlyList<PlanId> Plans) : Trigger
    {
        internal bool Is(PlanId plan) => Plans.Count == 0 || Plans.Contains(plan);
    }

    /// <summary>Joins a plan by a price, paid or free.</summary>
    /// <param name="Price">By this price only; null for any.</param>
    /// <param name="Returning">Only somebody who held something before (true), only somebody who didn't (false), either (null).</param>
    public sealed record Joins(IReadOnlyList<PlanId> Plans, PriceId? Price = null, bool? Returning = null) : OfPlans(Plans);
    /// <summary>Gets a plan without paying for it: by hand, by a key link, a seat, or as everybody does.</summary>
    public sealed record Gets(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>A payment came in.</summary>
    public sealed record Pays(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>A payment failed.</summary>
    /// <param name="Plans">Empty for any.</param>
    public sealed record PaymentFails(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>A payment came in after one had failed.</summary>
    public sealed record Recovers(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>Decided to leave.</summary>
    public sealed record Leaves(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>A plan is over for them, and none took its place.</summary>
    public sealed record PlanEnds(IReadOnlyList<PlanId> Plans) : OfPlans(Plans);
    /// <summary>Opened a lesson for the first time.</summary>
    /// <param name="Piece">Of this piece; null for any.</param>
    public sealed record Opens(PieceId? Piece) : Trigger;
    /// <summary>Finished a lesson.</summary>
    public sealed record Finishes(LessonId Lesson) : Trigger;
    /// <summary>Handed in a sheet or a form of a lesson.</summary>
    /// <param name="Passed">Only what was passed (true) or wasn't (false); null for either.</param>
    public sealed record HandsIn(LessonId Lesson, bool? Passed = null) : Trigger;
    /// <summary>A tag was put on them.</summary>
    public sealed record GetsTag(TagId Tag) : Trigger;
    public sealed record SignsIn : Trigger;

    /// <summary>Another program told of them, under a name.</summary>
    /// <param name="Name">As it was agreed with that program; capitals don't count.</param>
    public sealed record Reported(string Name) : Trigger
    {
        public const int MostName = 40;
    }

    /// <summary>What is no event of a member's: it can begin a routine, and nothing waits for it.</summary>
    public abstract record NoEvent : Trigger;
    /// <summary>An edition has come out, and something of it opens for them.</summary>
    public sealed record EditionOpens : NoEvent;

    /// <summary>What doesn't happen at a moment but is looked for every morning.</summary>
    public abstract record OfDays : NoEvent;
    /// <summary>The day in one of the owner's own fields has come.</summary>
    /// <param name="DaysBefore">So many days before it, from 0 to <see cref="MostDays"/>.</param>
    /// <param name="EveryYear">The same day of each year, as with birthdays; 29 February is the 28th where there is none.</param>
    public sealed record DayOf(OwnFieldId Field, int DaysBefore, bool EveryYear) : OfDays;
    /// <summary>Wasn't here for so many days.</summary>
    /// <param name="Days">From 1 to <see cref="MostDays"/>.</param>
    public sealed record NotSeen(int Days) : OfDays;
    /// <summary>A week of the site's calendar is over, and the aim of a tally was met or missed in it.</summary>
    public sealed record TallyWeek(TallyId Tally, bool Met) : OfDays;

    public const int MostDays = 366;

    /// <summary>Whether an event is this. What is looked for every morning is no event.</summary>
    public bool Hears(Event what) => this switch
    {
        Joins c => what is Event.Joined e && c.Is(e.Plan) && (c.Price is null || c.Price == e.Price) && (c.Returning is null || c.Returning == e.Returned),
        Gets c => what is Event.Given { From: null } e && c.Is(e.Plan) || what is Event.Begun b && c.Is(b.Plan),
        Pays c => what is Event.Paid e && c.Is(e.Plan),
        PaymentFails c => what is Event.PaymentFailed e && c.Is(e.Plan),
        Recovers c => what is Event.Paid { Recovered: true } e && c.Is(e.Plan),
        Leaves c => what is Event.Left { ChangedPlan: false } e && c.Is(e.Plan),
        PlanEnds c => what is Event.Ended { Reason: not (EndReason.Replaced or EndReason.TakenBack or EndReason.CalledOff) } e && c.Is(e.Plan),
        Opens c => what is Event.Opened e && (c.Piece is null || e.Piece == c.Piece),
        Finishes c => what is Event.Finished e && e.Lesson == c.Lesson,
        HandsIn c => what is Event.HandedIn e && e.Lesson == c.Lesson && (c.Passed is null || c.Passed == e.Passed)
            || what is Event.Marked m && m.Lesson == c.Lesson && c.Passed is { } passed && m.Passed == passed,
        GetsTag c => what is Event.TagPutOn e && e.Tag == c.Tag,
        SignsIn => what is Event.SignedIn,
        Reported c => what is Event.Reported e && string.Equals(e.Name, c.Name, StringComparison.OrdinalIgnoreCase),
        NoEvent => false,
        _ => throw new InvalidOperationException($"No such trigger: {this}"),
    };

    /// <summary>The kinds of events among which it can be.</summary>
    public IReadOnlyList<string> Kinds => this switch
    {
        Joins => [Event.KindOf<Event.Joined>()],
        Gets => [Event.KindOf<Event.Given>(), Event.KindOf<Event.Begun>()],
        Pays or Recovers => [Event.KindOf<Event.Paid>()],
        PaymentFails => [Event.KindOf<Event.PaymentFailed>()],
        Leaves => [Event.KindOf<Event.Left>()],
        PlanEnds => [Event.KindOf<Event.Ended>()],
        Opens => [Event.KindOf<Event.Opened>()],
        Finishes => [Event.KindOf<Event.Finished>()],
        HandsIn => [Event.KindOf<Event.HandedIn>(), Event.KindOf<Event.Marked>()],
        GetsTag => [Event.KindOf<Event.TagPutOn>()],
        SignsIn => [Event.KindOf<Event.SignedIn>()],
        Reported => [Event.KindOf<Event.Reported>()],
        NoEvent => [],
        _ => throw new InvalidOperationException($"No such trigger: {this}"),
    };

    /// <summary>The days that a field has to hold for <see cref="DayOf"/> to come today.</summary>
    /// <returns>Month and day, each year; two of them on 28 February of a year without a 29th.</returns>
    public static IReadOnlyList<(int Month, int Day)> DaysOfYear(LocalDate day) => day is { Month: 2, Day: 28 } && !CalendarSystem.Iso.IsLeapYear(day.Year)
        ? [(2, 28), (2, 29)] : [(day.Month, day.Day)];
}
