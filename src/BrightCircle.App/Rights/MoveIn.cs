using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>What stands in a column of a list of people.</summary>
public enum MoveInColumn { Nothing, Email, Name, FirstName, LastName, Plan, From, Until, Finished, Note }

/// <summary>How a list is read, and what is done with it.</summary>
/// <param name="Columns">What stands in each of its columns.</param>
/// <param name="Plan">The plan of those whose line names none; null for none.</param>
/// <param name="Names">Plans by the names they have in the list.</param>
/// <param name="Letters">Whether a welcome letter goes out to each.</param>
public sealed record MoveInTerms(IReadOnlyList<MoveInColumn> Columns, PlanId? Plan, IReadOnlyDictionary<string, PlanId> Names, DateOrder Dates, bool Letters,
    bool AllAtOnce);

/// <summary>One line of a list as it is understood.</summary>
/// <param name="Finished">Pieces of which they have had everything.</param>
/// <param name="Wrong">Why nothing can be done with it; null where something can.</param>
public sealed record MoveInRow(int Line, string Email, string Name, PlanId? Plan, LocalDate? From, LocalDate? Until, IReadOnlyList<PieceId> Finished,
    string? Note, string? Wrong);

/// <summary>Reads a list of people (CSV, RFC 4180).</summary>
public sealed class MoveInReading
{
    public const int MostBytes = 8 * 1024 * 1024, MostRows = 50_000;

    public IReadOnlyList<string> Heads { get; }
    readonly IReadOnlyList<(int Line, List<string> Cells)> rows;

    public MoveInReading(string text)
    {
        var all = CsvRows.Read(text.TrimStart('\uFEFF'));
        Heads = all.Count == 0 ? [] : [.. all[0].Cells.Select(c => c.Trim())];
        rows = [.. all.Skip(1).Where(r => r.Cells.Any(c => c.Trim().Length > 0)).Take(MostRows + 1)];
    }

    public int Count => rows.Count;
    public IEnumerable<IReadOnlyList<string>> First(int most) => rows.Take(most).Select(r => (IReadOnlyList<string>)r.Cells);

    /// <summary>What the columns seem to be, by their heads.</summary>
    public IReadOnlyList<MoveInColumn> Guess()
    {
        var taken = new HashSet<MoveInColumn>();
        return [.. Heads.Select(h =>
        {
            var guess = Meaning(h.ToLowerInvariant());
            return guess == MoveInColumn.Nothing || taken.Add(guess) ? guess : MoveInColumn.Nothing;
        })];
    }

    static MoveInColumn Meaning(string head)
    {
        bool Has(params string[] words) => words.Any(w => head.Contains(w, StringComparison.Ordinal));
        return Has("mail") ? MoveInColumn.Email : Has("first name", "firstname", "given") ? MoveInColumn.FirstName
            : Has("last name", "lastname", "surname", "family") ? MoveInColumn.LastName : Has("name") && !Has("plan", "tier") ? MoveInColumn.Name
            : Has("plan", "tier", "level", "product", "membership") ? MoveInColumn.Plan
            : Has("until", "through", "expire", "end", "renew", "next") ? MoveInColumn.Until
            : Has("start", "join", "since", "from", "created", "date") ? MoveInColumn.From
            : Has("finish", "complete", "done", "had") ? MoveInColumn.Finished : Has("note", "comment") ? MoveInColumn.Note : MoveInColumn.Nothing;
    }

    /// <summary>Names of plans in the list that no plan here has.</summary>
    public IReadOnlyList<string> UnknownPlans(MoveInTerms terms, CatalogueSnapshot now)
    {
        var at = terms.Columns.ToList().IndexOf(MoveInColumn.Plan);
        return at < 0 ? [] : [.. rows.Select(r => Cell(r.Cells, at)).Where(n => n.Length > 0 && PlanOf(n, now, terms with { Names = NoNames }) is null)
            .Distinct(StringComparer.CurrentCultureIgnoreCase).Take(30)];
    }

    public static IReadOnlyDictionary<string, PlanId> NoNames { get; } = new Dictionary<string, PlanId>();

    static PlanId? PlanOf(string name, CatalogueSnapshot now, MoveInTerms terms)
    {
        foreach (var (known, plan) in terms.Names)
            if (string.Equals(known, name, StringComparison.CurrentCultureIgnoreCase)) return plan;
        return now.Plans.FirstOrDefault(p => string.Equals(p.Name, name, StringComparison.CurrentCultureIgnoreCase))?.Id;
    }

    static string Cell(List<string> cells, int at) => at >= 0 && at < cells.Count ? cells[at].Trim() : "";

    /// <summary>Lines from one on, as they are understood.</summary>
    public IEnumerable<MoveInRow> Read(MoveInTerms terms, CatalogueSnapshot now, int from = 0, int most = int.MaxValue)
    {
        var columns = terms.Columns.ToList();
        for (var i = from; i < rows.Count && i - from < most; i++)
        {
            var (line, cells) = rows[i];
            string Of(MoveInColumn what) => Cell(cells, columns.IndexOf(what));
            var name = Of(MoveInColumn.Name);
            if (name.Length == 0) name = $"{Of(MoveInColumn.FirstName)} {Of(MoveInColumn.LastName)}".Trim();
            var good = EmailAddress.TryRead(Of(MoveInColumn.Email), out var email);
            if (name.Length == 0 && good) name = email.Split('@')[0];
            var (start, until) = (Date(Of(MoveInColumn.From), terms.Dates), Date(Of(MoveInColumn.Until), terms.Dates));
            var planName = Of(MoveInColumn.Plan);
            var plan = planName.Length > 0 ? PlanOf(planName, now, terms) : terms.Plan;
            var (finished, unknown) = Pieces(Of(MoveInColumn.Finished), now);
            var wrong = !good ? email.Length == 0 ? "There is no address." : $"“{email}” isn’t an address."
                : name.Length > 120 ? "The name is longer than 120 letters."
                : planName.Length > 0 && plan is null ? $"There is no plan called “{planName}”."
                : start.Bad is { } badStart ? badStart : until.Bad is { } badUntil ? badUntil
                : until.Day < start.Day ? "It would end before it begins."
                : until.Day is not null && plan is null ? "It has a last day, and no plan."
                : unknown is not null ? $"There is no piece called “{unknown}”."
                : Of(MoveInColumn.Note).Length > 400 ? "The note is longer than 400 letters." : null;
            yield return new(line, email, name, plan, start.Day, until.Day, finished, Of(MoveInColumn.Note) is { Length: > 0 } note ? note : null, wrong);
        }
    }

    static (IReadOnlyList<PieceId> Found, string? Unknown) Pieces(string cell, CatalogueSnapshot now)
    {
        var found = new List<PieceId>();
        foreach (var title in cell.Split([';', '|'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            if (now.Pieces.FirstOrDefault(p => string.Equals(p.Title, title, StringComparison.CurrentCultureIgnoreCase)) is { } piece) found.Add(piece.Id);
            else return ([], title);
        return (found, null);
    }

    static (LocalDate? Day, string? Bad) Date(string cell, DateOrder order) => cell.Length == 0 ? (null, null)
        : TypedDay.Read(cell, order) is not { } day ? (null, $"“{cell}” isn’t a day that can be read.")
        : day.Year < 2000 ? (null, $"“{cell}” isn’t a day within reason.") : (day, null);
}
