using BrightCircle.App.Access;
using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.Core.Access;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What a plan promises, in sentences that can be changed; beside it somebody's openings, and what saving does to real members.</summary>
public sealed class PromiseModel(SavePromise save, MovePromise move, WhatChanges changes, PromiseHistory history, MemberReader reader) : DeskPage
{
    const int MostRows = 14, MostLines = 60;

    public override string Place => "tiers";
    public Plan Plan { get; private set; } = null!;
    [BindProperty] public List<PromiseLine> Lines { get; set; } = [];
    [BindProperty] public Dictionary<long, PaceForm> PaceOf { get; set; } = [];
    [BindProperty] public int BasedOn { get; set; }
    /// <summary>The imagined person: joins on this day, by this price.</summary>
    [BindProperty] public string? JoinsOn { get; set; }
    [BindProperty] public long ByPrice { get; set; }
    /// <summary>Or a real one, by their address.</summary>
    [BindProperty] public string? Somebody { get; set; }

    public IReadOnlyList<Inclusion?> Read { get; private set; } = [];
    public IReadOnlyList<string?> Wrongs { get; private set; } = [];
    public bool IsReadable => Wrongs.All(w => w is null) && paceWrong is null;
    string? paceWrong;
    public EffectOnMembers? Effect { get; private set; }
    public PromisePast Past { get; private set; } = null!;
    public PromiseReading Reading => new(Now, Plan);
    /// <summary>Plans with which it comes along as a bonus: they bring what it promises at present, so a change is theirs at once.</summary>
    public IReadOnlyList<Plan> BringIt => [.. Now.Plans.Where(p => Bonus.Comes(p, Plan.Id))];
    public IEnumerable<Price> Prices => Now.PricesOf(Plan.Id);

    /// <param name="add">Something that is put in as another line, not saved: piece-7, module-7, lesson-7.</param>
    public async Task<IActionResult> OnGet(long id, string? add = null)
    {
        if (!Find(id)) return NotFound();
        Lines = [.. Plan.Promise.Select(Reading.Write)];
        // A new plan begins with what most begin with.
        if (Lines.Count == 0 && Plan.PromiseNumber == 1)
            Lines.Add(Plan.IsTier ? new() { Covers = "everything", Reach = "joining", Keep = "opened" } : new() { Keep = "opened" });
        if (PromiseReading.Named(add) is { } more && Lines.Count < MostLines && Reading.NameOf(more).Length > 0 && Plan.Promise.All(i => i.Covers != more))
            Lines.Add(Reading.Write(new(more, new Reach.EverythingReleased(), new Keep.Nothing())));
        PaceOf = Prices.ToDictionary(p => p.Id.Value, p => PaceForm.Of(Plan.PaceOf.GetValueOrDefault(p.Id)));
        BasedOn = Plan.PromiseNumber;
        Look();
        await Load();
        return Page();
    }

    /// <summary>Everything that follows from what is typed, but the members.</summary>
    public async Task<IActionResult> OnPostLook(long id)
    {
        if (!Find(id)) return NotFound();
        Look();
        return await Show("_PromiseLook");
    }

    /// <summary>A line more, a line less, or in another place.</summary>
    public async Task<IActionResult> OnPostLines(long id, string act, int at)
    {
        if (!Find(id)) return NotFound();
        switch (act)
        {
            case "add" when Lines.Count < MostLines:
                Lines.Add(new() { Covers = Lines.Count == 0 ? "everything" : "one" });
                break;
            case "drop" when at >= 0 && at < Lines.Count:
                Lines.RemoveAt(at);
                break;
            case "up" when at > 0 && at < Lines.Count:
                (Lines[at - 1], Lines[at]) = (Lines[at], Lines[at - 1]);
                break;
            case "down" when at >= 0 && at + 1 < Lines.Count:
                (Lines[at + 1], Lines[at]) = (Lines[at], Lines[at + 1]);
                break;
        }
        Look();
        return await Show("_PromiseLines");
    }

    /// <summary>What saving would do to those who hold the plan.</summary>
    public async Task<IActionResult> OnPostEffect(long id)
    {
        if (!Find(id)) return NotFound();
        Look();
        if (IsReadable) Effect = await changes.Of(After, [Plan.Id, .. BringIt.Select(p => p.Id)], new HashSet<PlanId> { Plan.Id }, Ct);
        return await Show("_PromiseEffect");
    }

    public async Task<IActionResult> OnPost(long id, string? whom)
    {
        if (!Find(id)) return NotFound();
        Look();
        if (!IsReadable)
        {
            Refuse(Wrongs.FirstOrDefault(w => w is not null) ?? paceWrong!, "Promise");
            await Load();
            return Page();
        }
        var saved = await save.Do(Actor, Plan.Id, new(Draft, DraftPaces, BasedOn), Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, "Promise");
            await Load();
            return Page();
        }
        if (whom == "everyone")
        {
            var moved = await move.Do(Actor, Plan.Id, saved.Value, Ct);
            Tell(moved.Ok ? $"Saved, and everybody who holds {Plan.Name} has it." : moved.Refusal!);
        }
        else Tell(saved.Value == BasedOn && Now.PlanById[Plan.Id].PromiseNumber == BasedOn ? $"{Plan.Name} is saved."
            : $"Saved, for those who join {Plan.Name} from now on.");
        return Redirect(Prices.Any() ? $"/desk/tiers/{id}/promise" : $"/desk/tiers/{id}/price");
    }

    /// <summary>Moves those who live by another version to the present one.</summary>
    public async Task<IActionResult> OnPostMove(long id, int to)
    {
        if (!Find(id)) return NotFound();
        var done = await move.Do(Actor, Plan.Id, to, Ct);
        Tell(done.Ok ? "They are moved. It stands in each journal." : done.Refusal!);
        return Redirect($"/desk/tiers/{id}/promise");
    }

    public async Task<IActionResult> OnPostBack(long id, long act)
    {
        if (!Find(id)) return NotFound();
        var done = await move.TakeBack(Actor, act, Ct);
        Tell(done.Ok ? "Taken back: everybody lives by what they lived by before." : done.Refusal!);
        return Redirect($"/desk/tiers/{id}/promise");
    }

    /// <summary>Suggestions while a name is typed.</summary>
    public IActionResult OnGetThings(long id)
    {
        var typed = Request.Query.FirstOrDefault(q => q.Key.EndsWith("Thing", StringComparison.Ordinal) || q.Key.EndsWith("NeedDone", StringComparison.Ordinal))
            .Value.ToString().Trim();
        var options = Parts.Markup.Of($"");
        foreach (var name in new PromiseReading(Now, null).Suggest(typed)) options.Add($"<option value=\"{name}\">");
        return Content(options.ToString(), "text/html; charset=utf-8");
    }

    async Task<IActionResult> Show(string partial)
    {
        ModelState.Clear();
        if (Request.Headers.ContainsKey("HX-Request"))
        {
            await Imagine();
            return Partial(partial, this);
        }
        await Load();
        return Page();
    }

    bool Find(long id)
    {
        Plan = Now.PlanById.GetValueOrDefault(new(id))!;
        return Plan is not null;
    }

    async Task Load()
    {
        await Imagine();
        Past = await history.Of(Plan.Id, Ct);
    }

    IReadOnlyDictionary<PriceId, Pace> DraftPaces { get; set; } = PromiseVersion.NoPaces;
    IReadOnlyList<Inclusion> Draft { get; set; } = [];

    void Look()
    {
        var read = Lines.Select(Reading.Read).ToArray();
        (Read, Wrongs) = ([.. read.Select(r => r.Line)], [.. read.Select(r => r.Wrong)]);
        Draft = [.. Read.OfType<Inclusion>()];
        var paces = new Dictionary<PriceId, Pace>();
        foreach (var price in Prices)
        {
            if (!PaceOf.TryGetValue(price.Id.Value, out var form)) continue;
            var (pace, wrong) = form.Read();
            if (wrong is not null) paceWrong = $"{price.Name}: {wrong}";
            if (pace is not null) paces[price.Id] = pace;
        }
        DraftPaces = paces;
    }

    /// <summary>The plan as it is being edited, with what was promised before.</summary>
    Plan Edited => edited ??= new()
    {
        Id = Plan.Id,
        Kind = Plan.Kind,
        Name = Plan.Name,
        Rank = Plan.Rank,
        Promise = Draft,
        PaceOf = DraftPaces,
        PromiseNumber = Plan.PromiseNumber + 1,
        Earlier = [.. Plan.Earlier, new(Plan.Id, Plan.PromiseNumber, Plan.PromiseFrom, Plan.Promise, Plan.PaceOf)],
    };
    Plan? edited;
    AccessBook After => after ??= Now.BookWith([.. Now.Plans.Where(p => p.Id != Plan.Id), Edited]);
    AccessBook? after;

    // ---- The person beside it. ----

    public string? SampleName { get; private set; }
    public string? SampleWrong { get; private set; }
    /// <summary>What they could open, day by day.</summary>
    public IReadOnlyList<(Instant At, string What)> Openings { get; private set; } = [];
    public int LaterOpenings { get; private set; }
    public int OpenAtOnce { get; private set; }
    public Instant JoinedAt { get; private set; }
    public string? Leaving { get; private set; }
    public string JoinsOnText => JoinsOn ?? LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment));

    async Task Imagine()
    {
        MemberFacts facts;
        if (!string.IsNullOrWhiteSpace(Somebody))
        {
            if (await reader.Find(Somebody, Ct) is not { IsTeam: false } person)
            {
                SampleWrong = $"Nobody has the address “{Somebody.Trim()}”.";
                return;
            }
            SampleName = person.Name;
            facts = person.FactsAt(Moment).MovedTo(After, new HashSet<PlanId> { Plan.Id });
            JoinedAt = Moment;
        }
        else
        {
            var date = LocalDatePattern.Iso.Parse(JoinsOn ?? "") is { Success: true } parsed && parsed.Value.Year is > 1990 and < 2200 ? parsed.Value
                : Now.Calendar.Date(Moment);
            // Today is now; another day is at nine.
            JoinedAt = date == Now.Calendar.Date(Moment) ? Moment : Now.Calendar.At(date.At(new(9, 0)));
            PriceId? price = Now.PriceById.TryGetValue(new(ByPrice), out var p) && p.PlanId == Plan.Id ? p.Id : null;
            facts = MemberFacts.Imagined(Edited, JoinedAt, price);
            if (Plan.IsTier) Leaving = Leaves(price);
        }
        OpenAtOnce = Now.Pieces.Count(p => After.OpensPartOf(facts, p.Id, JoinedAt));
        var rows = After.OpeningsOf(facts, JoinedAt).GroupBy(o => Now.Calendar.Date(o.At)).Select(day => (day.First().At, Say(day))).ToArray();
        (Openings, LaterOpenings) = ([.. rows.Take(MostRows)], Math.Max(0, rows.Length - MostRows));
    }

    string Say(IEnumerable<ToOpen> day)
    {
        string[] titles = [.. day.GroupBy(o => o.Thing.Kind == ThingKind.Lesson ? Now.PieceOf(Now.LessonById[new(o.Thing.Id)]) : Now.PieceById[new(o.Thing.Id)])
            .Select(g => g.Key.IsCourse ? g.Count() == 1 ? Now.LessonById[new(g.First().Thing.Id)].Title : $"{g.Key.Title}: {Count(g.Count(), "lesson")}"
                : g.Key.Title)];
        return titles.Length > 3 ? $"{string.Join(", ", titles.Take(2))} and {titles.Length - 2} more" : string.Join(", ", titles);
    }

    /// <summary>What stays with somebody who leaves a month after joining.</summary>
    string Leaves(PriceId? price)
    {
        var end = Now.Calendar.Boundary(JoinedAt, Core.Time.Period.Months(1), 1);
        var holding = Holding.Imagined(Edited, price, JoinedAt, Now.Calendar.Zone.Id, end);
        var facts = MemberFacts.From([holding], end);
        var kept = Now.Pieces.Count(p => After.OpensPartOf(facts, p.Id, end));
        var longest = Draft.Select(i => i.Keep).OfType<Keep.ForPeriod>().Select(k => Now.Calendar.Boundary(end, k.Length, 1)).DefaultIfEmpty(end).Max();
        var forGood = longest == end ? kept : Now.Pieces.Count(p => After.OpensPartOf(facts, p.Id, longest));
        return $"Leaving on {Day(end)} they keep " + (kept == 0 ? "nothing." : forGood == kept ? $"{Count(kept, "piece")} for good."
            : forGood == 0 ? $"{Count(kept, "piece")} until {Day(longest)} at the latest."
                : $"{Count(forGood, "piece")} for good, and {kept - forGood} more until {Day(longest)} at the latest.");
    }

    /// <summary>The sentences the public will read.</summary>
    public IReadOnlyList<string> Sentences => Now.Gives(new Plan { Kind = Plan.Kind, Promise = Draft });
    public string VersionLine(IReadOnlyList<(int Version, int Holders)> live) => live.Count == 0 ? "Nobody holds it yet." : string.Join(", ",
        live.Select((v, i) => i == 0 ? $"{Count(v.Holders, "person lives", "people live")} by version {v.Version}" : $"{v.Holders} by version {v.Version}"))
            + ".";
}
