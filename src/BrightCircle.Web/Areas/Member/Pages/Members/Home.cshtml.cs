using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The member's first page: this month, where they left off, what is coming, their year.</summary>
public sealed class HomeModel(MemberReader reader, TakeFirstSteps steps) : MemberPage
{
    IReadOnlyDictionary<LessonId, OpeningState> openings = new Dictionary<LessonId, OpeningState>();
    readonly Dictionary<PieceId, PieceWay> ways = [];

    const int MostNew = 12, MostComing = 4, MostSessions = 2;
    static readonly Duration Recent = Duration.FromDays(40);

    public override string Place => "home";
    public override bool KeptOffline => true;
    /// <summary>Of this edition something is open that they haven’t opened.</summary>
    public bool HasFresh { get; private set; }
    public Edition? Edition { get; private set; }
    /// <summary>All that is open to them, the newest first; the first few.</summary>
    public IReadOnlyList<Released> Newest { get; private set; } = [];
    /// <summary>New for them of late, and not in the edition shown.</summary>
    public IReadOnlyList<Released> AlsoNew { get; private set; } = [];
    public IReadOnlyList<Released> Coming { get; private set; } = [];
    public IReadOnlyList<Core.Community.LiveSession> NextSessions { get; private set; } = [];
    /// <summary>Somebody wrote to them, and they haven’t read it.</summary>
    public bool Unread { get; private set; }
    /// <summary>Hours they have with a host.</summary>
    public IReadOnlyList<(LiveSeriesId Series, Instant At)> Hours { get; private set; } = [];
    /// <summary>Challenges they take part in that aren't over.</summary>
    public IReadOnlyList<Core.Community.Challenge> TheirChallenges { get; private set; } = [];
    public LocalDate Today => Now.Calendar.Date(Moment);
    public YearRing? Ring { get; private set; }
    public Lesson? GoOn { get; private set; }
    public bool GoOnIsNew { get; private set; }
    public IReadOnlyList<(Piece Piece, Lesson Lesson, OpeningState Opening)> LeftOff { get; private set; } = [];
    public int DoneCount => openings.Values.Count(o => o.DoneAt is not null && Now.LessonById.ContainsKey(o.Lesson));
    public (Instant At, string Amount)? NextPayment { get; private set; }
    public string? Problem { get; private set; }

    public PieceWay Way(Piece p) => ways.TryGetValue(p.Id, out var w) ? w : ways[p.Id] = WayOf(p, openings);
    public bool Opened(Piece p) => p.Outline.Lessons.Any(l => openings.ContainsKey(l.Id));
    public Svg.RingFill Fill(RingCell c) => c.State switch
    {
        RingState.Released => c.Parts.Any(Opened) ? Svg.RingFill.Full : c.Parts.Any(p => Decide(p).IsOpen) ? Svg.RingFill.Pale : Svg.RingFill.Empty,
        RingState.Scheduled => Svg.RingFill.Draft,
        _ => Svg.RingFill.Empty,
    };
    public string? Link(RingCell c) => c.State == RingState.Released ? c.Parts.Count == 1 ? PathOf(c.Parts[0]) : PathOf(Now.EditionOf(c.Parts[0])!) : null;
    public string Says(RingCell c) => $"{c.Month.ToString("MMMM", Now.Culture)}, {c.Shelf.Name}: " + c.State switch
    {
        RingState.Released => string.Join(", ", c.Parts.Select(p => p.Title))
            + (c.Parts.Any(Opened) ? ", opened" : c.Parts.Any(p => Decide(p).IsOpen) ? ", waiting for you" : ", locked"),
        RingState.Scheduled => "to come",
        _ => "nothing",
    };

    public IReadOnlyList<TallyStanding> Tallies { get; private set; } = [];

    /// <summary>What they bought or were given by itself, each with where to go on: it stands first.</summary>
    public IReadOnlyList<(Plan Plan, Piece? Piece, PieceWay? Way)> Bought { get; private set; } = [];

    (Plan, Piece?, PieceWay?) Has(Plan plan)
    {
        var piece = plan.Promise.Select(i => i.Covers).OfType<Coverage.OnePiece>().Select(c => Now.PieceById.GetValueOrDefault(c.Piece))
            .FirstOrDefault(p => p is not null && Decide(p).IsKnown);
        return (plan, piece, piece is null ? null : Way(piece));
    }

    /// <param name="in">They have just signed in: a plan can have a page of its own for that.</param>
    public async Task<IActionResult> OnGet(int @in = 0)
    {
        var held = (Visitor.Person?.Holdings ?? []).Where(h => h.IsHeldAt(Moment)).Select(h => Now.PlanById[h.PlanId]).ToArray();
        if (@in == 1 && held.OrderByDescending(p => p.Rank).FirstOrDefault(p => p.StartPath.Length > 0) is { } start && start.StartPath != "/me")
            return Redirect(start.StartPath);

        var (counts, settled) = (TallyCounts.None, FirstStepsState.None);
        var begins = FirstSteps.IsNew(Visitor.Person?.JoinedAt, Moment) || held.Any(p => p.StartPieceId is not null);
        if (Visitor.Member is { } member) (openings, counts, settled, Hours, Unread) = await reader.Home(member, begins, Moment, Ct);
        if (Visitor.IsMember) Tallies = [.. Now.Tallies.Where(t => t.ArchivedAt is null && (Decide(t).IsOpen || counts.Of(t.Id).ContainsKey(ThisWeek)))
            .Select(t => StandingOf(t, counts))];
        if (Now.Shelves.Count > 0) Ring = Now.PublicRingFrom(YearRing.WindowAround(Now.Calendar.Month(Moment)));
        var open = Now.OpenTo(Visitor.Facts, Moment).ToArray();
        Newest = [.. open.Take(MostNew)];
        // The newest edition of which anything is theirs, whatever its span and whatever it is made of.
        Edition = Now.Editions.Where(e => (e.ReleasedAt ?? (e.Scheduled ? e.ReleaseAt : Instant.MaxValue)) <= Moment).Reverse()
            .FirstOrDefault(e => TheirsIn(e).Any());
        AlsoNew = [.. Newest.Where(r => r.At > Moment - Recent && (Edition is null || !IsIn(Edition, r)))];
        NextSessions = [.. SessionsAhead.Take(MostSessions)];
        Coming = [.. Now.ComingTo(Visitor.Facts, Moment).Take(MostComing)];
        LeftOff = [.. openings.Values.Where(o => o.DoneAt is null && Now.LessonById.ContainsKey(o.Lesson)).OrderByDescending(o => o.LastAt)
            .Select(o => (Now.PieceOf(Now.LessonById[o.Lesson]), Now.LessonById[o.Lesson], o)).Where(x => Decide(x.Item2).IsOpen).DistinctBy(x => x.Item1.Id)
                .Take(4)];
        Lesson[] current = Edition is { } e ? [.. TheirsIn(e).SelectMany(r => r.Lesson is { } l ? [l] : r.Piece.Outline.Lessons.Where(x => Decide(x).IsOpen))]
            : [];
        var begun = current.FirstOrDefault(l => openings.TryGetValue(l.Id, out var o) && o.DoneAt is null);
        var fresh = current.FirstOrDefault(l => !openings.ContainsKey(l.Id));
        HasFresh = fresh is not null;
        GoOn = begun ?? fresh ?? (LeftOff.Count > 0 ? LeftOff[0].Lesson : null)
            ?? Newest.Select(r => r.Lesson ?? r.Piece.Outline.Lessons.FirstOrDefault(l => Decide(l).IsOpen)).FirstOrDefault(l => l is not null);
        GoOnIsNew = begun is null && GoOn is not null && !openings.ContainsKey(GoOn.Id);
        if (Visitor.IsMember) TheirChallenges = [.. Now.Community.Challenges.Where(c => TakesPart(c) && !c.IsOver(Today))];
        // A challenge stands by itself.
        Bought = [.. held.Where(p => !p.IsTier && Now.Community.ChallengeOf(p.Id) is null).DistinctBy(p => p.Id).Select(Has)];
        if (Visitor.IsMember && begins) Begin(held, settled);
        Owed();
        return Page();
    }

    /// <summary>What newcomers are asked to do first; empty once nothing is left.</summary>
    public IReadOnlyList<(FirstStep Step, bool Done)> FirstStepsLeft { get; private set; } = [];
    /// <summary>What to start with, until it is done or put away.</summary>
    public Piece? StartHere { get; private set; }
    /// <summary>Where they go on with it.</summary>
    public string StartPath => Way(StartHere!).GoOn is { } lesson ? PathOf(lesson) : PathOf(StartHere!);

    void Begin(IEnumerable<Plan> held, FirstStepsState settled)
    {
        // Of several plans that start with something, the highest that isn't done yet.
        var starts = held.OrderByDescending(p => p.Rank).Select(Now.StartOf).OfType<Piece>().Where(p => Way(p).Progress.Of > 0).ToArray();
        var start = starts.FirstOrDefault(p => !Way(p).Done) ?? starts.FirstOrDefault();
        FirstStepsLeft = FirstSteps.For(Now.Site!.FirstSteps, settled.Done, settled.PutAway, Now.OwnFields.Any(f => f.IsTheirs), start is not null,
            start is not null && Way(start).Done, Visitor.Person!.JoinedAt, Moment);
        if (FirstStepsLeft.Any(s => s is (FirstStep.StartHere, false))) StartHere = start;
    }

    public async Task<IActionResult> OnPostHello(string? hello)
    {
        var done = await steps.SayHello(Member, hello, Ct);
        Tell(done.Ok ? "Thank you. Your words are with us." : done.Refusal!);
        return Redirect("/me");
    }

    /// <param name="step">Null for all of them.</param>
    public async Task<IActionResult> OnPostAway(FirstStep? step)
    {
        // What is no step puts nothing away.
        if (ModelState.IsValid && (step is null || Enum.IsDefined(step.Value))) await steps.PutAway(Member, step, Ct);
        return Redirect("/me");
    }

    void Owed()
    {
        foreach (var h in Visitor.Person?.Holdings ?? [])
        {
            var owes = Obligations.Of(h, Moment);
            if (owes.IsOverdue)
                Problem = $"Your last payment for {Now.PlanName(h.PlanId)} didn’t go through. "
                    + (owes.GraceUntil is { } until ? $"Everything stays open until {FullDay(until)}." : "It is closed until that is paid.");
            else if (owes.Next is { } next && next.DueAt > Moment && (NextPayment is null || next.DueAt < NextPayment.Value.At))
                NextPayment = (next.DueAt, Money(next.Amount));
        }
    }

    /// <summary>What of an edition is open to them: pieces in order, then lessons of other pieces.</summary>
    public IEnumerable<Released> TheirsIn(Edition e) =>
        // To the team drafts are open too, and they have come out nowhere.
        Now.PartsOf[e.Id].Where(p => Now.Book.ReleaseOf(p.Id) is not null && Now.Book.OpensPartOf(Visitor.Facts, p.Id, Moment))
            .Select(p => new Released(Now.Book.ReleaseOf(p.Id)!.Value, p, null))
            .Concat(Now.LessonPartsOf[e.Id].Where(l => Now.Book.ReleaseOf(l.Id) is not null && Decide(l).IsOpen)
                .Select(l => new Released(Now.Book.ReleaseOf(l.Id)!.Value, Now.PieceOf(l), l)));

    static bool IsIn(Edition e, Released r) => r.Lesson is { EditionId: { } own } ? own == e.Id : r.Piece.EditionId == e.Id;
}
