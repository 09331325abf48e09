using System.Globalization;
using System.Net;
using System.Text;
using MimeKit;

namespace BrightCircle.StandIns;

/// <summary>The Postbox's web inbox.</summary>
public static class PostboxPages
{
    const int PageSize = 60;
    sealed record RuleBody(string Address, string? Rule);
    sealed record DownBody(bool Down);
    sealed record SilentBody(bool Silent);

    public static void Map(WebApplication app, PostboxState box, NameServer names)
    {
        app.MapGet("/", (string? q, int? page) => Html(Inbox(box, q, Math.Max(1, page ?? 1))));
        app.MapGet("/m/{id:long}", (long id) => box.Get(id) is { } m ? Html(View(m)) : Results.NotFound());
        app.MapGet("/m/{id:long}/html", (HttpContext http, long id) =>
        {
            if (box.Get(id) is not { } m) return Results.NotFound();
            http.Response.Headers.ContentSecurityPolicy =
                "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox allow-popups allow-popups-to-escape-sandbox";
            // Links in a letter open beside the inbox.
            return Results.Content(WithPictures(m.Parse())
                .Replace("<head>", "<head><base target=\"_blank\">", StringComparison.Ordinal), "text/html; charset=utf-8");
        });
        app.MapGet("/m/{id:long}/raw", (long id) => box.Get(id) is { } m ? Results.Bytes(m.Raw, "text/plain; charset=utf-8") : Results.NotFound());
        app.MapPost("/rules", async (HttpContext http) =>
        {
            var form = await http.Request.ReadFormAsync();
            if (form["address"].ToString().Trim() is { Length: > 0 } address)
                box.SetRule(address, form["rule"].ToString() is "refuse" or "delay" ? form["rule"].ToString() : null);
            return Results.Redirect("/");
        });

        app.MapGet("/names", () => Html(Names(names)));
        app.MapPost("/names", async (HttpContext http) =>
        {
            var form = await http.Request.ReadFormAsync();
            var (name, text) = (form["name"].ToString(), form["text"].ToString());
            if (form.ContainsKey("take")) names.Take(name, text);
            else if (name.Trim().Length > 0 && text.Trim().Length > 0) names.Put(name, text);
            return Results.Redirect("/names");
        });

        app.MapGet("/api/messages", (string? q, string? to) =>
            box.Find(q ?? to).Where(m => to is null || m.To.Equals(to, StringComparison.OrdinalIgnoreCase)).Take(500)
            .Select(m => new { m.Id, m.To, m.Subject, m.Date }));
        app.MapGet("/api/messages/{id:long}", (long id) => box.Get(id) is { } m
            ? Results.Ok(new
            {
                m.Id,
                m.To,
                m.Subject,
                m.Date,
                Html = m.Parse().HtmlBody,
                Text = m.Parse().TextBody,
                Headers = m.Parse().Headers.Select(h => new { h.Field, h.Value })
            }) : Results.NotFound());
        app.MapPost("/control/rules", (RuleBody b) => { box.SetRule(b.Address, b.Rule); return Results.NoContent(); });
        app.MapPost("/control/down", (DownBody b) => { box.Down = b.Down; return Results.NoContent(); });
        app.MapPost("/control/names", (NameLine l) => { names.Put(l.Name, l.Text); return Results.NoContent(); });
        app.MapPost("/control/names/take", (NameLine l) => { names.Take(l.Name, l.Text); return Results.NoContent(); });
        app.MapPost("/control/names/silent", (SilentBody b) => { names.Silent = b.Silent; return Results.NoContent(); });
        app.MapGet("/health", () => "ok");
    }

    /// <summary>Parts that the HTML names by their Content-ID (RFC 2392) stand in it, as mail programs show them.</summary>
    static string WithPictures(MimeMessage message)
    {
        var html = message.HtmlBody ?? "<p>There is no HTML part.</p>";
        foreach (var part in message.BodyParts.OfType<MimePart>().Where(p => p.ContentId is { Length: > 0 } && p.Content is not null))
        {
            using var bytes = new MemoryStream();
            part.Content!.DecodeTo(bytes);
            html = html.Replace($"cid:{part.ContentId}", $"data:{part.ContentType.MimeType};base64,{Convert.ToBase64String(bytes.ToArray())}",
                StringComparison.Ordinal);
        }
        return html;
    }

    static string Names(NameServer names)
    {
        var rows = string.Concat(names.Lines.Select(l => $"<tr><td>{Enc(l.Name)}</td><td style=\"word-break:break-all\">{Enc(l.Text)}</td>"
            + $"<td><form method=post action=\"/names\"><input type=hidden name=name value=\"{Enc(l.Name)}\">"
            + $"<input type=hidden name=text value=\"{Enc(l.Text)}\"><button "
            + "name=take value=yes class=plain>Take it out</button></form></td></tr>"));
        return $"""
            <p><a href="/">◂ all messages</a></p><p class=quiet>A stand-in for the DNS: what a domain says of itself, in lines of text (TXT).</p><h1>Names</h1>
            <table><tr><th>Name</th><th>Text</th><th></th></tr>{rows}</table>
            <form method=post action="/names"><label for=name>Name</label><input id=name name=name><label for=text>Text</label><input id=text name=text>
            <p><button>Put it in</button></p></form>
            """;
    }

    static string Inbox(PostboxState box, string? q, int page)
    {
        var found = box.Find(q);
        var rows = string.Concat(found.Skip((page - 1) * PageSize).Take(PageSize).Select(m =>
            $"<tr><td class=num>{m.Date.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)}</td><td>{Enc(m.To)}</td><td><a "
            + $"href=\"/m/{m.Id}\">{Enc(m.Subject)}</a></td></tr>"));
        var pages = (found.Count + PageSize - 1) / PageSize;
        string Link(int p, string words) => $"<a href=\"/?page={p}&q={Uri.EscapeDataString(q ?? "")}\">{words}</a>";
        var rules = string.Concat(box.Rules().Select(r => $"<li>{Enc(r.Key)}: {(r.Value == "refuse" ? "refused" : "delayed")}</li>"));
        return $"""
            <p class=quiet>A stand-in for a mail server. Nothing leaves this machine. What domains say of their mail stands
                under <a href="/names">names</a>.</p><h1>The Postbox</h1>
            <form method=get action="/"><label for=q>Search address or subject</label><input id=q name=q value="{Enc(q)}"> <button>Search</button></form>
            <h2>{found.Count} {(found.Count == 1 ? "message" : "messages")}</h2>
            <table><tr><th>Sent</th><th>To</th><th>Subject</th></tr>{rows}</table>
            <p>{(page > 1 ? Link(page - 1, "◂ newer") : "")} {(page < pages ? Link(page + 1, "older ▸") : "")}</p>
            <h2>Refuse or delay an address</h2><ul>{rules}</ul>
            <form method=post action="/rules"><label for=address>Address</label><input id=address name=address>
            <p><button name=rule value=refuse>Refuse it</button> <button name=rule value=delay>Delay it</button>
                <button name=rule value=none class=plain>Take it as usual</button></p></form>
            """;
    }

    static string View(KeptMessage m)
    {
        var parsed = m.Parse();
        var headers = new StringBuilder();
        foreach (var h in parsed.Headers) headers.Append(h.Field).Append(": ").AppendLine(h.Value);
        return $"""
            <p><a href="/">◂ all messages</a></p><h1>{Enc(m.Subject)}</h1><p class=quiet>to {Enc(m.To)} ·
                {m.Date.ToString("f", CultureInfo.GetCultureInfo("en-GB"))}</p>
            <nav><a href="#html">as HTML</a><a href="#text">as text</a><a href="#headers">headers</a><a href="/m/{m.Id}/raw">raw</a></nav>
            <h2 id=html>HTML</h2><iframe title="The letter" sandbox="allow-popups allow-popups-to-escape-sandbox" src="/m/{m.Id}/html"></iframe>
            <h2 id=text>Text</h2><pre>{Enc(parsed.TextBody)}</pre>
            <h2 id=headers>Headers</h2><pre>{Enc(headers.ToString())}</pre>
            """;
    }

    static string Enc(string? s) => WebUtility.HtmlEncode(s ?? "");
    static IResult Html(string body) => Results.Content(Page.Of("Postbox", body), "text/html; charset=utf-8");
}
