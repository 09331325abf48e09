using System.Globalization;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One line of the promise as it is typed.</summary>
/// <param name="Covers">everything, shelf-…, tally-…, or "one" with its name in <paramref name="Thing"/>.</param>
/// <param name="Thing">"Piece", "Piece › Module" or "Piece › Lesson".</param>
public sealed record PromiseLine(string Covers, string Reach, string Keep, string Thing = "");

public sealed class TierModel(SaveOffer offer) : DeskPage
{
    public override string Place => "tiers";
    public Plan? Plan { get; private set; }
    public PlanDraft Draft { get; private set; } = null!;
    public List<PromiseLine> Lines { get; private set; } = [];

    public IActionResult OnGet(string id)
    {
        if (!Find(id)) return NotFound();
        Draft = Plan is null ? new("", Now.Plans.Count == 0 ? 1 : Now.Plans.Max(p => p.Rank) + 1, "", []) : new(Plan.Name, Plan.Rank, Plan.Description, Plan.Promise);
        Lines = [.. Draft.Promise.Select(Line)];
        if (Plan is null) Lines.Add(new("everything", "joining", "opened"));
        Lines.Add(new("", "everything", "nothing"));
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, string? name, int rank, string? description, string?[] covers, string[] reach, string[] keep, string?[] thing)
    {
        if (!Find(id)) return NotFound();
        Lines = [.. covers.Zip(reach, keep).Select((l, i) => new PromiseLine(l.First ?? "", l.Second, l.Third, (i < thing.Length ? thing[i] : null) ?? ""))];
        var read = Lines.Where(l => l.Covers.Length > 0).Select(Read).ToList();
        Draft = new(name, rank, description, [.. read.OfType<Inclusion>()]);
        if (!ModelState.IsValid) return Page();
        var saved = await offer.Plan(Actor, Plan?.Id, Draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell($"{name} is saved.");
        return Redirect(Plan is null && !Now.PricesOf(saved.Value).Any() ? $"/desk/tiers/{saved.Value.Value}/price" : $"/desk/tiers/{saved.Value.Value}");
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Plan = long.TryParse(id, out var n) ? Now.PlanById.GetValueOrDefault(new(n)) : null;
        return Plan is not null;
    }

    PromiseLine Line(Inclusion i) => new(
        i.Covers switch { Coverage.OnShelf s => $"shelf-{s.Shelf.Value}", Coverage.OneTally t => $"tally-{t.Tally.Value}", Coverage.Everything => "everything", _ => "one" },
        i.Reach switch { Reach.FromJoining => "joining", Reach.WhilePaid => "paid", _ => "everything" },
        i.Keep switch { Keep.WhatHadOpened => "opened", _ => "nothing" }, NameOf(i.Covers));

    string NameOf(Coverage covers) => covers switch
    {
        Coverage.OnePiece p when Now.PieceById.TryGetValue(p.Piece, out var piece) => piece.Title,
        Coverage.OneModule m when Now.Pieces.FirstOrDefault(p => p.Outline.Modules.Any(x => x.Id == m.Module)) is { } piece => $"{piece.Title} › {piece.Outline.Modules.First(x => x.Id == m.Module).Title}",
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
            : p.Outline.Modules.Where(m => Same(m.Title, inside)).Select(m => (Coverage)new Coverage.OneModule(m.Id)).Concat(p.Outline.Lessons.Where(l => Same(l.Title, inside)).Select(l => new Coverage.OneLesson(l.Id))))];
        // What was chosen before stays what it is, whatever else has its name by now.
        if (found.Length > 1 && Plan?.Promise.Select(i => i.Covers).FirstOrDefault(found.Contains) is { } known) return known;
        if (found.Length == 1) return found[0];
        Refuse(line.Thing.Trim().Length == 0 ? "Which one? Write the title of a piece, or “Piece › Lesson”." : found.Length == 0 ? $"There is nothing called “{line.Thing.Trim()}”. Write the title of a piece, or “Piece › Lesson”." : $"Several are called “{line.Thing.Trim()}”. Give one of them another name first.", "Promise");
        return null;
    }

    /// <summary>Suggestions while a name is typed.</summary>
    public IActionResult OnGetThings(string?[] thing)
    {
        var typed = thing.FirstOrDefault(t => !string.IsNullOrWhiteSpace(t))?.Trim() ?? "";
        if (typed.Length < 2) return new EmptyResult();
        var names = Now.Pieces.SelectMany(p => p.Outline.Modules.Select(m => m.Title).Concat(p.IsCourse ? p.Outline.Lessons.Select(l => l.Title) : []).Select(t => $"{p.Title} › {t}").Prepend(p.Title))
            .Where(n => n.Contains(typed, StringComparison.CurrentCultureIgnoreCase)).Distinct().OrderBy(n => n.Contains('›')).Take(12);
        return Content(string.Concat(names.Select(n => $"<option value=\"{System.Net.WebUtility.HtmlEncode(n)}\">")), "text/html; charset=utf-8");
    }

    Inclusion? Read(PromiseLine l)
    {
        var id = l.Covers.Contains('-') && long.TryParse(l.Covers.AsSpan(l.Covers.IndexOf('-') + 1), CultureInfo.InvariantCulture, out var n) ? n : 0;
        var covers = l.Covers.StartsWith("shelf-", StringComparison.Ordinal) ? new Coverage.OnShelf(new(id)) : l.Covers.StartsWith("tally-", StringComparison.Ordinal) ? new Coverage.OneTally(new(id)) : l.Covers == "one" ? Find(l) : new Coverage.Everything();
        return covers is null ? null : new(covers,
            l.Reach switch { "joining" => new Reach.FromJoining(), "paid" => new Reach.WhilePaid(), _ => new Reach.EverythingReleased() },
            l.Keep == "opened" ? new Keep.WhatHadOpened() : new Keep.Nothing());
    }

    MemberFacts Joiner(Instant at)
    {
        var h = new Holding { PlanId = Plan!.Id, StartsAt = Moment, Anchor = Moment };
        h.Facts.Add(HoldingFact.Given(default, default, Moment, null));
        return MemberFacts.From([h], at);
    }

    IEnumerable<Piece> Released => Now.Pieces.Where(p => p.State == PieceState.Released);
    public int ReleasedCount => Released.Count();
    public int OpensNow => Released.Count(p => Now.Book.Decide(Joiner(Moment), p.Id, Moment).IsOpen);
    public IEnumerable<(Shelf, int, int)> ByShelf => Now.Shelves.Select(s => (s, Released.Count(p => p.ShelfId == s.Id && Now.Book.Decide(Joiner(Moment), p.Id, Moment).IsOpen), Released.Count(p => p.ShelfId == s.Id)));
    public int NextOpens => Now.NextEdition is { } e ? Now.PartsOf[e.Id].Count(p => p.Ready && Now.Book.Decide(Joiner(Moment), p.Id, e.ReleaseAt).IsOpen) : 0;
}
