using System.Threading.RateLimiting;
using BrightCircle.Data;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;

namespace BrightCircle.Web.House;

public static class WebSetup
{
    public const string SignInLimit = "sign-in";

    public static void AddBrightWeb(this IServiceCollection services, IConfiguration settings)
    {
        services.AddRazorPages().AddMvcOptions(o =>
        {
            // What is bound to anything but words is a number nearly everywhere; dates come from their own fields.
            o.ModelBindingMessageProvider.SetAttemptedValueIsInvalidAccessor((typed, _) => $"“{typed}” isn’t a whole number.");
            o.ModelBindingMessageProvider.SetNonPropertyAttemptedValueIsInvalidAccessor(typed => $"“{typed}” isn’t a whole number.");
        });
        services.AddSingleton(Parts.Markup.Encoder);
        services.AddScoped<Visitor>();
        services.AddScoped<Admission>();
        services.AddScoped<Passkeys>();
        services.Configure<IdentityPasskeyOptions>(o =>
        {
            o.UserVerificationRequirement = "required";
            // Kept by the device with the name of its owner, so that nobody has to type one.
            o.ResidentKeyRequirement = "required";
        });
        services.AddHttpContextAccessor();
        services.AddAuthentication(IdentityConstants.ApplicationScheme).AddIdentityCookies(c => c.ApplicationCookie!.Configure(o =>
        {
            o.Cookie.Name = "bright";
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            o.ExpireTimeSpan = TimeSpan.FromDays(App.Members.SignIns.Days);
            o.SlidingExpiration = true;
            o.LoginPath = "/sign-in";
            o.Events.OnValidatePrincipal = SignedInPerson.Validate;
            o.Events.OnSigningIn = SignedInBrowser.Begin;
            o.Events.OnSigningOut = SignedInBrowser.End;
        }));
        new IdentityBuilder(typeof(Account), services).AddSignInManager();
        services.AddAntiforgery(o =>
        {
            o.Cookie.Name = "bright-form";
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        });
        services.AddHealthChecks().AddNpgSql(name: "database");
        services.AddHttpClient();
        services.Configure<ForwardedHeadersOptions>(
            o => o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost);
        services.Configure<Microsoft.AspNetCore.Mvc.CookieTempDataProviderOptions>(o => o.Cookie.Name = BrightPage.NoteCookie);
        services.AddSingleton<SameForVisitors>();
        services.AddOutputCache();
        services.AddOptions<Microsoft.AspNetCore.OutputCaching.OutputCacheOptions>()
            .Configure<SameForVisitors>((o, policy) => o.AddPolicy(SameForVisitors.Name, policy));
        services.AddResponseCompression(o => o.EnableForHttps = true);
        var perMinute = settings.GetValue("Limits:SignInPerMinute", 20);
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = 429;
            // Writing and trying sign-ins, joins and codes, by address; reading is never limited.
            o.AddPolicy(SignInLimit, http => HttpMethods.IsPost(http.Request.Method)
                ? RateLimitPartition.GetFixedWindowLimiter(
                    Network.Of(http.Connection.RemoteIpAddress), _ => new() { PermitLimit = perMinute, Window = TimeSpan.FromMinutes(1) })
                : RateLimitPartition.GetNoLimiter(""));
        });
    }

    public static void UseBrightWeb(this WebApplication app)
    {
        app.UseForwardedHeaders();
        app.UseResponseCompression();
        var till = app.Configuration["Till:Url"];
        // Asked for before the pages' policy is, this comes after it.
        app.Use((http, next) =>
        {
            http.Response.OnStarting(() =>
            {
                if (http.Items.TryGetValue(Endpoints.OwnPolicy, out var own)) http.Response.Headers.ContentSecurityPolicy = (string)own!;
                // The text editor brings its own styles; they carry their page's mark.
                if (http.Items.TryGetValue(Endpoints.StyleMark, out var mark))
                    http.Response.Headers.ContentSecurityPolicy = http.Response.Headers.ContentSecurityPolicy.ToString()
                        .Replace("style-src 'self'", $"style-src 'self' 'nonce-{mark}'", StringComparison.Ordinal);
                return Task.CompletedTask;
            });
            return next(http);
        });
        app.UseSecurityHeaders(new HeaderPolicyCollection()
            .AddFrameOptionsSameOrigin().AddContentTypeOptionsNoSniff().AddReferrerPolicyStrictOriginWhenCrossOrigin().RemoveServerHeader()
            .AddStrictTransportSecurityMaxAge(60 * 60 * 24 * 365)
            .AddPermissionsPolicy(p =>
            {
                p.AddCamera().None();
                p.AddMicrophone().None();
                p.AddGeolocation().None();
                p.AddPayment().None();
                p.AddUsb().None();
                p.AddScreenWakeLock().Self();
            })
            .AddContentSecurityPolicy(csp =>
            {
                csp.AddDefaultSrc().Self();
                csp.AddScriptSrc().Self();
                csp.AddStyleSrc().Self();
                csp.AddImgSrc().Self().Data();
                csp.AddFontSrc().Self();
                csp.AddConnectSrc().Self();
                csp.AddMediaSrc().Self().From("https:");
                // Videos kept elsewhere, after somebody pressed them.
                csp.AddFrameSrc().Self().From("https:");
                csp.AddObjectSrc().None();
                csp.AddBaseUri().Self();
                csp.AddFrameAncestors().Self();
                // Joining posts here and is sent on to the payment service's page.
                var form = csp.AddFormAction().Self();
                if (!string.IsNullOrEmpty(till)) form.From(new Uri(till).GetLeftPart(UriPartial.Authority));
            }));
        app.UseExceptionHandler("/error");
        app.UseStatusCodePagesWithReExecute("/status/{0}");
        app.UseMiddleware<RefusedRequests>();
        // What is somebody's alone stays in no cache on the way or in a shared browser; whoever wants it kept says so.
        app.Use((http, next) =>
        {
            http.Response.OnStarting(() =>
            {
                if (!http.Response.Headers.ContainsKey("Cache-Control") && http.User.Identity?.IsAuthenticated == true)
                    http.Response.Headers.CacheControl = "no-store";
                return Task.CompletedTask;
            });
            return next(http);
        });
        app.MapStaticAssets();
        app.UseRouting();
        app.UseOutputCache();
        app.UseAuthentication();
        app.UseMiddleware<VisitorMiddleware>();
        app.UseRateLimiter();
        app.UseAuthorization();
        app.MapHealthChecks("/health", new() { ResponseWriter = HealthPage.Write });
        app.MapRazorPages().WithStaticAssets();
        app.MapEndpoints();
    }
}

/// <summary>Whom a limit counts together: an IPv4 address; of IPv6 the first 64 bits, which one household or one server has to itself (RFC 6177).</summary>
public static class Network
{
    public static string Of(System.Net.IPAddress? address)
    {
        if (address is null) return "";
        if (address.IsIPv4MappedToIPv6) address = address.MapToIPv4();
        if (address.AddressFamily != System.Net.Sockets.AddressFamily.InterNetworkV6) return address.ToString();
        return Convert.ToHexStringLower(address.GetAddressBytes().AsSpan(0, 8));
    }
}

/// <summary>
/// What is wrong with the request and not with us is answered so: what somebody's role doesn't allow is a 403 with a sentence, whatever page or address it was
/// tried at; what no form of ours sends (a field that isn't one, text with signs that no text has) is a 400.
/// </summary>
sealed class RefusedRequests(RequestDelegate next)
{
    public async Task Invoke(HttpContext http)
    {
        try
        {
            await next(http);
        }
        catch (Exception e) when (!http.Response.HasStarted && Status(e) is not null)
        {
            http.Response.Clear();
            http.Response.StatusCode = Status(e)!.Value;
        }
    }

    static int? Status(Exception e) => e switch
    {
        NotAllowedException => StatusCodes.Status403Forbidden,
        BadHttpRequestException bad => bad.StatusCode,
        Npgsql.PostgresException { SqlState: Npgsql.PostgresErrorCodes.CharacterNotInRepertoire or Npgsql.PostgresErrorCodes.UntranslatableCharacter } =>
            StatusCodes.Status400BadRequest,
        { InnerException: { } inner } => Status(inner),
        _ => null,
    };
}

static class HealthPage
{
    public static Task Write(HttpContext http, Microsoft.Extensions.Diagnostics.HealthChecks.HealthReport report)
    {
        http.Response.ContentType = "application/json";
        return http.Response.WriteAsJsonAsync(new
        {
            status = report.Status.ToString().ToLowerInvariant(),
            version = Product.Version,
            database = report.Entries.TryGetValue("database", out var db) ? db.Status.ToString().ToLowerInvariant() : "unknown",
        });
    }
}

public static class Product
{
    public static string Version { get; } = typeof(Product).Assembly.GetName().Version!.ToString(3);
}
