using System.Text.Json;
using BrightCircle.App.Access;
using BrightCircle.App.Community;
using BrightCircle.App.Members;
using BrightCircle.Core.Access;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using NodaTime;

namespace BrightCircle.Web.House;

/// <summary>Checks each signed-in request against the account: one round trip, which also brings what access decisions rest on.</summary>
public static class SignedInPerson
{
    const string Key = "signed-in";

    public static async Task Validate(CookieValidatePrincipalContext context)
    {
        var id = context.Principal?.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)?.Value;
        var person = long.TryParse(id, out var account)
            ? await context.HttpContext.RequestServices.GetRequiredService<MemberReader>().Load(account, context.HttpContext.RequestAborted,
                SignedInBrowser.Of(context.Principal)) : null;
        var stamp =
            context.Principal?.FindFirst(context.HttpContext.RequestServices.GetRequiredService<Microsoft.Extensions.Options.IOptions<IdentityOptions>>()
            .Value.ClaimsIdentity.SecurityStampClaimType)?.Value;
        if (person is null || stamp != person.SecurityStamp)
        {
            // Signed out everywhere, or the account is gone: from this request on.
            context.RejectPrincipal();
            await context.HttpContext.SignOutAsync(IdentityConstants.ApplicationScheme);
            return;
        }
        context.HttpContext.Items[Key] = person;
    }

    public static SignedIn? Of(HttpContext http) => http.Items[Key] as SignedIn;
}

/// <summary>Who makes this request, and through whose eyes it is answered.</summary>
public sealed class Visitor
{
    /// <summary>Who is really signed in.</summary>
    public SignedIn? SignedIn { get; private set; }
    /// <summary>Through whose eyes and on which day the team looks; null while it doesn't.</summary>
    public Look? Look { get; private set; }
    public bool IsLooking => Look is not null;
    /// <summary>The member the team looks as, real or imagined; null while it doesn't, or looks as a visitor.</summary>
    public SignedIn? LookingAs { get; private set; }
    public MemberFacts Facts { get; private set; } = MemberFacts.Nobody;
    public bool IsTeam => SignedIn?.IsTeam == true;
    /// <summary>The person whose pages are shown.</summary>
    public SignedIn? Person => IsLooking ? LookingAs : SignedIn;
    public Buyer Buyer => Person?.Buyer ?? Buyer.Stranger;
    public bool IsMember => Person is { IsTeam: false };
    public MemberId? Member => Person is { IsTeam: false } p ? p.MemberId : null;
    /// <summary>The member to note things for: nobody while the team only looks.</summary>
    public MemberId? Recorded => IsLooking ? null : Member;
    public TeamActor Actor => SignedIn is { Role: { } role } s ? new(s.AccountId, s.Name, role) : throw new NotAllowedException("Only the team may do this.");

    internal void Become(SignedIn? signedIn, Look? look, SignedIn? lookingAs, Instant now)
    {
        (SignedIn, Look, LookingAs) = (signedIn, look, lookingAs);
        // What isn't known yet isn't known on a later day either.
        if (look?.At is { } at) now = Instant.Min(at, now);
        Facts = Person is null ? MemberFacts.Nobody : Person.IsTeam ? MemberFacts.Team : Person.FactsAt(now);
    }

    /// <summary>As a reader of a lesson in which something is to be done; null where they may not, and while the team only looks.</summary>
    public LessonReader? Reads(CatalogueSnapshot catalogue, LessonId lesson, Instant moment) =>
        Recorded is { } m ? LessonReader.For(catalogue, m, Person!.Name, Facts, lesson, moment) : null;

    public TallyReader? Marks(CatalogueSnapshot catalogue, TallyId tally, Instant moment) =>
        Recorded is { } m ? TallyReader.For(catalogue, m, Person!.ZoneId, Facts, tally, moment) : null;

    /// <summary>As a reader of a space; null where it isn't open to them.</summary>
    public SpaceReader? Talks(CatalogueSnapshot catalogue, SpaceId space, Instant moment) =>
        Person is { } p ? SpaceReader.For(catalogue, p, Facts, space, moment, IsLooking) : null;

    /// <summary>All the spaces that are open to them, in the order of the owner.</summary>
    public IReadOnlyList<SpaceReader> AllTalks(CatalogueSnapshot catalogue, Instant moment) =>
        [.. catalogue.Spaces.Select(s => Talks(catalogue, s.Id, moment)).OfType<SpaceReader>()];

    /// <summary>As somebody at a live session; null where it isn't open to them.</summary>
    public SessionReader? Attends(CatalogueSnapshot catalogue, LiveSessionId session, Instant moment) =>
        Person is { } p ? SessionReader.For(catalogue, p, Facts, session, moment, IsLooking) : null;

    /// <summary>As somebody who may have hours with a host; null where there are none, or they aren't open to them.</summary>
    public HourReader? Books(CatalogueSnapshot catalogue, LiveSeriesId series, Instant moment) =>
        Person is { } p ? HourReader.For(catalogue, p, Facts, series, moment, IsLooking) : null;

    public PlaceReader? Takes(CatalogueSnapshot catalogue, PieceId piece, Instant moment) =>
        Recorded is { } m ? PlaceReader.For(catalogue, m, Facts, piece, moment) : null;
}

/// <summary>Works out the visitor, and leads to the set-up while there is no site.</summary>
public sealed class VisitorMiddleware(RequestDelegate next, Catalogue catalogue, IClock clock, MemberReader reader, SeenMembers seen,
    SeenSignIns browsers, IDataProtectionProvider protection)
{
    public const string Cookie = "bright-looking-as";
    readonly IDataProtector protector = protection.CreateProtector("looking-as");

    public async Task Invoke(HttpContext http, Visitor visitor)
    {
        if (catalogue.Now.Site is null && http.GetEndpoint() is { } endpoint
            && endpoint.Metadata.GetMetadata<Microsoft.AspNetCore.Mvc.RazorPages.PageActionDescriptor>() is { } page
            && !page.ViewEnginePath.EndsWith("/Setup", StringComparison.Ordinal) && !page.ViewEnginePath.EndsWith("/Error", StringComparison.Ordinal))
        {
            http.Response.Redirect("/setup");
            return;
        }
        var signedIn = SignedInPerson.Of(http);
        Look? look = null;
        SignedIn? lookingAs = null;
        // The Desk itself is never looked at through somebody else's eyes.
        if (signedIn is { IsTeam: true } && !http.Request.Path.StartsWithSegments("/desk") && Read(http.Request.Cookies[Cookie]) is { } found)
        {
            lookingAs = found switch
            {
                { Member: { } id } => await reader.Load(id, http.RequestAborted) is { IsTeam: false } member ? member : null,
                { Plan: { } plan } => Imagine(found, new(plan)),
                _ => null,
            };
            // Who is gone isn't looked as.
            look = found.IsVisitor || lookingAs is not null ? found : null;
        }
        visitor.Become(signedIn, look, lookingAs, clock.GetCurrentInstant());
        if (visitor.IsTeam && catalogue.Now.Site is { TeamNeedsSecondStep: true } && http.Request.Path.StartsWithSegments("/desk")
            && !http.Request.Path.StartsWithSegments("/desk/signing-in") && !Admission.IsWhole(http))
        {
            http.Response.Redirect("/desk/signing-in");
            return;
        }
        if (visitor.Recorded is { } here) seen.Here(here);
        if (SignedInBrowser.Of(http.User) is var browser and not 0) browsers.Here(browser);
        await next(http);
    }

    /// <summary>Somebody who joined a plan by a price on a day, and holds nothing else.</summary>
    SignedIn? Imagine(Look look, PlanId id)
    {
        var now = catalogue.Now;
        if (!now.PlanById.TryGetValue(id, out var plan) || look.Joined is not { } joined) return null;
        var price = look.Price is { } p ? now.PriceById.GetValueOrDefault(new PriceId(p)) : null;
        var holding = Holding.Imagined(plan, price?.Id, joined, now.Calendar.Zone.Id);
        return new(
            0, $"somebody with {plan.Name}{(price is null ? "" : $", {price.Name},")} since {now.Calendar.Date(joined).ToString("d MMMM uuuu", now.Culture)}",
            "", null, "", false, plan.IsTier ? Standing.Active : Standing.Guest, joined, false, null, true, 0, [holding], new HashSet<PieceId>(),
            new HashSet<CohortId>(), new Dictionary<LessonId, Instant>());
    }

    /// <param name="look">Null to stop.</param>
    public static void LookAs(HttpContext http, IDataProtectionProvider protection, Look? look)
    {
        if (look is not null) http.Response.Cookies.Append(
            Cookie, protection.CreateProtector("looking-as").Protect(JsonSerializer.Serialize(look, CoreJson.Options)),
            new() { HttpOnly = true, SameSite = SameSiteMode.Lax });
        else http.Response.Cookies.Delete(Cookie);
    }

    Look? Read(string? cookie)
    {
        if (string.IsNullOrEmpty(cookie)) return null;
        try { return JsonSerializer.Deserialize<Look>(protector.Unprotect(cookie), CoreJson.Options); }
        catch (Exception e) when (e is System.Security.Cryptography.CryptographicException or JsonException) { return null; }
    }
}

/// <summary>Through whose eyes the site is looked at: a member's, those of somebody who joined a plan, or a visitor's.</summary>
/// <param name="At">On which day; null for now.</param>
public sealed record Look(long? Member = null, long? Plan = null, long? Price = null, Instant? Joined = null, Instant? At = null)
{
    [System.Text.Json.Serialization.JsonIgnore] public bool IsVisitor => Member is null && Plan is null;
}
