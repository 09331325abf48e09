using BrightCircle.App.Billing;
using BrightCircle.App.House;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.Web.House;

/// <summary>What isn't a page: callbacks, pictures, one-click unsubscribing.</summary>
public static class Endpoints
{
    public static void MapEndpoints(this WebApplication app)
    {
        app.MapPost("/callbacks/till", async (HttpContext http, IPaymentGateway gateway, JoinPlan join, BrightContext db, Ids ids, IClock clock, Wake wake) =>
        {
            using var body = new MemoryStream();
            await http.Request.Body.CopyToAsync(body, http.RequestAborted);
            if (body.Length > 64 * 1024) return Results.StatusCode(413);
            switch (gateway.Read(http.Request.Headers["Till-Time"], http.Request.Headers["Till-Signed"], body.GetBuffer().AsSpan(0, (int)body.Length)))
            {
                case null: return Results.Unauthorized();
                case GatewayCallback.SessionCompleted done: await join.Complete(done.Result, http.RequestAborted); break;
                case GatewayCallback.ChargedBack back:
                    await ChargebackDue.Note(db, ids, back.ChargeRef, clock.GetCurrentInstant(), http.RequestAborted);
                    wake.Up();
                    break;
            }
            return Results.NoContent();
        }).DisableAntiforgery();

        // RFC 8058: the mail program posts here by itself.
        app.MapPost("/no-more/{token}", async (string token, SignInTokens tokens, OwnMembership own, HttpContext http) =>
        {
            if (tokens.ReadUnsubscribe(token) is not { } member) return Results.NotFound();
            await own.SetWantsNews(member, false, http.RequestAborted);
            return http.Request.HasFormContentType && http.Request.Form.ContainsKey("asked") ? Results.Redirect($"/no-more/{token}?done=true") : Results.Ok();
        }).DisableAntiforgery();

        app.MapGet("/pictures/{piece:long}", (long piece, Visitor visitor, Catalogue catalogue, IClock clock, IFileStore files, HttpContext http) =>
        {
            var now = catalogue.Now;
            if (!now.PieceById.TryGetValue(new(piece), out var p) || p.Picture is null || !now.Book.Decide(visitor.Facts, p.Id, clock.GetCurrentInstant()).IsOpen) return Results.NotFound();
            http.Response.Headers.CacheControl = "private, max-age=600";
            return files.Open(p.Picture) is { } file ? Results.File(file, "image/webp", enableRangeProcessing: true, entityTag: new($"\"{p.Picture[..32]}\"")) : Results.NotFound();
        });
        app.MapGet("/site-picture", (Catalogue catalogue, IFileStore files, HttpContext http) =>
        {
            if (catalogue.Now.Site?.Picture is not { Length: > 0 } address) return Results.NotFound();
            http.Response.Headers.CacheControl = "public, max-age=600";
            return files.Open(address) is { } file ? Results.File(file, "image/webp", enableRangeProcessing: true, entityTag: new($"\"{address[..32]}\"")) : Results.NotFound();
        });
    }
}
