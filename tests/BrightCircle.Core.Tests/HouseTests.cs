using System.Xml.Linq;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Imports go downwards only: Web → App → Data → Core; the stand-ins stand alone; Core has NodaTime and nothing else.</summary>
public partial class HouseTests
{
    internal static readonly string Root = FindRoot();

    static string FindRoot()
    {
        var dir = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(dir, "BrightCircle.slnx")))
            dir = Path.GetDirectoryName(dir) ?? throw new InvalidOperationException("The solution is not above the tests.");
        return dir;
    }

    static (string[] Projects, string[] Packages, string[] Frameworks) References(string project)
    {
        var xml = XDocument.Load(Path.Combine(Root, "src", project, project + ".csproj"));
        string[] Of(string name) => [.. xml.Descendants(name).Select(e => (string)e.Attribute("Include")!)];
        return ([.. Of("ProjectReference").Select(p => Path.GetFileNameWithoutExtension(p))], Of("PackageReference"), Of("FrameworkReference"));
    }

    [Theory]
    [InlineData("BrightCircle.Core", new string[0])]
    [InlineData("BrightCircle.Data", new[] { "BrightCircle.Core" })]
    [InlineData("BrightCircle.App", new[] { "BrightCircle.Data" })]
    [InlineData("BrightCircle.Web", new[] { "BrightCircle.App" })]
    [InlineData("BrightCircle.StandIns", new string[0])]
    public void Imports_go_downwards_only(string project, string[] below) => Assert.Equal(below, References(project).Projects);

    [Fact]
    public void Core_has_NodaTime_only()
    {
        var (_, packages, frameworks) = References("BrightCircle.Core");
        Assert.Equal(["NodaTime"], packages);
        Assert.Empty(frameworks);
    }

    [Fact]
    public void The_machines_clock_is_read_in_one_place()
    {
        var readers = Directory.EnumerateFiles(Path.Combine(Root, "src"), "*.cs*", SearchOption.AllDirectories)
            .Where(f => (f.EndsWith(".cs", StringComparison.Ordinal) || f.EndsWith(".cshtml", StringComparison.Ordinal))
                && !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal)
                && !f.Contains("StandIns", StringComparison.Ordinal))
            .Where(f => new[] { "DateTime.Now", "DateTime.UtcNow", "DateTimeOffset.Now", "DateTimeOffset.UtcNow", "SystemClock.Instance" }.Any(
                File.ReadAllText(f).Contains)).Select(Path.GetFileName);
        Assert.Equal(["HouseClock.cs"], readers);
    }

    // A moment is called a moment.
    [Fact]
    public void Now_is_the_catalogue_as_it_is_and_nothing_else()
    {
        var others = Directory.EnumerateFiles(Path.Combine(Root, "src"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal))
            .SelectMany(f => System.Text.RegularExpressions.Regex.Matches(File.ReadAllText(f), @"(\S+) Now(?= *(=>|\{|\(|,|;))|(\S+) Now$",
                System.Text.RegularExpressions.RegexOptions.Multiline).Select(m => m.Groups[1].Value + m.Groups[3].Value)).Distinct();
        Assert.Equal(["CatalogueSnapshot"], others);
    }

    /// <summary>Razor leaves an attribute out when its value is null, but not one that begins with data-: that stands there empty, and whoever asks whether it
    /// is there is told yes.</summary>
    [Fact]
    public void No_view_counts_on_a_data_attribute_being_left_out()
    {
        var wrong = Directory.EnumerateFiles(Path.Combine(Root, "src/BrightCircle.Web"), "*.cshtml", SearchOption.AllDirectories)
            .SelectMany(f => LeftOut().Matches(File.ReadAllText(f)).Select(m => $"{Path.GetFileName(f)}: {m.Value}"));
        Assert.Empty(wrong);
        Assert.Matches(LeftOut(), "<i data-fixed=\"@(x.Is(\"a\") ? \"1\" : null)\">");
    }

    [System.Text.RegularExpressions.GeneratedRegex("data-[\\w-]+=\"@\\([^>]*?: null\\)\"")]
    private static partial System.Text.RegularExpressions.Regex LeftOut();
}
