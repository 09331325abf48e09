using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Conditions as lines of a form, and back.</summary>
public sealed class ConditionReading(CatalogueSnapshot now)
{
    public const int MostLines = Condition.MostParts - 1;

    /// <summary>What can be asked: the key, and how it begins when it fits and when it doesn't.</summary>
    public static IReadOnlyList<(string Key, string Name, string Fits, string Not)> Kinds { get; } =
    [
        ("standing", "standing", "is", "isn’t"),
        ("holds", "holds a plan", "holds", "doesn’t hold"),
        ("held", "held a plan once", "held once", "didn’t hold once"),
        ("tag", "tag", "bears", "doesn’t bear"),
        ("field", "own field", "has", "doesn’t have"),
        ("joined", "joined", "joined", "didn’t join"),
        ("lapsed", "lapsed", "lapsed", "didn’t lapse"),
        ("seen", "last seen", "was here last", "wasn’t here"),
        ("piece", "opened a piece", "has opened", "hasn’t opened"),
        ("edition", "opened an edition", "has opened", "hasn’t opened"),
        ("link", "opened a letter’s link", "opened one", "opened none"),
        ("done", "finished lessons", "has finished", "hasn’t finished"),
        ("stopped", "stopped in a piece", "has stopped", "hasn’t stopped"),
        ("tally", "tally", "met the aim", "didn’t meet the aim"),
        ("spent", "paid in all", "has paid", "hasn’t paid"),
        ("cohort", "cohort", "is in", "isn’t in"),
        ("name", "name or address", "contains", "doesn’t contain"),
        ("news", "letters to many", "takes them", "asked for none"),
        ("reads", "language", "asked for", "didn’t ask for"),
        ("group", "a group of lines", "", ""),
    ];

    /// <summary>After so many days without a look in, somebody has stopped, where nothing else is said.</summary>
    public const int UsuallyStopped = 14;

    /// <summary>Lines that stand as they can: a group's lines right after it, none deeper than there are groups.</summary>
    public static void Tidy(List<ConditionLine> lines)
    {
        if (lines.Count > MostLines) lines.RemoveRange(MostLines, lines.Count - MostLines);
        var deepest = 1;
        foreach (var l in lines)
        {
            l.Depth = Math.Clamp(l.Depth, 1, deepest);
            deepest = Math.Min(l.IsGroup ? l.Depth + 1 : l.Depth, Condition.MostDeep);
        }
    }

    public (Condition? Condition, IReadOnlyList<string?> Wrongs) Read(string? mode, IReadOnlyList<ConditionLine> lines)
    {
        var wrongs = new string?[lines.Count];
        var at = 0;
        var of = ReadFrom(lines, ref at, 1, wrongs);
        var condition = Group(mode, of);
        return (wrongs.All(w => w is null) ? condition : null, wrongs);
    }

    List<Condition> ReadFrom(IReadOnlyList<ConditionLine> lines, ref int at, int depth, string?[] wrongs)
    {
        var of = new List<Condition>();
        while (at < lines.Count && lines[at].Depth == depth)
        {
            var (i, line) = (at, lines[at]);
            at++;
            if (line.IsGroup)
            {
                var inside = ReadFrom(lines, ref at, depth + 1, wrongs);
                if (inside.Count == 0 && (at == i + 1)) wrongs[i] = "A group needs a line.";
                of.Add(Group(line.Mode, inside));
                continue;
            }
            var (leaf, wrong) = Leaf(line);
            wrongs[i] = wrong ?? (leaf is null ? "Choose what is asked." : ConditionRules.WrongWith(leaf, now));
            if (leaf is not null) of.Add(line.Not ? new Condition.Not(leaf) : leaf);
        }
        return of;
    }

    static Condition Group(string? mode, IReadOnlyList<Condition> of) => mode switch
    {
        "any" => new Condition.AnyOf(of),
        "none" => new Condition.NoneOf(of),
        _ => new Condition.AllOf(of),
    };

    (Condition? Leaf, string? Wrong) Leaf(ConditionLine l)
    {
        IReadOnlyList<PlanId> plans = [.. l.Plans.Distinct().Select(p => new PlanId(p))];
        (Condition?, string?) In(Func<When, Condition> of) => ReadWhen(l) is ({ } when, null) ? (of(when), null) : (null, ReadWhen(l).Wrong);
        switch (l.Kind)
        {
            case "standing":
                return (new Condition.InStanding([.. l.Standings.Where(Enum.IsDefined).Distinct()]), null);
            case "holds":
                return (new Condition.Holds(plans, l.Price > 0 ? new PriceId(l.Price) : null,
                    Enum.TryParse<HoldingSource>(l.Source, out var source) && Enum.IsDefined(source) ? source : null), null);
            case "held":
                return (new Condition.Held(plans), null);
            case "tag":
                return (new Condition.Tagged(new(l.Tag)), null);
            case "field":
                return Field(l);
            case "joined":
                return In(w => new Condition.Joined(w));
            case "lapsed":
                return In(w => new Condition.Lapsed(w));
            case "seen":
                return In(w => new Condition.Seen(w));
            case "link":
                return In(w => new Condition.OpenedLink(w));
            case "piece":
                return (new Condition.OpenedPiece(new(l.Piece)), null);
            case "edition":
                return (new Condition.OpenedEdition(new(l.Edition)), null);
            case "done":
                if (string.IsNullOrWhiteSpace(l.Lessons)) return (new Condition.Done(new(l.Piece), null), null);
                return int.TryParse(l.Lessons, CultureInfo.InvariantCulture, out var n) ? (new Condition.Done(new(l.Piece), n), null)
                    : (null, $"“{l.Lessons}” isn’t a number of lessons.");
            case "stopped":
                if (string.IsNullOrWhiteSpace(l.Lessons)) return (new Condition.StoppedIn(new(l.Piece), UsuallyStopped), null);
                return int.TryParse(l.Lessons, CultureInfo.InvariantCulture, out var days) ? (new Condition.StoppedIn(new(l.Piece), days), null)
                    : (null, $"“{l.Lessons}” isn’t a number of days.");
            case "tally":
                return (new Condition.MetTally(new(l.Tally), l.Weeks), null);
            case "spent":
                var amount = App.Offer.Amounts.Read(l.Amount, "Amount", now);
                return amount.Ok ? (new Condition.Spent(amount.Value), null) : (null, amount.Refusal);
            case "cohort":
                return (new Condition.InCohort(new(l.Cohort)), null);
            case "name":
                return (new Condition.Named(l.Text?.Trim() ?? ""), null);
            case "news":
                return (new Condition.WantsNews(), null);
            case "reads":
                return (new Condition.Reads(string.IsNullOrEmpty(l.Reads) ? null : l.Reads), null);
            default:
                return (null, "Choose what is asked.");
        }
    }

    (Condition?, string?) Field(ConditionLine l)
    {
        var id = new OwnFieldId(l.Field);
        if (!now.People.FieldById.TryGetValue(id, out var field)) return (null, now.OwnFields.Count == 0 ? "There is no own field yet." : "Choose a field.");
        switch (l.Test)
        {
            case "is" when field.Kind is OwnFieldKind.Text or OwnFieldKind.Choice:
                return (new Condition.Field(id, new FieldTest.Is(l.Text?.Trim() ?? "")), null);
            case "least" or "most" when field.Kind == OwnFieldKind.Number:
                if (OwnFields.Read(field, l.Text, now.Culture) is not { Ok: true, Value.Number: { } number }) return (null, $"“{l.Text}” isn’t a number.");
                return (new Condition.Field(id, l.Test == "least" ? new FieldTest.AtLeast(number) : new FieldTest.AtMost(number)), null);
            case "days" when field.Kind == OwnFieldKind.Date:
                var (when, wrong) = ReadWhen(l);
                return when is null ? (null, wrong) : (new Condition.Field(id, new FieldTest.OnDays(when)), null);
            default:
                return (new Condition.Field(id, new FieldTest.Filled()), null);
        }
    }

    static (When? When, string? Wrong) ReadWhen(ConditionLine l)
    {
        if (l.When == "between")
        {
            if (!LocalInput.TryReadDay(l.From, out var from)) return (null, $"“{l.From}” isn’t a day.");
            if (!LocalInput.TryReadDay(l.To, out var to)) return (null, $"“{l.To}” isn’t a day.");
            return (new When.Between(from, to), null);
        }
        if (!int.TryParse(l.Days, CultureInfo.InvariantCulture, out var days)) return (null, $"“{l.Days}” isn’t a number of days.");
        return (l.When == "ago" ? new When.LongerAgo(days) : new When.InLast(days), null);
    }

    public (string Mode, List<ConditionLine> Lines) Write(Condition condition)
    {
        var (mode, of) = Open(condition) is ({ } m, { } parts) ? (m, parts) : ("all", [condition]);
        var lines = new List<ConditionLine>();
        foreach (var c in of) Write(c, 1, lines);
        return (mode, lines);
    }

    static (string? Mode, IReadOnlyList<Condition>? Of) Open(Condition c) => c switch
    {
        Condition.AllOf g => ("all", g.Of),
        Condition.AnyOf g => ("any", g.Of),
        Condition.NoneOf g => ("none", g.Of),
        Condition.Not { Of: Condition.AnyOf g } => ("none", g.Of),
        Condition.Not { Of: Condition.NoneOf g } => ("any", g.Of),
        Condition.Not { Of: Condition.AllOf g } => ("none", [g]),
        Condition.Not { Of: Condition.Not n } => Open(n.Of),
        _ => (null, null),
    };

    void Write(Condition c, int depth, List<ConditionLine> to)
    {
        if (Open(c) is ({ } mode, { } of))
        {
            to.Add(new() { Depth = depth, Kind = "group", Mode = mode });
            foreach (var part in of) Write(part, depth + 1, to);
            return;
        }
        while (c is Condition.Not { Of: Condition.Not n }) c = n.Of;
        var line = new ConditionLine { Depth = depth, Not = c is Condition.Not };
        if (c is Condition.Not not) c = not.Of;
        (line.Kind, Action<ConditionLine> fill) = c switch
        {
            Condition.InStanding s => ("standing", l => l.Standings = [.. s.Standings]),
            Condition.Holds h => ("holds", l => (l.Plans, l.Price, l.Source) = ([.. h.Plans.Select(p => p.Value)], h.Price?.Value ?? 0, h.Source?.ToString())),
            Condition.Held h => ("held", l => l.Plans = [.. h.Plans.Select(p => p.Value)]),
            Condition.Tagged t => ("tag", l => l.Tag = t.Tag.Value),
            Condition.Field f => ("field", l => WriteField(f, l)),
            Condition.Joined j => ("joined", l => WriteWhen(j.When, l)),
            Condition.Lapsed x => ("lapsed", l => WriteWhen(x.When, l)),
            Condition.Seen s => ("seen", l => WriteWhen(s.When, l)),
            Condition.OpenedLink x => ("link", l => WriteWhen(x.When, l)),
            Condition.OpenedPiece p => ("piece", l => l.Piece = p.Piece.Value),
            Condition.OpenedEdition e => ("edition", l => l.Edition = e.Edition.Value),
            Condition.Done d => ("done", l => (l.Piece, l.Lessons) = (d.Piece.Value, d.Lessons?.ToString(CultureInfo.InvariantCulture))),
            Condition.StoppedIn s => ("stopped", l => (l.Piece, l.Lessons) = (s.Piece.Value, s.Days.ToString(CultureInfo.InvariantCulture))),
            Condition.MetTally t => ("tally", l => (l.Tally, l.Weeks) = (t.Tally.Value, t.WeeksAgo)),
            Condition.Spent s => ("spent", l => l.Amount = s.AtLeast.Major.ToString("0.###", now.Culture)),
            Condition.InCohort x => ("cohort", l => l.Cohort = x.Cohort.Value),
            Condition.Named n => ("name", l => l.Text = n.Text),
            Condition.Reads r => ("reads", l => l.Reads = r.Language),
            Condition.WantsNews => ("news", (Action<ConditionLine>)(_ => { })),
            _ => throw new InvalidOperationException($"No such condition: {c}"),
        };
        fill(line);
        to.Add(line);
    }

    void WriteField(Condition.Field f, ConditionLine l)
    {
        l.Field = f.OwnField.Value;
        switch (f.Test)
        {
            case FieldTest.Is t: (l.Test, l.Text) = ("is", t.Text); break;
            case FieldTest.AtLeast n: (l.Test, l.Text) = ("least", n.Number.ToString("0.####", now.Culture)); break;
            case FieldTest.AtMost n: (l.Test, l.Text) = ("most", n.Number.ToString("0.####", now.Culture)); break;
            case FieldTest.OnDays d: l.Test = "days"; WriteWhen(d.When, l); break;
            case FieldTest.Filled: l.Test = "filled"; break;
            default: throw new InvalidOperationException($"No such test: {f.Test}");
        }
    }

    static void WriteWhen(When when, ConditionLine l)
    {
        switch (when)
        {
            case When.InLast x: (l.When, l.Days) = ("last", x.Days.ToString(CultureInfo.InvariantCulture)); break;
            case When.LongerAgo x: (l.When, l.Days) = ("ago", x.Days.ToString(CultureInfo.InvariantCulture)); break;
            case When.Between b: (l.When, l.From, l.To) = ("between", LocalInput.Write(b.From), LocalInput.Write(b.To)); break;
            default: throw new InvalidOperationException($"No such time: {when}");
        }
    }
}
