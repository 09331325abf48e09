using System.Globalization;
using BrightCircle.App.Billing;
using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.App.Routines;
using BrightCircle.App.Settings;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;
using Microsoft.Net.Http.Headers;
using NodaTime;

namespace BrightCircle.Web.House;

/// <summary>What isn't a page: callbacks, files, feeds, one-click unsubscribing.</summary>
public static class Endpoints
{
    public static void MapEndpoints(this WebApplication app)
    {
        app.MapPost("/callbacks/till", async (HttpContext http, IPaymentGateway gateway, CompleteCheckout complete, NoteChargeback note) =>
        {
            // The size first, then the signature, and only then what it says.
            if (await BoundedBody.Read(http.Request, 64 * 1024, http.RequestAborted) is not { } body) return Results.StatusCode(413);
            switch (gateway.Read(http.Request.Headers["Till-Time"], http.Request.Headers["Till-Signed"], body))
            {
                case GatewayCallback.NotSigned: return Results.Unauthorized();
                case GatewayCallback.Malformed: return Results.BadRequest();
                case GatewayCallback.SessionCompleted done:
                    return await complete.ByCallback(done.Result, http.RequestAborted) ? Results.NoContent() : Results.StatusCode(503);
                case GatewayCallback.ChargedBack back:
                    await note.Do(back.ChargeRef, back.Amount, http.RequestAborted, back.Dispute);
                    return Results.NoContent();
                case GatewayCallback.Decided decided:
                    await note.Decided(decided.DisputeRef, decided.Won, http.RequestAborted);
                    return Results.NoContent();
                case GatewayCallback.Other: return Results.NoContent();
                default: throw new InvalidOperationException("No such callback.");
            }
        }).DisableAntiforgery();

        // Whoever runs the mail server hands in what came back, and what is answered.
        app.MapPost("/mail/reports/{key}", async (string key, HttpContext http, MailSigning signing, ReturnedMail returned, AnsweredMail answered) =>
        {
            if (!signing.IsReportKey(key)) return Results.NotFound();
            if (await BoundedBody.Read(http.Request, 1024 * 1024, http.RequestAborted) is not { } body) return Results.StatusCode(413);
            using var raw = new MemoryStream(body);
            if (await returned.Take(raw, http.RequestAborted) is not null) return Results.NoContent();
            return await answered.Take(body, http.RequestAborted) switch
            {
                null => Results.Text("This is no report of a mail server (RFC 3464, RFC 5965), and no answer to a letter of ours.\n", statusCode: 422),
                { Ok: true } => Results.NoContent(),
                { Refusal: var why } => Results.Text(why + "\n", statusCode: 422),
            };
        }).DisableAntiforgery();

        // Another program tells of a member.
        app.MapPost("/programs/{key}", async (string key, HttpContext http, ProgramKey keys, HearProgram hear) =>
        {
            if (!keys.Is(key)) return Results.NotFound();
            if (await BoundedBody.Read(http.Request, 16 * 1024, http.RequestAborted) is not { } body) return Results.StatusCode(413);
            return await hear.Take(body, http.RequestAborted) switch
            {
                ProgramHeard.Done => Results.NoContent(),
                ProgramHeard.Nobody => Results.Text("Nobody here has this address.\n", statusCode: 422),
                ProgramHeard.NotReadable => Results.Text("Post JSON with name, email and, to be safe to repeat, reference.\n", statusCode: 400),
                _ => throw new InvalidOperationException("No such answer."),
            };
        }).DisableAntiforgery();

        // A link of a letter that is counted on the way.
        app.MapMethods("/l/{token}/{link:int}", ["GET", "HEAD"], async (string token, int link, HttpContext http, OpenedLinks links) =>
        {
            if (await links.Follow(token, link, HttpMethods.IsGet(http.Request.Method), http.RequestAborted) is not { } to) return Results.NotFound();
            http.Response.Headers.CacheControl = "no-store";
            return Results.Redirect(to);
        });

        // RFC 8058: the mail program posts here by itself.
        app.MapPost("/no-more/{token}", async (string token, string? of, SignInTokens tokens, OwnSettings own, App.Letters.SeriesOfLetters series,
            HttpContext http) =>
        {
            if (tokens.ReadUnsubscribe(token) is not { } member) return Results.NotFound();
            var form = http.Request.HasFormContentType ? http.Request.Form : null;
            var all = form?.ContainsKey("all") == true;
            if (!all && of == "talk") await own.SetWantsTalk(member, false, http.RequestAborted);
            else if (!all && long.TryParse(of, System.Globalization.CultureInfo.InvariantCulture, out var one)) await series.Want(member, one, false,
                http.RequestAborted);
            else await own.SetWantsNews(member, false, http.RequestAborted);
            return form?.ContainsKey("asked") == true
                ? Results.Redirect($"/no-more/{token}?done=true&of={Uri.EscapeDataString(of ?? "")}&all={all.ToString().ToLowerInvariant()}") : Results.Ok();
        }).DisableAntiforgery();

        app.MapGet("/site-picture", async (Catalogue catalogue, IFileStore files, HttpContext http) =>
            catalogue.Now.Site?.Picture is { Length: > 0 } address ? await Send(http, files, address, "image/webp", "public, max-age=600")
                : Results.NotFound());

        // What a phone or a desktop makes a sign of the site from (W3C Web Application Manifest).
        app.MapGet("/site.webmanifest", (Catalogue catalogue, HttpContext http) =>
        {
            if (catalogue.Now.Site is not { } site) return Results.NotFound();
            http.Response.Headers.CacheControl = "public, max-age=3600";
            object Icon(int size, string purpose) => new { src = $"/site-icon/{size}.png", sizes = $"{size}x{size}", type = "image/png", purpose };
            return Results.Json(new
            {
                id = "/",
                name = site.Name,
                short_name = site.Name.Length <= 12 ? site.Name : site.Name.Split(' ')[0],
                description = site.Tagline,
                start_url = "/me",
                scope = "/",
                display = "standalone",
                lang = "en",
                background_color = SiteIcon.Paper,
                theme_color = SiteIcon.Ground,
                icons = SiteIcon.Sizes.Select(s => Icon(s, "any")).Append(Icon(512, "maskable")),
            }, contentType: "application/manifest+json");
        });
        app.MapGet("/site-icon/{size:int}.png", async (int size, SiteIcon icon, HttpContext http) =>
        {
            if (await icon.Png(size, http.RequestAborted) is not { } png) return Results.NotFound();
            http.Response.Headers.CacheControl = "public, max-age=3600";
            return Results.Bytes(png, "image/png");
        });

        MapFiles(app);
        MapUploads(app);
        MapFeeds(app);
    }

    /// <summary>Under this name a request keeps a content policy of its own, instead of the pages'.</summary>
    public static readonly object OwnPolicy = new(), StyleMark = new();

    /// <summary>One file of the store: ranges and conditional requests as RFC 9110 has them, streamed.</summary>
    static async Task<IResult> Send(HttpContext http, IFileStore store, string address, string mediaType, string cache, string? download = null)
    {
        if (await store.Open(address, http.RequestAborted) is not { } stream) return Results.NotFound();
        http.Response.Headers.CacheControl = cache;
        // What a browser might run is never shown in the site's own name. Browsers' own PDF readers don't work in a sandbox, and run nothing in it.
        http.Items[OwnPolicy] = mediaType == "application/pdf" ? "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'"
            : "default-src 'none'; style-src 'unsafe-inline'; sandbox";
        return Results.Stream(stream, mediaType, download, entityTag: new EntityTagHeaderValue(FileAddress.ETag(address)), enableRangeProcessing: true);
    }

    /// <summary>Of a picture the size that is wanted; a picture that has none is sent as it is.</summary>
    static (string Address, string Type) Sized(FileState f, int? width)
    {
        if (width is null || f.Sizes.Count == 0) return (f.Address, f.MediaType);
        var best = f.Sizes.Select(s => (Width: int.Parse(s.Key, System.Globalization.CultureInfo.InvariantCulture), s.Value)).OrderBy(s => s.Width).ToArray();
        var chosen = best.FirstOrDefault(s => s.Width >= width);
        return (chosen.Value ?? best[^1].Value, "image/webp");
    }

    static async Task<IResult> OfDoorway(Func<DoorwayRule, FileId?> which, long piece, Visitor visitor, Catalogue catalogue, IClock clock,
        MemberReader reader, IFileStore store, HttpContext http)
    {
        var now = catalogue.Now;
        if (!now.PieceById.TryGetValue(new(piece), out var p) || which(now.DoorwayOf(p)) is not { } picture
            || !now.Book.Decide(visitor.Facts, p.Id, clock.GetCurrentInstant()).IsKnown) return Results.NotFound();
        if (await reader.File(picture, http.RequestAborted) is not { } file) return Results.NotFound();
        var (address, type) = Sized(file, 960);
        return await Send(http, store, address, type, "private, max-age=3600");
    }

    static void MapFiles(WebApplication app)
    {
        // A cover may be seen by whoever may know of its piece.
        app.MapGet("/covers/{piece:long}", async (long piece, int? w, Visitor visitor, Catalogue catalogue, IClock clock, MemberReader reader,
            IFileStore store, HttpContext http) =>
        {
            var now = catalogue.Now;
            if (!now.PieceById.TryGetValue(new(piece), out var p) || p.Cover is not { } cover
                || !now.Book.Decide(visitor.Facts, p.Id, clock.GetCurrentInstant()).IsKnown) return Results.NotFound();
            if (await reader.File(cover, http.RequestAborted) is not { } file) return Results.NotFound();
            var (address, type) = Sized(file, w ?? 960);
            return await Send(http, store, address, type, "private, max-age=3600");
        });
        // What stands on a page that the owner wrote, and its picture.
        app.MapGet("/pages/files/{page:long}/{file:long}", async (long page, long file, int? w, Visitor visitor, Catalogue catalogue, MemberReader reader,
            IFileStore store, HttpContext http) =>
        {
            if (catalogue.Now.Pages.FirstOrDefault(p => p.Id == page) is not { } written || !written.IsPublic && !visitor.IsTeam
                || written.Picture?.Value != file && !written.Sections.Any(s => s.UsedFiles().Any(f => f.Value == file))
                || await reader.File(new(file), http.RequestAborted) is not { } found) return Results.NotFound();
            var (address, type) = Sized(found, w is > 0 ? w : null);
            return await Send(http, store, address, type, "public, max-age=3600");
        });
        app.MapGet("/logo", async (Catalogue catalogue, MemberReader reader, IFileStore store, HttpContext http) =>
        {
            if (catalogue.Now.Site?.Logo is not { } logo || await reader.File(logo, http.RequestAborted) is not { } file) return Results.NotFound();
            var (address, type) = Sized(file, 480);
            return await Send(http, store, address, type, "public, max-age=3600");
        });
        // The picture over "not yet", and that of cards for those who can't open it: for whoever may know of the piece.
        app.MapGet("/closed-covers/{piece:long}", async (long piece, Visitor visitor, Catalogue catalogue, IClock clock, MemberReader reader,
            IFileStore store, HttpContext http) => await OfDoorway(r => r.ClosedCover, piece, visitor, catalogue, clock, reader, store, http));
        app.MapGet("/not-yet/{piece:long}", async (long piece, Visitor visitor, Catalogue catalogue, IClock clock, MemberReader reader,
            IFileStore store, HttpContext http) => await OfDoorway(r => r.NotYetPicture, piece, visitor, catalogue, clock, reader, store, http));
        app.MapGet("/shelf-covers/{shelf:long}", async (long shelf, Catalogue catalogue, MemberReader reader, IFileStore store, HttpContext http) =>
        {
            if (catalogue.Now.ShelfById.GetValueOrDefault(new(shelf))?.Cover is not { } cover || await reader.File(cover, http.RequestAborted) is not { } file)
                return Results.NotFound();
            var (address, type) = Sized(file, 1600);
            return await Send(http, store, address, type, "public, max-age=3600");
        });
        // Members' files: only by an address that was given out after an access decision, and for a while.
        app.MapGet("/files/{id:long}/{size}/{ends:long}/{signature}/{name}",
            async (long id, string size, long ends, string signature, FileLinks links, MemberReader reader, IFileStore store, HttpContext http) =>
        {
            await links.Ready(http.RequestAborted);
            if (!links.IsGood(id, size, ends, signature) || await reader.File(new(id), http.RequestAborted) is not { } file) return Results.NotFound();
            var (address, type) = Sized(file, size.StartsWith('w') && int.TryParse(size.AsSpan(1), out var w) ? w : null);
            return await Send(http, store, address, type, "private, max-age=3600", file.Kind == FileKind.Document
                && file.MediaType != "application/pdf" ? file.Name : null);
        });
        app.MapGet("/spaces/pictures/{id:long}/{size}/{ends:long}/{signature}.webp",
            async (long id, string size, long ends, string signature, Visitor visitor, FileLinks links, TalkPictures pictures, IFileStore store,
            HttpContext http) =>
        {
            await links.Ready(http.RequestAborted);
            return links.IsGoodForTalk(id, size, ends, signature)
                && await pictures.AddressOf(id, size == "small", visitor.IsTeam, http.RequestAborted) is var (address, name)
                ? await Send(http, store, address, name is null ? "image/webp" : "application/octet-stream", "private, max-age=3600", name) :
                    Results.NotFound();
        });
        // What is said while somebody reads comes to them (server-sent events, WHATWG HTML 9.2).
        app.MapGet("/spaces/threads/{id:long}/live", async (long id, long? after, Visitor visitor, Catalogue catalogue, IClock clock, ReadTalk read,
            LiveTalk live, IHostApplicationLifetime life, HttpContext http) =>
        {
            if (visitor.IsLooking || await read.SpaceOf(id, http.RequestAborted) is not { } space
                || visitor.Talks(catalogue.Now, space, clock.GetCurrentInstant()) is null) return Results.NotFound();
            var from = long.TryParse(http.Request.Headers["Last-Event-ID"], NumberStyles.None, CultureInfo.InvariantCulture, out var last) ? last : after ?? 0;
            // The site doesn't wait for those who read when it stops.
            var stops = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted, life.ApplicationStopping);
            http.Response.RegisterForDispose(stops);
            http.Response.Headers.CacheControl = "no-store";
            return Results.ServerSentEvents(live.Watch(id, from, stops.Token));
        });
        app.MapGet("/desk/files/{id:long}/raw", async (long id, int? w, Visitor visitor, MemberReader reader, IFileStore store, HttpContext http) =>
        {
            if (!visitor.IsTeam || await reader.File(new(id), http.RequestAborted) is not { } file) return Results.NotFound();
            var (address, type) = Sized(file, w);
            return await Send(http, store, address, type, "private, max-age=60", file.Kind == FileKind.Document
                && file.MediaType != "application/pdf" ? file.Name : null);
        });
        app.MapGet("/lessons/{lesson:long}/captions/{block:long}.vtt",
            async (long lesson, long block, Visitor visitor, Catalogue catalogue, IClock clock, BrightContext db, HttpContext http) =>
        {
            if (await OpenBlock(lesson, block, visitor, catalogue, clock, db, http.RequestAborted) is not Block b) return Results.NotFound();
            var captions = b is Block.Video v ? v.Recording.Captions : b is Block.Audio a ? a.Recording.Captions : "";
            return captions.Length == 0 ? Results.NotFound() : Results.Text(captions, "text/vtt");
        });
        app.MapGet("/lessons/{lesson:long}/live/{block:long}.ics",
            async (long lesson, long block, Visitor visitor, Catalogue catalogue, IClock clock, BrightContext db, Feeds feeds, HttpContext http) =>
            await OpenBlock(lesson, block, visitor, catalogue, clock, db, http.RequestAborted) is Block.Live { StartsAt: not null } live
                ? Results.Text(feeds.LiveSession(live, catalogue.Now.LessonById[new(lesson)], clock.GetCurrentInstant()), "text/calendar")
                    : Results.NotFound());
        app.MapGet("/sessions/{id:long}/session.ics", (long id, Visitor visitor, Catalogue catalogue, IClock clock, Feeds feeds) =>
            visitor.Attends(catalogue.Now, new(id), clock.GetCurrentInstant()) is not null && feeds.Session(new(id), clock.GetCurrentInstant()) is { } file
                ? Results.Text(file.Text, "text/calendar", System.Text.Encoding.UTF8) : Results.NotFound());
        app.MapGet("/read/{piece:long}/book.epub",
            async (long piece, Visitor visitor, Catalogue catalogue, IClock clock, MemberReader reader, Epub epub, HttpContext http) =>
        {
            var now = catalogue.Now;
            var at = clock.GetCurrentInstant();
            if (!now.PieceById.TryGetValue(new(piece), out var p) || !now.Book.Decide(visitor.Facts, p.Id, at).IsOpen) return Results.NotFound();
            var open = p.Outline.Lessons.Where(l => now.Book.Decide(visitor.Facts, l.Id, at).IsOpen).Select(l => l.Id).ToArray();
            if (open.Length == 0) return Results.NotFound();
            var (contents, files) = await reader.Contents(open, http.RequestAborted);
            var modules = p.Outline.Modules.ToDictionary(m => m.Id, m => m.Title);
            http.Response.ContentType = "application/epub+zip";
            http.Response.Headers.ContentDisposition = $"attachment; filename=\"{BrightPage.Slug(p.Title)}.epub\"";
            // An archive is written with a look back, so it is made beside and then sent.
            await using var book = new FileStream(Path.GetTempFileName(), FileMode.Open, FileAccess.ReadWrite, FileShare.None, 1 << 16,
                FileOptions.DeleteOnClose | FileOptions.Asynchronous);
            await epub.Write(book, p, now.Site!.Name,
                [.. p.Outline.Lessons.Where(l => contents.ContainsKey(l.Id))
                .Select(l => new BookLesson(l.ModuleId is { } m ? modules.GetValueOrDefault(m) : null, l, contents[l.Id]))], files, at, http.RequestAborted);
            book.Position = 0;
            await book.CopyToAsync(http.Response.Body, http.RequestAborted);
            return Results.Empty;
        });
        app.MapGet("/challenges/{id:long}/certificate.pdf", async (long id, Visitor visitor, Catalogue catalogue, Challenges challenges, HttpContext http) =>
            catalogue.Now.Community.ChallengeById.TryGetValue(new(id), out var challenge) && visitor is { IsMember: true, Member: { } member }
                && await challenges.CertificateOf(challenge, member, http.RequestAborted) is { } facts
                ? Results.File(Certificate.Pdf(facts), "application/pdf", $"{BrightPage.Slug(facts.Title)}.pdf") : Results.NotFound());
        app.MapGet("/read/{piece:long}/certificate.pdf", async (long piece, Visitor visitor, Catalogue catalogue, MemberReader reader, HttpContext http) =>
            await CertificateOf(piece, visitor, catalogue, reader, http.RequestAborted) is { } facts
                ? Results.File(Certificate.Pdf(facts), "application/pdf", $"{BrightPage.Slug(facts.Title)}.pdf") : Results.NotFound());
    }

    /// <summary>The certificate of whoever has completed the piece; null for others.</summary>
    public static async Task<CertificateFacts?> CertificateOf(long piece, Visitor visitor, Catalogue catalogue, MemberReader reader, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (!now.PieceById.TryGetValue(new(piece), out var p) || !p.Certificate || visitor is not { IsMember: true, Member: { } member }) return null;
        var openings = await reader.Openings(member, ct);
        if (Completion.Of(p, l => openings.GetValueOrDefault(l)?.DoneAt) is not { } at) return null;
        var length = $"{Say.Count(Completion.Counted(p).Count, "lesson")}{(p.Minutes is { } m ? ", " + Say.Length(m) : "")}";
        return new(visitor.Person!.Name, p.Title, p.Subtitle, now.Site!.Name, now.Calendar.Date(at).ToString("d MMMM uuuu", now.Culture), length,
            $"{p.Id.Value}-{member.Value}", $"/read/{p.Id.Value}", $"/read/{p.Id.Value}/certificate.pdf", now.Culture.Name);
    }

    static async Task<Block?> OpenBlock(long lesson, long block, Visitor visitor, Catalogue catalogue, IClock clock, BrightContext db, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (!now.LessonById.ContainsKey(new(lesson)) || !now.Book.Decide(visitor.Facts, new LessonId(lesson), clock.GetCurrentInstant()).IsOpen) return null;
        var content = await db.LessonContents.AsNoTracking().FirstOrDefaultAsync(c => c.LessonId == new LessonId(lesson), ct);
        return content?.Blocks.FirstOrDefault(b => b.Id.Value == block);
    }

    /// <summary>Uploads in parts: begin, send one part after the other, ask how far it is after a break, finish.</summary>
    static void MapUploads(WebApplication app)
    {
        var uploads = app.MapGroup("/desk/uploads").AddEndpointFilter(async (context, next) =>
        {
            var http = context.HttpContext;
            if (!http.RequestServices.GetRequiredService<Visitor>().IsTeam) return Results.NotFound();
            if (!HttpMethods.IsGet(http.Request.Method) && !await http.RequestServices.GetRequiredService<IAntiforgery>().IsRequestValidAsync(http))
                return Results.BadRequest("This page is too old. Load it again.");
            return await next(context);
        });
        uploads.MapPost("", async (string name, long bytes, Visitor visitor, KeepFiles files, HttpContext http) =>
            await files.Begin(visitor.Actor, name, bytes, http.RequestAborted) is var r
                && r.Ok ? Results.Json(new { id = r.Value!.Id, received = 0L }) : Results.BadRequest(r.Refusal));
        uploads.MapGet("{id:long}", async (long id, Visitor visitor, KeepFiles files, HttpContext http) =>
            await files.Find(visitor.Actor, id, http.RequestAborted) is { } u ? Results.Json(new { received = u.Received, bytes = u.Bytes })
                : Results.NotFound());
        uploads.MapPut("{id:long}", async (long id, long offset, Visitor visitor, KeepFiles files, HttpContext http) =>
            await files.Part(visitor.Actor, id, offset, http.Request.Body, http.RequestAborted) is var r
                && r.Ok ? Results.Json(new { received = r.Value }) : Results.BadRequest(r.Refusal));
        uploads.MapPost("{id:long}/finish", async (long id, string? alt, Visitor visitor, KeepFiles files, HttpContext http) =>
            await files.Finish(visitor.Actor, id, alt, http.RequestAborted) is var r
                && r.Ok ? Results.Json(new { id = r.Value!.Id.Value, name = r.Value.Name, kind = r.Value.Kind.ToString(), alt = r.Value.Alt })
                : Results.BadRequest(r.Refusal));
    }

    static void MapFeeds(WebApplication app)
    {
        app.MapGet("/feed.xml", (Feeds feeds, Catalogue catalogue, IClock clock) => catalogue.Now.Site is null ? Results.NotFound()
            : Results.Text(feeds.Public(clock.GetCurrentInstant()), "application/atom+xml", System.Text.Encoding.UTF8));
        app.MapGet("/feed/{token}/news.xml", async (
            string token, Feeds feeds, FileLinks links, MemberReader reader, SiteAddress address, IClock clock, HttpContext http) =>
        {
            await links.Ready(http.RequestAborted);
            if (links.ReadToken("feed", token) is not { } id || await reader.Load(id.Account, http.RequestAborted) is not { IsTeam: false } member
                || member.FeedsVersion != id.Version) return Results.NotFound();
            var at = clock.GetCurrentInstant();
            return Results.Text(feeds.Private(member.FactsAt(at), member.Name, $"{address.Url}/feed/{token}/news.xml", at),
                "application/atom+xml", System.Text.Encoding.UTF8);
        });
        app.MapGet("/feed/{token}/opens.ics", async (string token, Feeds feeds, FileLinks links, MemberReader reader, BookHours hours, IClock clock,
            HttpContext http) =>
        {
            await links.Ready(http.RequestAborted);
            if (links.ReadToken("feed", token) is not { } id || await reader.Load(id.Account, http.RequestAborted) is not { IsTeam: false } member
                || member.FeedsVersion != id.Version) return Results.NotFound();
            var at = clock.GetCurrentInstant();
            return Results.Text(feeds.OpeningsCalendar(member.FactsAt(at), at, await hours.InCalendar(member.MemberId, http.RequestAborted)),
                "text/calendar", System.Text.Encoding.UTF8);
        });
        app.MapGet("/calendar/{token}/releases.ics", async (string token, Feeds feeds, FileLinks links, MemberReader reader, IClock clock, HttpContext http) =>
        {
            await links.Ready(http.RequestAborted);
            return links.ReadToken("calendar", token) is { } id && await reader.Load(id.Account, http.RequestAborted) is { IsTeam: true } team
                && team.FeedsVersion == id.Version ? Results.Text(feeds.TeamCalendar(clock.GetCurrentInstant()), "text/calendar", System.Text.Encoding.UTF8)
                : Results.NotFound();
        });
    }
}
