using BrightCircle.App.Content;
using BrightCircle.App.Insight;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Web.Parts;

public sealed record WayIn(Plan Plan, IReadOnlyList<Price> Prices, Price Chosen);

/// <summary>What someone meets who may not open a thing, or not yet: why, when it comes, and the way in.</summary>
public sealed record Doorway(BrightPage Page, Piece Piece, Lesson? Lesson, Why Why, WayIn? WayIn, IReadOnlyList<Plan> Others, bool ComesBack)
{
    public string Path => Lesson is { } l ? Page.PathOf(l) : Page.PathOf(Piece);
    public AccessDecision Decision => Why.Decision;
    /// <summary>It comes out at a known moment.</summary>
    public NodaTime.Instant? ComesAt => Decision.IsComing ? Decision.OpensAt : null;
    /// <summary>It opens for them by itself: nothing is sold to them.</summary>
    public bool OpensByItself => Decision.State == AccessState.OpensAt;
    public PlaceState? Places { get; init; }
    /// <summary>What the owner says of it.</summary>
    public DoorwayRule Rule => Page.Now.DoorwayOf(Piece);
    /// <summary>The beginning of the lesson, where that is shown; empty where not.</summary>
    public string Extract { get; init; } = "";
    /// <summary>The owner's words to who stands here.</summary>
    public string Words => OpensByItself ? Rule.NotYet : IsHeldBack ? "" : Page.Visitor.Person is null ? Rule.Strangers : Rule.Members;
    public string Button => ComesBack || Rule.Button.Length == 0 ? "" : Rule.Button;

    /// <summary>What they hold now that would give way to it, and what it costs more each time; null where nothing does.</summary>
    public (Plan Plan, Money? More, Period? Every)? Instead
    {
        get
        {
            if (WayIn is not { } way || Page.Visitor.Person is not { } person) return null;
            foreach (var h in person.Holdings)
                if (Page.Now.PlanById.TryGetValue(h.PlanId, out var plan)
                    && GivesWay.Of(h, plan, way.Plan, way.Chosen.Terms, Page.Moment) is not GivesWay.Stays)
                    return (plan, way.Chosen.Terms.MoreThan(h.Agreement.Terms), way.Chosen.Terms.Interval);
            return null;
        }
    }

    /// <summary>
    /// What answers who may not open something: another page, where the owner wants that, or null where the doorway itself is shown. That it was met is
    /// counted.
    /// </summary>
    public Microsoft.AspNetCore.Mvc.IActionResult? Answer(HttpContext http)
    {
        if (Page.Visitor is { IsTeam: false, IsLooking: false } && HttpMethods.IsGet(http.Request.Method) && !OpensByItself && !IsHeldBack)
            http.RequestServices.GetRequiredService<DoorwayCounts>().Met(Piece.Id);
        return Rule is { Kind: DoorwayKind.AnotherPage, Page: { } page } && !OpensByItself && !IsHeldBack
            ? new Microsoft.AspNetCore.Mvc.RedirectResult(page) : null;
    }

    /// <summary>The same with the beginning of a lesson, where the owner shows it. One round trip.</summary>
    public async Task<Doorway> WithExtract(MemberReader reader, Lesson? lesson, CancellationToken ct)
    {
        if (lesson is null || Rule.Kind != DoorwayKind.Extract || lesson.ReleasedAt is null || ComesAt is not null && !OpensByItself) return this;
        var (contents, _) = await reader.Contents([lesson.Id], ct);
        return contents.TryGetValue(lesson.Id, out var blocks) ? this with { Extract = LessonExtract.Of(blocks, Rule) } : this;
    }

    /// <summary>The lesson that comes first, where that is what it waits for.</summary>
    public Lesson? First => Why.WouldOpen.OfType<WouldOpen.Finishing>().Select(f => Page.Now.LessonById.GetValueOrDefault(f.Lesson)).FirstOrDefault();
    /// <summary>They hold what covers it, and something else keeps it closed: nothing is to be sold.</summary>
    public bool IsHeldBack => Decision.Rule is AccessRule.NoDateYet or AccessRule.WindowOver or AccessRule.NeedUnmet;

    public static Doorway For(BrightPage page, Piece piece, Lesson? lesson, string? price, PlaceState? places = null)
    {
        var now = page.Now;
        var why = Why.Explain(now.Book, page.Visitor.Facts, piece, lesson, page.Moment, now.Calendar, now.NameOf);
        // What they hold already isn't sold to them again; the cheapest that opens this comes first, a pass for it before a tier.
        var held = page.Visitor.Person?.Holdings.Where(h => h.IsHeldAt(page.Moment)).Select(h => h.PlanId).ToHashSet() ?? [];
        var plans = now.OfferedFirst(why.WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan).Where(p => !held.Contains(p.Id))).ToArray();
        // Who held a plan that would open it comes back to that one; a price that was asked for by its link comes before all.
        var before = page.Visitor.Person?.Holdings.LastOrDefault(h => h.StateAt(page.Moment) == HoldingState.Over)?.PlanId;
        var byLink = plans.FirstOrDefault(p => now.PricesOnOffer(p).Any(x => x.Code == price));
        var plan = byLink ?? plans.FirstOrDefault(p => p.Id == before) ?? plans.FirstOrDefault();
        // What they hold covers it; what keeps it closed can't be bought away.
        if (why.Decision.Rule is AccessRule.PreviousFirst or AccessRule.NoDateYet or AccessRule.WindowOver or AccessRule.NeedUnmet) plan = null;
        if (plan is null) return new(page, piece, lesson, why, null, [], false) { Places = places };
        Price[] prices = [.. now.PricesOnOffer(plan)];
        return new(page, piece, lesson, why, new(plan, prices, prices.FirstOrDefault(x => x.Code == price) ?? prices[0]),
            [.. plans.Where(p => p.Id != plan.Id)], plan.Id == before)
        { Places = places };
    }
}
