using System.Globalization;
using System.Net;
using System.Text;

namespace BrightCircle.StandIns;

/// <summary>The Postbox's web inbox.</summary>
public static class PostboxPages
{
    const int PageSize = 60;
    sealed record RuleBody(string Address, string? Rule);
    sealed record DownBody(bool Down);

    public static void Map(WebApplication app, PostboxState box)
    {
        app.MapGet("/", (string? q, int? page) => Html(Inbox(box, q, Math.Max(1, page ?? 1))));
        app.MapGet("/m/{id:long}", (long id) => box.Get(id) is { } m ? Html(View(m)) : Results.NotFound());
        app.MapGet("/m/{id:long}/html", (HttpContext http, long id) =>
        {
            if (box.Get(id) is not { } m) return Results.NotFound();
            http.Response.Headers.ContentSecurityPolicy =
                "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox allow-popups allow-popups-to-escape-sandbox";
            // Links in a letter open beside the inbox.
            return Results.Content((m.Parse().HtmlBody ?? "<p>There is no HTML part.</p>")
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
        app.MapGet("/health", () => "ok");
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
            <p class=quiet>A stand-in for a mail server. Nothing leaves this machine.</p><h1>The Postbox</h1>
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
