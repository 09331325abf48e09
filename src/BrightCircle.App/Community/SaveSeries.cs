using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A series of live sessions as it is typed.</summary>
public sealed record SeriesDraft(string? Name, string? About, string? Host, string? Place, string? Minutes, string? Seats, bool ForGuests,
    long? Piece = null)
{
    public static SeriesDraft Empty { get; } = new("", "", "", "", "60", "", false);
    public static SeriesDraft Of(LiveSeries s) =>
        new(s.Name, s.About, s.Host, s.Place, s.Minutes.ToString(CultureInfo.InvariantCulture), s.Seats?.ToString(CultureInfo.InvariantCulture), s.ForGuests,
            s.PieceId?.Value);
}

/// <summary>Series of live sessions: made, changed, closed and taken away by the team.</summary>
public sealed class SaveSeries(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    public async Task<Result<LiveSeriesId>> Do(TeamActor by, LiveSeriesId? id, SeriesDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var (name, about, host) = (draft.Name?.Trim() ?? "", draft.About?.Trim() ?? "", draft.Host?.Trim() ?? "");
        if (name.Length is 0 or > LiveSeries.MostName) return Result.Refused($"Live sessions need a name of {LiveSeries.MostName} letters at most.", "Name");
        if (about.Length > LiveSeries.MostAbout) return Result.Refused($"{LiveSeries.MostAbout} letters are the most.", "About");
        if (host.Length > LiveSeries.MostHost) return Result.Refused($"{LiveSeries.MostHost} letters are the most.", "Host");
        var where = SessionFields.Read(draft.Place, draft.Minutes, draft.Seats);
        if (!where.Ok) return Result.Refused(where.Refusal!, where.Field);
        if (catalogue.Now.Community.Series.Any(s => s.Id != id && string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase))) return Taken(name);
        PieceId? piece = draft.Piece is { } of ? new(of) : null;
        if (piece is { } p && !catalogue.Now.PieceById.ContainsKey(p)) return Result.Refused("This piece isn’t here any more.", "Piece");
        var series = id is { } known ? await db.LiveSeries.FirstOrDefaultAsync(s => s.Id == known, ct)
            : db.Add(new LiveSeries { Id = ids.Next<LiveSeriesId>(), MadeAt = clock.GetCurrentInstant() }).Entity;
        if (series is null) return Gone;
        (series.Name, series.About, series.Host, series.ForGuests, series.PieceId) = (name, about, host, draft.ForGuests, piece);
        (series.Place, series.Minutes, series.Seats) = (where.Value!.Place, where.Value.Minutes, where.Value.Seats);
        deeds.Note(by, $"{(id is null ? "made" : "changed")} the live sessions {name}", $"/desk/sessions/series/{series.Id.Value}");
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Taken(name);
        }
        await catalogue.Changed(ct);
        return series.Id;
    }

    static Result Taken(string name) => Result.Refused($"There are sessions called {name} already.", "Name");

    /// <summary>Nothing more is planned in it, or something is again.</summary>
    public async Task<Result> Close(TeamActor by, LiveSeriesId id, bool closed, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.LiveSeries.FirstOrDefaultAsync(s => s.Id == id, ct) is not { } series) return Gone;
        if (series.ClosedAt is not null == closed) return Result.Done;
        var at = clock.GetCurrentInstant();
        if (closed && catalogue.Now.Community.Sessions.Any(s => s.SeriesId == id && s.IsAhead(at)))
            return Result.Refused("Sessions of it are still ahead. Cancel those first, so that whoever comes is told.");
        series.ClosedAt = closed ? at : null;
        deeds.Note(by, $"{(closed ? "closed" : "opened")} the live sessions {series.Name}", $"/desk/sessions/series/{id.Value}");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes away a series that has no session and that nothing names.</summary>
    public async Task<Result> Remove(TeamActor by, LiveSeriesId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (catalogue.Now.PlansNaming(new Coverage.OneSeries(id)).Any())
            return Result.Refused("A promise names these sessions. Change the promise first.");
        if (await db.LiveSessions.AnyAsync(s => s.SeriesId == id, ct))
            return Result.Refused("There were sessions of it: it can be closed, and what was stays.");
        if (await db.LiveSeries.Where(s => s.Id == id).ExecuteDeleteAsync(ct) == 0) return Gone;
        await catalogue.Changed(ct);
        return Result.Done;
    }

    static Result Gone => Result.Refused("These sessions aren’t here any more.");
}

/// <summary>What a series and a single session both have, read from what is typed.</summary>
sealed record SessionFields(string Place, int Minutes, int? Seats)
{
    public static Result<SessionFields> Read(string? place, string? minutes, string? seats)
    {
        var where = place?.Trim() ?? "";
        if (where.Length > LiveSeries.MostPlace) return Result.Refused($"{LiveSeries.MostPlace} letters are the most.", "Place");
        if (!int.TryParse(minutes, NumberStyles.None, CultureInfo.InvariantCulture, out var length) || length is < 1 or > LiveSeries.MostMinutes)
            return Result.Refused($"Minutes go from 1 to {LiveSeries.MostMinutes:N0}.", "Minutes");
        int? most = null;
        if (!string.IsNullOrWhiteSpace(seats))
        {
            if (!int.TryParse(seats.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var n) || n is < 1 or > LiveSeries.MostSeats)
                return Result.Refused($"Seats go from 1 to {LiveSeries.MostSeats:N0}; leave it empty for as many as like.", "Seats");
            most = n;
        }
        return new SessionFields(where, length, most);
    }
}
