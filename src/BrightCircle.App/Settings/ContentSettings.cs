using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Settings;

public sealed record ContentSettingsDraft(string? Language, string? DocumentKinds, IReadOnlyList<CadenceTarget> Cadence,
    IReadOnlyList<VideoHost>? VideoHosts = null);

/// <summary>What holds for all content: its language, the kinds of documents taken, what a month is aimed to hold, which videos kept elsewhere are shown in the
/// page.</summary>
public sealed class ContentSettings(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Wake wake)
{
    /// <summary>The languages PostgreSQL can take apart, as it names them.</summary>
    public static IReadOnlyList<string> Languages { get; } =
        ["simple", "arabic", "danish", "dutch", "english", "finnish", "french", "german", "greek", "hungarian", "indonesian", "irish", "italian", "lithuanian",
        "norwegian", "portuguese", "romanian", "russian", "spanish", "swedish", "turkish"];

    public async Task<Result> Save(TeamActor by, ContentSettingsDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        if (!Languages.Contains(draft.Language)) return Result.Refused("Choose a language.", "Language");
        var kinds = (draft.DocumentKinds ?? "").Split([',', ' ', ';', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(k => k.TrimStart('.').ToLowerInvariant()).Distinct().ToArray();
        if (kinds.Except(Site.DefaultDocumentKinds).ToArray() is { Length: > 0 } unknown)
            return Result.Refused(
            $"Files of the kind {string.Join(", ", unknown)} can’t be told by their content, so they aren’t taken. Known are {string.Join(", "
            + $"", Site.DefaultDocumentKinds)}.", "DocumentKinds");
        if (draft.Cadence.Any(c => c.Count is < 1 or > 100)) return Result.Refused("Aims go from 1 to 100.", "Cadence");
        var hosts = draft.VideoHosts ?? catalogue.Now.Site!.VideoHosts;
        if (hosts.Count > VideoHost.Most) return Result.Refused($"{VideoHost.Most} places for videos are the most.", "VideoHosts");
        if (hosts.Select(h => h.Wrong()).FirstOrDefault(w => w is not null) is { } wrong) return Result.Refused(wrong, "VideoHosts");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var site = await db.Sites.SingleAsync(ct);
        if (site.Language != draft.Language)
        {
            site.Language = draft.Language!;
            var at = clock.GetCurrentInstant();
            db.DueWork.Add(new() { Id = ids.Next(), Kind = DueKind.Reindex, SubjectId = 0, DueAt = at, ReadyAt = at, Key = $"reindex-{ids.Next()}" });
        }
        (site.DocumentKinds, site.Cadence, site.VideoHosts) = (kinds, draft.Cadence, hosts);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        wake.Up();
        return Result.Done;
    }
}
