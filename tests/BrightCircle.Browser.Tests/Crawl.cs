using System.Net;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace BrightCircle.Browser.Tests;

/// <summary>A form of the Desk as it was sent.</summary>
public sealed record DeskForm(string Action, bool InParts, IReadOnlyList<KeyValuePair<string, string>> Fields)
{
    /// <summary>The same for all of a kind.</summary>
    public string Kind => string.Concat(Action.Where(c => !char.IsAsciiDigit(c)));
}

/// <summary>One person going over the whole site without a browser: every link that is shown, then every form with the values it shows.</summary>
public sealed partial class Crawl(string url, string who, Vnu? vnu = null) : IDisposable
{
    /// <summary>So many pages of one kind are looked at; the others of it are like them.</summary>
    const int OfAKind = 2;
    const string Beginning = "the beginning";

    readonly CookieContainer cookies = new();
    readonly HttpClient http = new(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false })
    {
        BaseAddress = new(url),
        Timeout = TimeSpan.FromMinutes(2)
    };
    readonly Dictionary<string, int> met = [];
    readonly Queue<(string Path, string From, bool Part)> toVisit = [];
    readonly Dictionary<string, (string Page, string Button)> forms = [];
    public List<string> Wrong { get; } = [];
    /// <summary>What must not stand in anything this person is sent.</summary>
    public IReadOnlyCollection<string> Secrets { get; set; } = [];
    /// <summary>Where links, buttons and answers lead, as far as it is on this site.</summary>
    public HashSet<string> LedTo { get; } = [];
    public int Pages { get; private set; }
    public int Sent { get; private set; }

    /// <summary>An address by its kind: numbers, names and secrets taken out.</summary>
    static string Kind(string path)
    {
        var at = path.Split('#')[0].Split('?');
        var query = at.Length < 2 ? "" : "?" + string.Join(
            '&', at[1].Split('&').Select(p => p.Split('=')[0] + (p.StartsWith("handler=", StringComparison.Ordinal) ? p[7..] : ""))
            .Order(StringComparer.Ordinal));
        return Numbers().Replace(Names().Replace(at[0], "/#/…"), "/#") + query;
    }

    [GeneratedRegex("/[0-9]{2,}(?=/|$)|/[0-9]{4}-[0-9]{2}[^/]*|(?<=/(?:tags|in|no-more|files|feed)/).*")]
    private static partial Regex Numbers();
    [GeneratedRegex("/[0-9]{2,}/[a-z0-9-]+$(?<!/(?:edit|facts|places|history|journal|price|give|look|book|print|places|form|sheet))")]
    private static partial Regex Names();

    async Task<(HttpStatusCode Status, string Body, string? Next, string Type)> Ask(
        HttpMethod method, string path, HttpContent? content = null, bool part = false)
    {
        using var request = new HttpRequestMessage(method, path) { Content = content };
        var cookie = cookies.GetCookieHeader(new(url));
        if (cookie.Length > 0) request.Headers.Add("Cookie", cookie);
        if (part) request.Headers.Add("HX-Request", "true");
        using var answer = await http.SendAsync(request);
        if (answer.Headers.TryGetValues("Set-Cookie", out var set)) foreach (var c in set)
            cookies.SetCookies(new(url), c.Replace("; secure", "", StringComparison.OrdinalIgnoreCase));
        var type = answer.Content.Headers.ContentType?.MediaType ?? "";
        var body = type.Contains("html") ? await answer.Content.ReadAsStringAsync() : "";
        if (Secrets.Count > 0)
        {
            var sent = body.Length > 0 ? body : Readable(await answer.Content.ReadAsByteArrayAsync(), type);
            foreach (var secret in Secrets)
                if (sent.Contains(secret, StringComparison.Ordinal)) Wrong.Add($"{who}: {path} tells “{secret}”");
        }
        var next = answer.Headers.Location is { } l ? (l.IsAbsoluteUri ? l.Authority == new Uri(url).Authority ? l.PathAndQuery : null : l.ToString()) : null;
        if (next is not null) Leads(path, next);
        return (answer.StatusCode, body, next, type);
    }

    /// <summary>What was sent as text; a book's chapters, unpacked.</summary>
    static string Readable(byte[] sent, string type)
    {
        if (!type.Contains("zip")) return System.Text.Encoding.UTF8.GetString(sent);
        using var zip = new System.IO.Compression.ZipArchive(new MemoryStream(sent));
        var text = new System.Text.StringBuilder();
        foreach (var entry in zip.Entries)
        {
            using var reader = new StreamReader(entry.Open());
            text.Append(reader.ReadToEnd());
        }
        return text.ToString();
    }

    /// <summary>Asks for something whatever it answers, with a method of one's own.</summary>
    public async Task<HttpStatusCode> Try(HttpMethod method, string path, HttpContent? content = null) => (await Ask(method, path, content)).Status;

    public async Task<string> Open(string path)
    {
        for (var hops = 0; ; hops++)
        {
            var (status, body, next, _) = await Ask(HttpMethod.Get, path);
            if (next is null || hops > 5) return (int)status < 400 ? body : throw new InvalidOperationException($"{path}: {status}");
            path = next;
        }
    }

    static IHtmlDocument Read(string body) => new HtmlParser().ParseDocument(body);

    /// <summary>Presses the only button of a page's form: for signing in.</summary>
    public async Task Press(string path)
    {
        var page = Read(await Open(path));
        var form = page.QuerySelectorAll("form").OfType<IHtmlFormElement>().First(f => f.Method == "post" && f.QuerySelector("button") is not null);
        await Send(path, form, (IHtmlButtonElement)form.QuerySelector("button")!, page);
    }

    public async Task Links(params IEnumerable<string> from)
    {
        foreach (var path in from) toVisit.Enqueue((path, Beginning, false));
        while (toVisit.TryDequeue(out var next)) await Visit(next.Path, next.From, next.Part);
    }

    async Task Visit(string path, string from, bool part)
    {
        var kind = Kind(path);
        var seen = met.GetValueOrDefault(kind);
        if (seen >= OfAKind && from != Beginning || met.ContainsKey("=" + path)) return;
        (met[kind], met["=" + path]) = (seen + 1, 1);
        Pages++;
        var (status, body, next, type) = await Ask(HttpMethod.Get, path, part: part);
        if ((int)status >= 400) Wrong.Add($"{who}: {path} answers {(int)status}, linked from {from}");
        if (next is not null) toVisit.Enqueue((next, path, false));
        if (body.Length == 0 || (int)status is not 200) return;
        var page = Read(body);
        if (!part)
        {
            Look(page, path, body);
            vnu?.Add(kind, path, body);
        }
        foreach (var a in page.QuerySelectorAll("a[href]"))
            if (Own(a.GetAttribute("href")!, path) is { } to) toVisit.Enqueue((to, path, false));
        foreach (var e in page.QuerySelectorAll("[data-hx-get]"))
            if (Own(e.GetAttribute("data-hx-get")!, path) is { } to) toVisit.Enqueue((to, path, true));
        foreach (var e in page.QuerySelectorAll("img[src], link[rel=stylesheet], script[src], link[rel=icon]"))
            if ((e.GetAttribute("src") ?? e.GetAttribute("href")) is { } source && Own(source, path) is { } to && seen == 0) toVisit.Enqueue((to, path, true));
        foreach (var f in page.QuerySelectorAll("form").OfType<IHtmlFormElement>())
            foreach (var b in Buttons(page, f))
            {
                var key = $"{kind} {Kind(Action(path, f, b))} {b.Name}={Numbers().Replace("/" + b.Value, "/#")} {Words(b)}";
                if (!forms.TryAdd(LongNumber().Replace(key, "#"), (path, ButtonKey(f, b)))) continue;
                if (Own(Action(path, f, b), path) is { } action)
                    filled.Add(new(action, f.Method == "post", f.GetAttribute("enctype") == "multipart/form-data", Fields(f, b, page)));
            }
    }

    [GeneratedRegex("[0-9]{6,}")]
    private static partial Regex LongNumber();

    static IEnumerable<IHtmlButtonElement> Buttons(IHtmlDocument page, IHtmlFormElement f) =>
        page.QuerySelectorAll("button").OfType<IHtmlButtonElement>()
            .Where(b => b is { Type: "submit", IsDisabled: false } && (b.GetAttribute("form") is { } id ? id == f.Id : f.Contains(b)));

    static string Words(IElement e) => string.Join(
        ' ', (e.GetAttribute("aria-label") ?? e.TextContent).Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));
    static string ButtonKey(IHtmlFormElement f, IHtmlButtonElement b) =>
        $"{f.GetAttribute("action")} {b.GetAttribute("formaction")} {b.Name}={b.Value} {Words(b)}";
    static string Action(string page, IHtmlFormElement f, IHtmlButtonElement b) => b.GetAttribute("formaction")
        ?? (f.GetAttribute("action") is { Length: > 0 } a ? a : page);

    /// <summary>A page that only leads to itself, or to its like, is reached from nowhere.</summary>
    void Leads(string from, string to)
    {
        to = to.Split('?', '#')[0];
        if (Kind(from.Split('?', '#')[0]) != Kind(to)) LedTo.Add(to);
    }

    string? Own(string href, string page)
    {
        if (href.StartsWith('#') || !Uri.TryCreate(new Uri(new Uri(url), page), href, out var to) || to.Authority != new Uri(url).Authority) return null;
        Leads(page, to.AbsolutePath);
        return to.PathAndQuery;
    }

    /// <summary>Every form once, with what stands in it. The page is opened anew before, since a form sent before may have changed it.</summary>
    public async Task Forms(params string[] leaveOut)
    {
        foreach (var (key, (path, button)) in forms.OrderBy(f => Destroys().IsMatch(f.Key)).ThenBy(f => SignsOut(f.Key)))
        {
            if (leaveOut.Any(l => key.Contains(l, StringComparison.Ordinal))) continue;
            var (status, body, _, _) = await Ask(HttpMethod.Get, path);
            // Gone by a form sent before.
            if ((int)status != 200 || body.Length == 0) continue;
            var page = Read(body);
            foreach (var f in page.QuerySelectorAll("form").OfType<IHtmlFormElement>())
                if (Buttons(page, f).FirstOrDefault(b => ButtonKey(f, b) == button) is { } b)
                {
                    await Send(path, f, b, page);
                    break;
                }
        }
    }

    [GeneratedRegex("trash|[Rr]emove|Delete|Withdraw|Take .* down|Leave|End|Forget|Into the|Refund|live", RegexOptions.CultureInvariant)]
    private static partial Regex Destroys();

    /// <summary>What ends the visit is pressed last.</summary>
    static bool SignsOut(string key) => key.Contains("sign-out", StringComparison.Ordinal) || key.Contains("verywhere", StringComparison.Ordinal);

    sealed record Filled(string Action, bool Posts, bool InParts, List<KeyValuePair<string, string>> Fields);

    readonly List<Filled> filled = [];

    static readonly string[] Odd =
    [
        "", " ", "\0", "a\0b", "-1", "0", "9999999999999999999", "2147483648", "-9223372036854775808", "1e400", "NaN", "12,50", "1.234,5", "9999-12-31",
            "9999-12-31T23:59", "0000-00-00", "2026-02-30",
        "<script>alert(1)</script>", "'); drop table members; --", "../../etc/passwd", "{{7*7}}", "${7*7}", "%00", "Everything", "true", "on", "null", "[]",
            "{}", "\ud83d\udc1d\u202e", "a@b", "https://", "javascript:alert(1)",
        "/\\\\evil.example", new('x', 5_000), new('9', 400),
    ];

    /// <summary>Forms and addresses with values nobody typed: whatever comes, the answer is never a broken page.</summary>
    public async Task Fuzz(int tries, int seed)
    {
        var random = new Random(seed);
        var links = met.Keys.Where(k => k.StartsWith("=/", StringComparison.Ordinal) && !k.Contains("sign-out", StringComparison.Ordinal)).Select(k => k[1..])
            .Order(StringComparer.Ordinal).ToArray();
        var usable = filled.Where(f => !SignsOut(f.Action) && !f.Action.Contains("/desk/clock", StringComparison.Ordinal))
            .OrderBy(f => f.Action, StringComparer.Ordinal).ToArray();
        string Any() => Odd[random.Next(Odd.Length)];
        for (var i = 0; i < tries; i++)
        {
            Sent++;
            string what;
            HttpStatusCode status;
            if (random.Next(4) == 0 || usable.Length == 0)
            {
                // An address with a number, a word or a query changed.
                var path = links[random.Next(links.Length)].Split('?');
                var parts = path[0].Split('/');
                if (random.Next(2) == 0) parts[random.Next(1, parts.Length)] =
                    Uri.EscapeDataString(Any().Trim('/', '.') is { Length: > 0 and < 500 } odd ? odd : "x");
                var handler = random.Next(3) == 0 ? new string([.. Any().Take(20)]) : "";
                what = string.Join('/', parts)
                    + $"?{(path.Length > 1 ? path[1].Split('=')[0] : "page")}={Uri.EscapeDataString(Any())}&handler={Uri.EscapeDataString(handler)}";
                if (what.StartsWith("//", StringComparison.Ordinal)) what = what[1..];
                (status, _, _, _) = await Ask(HttpMethod.Get, what, part: random.Next(5) == 0);
            }
            else
            {
                var form = usable[random.Next(usable.Length)];
                var fields = form.Fields.ToList();
                for (var n = random.Next(1, 4); n > 0 && fields.Count > 0; n--)
                {
                    var at = random.Next(fields.Count);
                    if (fields[at].Key == "__RequestVerificationToken") continue;
                    switch (random.Next(6))
                    {
                        case 0: fields.RemoveAt(at); break;
                        case 1: fields.Add(fields[at]); break;
                        case 2: fields.Add(new(fields[at].Key + "[0]", Any())); break;
                        default: fields[at] = new(fields[at].Key, Any()); break;
                    }
                }
                what = $"{form.Action} with " + string.Join("&", fields.Where(f => f.Key != "__RequestVerificationToken")
                    .Select(f => $"{f.Key}={(f.Value.Length > 40 ? f.Value[..40] + "…" : f.Value)}"));
                var query = form.Action.Split('?')[0] + "?"
                    + string.Join('&', fields.Select(f => $"{Uri.EscapeDataString(f.Key)}={Uri.EscapeDataString(f.Value)}"));
                HttpContent content = form.InParts ? Parts(fields) : new FormUrlEncodedContent(fields);
                (status, _, _, _) = form.Posts ? await Ask(HttpMethod.Post, form.Action, content) : await Ask(HttpMethod.Get, query);
            }
            if ((int)status >= 500) Wrong.Add($"{who}, try {i}: {(int)status} for {what}");
        }
    }

    static MultipartFormDataContent Parts(IEnumerable<KeyValuePair<string, string>> fields)
    {
        var parts = new MultipartFormDataContent();
        foreach (var (name, value) in fields) parts.Add(new StringContent(value), $"\"{name.Replace("\"", "", StringComparison.Ordinal)}\"");
        return parts;
    }

    static List<KeyValuePair<string, string>> Fields(IHtmlFormElement form, IHtmlButtonElement button, IHtmlDocument page)
    {
        var fields = new List<KeyValuePair<string, string>>();
        foreach (var e in page.QuerySelectorAll("input, select, textarea").Where(e => e.GetAttribute("form") is { } of ? of == form.Id : form.Contains(e)))
            if (e.GetAttribute("name") is { Length: > 0 } name && !e.HasAttribute("disabled"))
                switch (e)
                {
                    case IHtmlInputElement { Type: "checkbox" or "radio" } i:
                        if (i.IsChecked) fields.Add(new(name, i.Value));
                        break;
                    case IHtmlInputElement { Type: "file" or "submit" or "button" }: break;
                    case IHtmlInputElement i: fields.Add(new(name, i.Value)); break;
                    case IHtmlSelectElement s:
                        fields.Add(new(name, (s.Options.FirstOrDefault(o => o.IsSelected) ?? s.Options.FirstOrDefault())?.Value ?? ""));
                        break;
                    case IHtmlTextAreaElement t: fields.Add(new(name, t.Value)); break;
                }
        if (button.Name is { Length: > 0 } pressed) fields.Add(new(pressed, button.Value));
        return fields;
    }

    /// <summary>The forms of the Desk that were sent, as they were.</summary>
    public List<DeskForm> DeskForms { get; } = [];

    // They only show how something would be, or find, before anybody is asked, that nothing was chosen or typed.
    static readonly string[] ChangesNothing = ["handler=lines", "handler=effect", "handler=schedule", "handler=look", "handler=bulk", "handler=merge",
        "handler=replace", "handler=key", "/desk/files", "/desk/marking", "/desk/settings/menu"];

    /// <summary>Sends forms that aren't shown to this person: each has to be turned away.</summary>
    public async Task SendClosed(IEnumerable<DeskForm> forms)
    {
        var token = Read(await Open("/desk")).QuerySelector<IHtmlInputElement>("input[name=__RequestVerificationToken]")!.Value;
        foreach (var form in forms)
        {
            var fields = form.Fields.Select(f => f.Key == "__RequestVerificationToken" ? new(f.Key, token) : f).ToArray();
            var (status, _, _, _) = await Ask(HttpMethod.Post, form.Action, form.InParts ? Parts(fields) : new FormUrlEncodedContent(fields));
            if (status != HttpStatusCode.Forbidden && !ChangesNothing.Any(c => form.Action.Contains(c, StringComparison.OrdinalIgnoreCase)))
                Wrong.Add($"{who}: {form.Action} isn’t shown, and answers {(int)status}");
        }
    }

    async Task Send(string path, IHtmlFormElement form, IHtmlButtonElement button, IHtmlDocument page)
    {
        var fields = Fields(form, button, page);
        if (Own(Action(path, form, button), path) is not { } action) return;
        Sent++;
        if (action.StartsWith("/desk", StringComparison.Ordinal) && string.Equals(form.Method, "post", StringComparison.OrdinalIgnoreCase))
            DeskForms.Add(new(action, form.GetAttribute("enctype") == "multipart/form-data", fields));
        var get = !string.Equals(form.Method, "post", StringComparison.OrdinalIgnoreCase);
        var (status, _, next, _) = get ? await Ask(
            HttpMethod.Get, action.Split('?')[0] + "?"
            + string.Join('&', fields.Select(f => $"{Uri.EscapeDataString(f.Key)}={Uri.EscapeDataString(f.Value)}")))
            : await Ask(HttpMethod.Post, action, form.GetAttribute("enctype") == "multipart/form-data" ? Parts(fields) : new FormUrlEncodedContent(fields));
        if ((int)status >= 400)
            Wrong.Add($"{who}: “{Words(button)}” on {path} ({action}) answers {(int)status}");
        for (var hops = 0; next is not null && hops < 5; hops++)
        {
            (status, _, var further, _) = await Ask(HttpMethod.Get, next);
            if ((int)status >= 400) Wrong.Add($"{who}: “{Words(button)}” on {path} leads to {next}, which answers {(int)status}");
            next = further;
        }
    }

    /// <summary>What every page has: a language, a title, one first heading, headings without gaps, labels, no number twice, no block in a line.</summary>
    void Look(IHtmlDocument page, string path, string body)
    {
        void Say(string what) => Wrong.Add($"{who}: {path}: {what}");
        if (page.DocumentElement.GetAttribute("lang") is not { Length: > 0 }) Say("no language");
        if (string.IsNullOrWhiteSpace(page.Title)) Say("no title");
        if (page.QuerySelectorAll("h1").Length != 1) Say($"{page.QuerySelectorAll("h1").Length} first headings");
        var level = 0;
        foreach (var h in page.QuerySelectorAll("h1, h2, h3, h4, h5, h6"))
        {
            var n = h.LocalName[1] - '0';
            if (level > 0 && n > level + 1) Say($"heading {n} “{Words(h)}” after {level}");
            level = n;
        }
        foreach (var twice in page.QuerySelectorAll("[id]").GroupBy(e => e.Id).Where(g => g.Count() > 1)) Say($"id {twice.Key} stands {twice.Count()} times");
        foreach (var field in page.QuerySelectorAll("input:not([type=hidden]):not([type=submit]), select, textarea"))
            if (!field.HasAttribute("aria-label") && !field.HasAttribute("aria-labelledby") && field.Closest("label") is null
                && (field.Id is not { Length: > 0 } id || page.QuerySelector($"label[for='{id}']") is null))
                Say($"no label for {field.GetAttribute("name") ?? field.OuterHtml[..Math.Min(60, field.OuterHtml.Length)]}");
        // As it was written, before the parser put it right.
        if (BlockInLine().Match(body) is { Success: true } m) Say($"a block in a line: {m.Value}");
        if (page.QuerySelector("[hx-get], [hx-post], [hx-target]") is { } hx)
            Say($"an attribute HTML doesn’t know: {hx.OuterHtml[..Math.Min(80, hx.OuterHtml.Length)]}");
    }

    [GeneratedRegex("<span[^>]*>\\s*<(?:div|p|ul|ol|table|h[1-6]|form|section)\\b[^>]*>")]
    private static partial Regex BlockInLine();

    public void Dispose() => http.Dispose();
}
