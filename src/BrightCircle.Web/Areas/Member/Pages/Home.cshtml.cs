using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The member's first page: this month, where they left off, what is coming, their year.</summary>
public sealed class HomeModel(MemberReader reader) : MemberPage
{
    Dictionary<PieceId, OpeningState> openings = [];

    public override string Place => "home";
    public YearRing? Ring { get; private set; }
    public Piece? GoOn { get; private set; }
    public bool GoOnIsNew { get; private set; }
    public IReadOnlyList<(Piece Piece, OpeningState Opening)> LeftOff { get; private set; } = [];
    public int DoneCount => openings.Values.Count(o => o.DoneAt is not null);
    public (Instant At, string Amount)? NextPayment { get; private set; }
    public string? Problem { get; private set; }

    public OpeningState? Opened(Piece p) => openings.GetValueOrDefault(p.Id);
    public Svg.RingFill Fill(RingCell c) => c.State switch
    {
        RingState.Released => c.Parts.Any(p => Opened(p) is not null) ? Svg.RingFill.Full : c.Parts.Any(p => Decide(p).IsOpen) ? Svg.RingFill.Pale : Svg.RingFill.Empty,
        RingState.Scheduled => Svg.RingFill.Draft,
        _ => Svg.RingFill.Empty,
    };
    public string? Link(RingCell c) => c.State == RingState.Released ? c.Parts.Count == 1 ? PathOf(c.Parts[0]) : PathOf(Now.EditionOf(c.Parts[0])!) : null;
    public string Says(RingCell c) => $"{c.Month.ToString("MMMM", Now.Culture)}, {c.Shelf.Name}: " + c.State switch
    {
        RingState.Released => string.Join(", ", c.Parts.Select(p => p.Title)) + (c.Parts.Any(p => Opened(p) is not null) ? ", opened" : c.Parts.Any(p => Decide(p).IsOpen) ? ", waiting for you" : ", locked"),
        RingState.Scheduled => "to come",
        _ => "nothing",
    };

    public async Task OnGet()
    {
        if (Visitor.Member is { } member) openings = (await reader.Openings(member, Ct)).ToDictionary(o => o.Piece);
        if (Now.Shelves.Count > 0) Ring = Now.PublicRingFrom(YearRing.WindowAround(Now.Calendar.Month(Moment)));
        LeftOff = [.. openings.Values.Where(o => o.DoneAt is null && Now.PieceById.ContainsKey(o.Piece)).OrderByDescending(o => o.LastAt).Select(o => (Now.PieceById[o.Piece], o)).Where(x => Decide(x.Item1).IsOpen).Take(4)];
        var parts = Now.CurrentEdition is { } e ? Now.PartsOf[e.Id].Where(p => Decide(p).IsOpen && p.State == PieceState.Released).ToArray() : [];
        GoOn = parts.FirstOrDefault(p => Opened(p) is { DoneAt: null }) ?? parts.FirstOrDefault(p => Opened(p) is null) ?? (LeftOff.Count > 0 ? LeftOff[0].Piece : parts.FirstOrDefault());
        GoOnIsNew = GoOn is not null && Opened(GoOn) is null;

        foreach (var h in Visitor.Person?.Holdings ?? [])
        {
            var state = h.StateAt(Moment);
            if (state == HoldingState.Grace) Problem = $"Your last payment for {Now.PlanName(h.PlanId)} didn’t go through. Everything stays open until {FullDay(h.GraceAt(Moment)!.To!.Value)}.";
            if (state is HoldingState.Active or HoldingState.Trial && h.PriceId is { } p && Now.PriceById[p].Terms is PriceTerms.Recurring r && h.PaidThrough(Moment) is { } at && at > Moment) NextPayment = (at, Money(r.Amount));
        }
    }
}
