using System.Net;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>A reader of pages without scripts: opens them, fills in the forms that stand there, presses a button.</summary>
public sealed class Plain(string url) : IDisposable
{
    readonly HttpClient http = new(new HttpClientHandler { CookieContainer = new() }) { BaseAddress = new(url) };
    public IHtmlDocument Page { get; private set; } = new HtmlParser().ParseDocument("");
    public Uri At { get; private set; } = new(url);
    public string Text => string.Join(' ', (Page.Body?.TextContent ?? "").Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));

    readonly List<(string Field, string Name, byte[] Bytes)> chosen = [];
    /// <summary>Chooses a file for a field of the form whose button is pressed next.</summary>
    public void Attach(string field, string name, byte[] bytes) => chosen.Add((field, name, bytes));
    /// <summary>What an address answers, whatever it is.</summary>
    public Task<HttpResponseMessage> Get(string path) => http.GetAsync(path);
    /// <summary>The address of the first link with these words.</summary>
    public string Link(string words) => Page.QuerySelectorAll("a").OfType<IHtmlAnchorElement>()
        .FirstOrDefault(a => a.TextContent.Contains(words, StringComparison.Ordinal))?.GetAttribute("href")
        ?? throw new Xunit.Sdk.XunitException($"There is no link “{words}” on {At}: {Text}");

    async Task Take(HttpResponseMessage answer)
    {
        var body = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.StatusCode is HttpStatusCode.OK, $"{answer.RequestMessage!.RequestUri} answered {answer.StatusCode}");
        (At, Page) = (answer.RequestMessage!.RequestUri!, new HtmlParser().ParseDocument(body));
    }

    public async Task Open(string path) => await Take(await http.GetAsync(path));

    /// <summary>Presses the button with these words (or, where many say the same, this value), in the form where it stands, with some fields filled in anew;
    /// null takes a tick away.</summary>
    public async Task Press(string words, params (string Field, string? Value)[] typed)
    {
        IHtmlFormElement FormOf(IHtmlButtonElement b) => b.GetAttribute("form") is { } id ? (IHtmlFormElement)Page.GetElementById(id)!
            : (IHtmlFormElement)b.Closest("form")!;
        static string WordsOf(IElement b) => string.Join(
            ' ', (b.GetAttribute("aria-label") ?? b.TextContent).Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));
        // Of several buttons that begin with the words it is the one beside the first field that is filled in, then the one that says no more.
        var button = Page.QuerySelectorAll("form button, button[form]").OfType<IHtmlButtonElement>()
            .Where(b => !b.IsDisabled && (b.Value == words || WordsOf(b).StartsWith(words, StringComparison.Ordinal)))
            .OrderBy(b => typed.Length > 0 && FormOf(b).QuerySelector($"[name='{typed[0].Field}']") is not null ? 0 : 1)
                .ThenBy(b => WordsOf(b) == words ? 0 : 1).FirstOrDefault()
            ?? throw new Xunit.Sdk.XunitException($"There is no button “{words}” on {At}: {Text}");
        var form = FormOf(button);
        var fields = new List<KeyValuePair<string, string>>();
        foreach (var e in Page.QuerySelectorAll("input, select, textarea").Where(e => e.GetAttribute("form") is { } of ? of == form.Id : form.Contains(e)))
            if (e.GetAttribute("name") is { Length: > 0 } name)
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
        foreach (var group in typed.GroupBy(t => t.Field))
        {
            var at = fields.FindIndex(f => f.Key == group.Key);
            fields.RemoveAll(f => f.Key == group.Key);
            fields.InsertRange(at < 0 ? fields.Count : at, group.Where(g => g.Value is not null).Select(g => KeyValuePair.Create(g.Field, g.Value!)));
        }
        if (button.Name is { Length: > 0 } pressed) fields.Add(new(pressed, button.Value));
        var action = new Uri(At, button.GetAttribute("formaction") ?? form.GetAttribute("action") ?? At.PathAndQuery);
        await Take(string.Equals(form.Method, "get", StringComparison.OrdinalIgnoreCase)
            ? await http.GetAsync(action.AbsolutePath + "?"
                + string.Join('&', fields.Select(f => $"{Uri.EscapeDataString(f.Key)}={Uri.EscapeDataString(f.Value)}")))
            : await http.PostAsync(action, Content(fields)));
    }

    /// <summary>Sends a form with the mark of the page that is open: one of several that look alike.</summary>
    public async Task Post(string path, params (string Field, string Value)[] fields)
    {
        var mark = Page.QuerySelector("input[name=__RequestVerificationToken]")?.GetAttribute("value")
            ?? throw new Xunit.Sdk.XunitException($"There is no form on {At}: {Text}");
        await Take(await http.PostAsync(path, Content([.. fields.Select(f => KeyValuePair.Create(f.Field, f.Value)),
            new("__RequestVerificationToken", mark)])));
    }

    HttpContent Content(List<KeyValuePair<string, string>> fields)
    {
        if (chosen.Count == 0) return new FormUrlEncodedContent(fields);
        var parts = new MultipartFormDataContent();
        foreach (var (name, value) in fields) parts.Add(new StringContent(value), name);
        foreach (var (field, name, bytes) in chosen) parts.Add(new ByteArrayContent(bytes), field, name);
        chosen.Clear();
        return parts;
    }

    public async Task SignIn(string email, string password)
    {
        await Open("/sign-in");
        var form = Page.QuerySelectorAll("form").First(f => f.QuerySelector("[name=Password]") is not null);
        await Press(form.QuerySelector("button")!.TextContent.Trim(), (form.QuerySelector("[type=email]")!.GetAttribute("name")!, email),
            ("Password", password));
    }

    public void Says(string words) => Assert.True(Text.Contains(words, StringComparison.OrdinalIgnoreCase), $"“{words}” is not on {At}: {Text}");
    public void Dispose() => http.Dispose();
}
