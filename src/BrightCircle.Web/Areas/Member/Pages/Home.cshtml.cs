using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The member's first page: this month, where they left off, what is coming, their year.</summary>
public sealed class HomeModel(MemberReader reader) : MemberPage
{
    IReadOnlyDictionary<LessonId, OpeningState> openings = new Dictionary<LessonId, OpeningState>();
    readonly Dictionary<PieceId, PieceWay> ways = [];

    public override string Place => "home";
    public YearRing? Ring { get; private set; }
    public Lesson? GoOn { get; private set; }
    public bool GoOnIsNew { get; private set; }
    public IReadOnlyList<(Piece Piece, Lesson Lesson, OpeningState Opening)> LeftOff { get; private set; } = [];
    public int DoneCount => openings.Values.Count(o => o.DoneAt is not null && Now.LessonById.ContainsKey(o.Lesson));
    public (Instant At, string Amount)? NextPayment { get; private set; }
    public string? Problem { get; private set; }

    public PieceWay Way(Piece p) => ways.TryGetValue(p.Id, out var w) ? w : ways[p.Id] = WayOf(p, openings);
    public bool Opened(Piece p) => p.Outline.Lessons.Any(l => openings.ContainsKey(l.Id));
    public bool OpenToMe(Piece p) => Decide(p).IsOpen;
    public Svg.RingFill Fill(RingCell c) => c.State switch
    {
        RingState.Released => c.Parts.Any(Opened) ? Svg.RingFill.Full : c.Parts.Any(p => Decide(p).IsOpen) ? Svg.RingFill.Pale : Svg.RingFill.Empty,
        RingState.Scheduled => Svg.RingFill.Draft,
        _ => Svg.RingFill.Empty,
    };
    public string? Link(RingCell c) => c.State == RingState.Released ? c.Parts.Count == 1 ? PathOf(c.Parts[0]) : PathOf(Now.EditionOf(c.Parts[0])!) : null;
    public string Says(RingCell c) => $"{c.Month.ToString("MMMM", Now.Culture)}, {c.Shelf.Name}: " + c.State switch
    {
        RingState.Released => string.Join(", ", c.Parts.Select(p => p.Title)) + (c.Parts.Any(Opened) ? ", opened" : c.Parts.Any(p => Decide(p).IsOpen) ? ", waiting for you" : ", locked"),
        RingState.Scheduled => "to come",
        _ => "nothing",
    };

    public IReadOnlyList<TallyStanding> Tallies { get; private set; } = [];

    public async Task OnGet()
    {
        var counts = TallyCounts.None;
        if (Visitor.Member is { } member) (openings, counts) = await reader.OpeningsAndTallies(member, Ct);
        if (Visitor.IsMember) Tallies = [.. Now.Tallies.Where(t => t.ArchivedAt is null && (Decide(t).IsOpen || counts.Of(t.Id).ContainsKey(ThisWeek))).Select(t => StandingOf(t, counts))];
        if (Now.Shelves.Count > 0) Ring = Now.PublicRingFrom(YearRing.WindowAround(Now.Calendar.Month(Moment)));
        LeftOff = [.. openings.Values.Where(o => o.DoneAt is null && Now.LessonById.ContainsKey(o.Lesson)).OrderByDescending(o => o.LastAt).Select(o => (Now.PieceOf(Now.LessonById[o.Lesson]), Now.LessonById[o.Lesson], o)).Where(x => Decide(x.Item2).IsOpen).DistinctBy(x => x.Item1.Id).Take(4)];
        var parts = Now.CurrentEdition is { } e ? Now.PartsOf[e.Id].Where(p => p.State == PieceState.Released && Decide(p).IsOpen).ToArray() : [];
        var begun = parts.FirstOrDefault(p => Way(p) is { Begun: true, Done: false });
        var fresh = parts.FirstOrDefault(p => Way(p) is { Begun: false, GoOn: not null });
        GoOn = begun is not null ? Way(begun).GoOn : fresh is not null ? Way(fresh).GoOn : LeftOff.Count > 0 ? LeftOff[0].Lesson : parts.SelectMany(p => p.Outline.Lessons).FirstOrDefault(l => Decide(l).IsOpen);
        GoOnIsNew = begun is null && fresh is not null;

        foreach (var h in Visitor.Person?.Holdings ?? [])
        {
            var state = h.StateAt(Moment);
            if (state == HoldingState.Grace) Problem = $"Your last payment for {Now.PlanName(h.PlanId)} didn’t go through. Everything stays open until {FullDay(h.GraceAt(Moment)!.To!.Value)}.";
            if (state is HoldingState.Active or HoldingState.Trial && h.PriceId is { } p && Now.PriceById[p].Terms is PriceTerms.Recurring r && h.PaidThrough(Moment) is { } at && at > Moment) NextPayment = (at, Money(r.Amount));
        }
    }
}
