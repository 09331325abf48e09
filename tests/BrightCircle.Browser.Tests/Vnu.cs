using System.Diagnostics;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace BrightCircle.Browser.Tests;

/// <summary>
/// The pages of a crawl in the eyes of the Nu Html Checker (the one behind validator.w3.org, package vnu-jar), where Java is there; ./test brings it and says
/// where it lies. Pages that can't be told apart by their kind are checked once.
/// </summary>
public sealed class Vnu : IDisposable
{
    readonly string folder = Directory.CreateTempSubdirectory("bright-pages").FullName;
    readonly Dictionary<string, string> pages = [];

    public static string? Jar => Environment.GetEnvironmentVariable("BRIGHTCIRCLE_VNU") is { Length: > 0 } jar && File.Exists(jar) ? jar : null;

    /// <summary>What it says and we mean otherwise, each with its reason.</summary>
    static readonly Regex[] Meant =
    [
        // SVG 2 has it on every basic shape, and browsers read it there; the checker knows SVG 1.1, which has it on paths alone.
        new("Attribute “pathLength” not allowed on element “circle”"),
    ];

    public void Add(string kind, string path, string body)
    {
        if (Jar is null || pages.Values.Contains(kind)) return;
        var name = $"{pages.Count + 1}.html";
        pages[name] = kind;
        File.WriteAllText(Path.Combine(folder, name), body);
    }

    public int Count => pages.Count;

    /// <summary>What is wrong, a line each with the kind of page.</summary>
    public async Task<IReadOnlyList<string>> Check()
    {
        if (Jar is null || pages.Count == 0) return [];
        var start = new ProcessStartInfo("java") { RedirectStandardError = true, RedirectStandardOutput = true };
        foreach (var a in new[] { "-Xss4m", "-Xmx1g", "-jar", Jar, "--errors-only", "--exit-zero-always", "--format", "json", folder })
            start.ArgumentList.Add(a);
        using var java = Process.Start(start)!;
        var output = java.StandardOutput.ReadToEndAsync();
        var said = await java.StandardError.ReadToEndAsync();
        await output;
        await java.WaitForExitAsync();
        var wrong = new List<string>();
        foreach (var m in JsonDocument.Parse(said).RootElement.GetProperty("messages").EnumerateArray())
        {
            var text = m.GetProperty("message").GetString()!;
            if (Meant.Any(r => r.IsMatch(text))) continue;
            var page = pages.GetValueOrDefault(Path.GetFileName(m.TryGetProperty("url", out var url) ? url.GetString()! : ""), "?");
            wrong.Add($"{page}: {text} ({(m.TryGetProperty("extract", out var e) ? e.GetString()!.ReplaceLineEndings(" ") : "")})");
        }
        return [.. wrong.Distinct()];
    }

    public void Dispose() => Directory.Delete(folder, recursive: true);
}
