using BrightCircle.App.Catalogues;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Whether somebody is kept from writing for a time: in spaces, and to other members.</summary>
static class TalkBars
{
    /// <summary>Why they can’t write; null where they can.</summary>
    internal static async Task<Result?> Of(BrightContext db, CatalogueSnapshot now, long account, Instant at, CancellationToken ct) =>
        await db.TalkBars.AsNoTracking().FirstOrDefaultAsync(b => b.AccountId == account && b.Until > at, ct) is { } bar
            ? Result.Refused(Talk.BarredWords(bar, now)) : null;
}
