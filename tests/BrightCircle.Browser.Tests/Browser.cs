using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Debian's Chromium through Selenium, at exactly the size a test asks for.</summary>
public sealed class Browser : IDisposable
{
    readonly string profile = Directory.CreateTempSubdirectory("chromium-").FullName;
    readonly ChromeDriverService service;
    public ChromeDriver Driver { get; }

    public Browser(int width = 1280, int height = 800)
    {
        service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        var o = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        o.AddArguments("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
            "--disable-dev-shm-usage", "--hide-scrollbars", "--force-device-scale-factor=1", $"--window-size={width},{height}", $"--user-data-dir={profile}");
        Driver = new ChromeDriver(service, o, TimeSpan.FromSeconds(60));
        Size(width, height);
    }

    public void Size(int width, int height, bool mobile = false) => Driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride",
        new Dictionary<string, object?> { ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = mobile });
    public void Phone() => Size(390, 844, true);
    public void Desktop() => Size(1280, 800);
    public void Dark(bool dark) => Driver.ExecuteCdpCommand("Emulation.setEmulatedMedia", new Dictionary<string, object?> { ["features"] = new[] { new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = dark ? "dark" : "light" } } });

    public void Screenshot(string path) => File.WriteAllBytes(path, ((ITakesScreenshot)Driver).GetScreenshot().AsByteArray);
    public void Open(string url) => Driver.Navigate().GoToUrl(url);
    public void Forget() => Driver.Manage().Cookies.DeleteAllCookies();
    public string Path => new Uri(Driver.Url).AbsolutePath;
    public string Text => Driver.FindElement(By.TagName("body")).Text;

    /// <summary>Waits for an element to be there and shown.</summary>
    public IWebElement Find(By by) => Until(() => Driver.FindElements(by).FirstOrDefault(e => e.Displayed), () => $"{by} is not on {Driver.Url}");
    public IWebElement Css(string selector) => Find(By.CssSelector(selector));

    /// <summary>Presses the button or link with these words.</summary>
    public void Press(string words) => Click(By.XPath($"//*[self::button or self::a or self::summary][contains(normalize-space(.), \"{words}\")]"));

    /// <summary>Clicks the first element shown, brought to the middle of the screen, clear of bars that stay put.</summary>
    public void Click(By by) => Until(() =>
    {
        if (Driver.FindElements(by).FirstOrDefault(x => x.Displayed) is not { } e) return null;
        Driver.ExecuteScript("arguments[0].scrollIntoView({block:'center', behavior:'instant'})", e);
        e.Click();
        return "";
    }, () => $"{by} is not on {Driver.Url}:\n{Text}");
    public void Click(string selector) => Click(By.CssSelector(selector));

    public void Type(string id, string text)
    {
        var e = Css("#" + id);
        e.Clear();
        e.SendKeys(text);
    }

    public void Choose(string id, string option) => Css($"#{id}").FindElements(By.TagName("option")).First(o => o.Text.Trim() == option).Click();

    public void WaitFor(string words) => Until(() => Text.Contains(words, StringComparison.OrdinalIgnoreCase) ? "" : null, () => $"“{words}” did not appear on {Driver.Url}:\n{Text}", Console);
    public void WaitForPath(string path) => Until(() => Path.StartsWith(path, StringComparison.Ordinal) ? "" : null, () => $"{path} did not come; it is {Driver.Url}");

    public void WaitUntil(Func<bool> look, string what) => Until(() => look() ? "" : null, () => $"It didn’t come true that {what}, on {Driver.Url}:\n{Text}", Console);

    /// <summary>What the browser's console says, for a failure.</summary>
    string Console() => string.Join('\n', Driver.Manage().Logs.GetLog("browser").Select(l => l.Message));

    static T Until<T>(Func<T?> look, Func<string> otherwise, Func<string>? more = null) where T : class
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (true)
        {
            try
            {
                if (look() is { } found) return found;
            }
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException or ElementClickInterceptedException or JavaScriptException or UnknownErrorException) { /* the page is just changing */ }
            if (watch.Elapsed > TimeSpan.FromSeconds(20)) Assert.Fail(otherwise() + "\n" + more?.Invoke());
            Thread.Yield();
        }
    }

    static readonly string Axe = File.ReadAllText(System.IO.Path.Combine(App.Tests.TestServers.Root, "tests/assets/axe.min.js"));

    /// <summary>What axe-core finds wrong on the page by WCAG 2.2 A and AA, one line each.</summary>
    public IReadOnlyList<string> Violations()
    {
        Driver.ExecuteScript(Axe);
        var found = (IReadOnlyCollection<object>?)Driver.ExecuteAsyncScript("""
            const done = arguments[0];
            axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] }).then(r => done(r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.failureSummary.replace(/\s+/g, ' ')))));
            """);
        return [.. found!.Cast<string>()];
    }

    public void Dispose()
    {
        try { Driver.Quit(); }
        finally
        {
            service.Dispose();
            try { Directory.Delete(profile, true); } catch (IOException) { }
        }
    }
}
