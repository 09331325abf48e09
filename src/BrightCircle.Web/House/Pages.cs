using BrightCircle.App.Releases;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;

namespace BrightCircle.Web.House;

/// <summary>What every page has at hand: the catalogue, the moment, the visitor, and the words for figures.</summary>
public abstract class BrightPage : PageModel
{
    CatalogueSnapshot? now;
    Visitor? visitor;
    Instant? moment;

    protected T Get<T>() where T : notnull => HttpContext.RequestServices.GetRequiredService<T>();
    public CatalogueSnapshot Now => now ??= Get<Catalogue>().Now;
    public Visitor Visitor => visitor ??= Get<Visitor>();
    /// <summary>The house clock, read once for the whole page; or the day the team looks at.</summary>
    public Instant Moment => moment ??= Visitor.Look?.At ?? Get<IClock>().GetCurrentInstant();
    protected CancellationToken Ct => HttpContext.RequestAborted;

    public string Money(Money m) => m.Format(Now.Culture);
    public string Short(Money m) => m.FormatShort(Now.Culture);
    /// <summary>"3 Dec 2026", without the year in the current one.</summary>
    public string Day(Instant at)
    {
        var date = Now.Calendar.Date(at);
        return date.ToString(date.Year == Now.Calendar.Date(Moment).Year ? "d MMM" : "d MMM uuuu", Now.Culture);
    }
    public string FullDay(Instant at) => Now.Calendar.Date(at).ToString("d MMMM uuuu", Now.Culture);
    /// <summary>The last day of what ends at a moment: where it ends as a day begins, the day before.</summary>
    public string LastDayOf(Instant ends) => FullDay(ends - Duration.Epsilon);
    /// <summary>"Thu 3 Dec, 09:00".</summary>
    public string DayTime(Instant at) => Now.Calendar.Local(at).ToString("ddd d MMM, HH:mm", Now.Culture);
    public string Ago(Instant at) => Say.Relative(at, Moment, Now.Calendar);
    public string Count(long n, string one, string? many = null) => Say.Count(n, one, many);
    public AccessDecision Decide(Piece p) => Now.Book.Decide(Visitor.Facts, p.Id, Moment);
    public AccessDecision Decide(Tally t) => Now.Book.Decide(Visitor.Facts, t.Id, Moment);
    public AccessDecision Decide(Lesson l) => Now.Book.Decide(Visitor.Facts, l.Id, Moment);
    public AccessDecision Decide(Released r) => Now.Book.Decide(Visitor.Facts, r.Thing, Moment);
    /// <summary>What would open a piece to somebody who can’t: "with Keeper", or when it opens by itself; empty where nothing on offer does.</summary>
    public string WayTo(Piece p)
    {
        if (Decide(p) is { State: AccessState.OpensAt } d) return $"opens {Ago(d.OpensAt)}";
        var plan = Now.OfferedFirst(Now.Book.PlansThatOpen(p.Id, Moment)).FirstOrDefault();
        return plan is null ? "" : $"with {plan.Name}";
    }

    public string PathOf(Released r) => r.Lesson is { } l ? PathOf(l) : PathOf(r.Piece);
    static System.Collections.Concurrent.ConcurrentDictionary<string, string> slugs = new();
    static int slugsMade;

    /// <summary>A title as it stands in an address.</summary>
    public static string Slug(string title)
    {
        if (slugs.TryGetValue(title, out var slug)) return slug;
        // Titles are few and asked for on every page; should they ever be many, the memory is begun anew. Counted here, since asking the memory for its size
        // locks all of it.
        if (Interlocked.Increment(ref slugsMade) % 100_000 == 0) slugs = new();
        return slugs.GetOrAdd(title, SitePage.SlugOf);
    }

    public string PathOf(Piece p) => $"/read/{p.Id.Value}/{Slug(p.Title)}";
    /// <summary>A lesson of a course has a page of its own; the single lesson of a piece is read on the piece's.</summary>
    public string PathOf(Lesson l) => Now.PieceOf(l) is { IsCourse: false } piece ? PathOf(piece) : $"/lessons/{l.Id.Value}/{Slug(l.Title)}";
    public string PathOf(Edition e) => EditionPath.Of(e);

    /// <summary>How far somebody has come with a piece: over the lessons open to them.</summary>
    public PieceWay WayOf(Piece p, IReadOnlyDictionary<LessonId, OpeningState> openings)
    {
        int done = 0, of = 0;
        NodaTime.Instant? last = null;
        Lesson? goOn = null;
        foreach (var l in p.Outline.Lessons)
        {
            if (l.ReleasedAt is null || !Decide(l).IsOpen) continue;
            of++;
            if (!openings.TryGetValue(l.Id, out var o))
            {
                goOn ??= l;
                continue;
            }
            if (last is null || o.LastAt > last) last = o.LastAt;
            if (o.DoneAt is not null) done++;
            else goOn ??= l;
        }
        return new(new(done, of), last, goOn);
    }

    /// <summary>The week under way where the shown person is.</summary>
    public IsoWeek ThisWeek => IsoWeek.Of(Now.Calendar.Of(Visitor.Person?.ZoneId).Date(Moment));
    public TallyStanding StandingOf(Tally tally, TallyCounts counts) => TallyStanding.Of(tally, counts.Of(tally.Id), ThisWeek);

    /// <summary>A member may keep what stands on it, to read it where there is no network.</summary>
    public virtual bool KeptOffline => false;
    /// <summary>The page is a member's own: the team doesn't look through their eyes.</summary>
    public bool IsMembersOwn => Visitor is { IsMember: true, IsLooking: false };

    public override void OnPageHandlerExecuted(PageHandlerExecutedContext context)
    {
        if (context.Result is PageResult && KeptOffline && IsMembersOwn) Response.Headers["Keep-Offline"] = "yes";
    }

    /// <summary>A refusal, said where it belongs in the form.</summary>
    protected void Refuse(string why, string? field = null) => ModelState.AddModelError(field ?? "", why);

    /// <summary>A sentence shown once at the top of the next page.</summary>
    protected void Tell(string note)
    {
        TempData["note"] = note;
        told = true;
    }

    /// <summary>Notes come with a cookie. Without one they aren't even looked for: whoever looks has the cookie taken back, on every answer.</summary>
    public string? Told => told || Request.Cookies.ContainsKey(NoteCookie) ? TempData["note"] as string : null;
    bool told;
    internal const string NoteCookie = "bright-note";
}

/// <summary>How far somebody has come with a piece.</summary>
/// <param name="Progress">Lessons done, of those open to them.</param>
/// <param name="LastAt">When they were last in it; null for never.</param>
/// <param name="GoOn">The first lesson that isn't done.</param>
public sealed record PieceWay(Progress Progress, Instant? LastAt, Lesson? GoOn)
{
    public bool Begun => LastAt is not null;
    public bool Done => Progress.IsComplete;
    public string Word => Done ? "done" : !Begun ? "" : Progress.Of > 1 ? $"{Progress.Done} of {Progress.Of} done" : "begun";
}

/// <summary>A page of the Desk: for the team only.</summary>
public abstract class DeskPage : BrightPage
{
    public App.TeamActor Actor => Visitor.Actor;
    public bool IsOwner => Actor.Role == TeamRole.Owner;
    /// <summary>Whether whoever looks may open a page of the Desk, or send a form: it is only shown if so.</summary>
    public virtual bool May(bool sends, string address) => DeskRoles.May(Actor.Role, sends, address);
    /// <summary>Which entry of the rail is lit.</summary>
    public virtual string Place => "";

    /// <summary>The mark that styles the text editor brings must carry on this page.</summary>
    public string StyleMark()
    {
        var mark = Convert.ToBase64String(System.Security.Cryptography.RandomNumberGenerator.GetBytes(18));
        HttpContext.Items[Endpoints.StyleMark] = mark;
        return mark;
    }

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        // What is done here may be what somebody waited for.
        if (!HttpMethods.IsGet(Request.Method)) Get<App.Insight.Waiting>().Forget();
        HttpContext.Items[typeof(DeskPage)] = this;
        if (Visitor.IsTeam)
        {
            if (HttpMethods.IsGet(Request.Method) && !DeskRoles.May(Actor.Role, false, Request.Path)) context.Result = new StatusCodeResult(403);
            return;
        }
        context.Result = Visitor.SignedIn is null ? new RedirectResult("/sign-in?then=" + Uri.EscapeDataString(Request.Path + Request.QueryString))
            : new StatusCodeResult(403);
    }
}

/// <summary>A page of the member side: for whoever is signed in. The team may look; while it looks as a member nothing can be changed.</summary>
public abstract class MemberPage : BrightPage
{
    public virtual string Place => "";

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (Visitor.Person is null)
            context.Result = new RedirectResult("/sign-in?then="
                + Uri.EscapeDataString(HttpMethods.IsGet(Request.Method) ? Request.Path + Request.QueryString : "/me"));
        else if (Visitor.IsLooking && !HttpMethods.IsGet(Request.Method))
            context.Result = new RedirectResult("/status/looking");
    }

    /// <summary>"Thu 3 Dec, 09:00", where the member is.</summary>
    public string Local(Instant at) => Now.Calendar.Of(Visitor.Person?.ZoneId).Local(at).ToString("ddd d MMM, HH:mm", Now.Culture);

    /// <summary>Whether they take part in a challenge, or once did; the team sees all of them.</summary>
    protected bool TakesPart(Core.Community.Challenge challenge) =>
        Visitor.Person is { } p && (p.IsTeam || p.Holdings.Any(h => h.PlanId == challenge.PlanId));

    /// <summary>Live sessions that are open to them, the soonest first.</summary>
    public IEnumerable<Core.Community.LiveSession> SessionsAhead =>
        Now.Community.Ahead(Moment).Where(s => Now.Book.Decide(Visitor.Facts, s.SeriesId, Moment).IsOpen);

    protected MemberId Member => Visitor.Member ?? throw new NotAllowedException(
        "You’re signed in as one of the team, and the team has no membership of its own.");
}
