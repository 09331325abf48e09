using System.Text.RegularExpressions;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>The rooms of a floor have a direction: who stands further right may know who stands further left, never back.</summary>
public partial class RoomTests
{
    /// <summary>Core's rooms, from left to right; those of one line know nothing of each other, except where it is said.</summary>
    static readonly string[][] Core = [["Time", "Money", "Events", "Letters"], ["Content", "Offer"], ["Members"], ["Billing"], ["Access"],
        ["Releases", "Learning"], ["Community"], ["Routines"]];

    /// <summary>
    /// App's rooms, each with those it knows. The first lines are what the others stand on: words and clock, the catalogue, due work, files, events.
    /// Letters, Insight and Demo listen or read; nobody but what runs them knows them.
    /// </summary>
    static readonly Dictionary<string, string> App = new()
    {
        ["Common"] = "",
        ["Clock"] = "",
        ["Events"] = "",
        ["Due"] = "Clock",
        ["Catalogues"] = "Clock",
        ["Words"] = "Catalogues",
        ["Files"] = "Catalogues Clock",
        ["Access"] = "Catalogues",
        ["Offer"] = "Access Catalogues Events Words",
        ["Members"] = "Catalogues Clock Due Events Words",
        ["Settings"] = "Catalogues Due Events Files Members",
        ["Billing"] = "Catalogues Clock Due Events Members Words",
        // What somebody gets without paying for it: by hand, by link, by moving in, by a seat.
        ["Rights"] = "Billing Catalogues Due Events Members",
        ["Releases"] = "Catalogues Due Settings",
        ["Learning"] = "Access Catalogues Due Events Members",
        // A part that is saved late comes out at once, and an import brings editions and tallies with it.
        ["Content"] = "Access Catalogues Clock Due Events Files Words Releases Learning",
        // What people say to each other; rich text is the lessons’.
        ["Community"] = "Catalogues Content Due Events Files Learning Offer Releases Words",
        ["Letters"] = "Catalogues Clock Community Content Due Events Files Members Releases Settings Words",
        // Does what others do by hand, when its time has come.
        ["Routines"] = "Billing Catalogues Clock Due Events Letters Members Releases Words",
        ["Insight"] = "Billing Catalogues Clock Community Due Words",
        ["Running"] = "Catalogues Clock Due Letters",
        ["Demo"] = "Access Billing Catalogues Clock Community Content Due Insight Learning Letters Members Offer Releases Rights Routines Running Settings",
    };

    static readonly string Root = HouseTests.Root;

    /// <summary>Which rooms each room of a floor knows, by what its files name.</summary>
    static Dictionary<string, SortedSet<string>> Known(string floor)
    {
        var folder = Path.Combine(Root, "src", "BrightCircle." + floor);
        var rooms = Directory.EnumerateDirectories(folder).Select(d => Path.GetFileName(d)!).Where(d => d is not ("bin" or "obj")).ToArray();
        return rooms.ToDictionary(r => r, r => new SortedSet<string>(Directory.EnumerateFiles(Path.Combine(folder, r), "*.cs", SearchOption.AllDirectories)
            .SelectMany(f => Names().Matches(File.ReadAllText(f)).Where(m => m.Groups["floor"].Value == floor).Select(m => m.Groups["room"].Value))
                .Where(n => n != r && rooms.Contains(n)), StringComparer.Ordinal));
    }

    [GeneratedRegex(@"^using (static )?(\w+ = )?BrightCircle\.(?<floor>\w+)\.(?<room>\w+)", RegexOptions.Multiline)]
    private static partial Regex Names();

    [Fact]
    public void In_Core_nobody_looks_back()
    {
        var order = Core.SelectMany((rooms, i) => rooms.Select(r => (r, i))).ToDictionary(x => x.r, x => x.i);
        var known = Known("Core");
        Assert.Equal(order.Keys.Order(StringComparer.Ordinal), known.Keys.Order(StringComparer.Ordinal));
        Assert.Empty(known.SelectMany(k => k.Value.Where(v => order[v] >= order[k.Key]).Select(v => $"{k.Key} knows {v}")));
    }

    [Fact]
    public void In_App_each_room_knows_those_it_is_said_to_know()
    {
        var known = Known("App");
        Assert.Equal(App.Keys.Order(StringComparer.Ordinal), known.Keys.Order(StringComparer.Ordinal));
        Assert.Empty(known.SelectMany(k => k.Value.Except(App[k.Key].Split(' ', StringSplitOptions.RemoveEmptyEntries)).Select(v => $"{k.Key} knows {v}")));
    }

    [Fact]
    public void The_rooms_of_App_stand_in_no_circle()
    {
        var left = App.ToDictionary(k => k.Key, k => k.Value.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToHashSet());
        while (left.Count > 0)
        {
            var next = left.Where(k => !k.Value.Overlaps(left.Keys)).Select(k => k.Key).ToArray();
            Assert.True(next.Length > 0, "A circle: " + string.Join(", ", left.Keys));
            foreach (var room in next) left.Remove(room);
        }
    }

    [Fact]
    public void Every_floor_calls_its_rooms_by_the_same_names()
    {
        var records = Directory.EnumerateDirectories(Path.Combine(Root, "src", "BrightCircle.Data")).Select(d => Path.GetFileName(d)!)
            .Where(d => d is not ("bin" or "obj" or "Migrations" or "Mapping"));
        Assert.Empty(records.Except(Known("App").Keys).Except(Known("Core").Keys));
    }
}
