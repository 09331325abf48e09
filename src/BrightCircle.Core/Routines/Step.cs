using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Routines;

/// <summary>One step of a routine.</summary>
/// <param name="Id">Its number within the routine: it keeps it when it is changed or moved, and no other step ever gets it.</param>
[JsonDerivedType(typeof(SendLetter), "letter")]
[JsonDerivedType(typeof(PutTag), "put-tag")]
[JsonDerivedType(typeof(TakeTag), "take-tag")]
[JsonDerivedType(typeof(Give), "give")]
[JsonDerivedType(typeof(EndGift), "end-gift")]
[JsonDerivedType(typeof(FillField), "fill")]
[JsonDerivedType(typeof(AddTask), "task")]
[JsonDerivedType(typeof(AddNote), "note")]
[JsonDerivedType(typeof(TellProgram), "tell")]
[JsonDerivedType(typeof(Wait), "wait")]
[JsonDerivedType(typeof(WaitForTime), "wait-time")]
[JsonDerivedType(typeof(WaitForDay), "wait-day")]
[JsonDerivedType(typeof(WaitFor), "wait-for")]
[JsonDerivedType(typeof(Branch), "branch")]
[JsonDerivedType(typeof(Split), "split")]
[JsonDerivedType(typeof(Stop), "stop")]
public abstract record Step(int Id)
{
    public const int MostText = 400, MostDays = 366;

    /// <summary>Something is done to, or for, the member.</summary>
    public abstract record Deed(int Id) : Step(Id);
    /// <summary>A letter, written for this step.</summary>
    public sealed record SendLetter(int Id, long Mailing) : Deed(Id);
    public sealed record PutTag(int Id, TagId Tag) : Deed(Id);
    public sealed record TakeTag(int Id, TagId Tag) : Deed(Id);
    /// <summary>A plan as a gift.</summary>
    /// <param name="Days">From the day it is given on; null for good.</param>
    public sealed record Give(int Id, PlanId Plan, int? Days) : Deed(Id);
    /// <summary>Ends a plan they have as a gift; what is paid for stays.</summary>
    public sealed record EndGift(int Id, PlanId Plan) : Deed(Id);
    /// <param name="Text">As it would be typed; empty to take out what stands there.</param>
    public sealed record FillField(int Id, OwnFieldId Field, string Text) : Deed(Id);
    /// <summary>Something for a person of the team to do, on Today until it is done.</summary>
    public sealed record AddTask(int Id, string Text) : Deed(Id);
    /// <summary>A note of the team's about the member.</summary>
    public sealed record AddNote(int Id, string Text) : Deed(Id);

    /// <summary>Another program is told of them, at an address of its own.</summary>
    public sealed record TellProgram(int Id, string Url) : Deed(Id);

    /// <summary>So long; days are calendar days at the same local time.</summary>
    public sealed record Wait(int Id, int Days, int Hours) : Step(Id);
    /// <summary>Until it is next this time of day, on this weekday where one is named. A moment that is just that counts.</summary>
    /// <param name="Weekday">1 for Monday to 7; null for any day.</param>
    public sealed record WaitForTime(int Id, int? Weekday, LocalTime At) : Step(Id);
    /// <summary>Until a moment of the site's calendar; not at all where that is past.</summary>
    public sealed record WaitForDay(int Id, LocalDateTime At) : Step(Id);

    /// <summary>A step with two ways to go on; after either, what follows it goes on for all.</summary>
    public abstract record Fork(int Id, IReadOnlyList<Step> Then, IReadOnlyList<Step> Else) : Step(Id);
    /// <summary>Until something happens, or so many days are over.</summary>
    public sealed record WaitFor(int Id, Trigger What, int Days, IReadOnlyList<Step> Then, IReadOnlyList<Step> Else) : Fork(Id, Then, Else);
    /// <summary>Who belongs to an audience at that moment goes the one way, everybody else the other.</summary>
    public sealed record Branch(int Id, AudienceId Who, IReadOnlyList<Step> Then, IReadOnlyList<Step> Else) : Fork(Id, Then, Else);
    /// <summary>So many of a hundred go the one way, by chance.</summary>
    public sealed record Split(int Id, int Percent, IReadOnlyList<Step> Then, IReadOnlyList<Step> Else) : Fork(Id, Then, Else);
    /// <summary>It ends here.</summary>
    public sealed record Stop(int Id) : Step(Id);

    /// <summary>Itself and all that stands in it, in reading order.</summary>
    public IEnumerable<Step> All() => this is Fork f ? f.Then.Concat(f.Else).SelectMany(s => s.All()).Prepend(this) : [this];

    public bool IsWait => this is Wait or WaitForTime or WaitForDay or WaitFor;

    /// <summary>Until when a wait that begins now lasts; null for a step that is no wait.</summary>
    public Instant? WaitsUntil(Instant now, SiteCalendar calendar) => this switch
    {
        Wait w => calendar.PlusDays(now, w.Days) + Duration.FromHours(w.Hours),
        WaitForTime w => Next(w, now, calendar),
        WaitForDay w => calendar.At(w.At),
        WaitFor w => calendar.PlusDays(now, w.Days),
        Deed or Branch or Split or Stop => null,
        _ => throw new InvalidOperationException($"No such step: {this}"),
    };

    static Instant Next(WaitForTime w, Instant now, SiteCalendar calendar)
    {
        var day = calendar.Date(now);
        if (w.Weekday is { } weekday) day = day.PlusDays((weekday - (int)day.DayOfWeek + 7) % 7);
        var at = calendar.At(day + w.At);
        return at >= now ? at : calendar.At(day.PlusDays(w.Weekday is null ? 1 : 7) + w.At);
    }
}
