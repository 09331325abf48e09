using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>The team gives a plan, or a single piece, without payment. It ends nothing else that is held.</summary>
public sealed class GivePlan(BrightContext db, Memberships door, Grants grants, PiecePass passes)
{
    /// <summary>Null where there is no such member.</summary>
    public Task<string?> NameOf(MemberId id, CancellationToken ct) => db.Members.Where(m => m.Id == id).Select(m => m.Name).FirstOrDefaultAsync(ct);

    public Task<Result> Do(TeamActor by, MemberId to, Grant grant, CancellationToken ct)
    {
        by.NeedSupport();
        return door.Change(to, (m, at) =>
        {
            var given = grants.Give(m, grant, at, by);
            return Task.FromResult(given.Ok ? Result.Done : Result.Refused(given.Refusal!, given.Field));
        }, ct);
    }

    /// <summary>The same with one piece.</summary>
    public async Task<Result> Do(TeamActor by, MemberId to, PieceId piece, Grant grant, CancellationToken ct)
    {
        by.NeedSupport();
        var pass = await passes.Of(piece, ct);
        return pass.Ok ? await Do(by, to, grant with { Plan = pass.Value }, ct) : Result.Refused(pass.Refusal!, "Piece");
    }
}

/// <summary>A pass that opens exactly one piece: the one there is, or one that nobody can buy, made when it is needed.</summary>
public sealed class PiecePass(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    public async Task<Result<PlanId>> Of(PieceId id, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (!now.PieceById.TryGetValue(id, out var piece)) return Result.Refused("This piece isn’t here any more.", "Piece");
        if (now.Plans.FirstOrDefault(p => !p.IsTier && Only(p, id)) is { } known) return known.Id;
        var name = NameFor(piece, [.. now.Plans.Select(p => p.Name)]);
        var at = clock.GetCurrentInstant();
        var plan = new Plan
        {
            Id = ids.Next<PlanId>(),
            Kind = PlanKind.Pass,
            Name = name,
            Availability = Availability.Closed,
            CreatedAt = at,
            PromiseFrom = at,
            Promise = [new(new Coverage.OnePiece(id), new Reach.EverythingReleased(), new Keep.WhatHadOpened())],
        };
        db.Add(plan);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody did the same just now. Try again.", "Piece");
        }
        await catalogue.Changed(ct);
        return plan.Id;
    }

    static bool Only(Plan plan, PieceId piece) =>
        plan.Promise is [{ Covers: Coverage.OnePiece p, Reach: Reach.EverythingReleased, Ends: null, Needs: null or [] }] && p.Piece == piece;

    static string NameFor(Piece piece, IReadOnlyCollection<string> taken)
    {
        var title = piece.Title.Length > 70 ? piece.Title[..70] : piece.Title;
        return taken.Contains(title, StringComparer.CurrentCultureIgnoreCase) ? NextName.After(title, [.. taken]) : title;
    }
}
