using BrightCircle.Data;

namespace BrightCircle.Web.House;

/// <summary>
/// Which pages and forms of the Desk are whose. The use cases turn away whoever may not (one list of them all is held by a test); this one keeps the pages from
/// showing a link or a button that would end there. What isn't named is everybody’s of the team.
/// </summary>
public static class DeskRoles
{
    /// <summary>Roles by their first letters (owner, editor, host, support), then whether looking at a page or sending a form is meant, then where. A * is one
    /// part of an address, a ** all that follow; after ? stands the handler. The first line that fits counts.</summary>
    const string Table = """
        O   look /desk/coupons/new /desk/fields/new /desk/tiers/new /desk/prices/*/move /desk/tiers/*/price /desk/settings/money /desk/settings/live
        O   look /desk/settings/journal /desk/members/move-in /desk/members/*/merge
        OE  look /desk/pieces/new /desk/shelves/new /desk/shelves/*/edit /desk/tallies/new /desk/editions/new /desk/lessons/* /desk/lessons/*/history
        OE  look /desk/import /desk/pages/* /desk/letters/house /desk/letters/house/** /desk/settings/menu /desk/settings/welcome /desk/settings/content
        OE  look /desk/doorway/** /desk/pieces/*/facts /desk/pieces/*/pace
        OS  look /desk/members/add /desk/members/give /desk/members/*/edit /desk/members/*/give /desk/members/*/end/* /desk/members/*/paid/*
        OS  look /desk/members/*/pause/* /desk/members/*/way-in /desk/members/*/look /desk/orders/bank
        OES look /desk/audiences/new
        O   look /desk/challenges/new
        OEH look /desk/talk /desk/talk/*
        OE  look /desk/spaces/new /desk/sessions/series/new

        O   send /desk/coupons/** /desk/fields/** /desk/prices/** /desk/tiers /desk/tiers/** /desk/settings /desk/settings/money /desk/settings/live
        O   send /desk/settings/mail /desk/settings/team /desk/members/move-in /desk/members/*/merge /desk/members/*/data /desk/members/*?waive
        O   send /desk/routines/programs?key
        OS  send /desk/payments/look
        O   send /desk/payments/*
        OES send /desk/pieces/*/cohorts?put /desk/pieces/*/cohorts?out
        OE  send /desk/pieces/*/progress /desk/editions/*/progress
        OE  send /desk/editions /desk/editions/** /desk/pieces/** /desk/lessons/** /desk/shelves /desk/shelves/** /desk/tallies/** /desk/files /desk/files/**
        OE  send /desk/doorway/** /desk/import /desk/pages /desk/pages/** /desk/routines /desk/routines/** /desk/runs/** /desk/settings/content
        OE  send /desk/settings/menu /desk/settings/welcome /desk/letters/house/** /desk/mailings?new /desk/mailings/series /desk/trash
        O   send /desk/challenges/new
        OE  send /desk/challenges/*?write /desk/challenges/*?describe
        O   send /desk/talk?holds /desk/talk?morning
        OEH send /desk/talk /desk/talk/*
        OE  send /desk/spaces /desk/spaces/** /desk/sessions/*?keep
        OEH send /desk/sessions/series/*?plan /desk/sessions/*
        OEH send /desk/sessions/series/*/hours?cancel /desk/sessions/series/*/hours?mark
        OE  send /desk/sessions/series/* /desk/sessions/series/*/hours
        OS  send /desk /desk/keys /desk/keys/* /desk/letters /desk/letters/* /desk/members/*/look /desk/members/*/edit /desk/members/*/give
        OS  send /desk/members/*/end/* /desk/members/*/paid/* /desk/members/*/pause/* /desk/members/*/way-in /desk/members/*?resume /desk/members/add
        OS  send /desk/members/give /desk/orders /desk/orders/**
        OES send /desk/audiences/** /desk/mailings?to /desk/mailings/*
        OEH send /desk/marking
        """;

    sealed record Rule(string Roles, bool Sends, string[] Parts, string? Handler);

    static readonly Rule[] Rules = [.. Table.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
        .Select(l => l.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        .SelectMany(l => l[2..].Select(p => new Rule(l[0], l[1] == "send", Parts(p.Split('?')[0]), p.Split('?') is [_, var handler] ? handler : null)))];

    static string[] Parts(string path) => path.Split('/', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Whether a role may look at a page of the Desk, or send a form of it.</summary>
    /// <param name="address">A path, with its query if it has one.</param>
    public static bool May(TeamRole role, bool sends, string address)
    {
        var (path, query) = address.Split('#')[0].Split('?', 2) is [var p, var q] ? (p, q) : (address.Split('#')[0], "");
        var parts = Parts(path);
        var handler = query.Split('&').FirstOrDefault(x => x.StartsWith("handler=", StringComparison.OrdinalIgnoreCase))?["handler=".Length..];
        return Rules.FirstOrDefault(r => r.Sends == sends && Fits(r.Parts, parts)
            && (r.Handler is null || string.Equals(r.Handler, handler, StringComparison.OrdinalIgnoreCase))) is not { } rule
            || rule.Roles.Contains(role.ToString()[0], StringComparison.Ordinal);
    }

    /// <summary>Whose a form is, in words: “the owner”, “the owner and editors”.</summary>
    public static string Whose(string address)
    {
        var roles = Enum.GetValues<TeamRole>().Where(r => r != TeamRole.Owner && May(r, true, address)).Select(r => r switch
        {
            TeamRole.Editor => "editors",
            TeamRole.Host => "hosts",
            TeamRole.Support => "support",
            _ => throw new InvalidOperationException($"No such role: {r}"),
        }).Prepend("the owner").ToArray();
        return roles.Length == 1 ? roles[0] : string.Join(", ", roles[..^1]) + " and " + roles[^1];
    }

    static bool Fits(string[] pattern, string[] parts)
    {
        for (var i = 0; i < pattern.Length; i++)
        {
            if (pattern[i] == "**") return i < parts.Length;
            if (i >= parts.Length || pattern[i] != "*" && !string.Equals(pattern[i], parts[i], StringComparison.OrdinalIgnoreCase)) return false;
        }
        return pattern.Length == parts.Length;
    }
}
