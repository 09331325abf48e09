using System.Threading.RateLimiting;
using BrightCircle.Data;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc.Filters;

namespace BrightCircle.Web.House;

public static class WebSetup
{
    public const string SignInLimit = "sign-in";

    public static void AddBrightWeb(this IServiceCollection services, IConfiguration settings)
    {
        services.AddRazorPages(o => o.Conventions.ConfigureFilter(new RefusalFilter())).AddMvcOptions(o =>
        {
            // What is bound to anything but words is a number nearly everywhere; dates come from their own fields.
            o.ModelBindingMessageProvider.SetAttemptedValueIsInvalidAccessor((typed, _) => $"“{typed}” isn’t a whole number.");
            o.ModelBindingMessageProvider.SetNonPropertyAttemptedValueIsInvalidAccessor(typed => $"“{typed}” isn’t a whole number.");
        });
        services.AddScoped<Visitor>();
        services.AddHttpContextAccessor();
        services.AddAuthentication(IdentityConstants.ApplicationScheme).AddIdentityCookies(c => c.ApplicationCookie!.Configure(o =>
        {
            o.Cookie.Name = "bright";
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            o.ExpireTimeSpan = TimeSpan.FromDays(60);
            o.SlidingExpiration = true;
            o.LoginPath = "/sign-in";
            o.Events.OnValidatePrincipal = SignedInPerson.Validate;
        }));
        new IdentityBuilder(typeof(Account), services).AddSignInManager();
        services.AddAntiforgery(o => o.Cookie.Name = "bright-form");
        services.AddHealthChecks().AddNpgSql(name: "database");
        services.AddHttpClient();
        services.Configure<ForwardedHeadersOptions>(o => o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost);
        services.AddResponseCompression(o => o.EnableForHttps = true);
        var perMinute = settings.GetValue("Limits:SignInPerMinute", 20);
        services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = 429;
            // Writing and trying sign-ins, joins and codes, by address; reading is never limited.
            o.AddPolicy(SignInLimit, http => HttpMethods.IsPost(http.Request.Method)
                ? RateLimitPartition.GetFixedWindowLimiter(http.Connection.RemoteIpAddress?.ToString() ?? "", _ => new() { PermitLimit = perMinute, Window = TimeSpan.FromMinutes(1) })
                : RateLimitPartition.GetNoLimiter(""));
        });
    }

    public static void UseBrightWeb(this WebApplication app)
    {
        app.UseForwardedHeaders();
        app.UseResponseCompression();
        var till = app.Configuration["Till:Url"];
        app.UseSecurityHeaders(new HeaderPolicyCollection()
            .AddFrameOptionsSameOrigin().AddContentTypeOptionsNoSniff().AddReferrerPolicyStrictOriginWhenCrossOrigin().RemoveServerHeader()
            .AddContentSecurityPolicy(csp =>
            {
                csp.AddDefaultSrc().Self();
                csp.AddScriptSrc().Self();
                // The text editor brings its own styles; they carry this page's mark.
                csp.AddStyleSrc().Self().WithNonce();
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
        app.MapStaticAssets();
        app.UseRouting();
        app.UseAuthentication();
        app.UseMiddleware<VisitorMiddleware>();
        app.UseRateLimiter();
        app.UseAuthorization();
        app.MapHealthChecks("/health", new() { ResponseWriter = HealthPage.Write });
        app.MapRazorPages().WithStaticAssets();
        app.MapEndpoints();
    }
}

/// <summary>An action the team member's role doesn't allow is a 403, whatever page it was tried from.</summary>
sealed class RefusalFilter : IAsyncExceptionFilter
{
    public Task OnExceptionAsync(ExceptionContext context)
    {
        if (context.Exception is NotAllowedException)
        {
            context.Result = new Microsoft.AspNetCore.Mvc.StatusCodeResult(403);
            context.ExceptionHandled = true;
        }
        return Task.CompletedTask;
    }
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
