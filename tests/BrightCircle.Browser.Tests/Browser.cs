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
        o.AddArguments("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
            "--disable-component-update", "--disable-sync",
            "--disable-dev-shm-usage", "--hide-scrollbars", "--force-device-scale-factor=1", $"--window-size={width},{height}", $"--user-data-dir={profile}");
        Driver = new ChromeDriver(service, o, TimeSpan.FromSeconds(180));
        Driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(120);
        Size(width, height);
    }

    public void Size(int width, int height, bool mobile = false) => Driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride",
        new Dictionary<string, object?> { ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = mobile });
    public void Phone() => Size(390, 844, true);
    public void Desktop() => Size(1280, 800);
    public void Dark(bool dark) => Driver.ExecuteCdpCommand(
        "Emulation.setEmulatedMedia", new Dictionary<string, object?>
        { ["features"] = new[] { new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = dark ? "dark" : "light" } } });

    public void Screenshot(string path) => File.WriteAllBytes(path, ((ITakesScreenshot)Driver).GetScreenshot().AsByteArray);
    public void Open(string url)
    {
        try
        {
            Driver.Navigate().GoToUrl(url);
        }
        catch (WebDriverArgumentException e) when (e.Message.Contains("No dialog is showing", StringComparison.Ordinal))
        {
            // The page asked whether it may be left, and was gone before the driver had said yes.
            Driver.Navigate().GoToUrl(url);
        }
    }
    public void Forget() => Driver.Manage().Cookies.DeleteAllCookies();
    public string Path => new Uri(Driver.Url).AbsolutePath;
    public string Text => (string)Driver.ExecuteScript("return document.body ? document.body.innerText : ''")!;

    /// <summary>Waits for an element to be there and shown.</summary>
    public IWebElement Find(By by) => Until(() => Shown(by), () => $"{by} is not on {Driver.Url}:\n{Text}");
    public IWebElement Css(string selector) => Find(By.CssSelector(selector));

    /// <summary>Something of an element, asked anew if the page changes just then.</summary>
    public T Of<T>(By by, Func<IWebElement, T> what) where T
        : class => Until(() => Shown(by) is { } e ? what(e) : null, () => $"{by} is not on {Driver.Url}:\n{Text}");
    public string Value(string selector) => Of(By.CssSelector(selector), e => e.GetAttribute("value") ?? "");
    public string Words(string selector) => Of(By.CssSelector(selector), e => e.Text);

    /// <summary>Presses the button or link with these words.</summary>
    public void Press(string words) => Click(By.XPath($"//*[self::button or self::a or self::summary][contains(normalize-space(.), \"{words}\")]"));

    /// <summary>Clicks the first element shown, brought to the middle of the screen, clear of bars that stay put.</summary>
    public void Click(By by) => Until(() =>
    {
        if (Shown(by) is not { } e) return null;
        Driver.ExecuteScript("arguments[0].scrollIntoView({block:'center', behavior:'instant'})", e);
        e.Click();
        return "";
    }, () => $"{by} is not on {Driver.Url}:\n{Text}");
    public void Click(string selector) => Click(By.CssSelector(selector));

    /// <summary>Takes one thing with the pointer, carries it to the upper edge of another and lets it go there. The way is gone in one go: what lies there
    /// makes room as soon as it is touched.</summary>
    /// <param name="done">Whether it is where it should be; a drag that a moving page has spoilt is tried again.</param>
    public void Drag(By what, By onto, Func<bool> done, string hope) => Until(() =>
    {
        if (done()) return "";
        if (Shown(what) is not { } from || Shown(onto) is not { } to) return null;
        Driver.ExecuteScript("arguments[0].scrollIntoView({block:'center', behavior:'instant'})", to);
        new OpenQA.Selenium.Interactions.Actions(Driver).MoveToElement(from).ClickAndHold().MoveByOffset(0, 6).MoveToElement(to, 0, 4 - to.Size.Height / 2)
            .MoveByOffset(1, 0).Release().Perform();
        for (var watch = System.Diagnostics.Stopwatch.StartNew(); !done() && watch.Elapsed < TimeSpan.FromSeconds(5);) Thread.Yield();
        return done() ? "" : null;
    }, () => $"It didn’t come true that {hope}, on {Driver.Url}:\n{Text}", Console);

    /// <summary>Puts words into a field, in the place of what stands there.</summary>
    public void Write(By by, string text) => Until(() =>
    {
        if (Shown(by) is not { } e) return null;
        if (e.TagName is "input" or "textarea" && e.GetAttribute("type") != "file") e.Clear();
        e.SendKeys(text);
        return "";
    }, () => $"{by} is not on {Driver.Url}:\n{Text}");
    public void Write(string selector, string text) => Write(By.CssSelector(selector), text);
    public void Type(string id, string text) => Write("#" + id, text);

    /// <summary>Sends the form a field stands in.</summary>
    public void Submit(string field) => Of(By.CssSelector(field), e =>
    {
        e.Submit();
        return "";
    });

    /// <summary>Makes a box, found by the words of its label, ticked or not.</summary>
    public void Tick(string label, bool ticked)
    {
        var box = By.XPath($"//label[contains(., '{label}')]");
        if (Of(box, e => e.FindElement(By.TagName("input")).Selected ? "ticked" : "") == (ticked ? "" : "ticked")) Click(box);
    }

    /// <summary>Presses on until something is there.</summary>
    public void PressUntil(string button, string there) => Until(() =>
    {
        if (Driver.FindElements(By.CssSelector(there)).Count > 0) return "";
        Driver.FindElement(By.CssSelector(button)).Click();
        return null;
    }, () => $"Pressing {button} doesn’t lead to {there} on {Driver.Url}:\n{Text}");

    public void Choose(string id, string option) => Click(By.XPath($"//select[@id='{id}']/option[normalize-space(.)='{option}']"));

    /// <summary>Does what leads to another page, and waits until the page before is gone.</summary>
    public void Leaving(Action act)
    {
        Driver.ExecuteScript("document.documentElement.dataset.before = '1'");
        act();
        Until(() => Driver.FindElements(By.CssSelector("html[data-before]")).Count == 0
            && (bool)Driver.ExecuteScript("return document.readyState !== 'loading'")! ? "" : null, () => $"The page stayed {Driver.Url}:\n{Text}", Console);
    }

    public void WaitFor(string words) => Until(() => Seen(words) ? "" : null, () => $"“{words}” did not appear on {Driver.Url}:\n{Text}", Console);
    public void WaitForPath(string path) => Until(() => Path.StartsWith(path, StringComparison.Ordinal) ? "" : null,
        () => $"{path} did not come; it is {Driver.Url}:\n{Text}", Console);

    public void WaitUntil(Func<bool> look, string what) =>
        Until(() => look() ? "" : null, () => $"It didn’t come true that {what}, on {Driver.Url}:\n{Text}", Console);

    /// <summary>What the browser's console says, for a failure.</summary>
    string Console() => string.Join('\n', Driver.Manage().Logs.GetLog("browser").Select(l => l.Message));

    /// <summary>Runs a look in the page, again at each change of the page, until it finds something or a second has gone by.</summary>
    object? Watch(string look, params object[] about) => Driver.ExecuteAsyncScript($$"""
        const about = arguments, done = arguments[arguments.length - 1], look = () => { {{look}} };
        let found = look(); if (found) return done(found);
        const watch = new MutationObserver(() => { found = look(); if (found) end(); }), end = () => { watch.disconnect(); clearTimeout(late); done(found); },
            late = setTimeout(() => { found = look(); end(); }, 1000);
        watch.observe(document, { subtree: true, childList: true, characterData: true, attributes: true });
        """, about);

    IWebElement? Shown(By by) => (IWebElement?)Watch("""
        const all = about[0] === 'xpath' ? document.evaluate(about[1], document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null) :
            document.querySelectorAll(about[1]);
        const shown = e => e.tagName === 'OPTION' || e.type === 'file' || e.checkVisibility({ visibilityProperty: true }) && e.getClientRects().length > 0;
        for (let i = 0; i < (all.snapshotLength ?? all.length); i++) { const e = all.snapshotItem?.(i) ?? all[i]; if (shown(e)) return e; }
        return null;
        """, by.Mechanism, by.Criteria);

    bool Seen(string words) => Watch("return document.body && document.body.innerText.toLowerCase().includes(about[0]);", words.ToLowerInvariant()) is true;

    /// <summary>Tries until it comes out. The limit is for a machine many times slower than a desk; what comes out comes at once.</summary>
    static T Until<T>(Func<T?> look, Func<string> otherwise, Func<string>? more = null) where T : class
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (true)
        {
            try
            {
                if (look() is { } found) return found;
            }
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException or ElementClickInterceptedException
                or ElementNotInteractableException or MoveTargetOutOfBoundsException or JavaScriptException or UnknownErrorException
                or WebDriverTimeoutException)
            { /* the page is just changing */ }
            if (watch.Elapsed > TimeSpan.FromSeconds(60)) Assert.Fail(otherwise() + "\n" + more?.Invoke());
        }
    }

    static readonly string Axe = File.ReadAllText(System.IO.Path.Combine(App.Tests.TestServers.Root, "tests/assets/axe.min.js"));

    /// <summary>What axe-core finds wrong on the page by WCAG 2.2 A and AA, one line each.</summary>
    public IReadOnlyList<string> Violations()
    {
        Driver.ExecuteScript(Axe);
        var found = (IReadOnlyCollection<object>?)Driver.ExecuteAsyncScript("""
            const done = arguments[0];
            axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], resultTypes: ['violations'] }).then(r =>
                done(r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.failureSummary.replace(/\s+/g, ' ')))));
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
