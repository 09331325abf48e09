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

public sealed record PromiseLine(string Covers, string Reach, string Keep);

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

    public async Task<IActionResult> OnPost(string id, string? name, int rank, string? description, string?[] covers, string[] reach, string[] keep)
    {
        if (!Find(id)) return NotFound();
        Lines = [.. covers.Zip(reach, keep).Select(l => new PromiseLine(l.First ?? "", l.Second, l.Third))];
        Draft = new(name, rank, description, [.. Lines.Where(l => l.Covers.Length > 0).Select(Read)]);
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

    static PromiseLine Line(Inclusion i) => new(
        i.Covers switch { Coverage.OnShelf s => $"shelf-{s.Shelf.Value}", Coverage.OnePiece p => $"piece-{p.Piece.Value}", Coverage.OneTally t => $"tally-{t.Tally.Value}", _ => "everything" },
        i.Reach switch { Reach.FromJoining => "joining", Reach.WhilePaid => "paid", _ => "everything" },
        i.Keep switch { Keep.WhatHadOpened => "opened", _ => "nothing" });

    static Inclusion Read(PromiseLine l)
    {
        var id = l.Covers.Contains('-') && long.TryParse(l.Covers.AsSpan(l.Covers.IndexOf('-') + 1), CultureInfo.InvariantCulture, out var n) ? n : 0;
        return new(
            l.Covers.StartsWith("shelf-", StringComparison.Ordinal) ? new Coverage.OnShelf(new(id)) : l.Covers.StartsWith("piece-", StringComparison.Ordinal) ? new Coverage.OnePiece(new(id)) : l.Covers.StartsWith("tally-", StringComparison.Ordinal) ? new Coverage.OneTally(new(id)) : new Coverage.Everything(),
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
