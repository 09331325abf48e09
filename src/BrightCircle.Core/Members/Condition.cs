using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>When something was, beside today. Days are the site's calendar days.</summary>
[JsonDerivedType(typeof(InLast), "in-last")]
[JsonDerivedType(typeof(LongerAgo), "longer-ago")]
[JsonDerivedType(typeof(Between), "between")]
public abstract record When
{
    private When() { }

    public const int MostDays = 36_500;

    /// <summary>Today or on one of the days before it.</summary>
    /// <param name="Days">From 0 (today only) to <see cref="MostDays"/>.</param>
    public sealed record InLast(int Days) : When;
    /// <summary>Before all of those days.</summary>
    public sealed record LongerAgo(int Days) : When;
    /// <summary>From one day to another, both counted; null leaves a side open.</summary>
    public sealed record Between(LocalDate? From, LocalDate? To) : When;

    /// <summary>The days it is about, seen from one; null leaves a side open.</summary>
    public (LocalDate? From, LocalDate? To) Span(LocalDate today) => this switch
    {
        InLast l => (today.PlusDays(-l.Days), today),
        LongerAgo l => (null, today.PlusDays(-l.Days - 1)),
        Between b => (b.From, b.To),
        _ => throw new InvalidOperationException($"No such time: {this}"),
    };

    /// <summary>The same as moments: from the first on, before the second; null leaves a side open.</summary>
    public (Instant? From, Instant? Before) Moments(LocalDate today, SiteCalendar calendar)
    {
        var (from, to) = Span(today);
        return (from is { } f ? calendar.At(f.AtMidnight()) : null,
            to is { Year: < 9999 } t ? calendar.At(t.PlusDays(1).AtMidnight()) : null);
    }
}

/// <summary>What is asked of a field of the owner's own.</summary>
[JsonDerivedType(typeof(Filled), "filled")]
[JsonDerivedType(typeof(Is), "is")]
[JsonDerivedType(typeof(AtLeast), "at-least")]
[JsonDerivedType(typeof(AtMost), "at-most")]
[JsonDerivedType(typeof(OnDays), "on-days")]
public abstract record FieldTest
{
    private FieldTest() { }
    /// <summary>Something stands in it.</summary>
    public sealed record Filled : FieldTest;
    /// <summary>A text or choice is this one, large or small letters alike.</summary>
    public sealed record Is(string Text) : FieldTest;
    public sealed record AtLeast(decimal Number) : FieldTest;
    public sealed record AtMost(decimal Number) : FieldTest;
    /// <summary>A date lies then.</summary>
    public sealed record OnDays(When When) : FieldTest;
}

/// <summary>
/// A condition over members, asked of the present. It is translated to the database's language in one place; what is meant by each kind stands here.
/// </summary>
[JsonDerivedType(typeof(AllOf), "all")]
[JsonDerivedType(typeof(AnyOf), "any")]
[JsonDerivedType(typeof(NoneOf), "none")]
[JsonDerivedType(typeof(Not), "not")]
[JsonDerivedType(typeof(InStanding), "standing")]
[JsonDerivedType(typeof(Holds), "holds")]
[JsonDerivedType(typeof(Held), "held")]
[JsonDerivedType(typeof(Tagged), "tagged")]
[JsonDerivedType(typeof(Field), "field")]
[JsonDerivedType(typeof(Joined), "joined")]
[JsonDerivedType(typeof(Lapsed), "lapsed")]
[JsonDerivedType(typeof(Seen), "seen")]
[JsonDerivedType(typeof(OpenedPiece), "opened-piece")]
[JsonDerivedType(typeof(OpenedEdition), "opened-edition")]
[JsonDerivedType(typeof(OpenedLink), "opened-link")]
[JsonDerivedType(typeof(Done), "done")]
[JsonDerivedType(typeof(StoppedIn), "stopped-in")]
[JsonDerivedType(typeof(MetTally), "met-tally")]
[JsonDerivedType(typeof(Spent), "spent")]
[JsonDerivedType(typeof(InCohort), "in-cohort")]
[JsonDerivedType(typeof(Named), "named")]
[JsonDerivedType(typeof(WantsNews), "wants-news")]
[JsonDerivedType(typeof(Reads), "reads")]
public abstract record Condition
{
    private Condition() { }

    /// <summary>How deep groups may stand in each other, and how many parts one condition may have.</summary>
    public const int MostDeep = 4, MostParts = 40;

    /// <summary>Conditions that count together.</summary>
    public abstract record Group(IReadOnlyList<Condition> Of) : Condition;
    /// <summary>Every one of them; of none: everybody.</summary>
    public sealed record AllOf(IReadOnlyList<Condition> Of) : Group(Of);
    /// <summary>One of them at least; of none: nobody.</summary>
    public sealed record AnyOf(IReadOnlyList<Condition> Of) : Group(Of);
    /// <summary>Not one of them; of none: everybody.</summary>
    public sealed record NoneOf(IReadOnlyList<Condition> Of) : Group(Of);
    /// <summary>Whoever doesn't fit it.</summary>
    public sealed record Not(Condition Of) : Condition;

    public sealed record InStanding(IReadOnlyList<Standing> Standings) : Condition;
    /// <summary>Holds one of the plans: begun and not over, also while it pauses.</summary>
    /// <param name="Plans">Empty for any.</param>
    /// <param name="Price">By this price only; null for any.</param>
    /// <param name="Source">Through this only; null for any.</param>
    public sealed record Holds(IReadOnlyList<PlanId> Plans, PriceId? Price = null, HoldingSource? Source = null) : Condition;
    /// <summary>Held one of the plans once, and holds none of them now.</summary>
    /// <param name="Plans">Empty for any.</param>
    public sealed record Held(IReadOnlyList<PlanId> Plans) : Condition;
    /// <summary>Bears a tag: put on, or one that follows a condition which they fit.</summary>
    public sealed record Tagged(TagId Tag) : Condition;
    public sealed record Field(OwnFieldId OwnField, FieldTest Test) : Condition;
    /// <summary>The account was made then.</summary>
    public sealed record Joined(When When) : Condition;
    /// <summary>Is lapsed, since then.</summary>
    public sealed record Lapsed(When When) : Condition;
    /// <summary>Was here last then.</summary>
    public sealed record Seen(When When) : Condition;
    /// <summary>Opened a lesson of the piece, ever.</summary>
    public sealed record OpenedPiece(PieceId Piece) : Condition;
    /// <summary>Opened a part of the edition, ever.</summary>
    public sealed record OpenedEdition(EditionId Edition) : Condition;
    /// <summary>Followed a link of a letter to many then, where that was counted.</summary>
    public sealed record OpenedLink(When When) : Condition;
    /// <summary>Finished so many lessons of the piece, of those that are out.</summary>
    /// <param name="Lessons">At least 1; null for all of them.</param>
    public sealed record Done(PieceId Piece, int? Lessons) : Condition;
    /// <summary>Has begun the piece, hasn’t finished all of it that is out, and wasn’t in it for so long.</summary>
    /// <param name="Days">1 to <see cref="MostStopped"/>, each of 24 hours.</param>
    public sealed record StoppedIn(PieceId Piece, int Days) : Condition
    {
        public const int MostStopped = 999;
    }
    /// <summary>Reached the aim of a tally in a week of the site's calendar.</summary>
    /// <param name="WeeksAgo">0 for the week under way.</param>
    public sealed record MetTally(TallyId Tally, int WeeksAgo) : Condition;
    /// <summary>Paid so much in all; what went back isn't counted.</summary>
    public sealed record Spent(Money AtLeast) : Condition;
    public sealed record InCohort(CohortId Cohort) : Condition;
    /// <summary>Letters in a row of the name or the address, large or small.</summary>
    public sealed record Named(string Text) : Condition;
    /// <summary>Takes letters that aren't about their own money and access.</summary>
    public sealed record WantsNews : Condition;
    /// <summary>Would rather be written to in this language than in the site's own.</summary>
    /// <param name="Language">Its two letters; null for whoever asked for no other.</param>
    public sealed record Reads(string? Language) : Condition;

    /// <summary>Everybody.</summary>
    public static Condition Everybody { get; } = new AllOf([]);

    /// <summary>Itself and all that stands in it.</summary>
    public IEnumerable<Condition> Parts() => Inside.SelectMany(c => c.Parts()).Prepend(this);

    IReadOnlyList<Condition> Inside => this is Group g ? g.Of : this is Not n ? [n.Of] : [];

    /// <summary>How many groups stand around its deepest part, itself counted; 0 for something that is no group.</summary>
    public int Depth() => (this is Group ? 1 : 0) + (Inside.Count == 0 ? 0 : Inside.Max(c => c.Depth()));
}
