using System.Globalization;
using BrightCircle.App.Access;
using BrightCircle.App.Content;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>When the parts of a piece open, as a picture that can be changed: for everybody, for a plan, a price or a cohort.</summary>
[RequestFormLimits(ValueCountLimit = 10_000)]
public sealed class PaceModel(SavePace save, SaveWindows saveWindows, WhatChanges changes, OnTheirWay way) : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    /// <summary>For whom: all, plan-7, price-8, cohort-9.</summary>
    [BindProperty(SupportsGet = true)] public string For { get; set; } = "all";
    [BindProperty] public PaceForm Form { get; set; } = new();
    /// <summary>By a lesson's number the day typed for it; empty for its place in the pattern.</summary>
    [BindProperty] public Dictionary<long, string?> Moves { get; set; } = [];
    /// <summary>All parts take their present places; what was settled earlier is forgotten.</summary>
    [BindProperty] public bool Anew { get; set; }

    public PaceScope Scope { get; private set; } = new();
    public string? Wrong { get; private set; }
    /// <summary>The pace drawn: typed here, or where none is, the one that counts otherwise.</summary>
    public Pace? Drawn { get; private set; }
    /// <summary>Where a pace that isn't the piece's own comes from.</summary>
    public string? Otherwise { get; private set; }
    public PaceLayout Layout { get; private set; } = null!;
    public bool Drags => Drawn is Pace.Steps or Pace.AtOnce && Form.Kind.Length > 0;
    public EffectOnMembers? Effect { get; private set; }
    public IReadOnlyList<(int Day, int People)> People { get; private set; } = [];
    /// <summary>They were looked up.</summary>
    public bool HasPeople { get; private set; }
    public IEnumerable<Cohort> Cohorts => Now.Paces.CohortsOf[Piece.Id];
    public IReadOnlyList<Plan> Plans => Now.Book.PlansThatCover(Piece.Id);
    public bool HasOwn => Now.Paces.TimelinesOf[Piece.Id].Any(Scope.IsOf);
    Dictionary<LessonId, int> moved = [];

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Find(id)) return NotFound();
        if (Now.Paces.TimelinesOf[Piece.Id].FirstOrDefault(Scope.IsOf) is { } own)
        {
            Form = PaceForm.Of(own.Pace);
            Moves = own.Moves.ToDictionary(m => m.Key.Value, m => (string?)m.Value.ToString(CultureInfo.InvariantCulture));
        }
        // Who is on their way is looked up once the page is there.
        await Look(people: false);
        return Page();
    }

    /// <summary>The picture and the words beside it, as typed.</summary>
    public async Task<IActionResult> OnPostLook(long id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        await Look();
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_PacePicture", this) : Page();
    }

    public async Task<IActionResult> OnPostEffect(long id)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        await Look();
        if (Wrong is null) Effect = await changes.Of(After, [.. Plans.Select(p => p.Id)], null, Ct);
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_PaceEffect", this) : Page();
    }

    public async Task<IActionResult> OnPost(long id)
    {
        if (!Find(id)) return NotFound();
        await Look();
        if (Wrong is not null)
        {
            Refuse(Wrong);
            return Page();
        }
        var done = await save.Do(Actor, Piece.Id, Scope, Form.Read().Pace, moved, Anew, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!);
            return Page();
        }
        Tell(Form.Read().Pace is { } pace ? $"Saved: {PaceWords.Describe(pace)}." : "It has no pace of its own any more.");
        return Redirect($"/desk/pieces/{id}/pace?for={For}");
    }

    /// <summary>When parts may be opened at all; "piece" for the whole, else by a lesson's number.</summary>
    public Dictionary<string, WindowForm> Windows { get; private set; } = [];

    public async Task<IActionResult> OnPostWindows(long id, Dictionary<string, WindowForm> windows, bool openToAll, bool hidesComing)
    {
        if (!Find(id)) return NotFound();
        Windows = windows;
        var read = windows.ToDictionary(w => w.Key, w => w.Value.Read(Now.Calendar));
        var wrong = read.Values.Select(x => x.Wrong).FirstOrDefault(w => w is not null);
        if (wrong is null)
        {
            var saved = await saveWindows.Do(Actor, Piece.Id, new(read.GetValueOrDefault("piece").Window, read.Where(x => long.TryParse(x.Key, out _))
                .ToDictionary(x => new LessonId(long.Parse(x.Key, CultureInfo.InvariantCulture)), x => x.Value.Window ?? new()), openToAll, hidesComing), Ct);
            if (saved.Ok)
            {
                Tell("Saved.");
                return Redirect($"/desk/pieces/{id}/pace");
            }
            wrong = saved.Refusal;
        }
        Refuse(wrong!, "Windows");
        For = "all";
        await Look();
        return Page();
    }

    public WindowForm WindowOf(string key, Window? saved) => Windows.TryGetValue(key, out var typed) ? typed : WindowForm.Of(saved, Now.Calendar);

    bool Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return false;
        Piece = piece;
        var number = For.Split('-') is [_, var n] && long.TryParse(n, CultureInfo.InvariantCulture, out var value) ? value : 0;
        if (For.StartsWith("plan-", StringComparison.Ordinal)) Scope = new(Plan: new(number));
        else if (For.StartsWith("price-", StringComparison.Ordinal)) Scope = new(Price: new(number));
        else if (For.StartsWith("cohort-", StringComparison.Ordinal)) Scope = new(Cohort: new(number));
        else For = "all";
        return (Scope.Plan is not { } plan || Now.PlanById.ContainsKey(plan)) && (Scope.Price is not { } price || Now.PriceById.ContainsKey(price))
            && (Scope.Cohort is not { } cohort || Cohorts.Any(c => c.Id == cohort));
    }

    AccessBook After => Now.BookWith(timelines: SavePace.With(Now, Piece.Id, Scope, Form.Read().Pace, moved));

    async Task Look(bool people = true)
    {
        var (pace, wrong) = Form.Read();
        Wrong = wrong;
        moved = [];
        foreach (var (lesson, typed) in Moves)
        {
            if (string.IsNullOrWhiteSpace(typed)) continue;
            if (!int.TryParse(typed, CultureInfo.InvariantCulture, out var day) || day is < 0 or > Pace.Most)
                Wrong ??= $"“{typed}” isn’t a day from 0 to {Pace.Most}.";
            else moved[new(lesson)] = day;
        }
        Drawn = pace;
        if (pace is null)
        {
            moved = [];
            (Drawn, Otherwise) = Usual();
        }
        if (Wrong is not null) return;
        // Dates of everybody are changed where they are listed.
        if (Drawn is Pace.OnDates) moved = [];
        var start = Scope.Cohort is { } c ? Cohorts.First(x => x.Id == c).StartsAt : Moment;
        Layout = PaceLayout.Of(Drawn ?? new Pace.AtOnce(), Piece.Outline, moved, start, Now.Calendar, Anew);
        HasPeople = people;
        if (people) People = await way.Of(After, Piece, Scope, Ct);
    }

    /// <summary>The pace that counts where this scope has none of its own, and who says so.</summary>
    (Pace? Pace, string? From) Usual()
    {
        var plan = Scope.Plan ?? (Scope.Price is { } r ? Now.PriceById[r].PlanId : null);
        var without = Now.BookWith(timelines: SavePace.With(Now, Piece.Id, Scope, null, moved));
        var (pace, by) = without.PaceOf(Piece.Id, plan, Scope.Price);
        return (pace, by switch
        {
            PaceSaidBy.Nobody => null,
            PaceSaidBy.ThePiece => $"as for all of {Now.PlanName(plan)}",
            PaceSaidBy.ThePrice => $"the promise of {Now.PlanName(plan)} says so for this price",
            PaceSaidBy.ThePromise => $"the promise of {Now.PlanName(plan)} says so",
            PaceSaidBy.Everybodys => "as for everybody",
        });
    }

    /// <summary>Two parts at one moment, and long gaps, in words.</summary>
    public IEnumerable<string> Remarks()
    {
        if (Drawn is null or Pace.AtOnce) yield break;
        foreach (var same in Layout.Together)
        {
            var titles = string.Join(", ", same.Take(3).Select(r => r.Lesson.Title));
            yield return $"{Count(same.Count, "part")} open at one moment, on day {same[0].Day}: {titles}.";
        }
        foreach (var (from, to) in Layout.Gaps) yield return $"Nothing opens between day {from} and day {to}.";
        if (Layout.Undated > 0) yield return $"{Count(Layout.Undated, "part has", "parts have")} no date, and don’t open until one is named.";
    }

    public string ScopeWords => Scope switch
    {
        { Plan: { } p } => Now.PlanName(p),
        { Price: { } p } => $"{Now.PlanName(Now.PriceById[p].PlanId)}, {Now.PriceById[p].Name}",
        { Cohort: { } c } => $"the cohort {Cohorts.First(x => x.Id == c).Name}",
        _ => "any plan",
    };
}

/// <summary>A window as it is typed.</summary>
public sealed class WindowForm
{
    public string? From { get; set; }
    public string? Until { get; set; }
    public string? Days { get; set; }

    public static WindowForm Of(Window? w, Core.Time.SiteCalendar calendar) => new()
    {
        From = w?.From is { } f ? LocalInput.Write(calendar.Local(f)) : null,
        Until = w?.Until is { } u ? LocalInput.Write(calendar.Local(u)) : null,
        Days = w?.Days?.ToString(CultureInfo.InvariantCulture),
    };

    public (Window? Window, string? Wrong) Read(Core.Time.SiteCalendar calendar)
    {
        Instant? from = null, until = null;
        int? days = null;
        if (!string.IsNullOrWhiteSpace(From))
            if (LocalInput.TryReadMoment(From, out var f) && f.Year is >= 2000 and <= 2200) from = calendar.At(f);
            else return (null, $"“{From}” isn’t a date and time.");
        if (!string.IsNullOrWhiteSpace(Until))
            if (LocalInput.TryReadMoment(Until, out var u) && u.Year is >= 2000 and <= 2200) until = calendar.At(u);
            else return (null, $"“{Until}” isn’t a date and time.");
        if (!string.IsNullOrWhiteSpace(Days))
            if (int.TryParse(Days, CultureInfo.InvariantCulture, out var d)) days = d;
            else return (null, $"“{Days}” isn’t a number of days.");
        return (new(from, until, days), null);
    }
}
