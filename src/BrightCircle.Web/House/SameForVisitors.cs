using BrightCircle.App.Catalogues;
using Microsoft.AspNetCore.OutputCaching;
using NodaTime;

namespace BrightCircle.Web.House;

/// <summary>
/// Pages that say the same to everybody who isn't signed in: the bytes are kept for a version of the catalogue and a minute of the house clock. Whoever brings
/// any cookie is answered anew, and nothing that sets one is kept.
/// </summary>
public sealed class SameForVisitors(Catalogue catalogue, IClock clock) : IOutputCachePolicy
{
    public const string Name = "same-for-visitors";
    static readonly TimeSpan Kept = TimeSpan.FromMinutes(1);

    public ValueTask CacheRequestAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        var http = context.HttpContext;
        var may = (HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method))
            && !http.Request.Headers.ContainsKey("Cookie") && !http.Request.Headers.ContainsKey("Authorization");
        (context.EnableOutputCaching, context.AllowCacheLookup, context.AllowCacheStorage, context.AllowLocking) = (may, may, may, true);
        context.ResponseExpirationTimeSpan = Kept;
        context.CacheVaryByRules.QueryKeys = "*";
        context.CacheVaryByRules.HeaderNames = "Accept-Encoding";
        context.CacheVaryByRules.VaryByValues["catalogue"] = catalogue.Now.Number.ToString(System.Globalization.CultureInfo.InvariantCulture);
        context.CacheVaryByRules.VaryByValues["minute"] =
            (clock.GetCurrentInstant().ToUnixTimeSeconds() / 60).ToString(System.Globalization.CultureInfo.InvariantCulture);
        return ValueTask.CompletedTask;
    }

    public ValueTask ServeFromCacheAsync(OutputCacheContext context, CancellationToken cancellation) => ValueTask.CompletedTask;

    public ValueTask ServeResponseAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        var response = context.HttpContext.Response;
        if (response.StatusCode != StatusCodes.Status200OK || response.Headers.SetCookie.Count > 0) context.AllowCacheStorage = false;
        return ValueTask.CompletedTask;
    }
}
