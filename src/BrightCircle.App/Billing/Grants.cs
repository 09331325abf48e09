using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What somebody gets without paying for it here.</summary>
/// <param name="From">The first day; null for now. A day that is past makes it as if they had joined then.</param>
/// <param name="Until">The last day; null for good.</param>
/// <param name="Through">The key link, the group's holding or the moving in it comes through.</param>
/// <param name="Quietly">No letter goes out.</param>
public sealed record Grant(PlanId Plan, HoldingSource Source, LocalDate? From = null, LocalDate? Until = null, bool AllAtOnce = false, string? Note = null,
    long? Through = null, int? Seats = null, bool Quietly = false)
{
    public const int MostSeats = 1000;

    /// <summary>Why it can't be so; null where it can.</summary>
    public Result? Wrong(CatalogueSnapshot now)
    {
        static bool Odd(LocalDate? day) => day is { Year: < 2000 or > 2200 };
        return !now.PlanById.ContainsKey(Plan) ? Result.Refused("Choose what to give.", "Plan")
            : Note?.Length > 400 ? Result.Refused("The note is too long; 400 letters are the most.", "Note")
            : Odd(Until) ? Result.Refused("Choose a day within reason.", "Until")
            : Odd(From) ? Result.Refused("Choose a day within reason.", "From")
            : Until < From ? Result.Refused("It can’t end before it begins.", "Until")
            : Seats is < 1 or > MostSeats ? Result.Refused($"A group has 1 to {MostSeats} seats.", "Seats")
            : null;
    }
}

/// <summary>Gives rights: by hand, by a key link, by moving in, to everybody who comes, by a seat. Whoever calls stands within the door.</summary>
public sealed class Grants(BrightContext db, Ids ids, Catalogue catalogue, Tell tell)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>Adds a holding, its fact and the event. It ends nothing else that is held.</summary>
    /// <returns>A refusal where they hold the plan already, or its time is over.</returns>
    public Result<Holding> Give(Membership m, Grant grant, Instant at, TeamActor? by = null)
    {
        if (grant.Wrong(Now) is { } wrong) return wrong;
        var plan = Now.PlanById[grant.Plan];
        if (m.Held(plan.Id, at) is not null) return Result.Refused($"{m.Member.Name} holds {plan.Name} already.", "Plan");
        var today = Now.Calendar.Date(at);
        var start = grant.From is { } day && day != today ? Now.Calendar.At(day.AtMidnight()) : at;
        var end = grant.Until is { } last ? Now.Calendar.At(last.PlusDays(1).AtMidnight()) : (Instant?)null;
        if (end <= at && grant.Source != HoldingSource.MovedIn) return Result.Refused("A gift ends in the future, or never.", "Until");
        if (end <= start) return Result.Refused("It can’t end before it begins.", "Until");
        var holding = new Holding
        {
            Id = ids.Next<HoldingId>(),
            MemberId = m.Member.Id,
            PlanId = plan.Id,
            Source = grant.Source,
            StartsAt = start,
            Agreement = Agreement.ForNothing(start, Now.Calendar.Zone.Id),
            PromiseNumber = plan.PromiseNumber,
            AllAtOnce = grant.AllAtOnce,
            Through = grant.Through,
            Seats = grant.Seats,
            Note = string.IsNullOrWhiteSpace(grant.Note) ? null : grant.Note.Trim(),
        };
        db.Add(holding);
        m.Holdings.Add(holding);
        db.HoldingFacts.Add(holding.Given(start, end, Instant.Min(start, at)));
        // What is over already is written down as such, and nobody is told of it as news.
        if (end <= at) db.HoldingFacts.Add(holding.Ended(end!.Value, EndReason.RanOut));
        tell.Of(m.Member, new Event.Given(holding.Id, plan.Id, grant.Until, grant.Source, start > at ? grant.From : null,
            grant.Quietly || end <= at), at, by);
        return holding;
    }

    /// <summary>Somebody new, with what everybody gets who comes.</summary>
    /// <param name="not">A plan they are about to get anyway.</param>
    public Membership Arrive(string name, string email, Instant at, PlanId? not = null)
    {
        var m = new Membership(db.AddPerson(ids, name, email, at), []);
        if (Now.Site?.ArrivalPlanId is { } plan && plan != not && Now.PlanById.ContainsKey(plan))
            Give(m, new(plan, HoldingSource.Arrival, Quietly: true), at);
        return m;
    }
}
