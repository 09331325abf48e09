using System.Globalization;
using BrightCircle.App.Offer;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One line of the promise as it is typed.</summary>
/// <param name="Covers">everything, shelf-…, tally-…, or "one" with its name in <paramref name="Thing"/>.</param>
/// <param name="Thing">"Piece", "Piece › Module" or "Piece › Lesson".</param>
public sealed record PromiseLine(string Covers, string Reach, string Keep, string Thing = "");

/// <summary>What the form makes of itself: beside it stands what is being edited, not what is saved.</summary>
public sealed class TierModel(SavePlan save) : DeskPage
{
    public override string Place => "tiers";
    public Plan? Plan { get; private set; }
    public PlanKind Kind { get; private set; }
    public string Word => Kind switch { PlanKind.Tier => "tier", PlanKind.Pass => "pass" };
    public PlanDraft Draft { get; private set; } = null!;
    public List<PromiseLine> Lines { get; private set; } = [];

    public IActionResult OnGet(string id, PlanKind kind)
    {
        if (!Find(id, kind)) return NotFound();
        Draft = Plan is { } p ? new(p.Name, p.Rank, p.Description, p.Promise, p.Kind, p.Availability)
            : new("", Kind == PlanKind.Pass ? 0 : Now.Plans.Select(x => x.Rank).DefaultIfEmpty(0).Max() + 1, "", [], Kind);
        Lines = [.. Draft.Promise.Select(Line)];
        if (Plan is null) Lines.Add(Kind == PlanKind.Tier ? new("everything", "joining", "opened") : new("one", "everything", "opened"));
        Lines.Add(new("", "everything", "nothing"));
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, PlanKind kind, string? name, int rank, string? description, Availability availability, string?[] covers,
        string[] reach, string[] keep, string?[] thing)
    {
        if (!Find(id, kind)) return NotFound();
        Take(name, rank, description, availability, covers, reach, keep, thing);
        if (!ModelState.IsValid) return Page();
        var saved = await save.Do(Actor, Plan?.Id, Draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell($"{name} is saved.");
        return Redirect(Plan is null && !Now.PricesOf(saved.Value).Any() ? $"/desk/tiers/{saved.Value.Value}/price" : $"/desk/tiers/{saved.Value.Value}");
    }

    /// <summary>The side of the form, worked out anew while it is edited.</summary>
    public IActionResult OnPostEffect(string id, PlanKind kind, string? name, int rank, string? description, Availability availability, string?[] covers,
        string[] reach, string[] keep, string?[] thing)
    {
        if (!Find(id, kind)) return NotFound();
        Take(name, rank, description, availability, covers, reach, keep, thing);
        ModelState.Clear();
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_TierEffect", this) : Page();
    }

    void Take(string? name, int rank, string? description, Availability availability, string?[] covers, string[] reach, string[] keep, string?[] thing)
    {
        Lines = [.. covers.Zip(reach, keep).Select((l, i) => new PromiseLine(l.First ?? "", l.Second, l.Third, (i < thing.Length ? thing[i] : null) ?? ""))];
        var read = Lines.Where(l => l.Covers.Length > 0).Select(Read).ToList();
        Draft = new(name, rank, description, [.. read.OfType<Inclusion>()], Kind, availability);
    }

    bool Find(string id, PlanKind kind)
    {
        Plan = long.TryParse(id, out var n) ? Now.PlanById.GetValueOrDefault(new(n)) : null;
        Kind = Plan?.Kind ?? kind;
        return Plan is not null || id == "new";
    }

    PromiseLine Line(Inclusion i) => new(
        i.Covers switch
        {
            Coverage.OnShelf s => $"shelf-{s.Shelf.Value}",
            Coverage.OneTally t => $"tally-{t.Tally.Value}",
            Coverage.Everything => "everything",
            Coverage.OnePiece or Coverage.OneModule or Coverage.OneLesson => "one",
            _ => throw new ArgumentOutOfRangeException(nameof(i), i.Covers, "No such coverage."),
        },
        i.Reach switch { Reach.FromJoining => "joining", Reach.WhilePaid => "paid", _ => "everything" },
        i.Keep switch { Keep.WhatHadOpened => "opened", _ => "nothing" }, NameOf(i.Covers));

    string NameOf(Coverage covers) => covers switch
    {
        Coverage.OnePiece p when Now.PieceById.TryGetValue(p.Piece, out var piece) => piece.Title,
        Coverage.OneModule m when Now.Content.ModuleById.TryGetValue(m.Module, out var module) => $"{module.Piece.Title} › {module.Module.Title}",
        Coverage.OneLesson l when Now.LessonById.TryGetValue(l.Lesson, out var lesson) => $"{Now.PieceOf(lesson).Title} › {lesson.Title}",
        _ => "",
    };

    /// <summary>What a name means; what it could mean is said where it isn't one thing.</summary>
    Coverage? Find(PromiseLine line)
    {
        static bool Same(string a, string b) => string.Equals(a.Trim(), b.Trim(), StringComparison.CurrentCultureIgnoreCase);
        var parts = line.Thing.Split('›', 2);
        var inside = parts.Length > 1 ? parts[1] : null;
        Coverage[] found = [.. Now.Pieces.Where(p => Same(p.Title, parts[0])).SelectMany(p => inside is null ? [new Coverage.OnePiece(p.Id)]
            : p.Outline.Modules.Where(m => Same(m.Title, inside)).Select(m => (Coverage)new Coverage.OneModule(m.Id))
                .Concat(p.Outline.Lessons.Where(l => Same(l.Title, inside)).Select(l => new Coverage.OneLesson(l.Id))))];
        // What was chosen before stays what it is, whatever else has its name by now.
        if (found.Length > 1 && Plan?.Promise.Select(i => i.Covers).FirstOrDefault(found.Contains) is { } known) return known;
        if (found.Length == 1) return found[0];
        Refuse(line.Thing.Trim().Length == 0 ? "Which one? Write the title of a piece, or “Piece › Lesson”." : found.Length == 0
            ? $"There is nothing called “{line.Thing.Trim()}”. Write the title of a piece, or “Piece › Lesson”."
            : $"Several are called “{line.Thing.Trim()}”. Give one of them another name first.", "Promise");
        return null;
    }

    /// <summary>Suggestions while a name is typed.</summary>
    public IActionResult OnGetThings(string?[] thing)
    {
        var typed = thing.FirstOrDefault(t => !string.IsNullOrWhiteSpace(t))?.Trim() ?? "";
        if (typed.Length < 2) return new EmptyResult();
        var names = Now.Pieces.SelectMany(p => p.Outline.Modules.Select(m => m.Title).Concat(p.IsCourse ? p.Outline.Lessons.Select(l => l.Title) : [])
            .Select(t => $"{p.Title} › {t}").Prepend(p.Title))
            .Where(n => n.Contains(typed, StringComparison.CurrentCultureIgnoreCase)).Distinct().OrderBy(n => n.Contains('›')).Take(12);
        return Content(string.Concat(names.Select(n => $"<option value=\"{System.Net.WebUtility.HtmlEncode(n)}\">")), "text/html; charset=utf-8");
    }

    Inclusion? Read(PromiseLine l)
    {
        var id = l.Covers.Contains('-') && long.TryParse(l.Covers.AsSpan(l.Covers.IndexOf('-') + 1), CultureInfo.InvariantCulture, out var n) ? n : 0;
        var covers = l.Covers.StartsWith("shelf-", StringComparison.Ordinal) ? new Coverage.OnShelf(new(id))
            : l.Covers.StartsWith("tally-", StringComparison.Ordinal) ? new Coverage.OneTally(new(id)) : l.Covers == "one" ? Find(l)
            : new Coverage.Everything();
        return covers is null ? null : new(covers,
            l.Reach switch { "joining" => new Reach.FromJoining(), "paid" => new Reach.WhilePaid(), _ => new Reach.EverythingReleased() },
            l.Keep == "opened" ? new Keep.WhatHadOpened() : new Keep.Nothing());
    }

    AccessBook? book;
    readonly PlanId edited = new(0);

    /// <summary>The book with this plan as it is being edited.</summary>
    AccessBook Book =>
        book ??= new([.. Now.Plans.Where(p => p.Id != Plan?.Id),
        new Plan { Id = edited, Kind = Kind, Name = "this", Rank = Draft.Rank, Promise = Draft.Promise }], Now.Pieces, Now.Editions,
        Now.Tallies.Select(t => t.Id));

    IEnumerable<Piece> Released => Now.Pieces.Where(p => p.State == PieceState.Released);
    bool Opens(Piece p) => Book.GivesPartOf(edited, p.Id, Moment);
    public int ReleasedCount => Released.Count();
    public int OpensNow => Released.Count(Opens);
    public IEnumerable<(Shelf, int, int)> ByShelf =>
        Now.Shelves.Select(s => (s, Released.Count(p => p.ShelfId == s.Id && Opens(p)), Released.Count(p => p.ShelfId == s.Id)));
    public int NextOpens => Now.NextEdition is { } e ? Now.PartsOf[e.Id].Count(p => p.State != PieceState.Draft && Opens(p)) : 0;
    /// <summary>The sentences the public will read.</summary>
    public IReadOnlyList<string> Sentences => Now.Gives(new Plan { Kind = Kind, Promise = Draft.Promise });
}
