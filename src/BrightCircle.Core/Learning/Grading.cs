using System.Globalization;
using System.Text;
using BrightCircle.Core.Content;

namespace BrightCircle.Core.Learning;

/// <summary>
/// Grades practice sheets. Points are whole; where part of an answer is right, the share is rounded down.
/// Multiple choice earns (rightly chosen − wrongly chosen) ÷ right ones, never below nothing; ordering and matching earn the share of items at their right
/// place.
/// </summary>
public static class Grading
{
    /// <param name="answers">By question key; a missing one wasn't answered.</param>
    /// <param name="marks">What the team gave for open answers, by question key.</param>
    public static SheetResult Grade(PracticeSheet sheet, IReadOnlyDictionary<string, Answer> answers, IReadOnlyDictionary<string, Mark>? marks = null)
    {
        var graded = sheet.Questions.Select(q => Grade(q, answers.GetValueOrDefault(q.Key), marks?.GetValueOrDefault(q.Key))).ToArray();
        var earned = graded.Sum(g => g.Earned);
        var waiting = graded.Where(g => g.State == AnswerState.ToMark).Sum(g => g.Points);
        // earned ÷ points ≥ pass ÷ 100, in whole numbers.
        bool Passes(int e) => 100L * e >= (long)sheet.PassPercent * sheet.Points;
        bool? passed = Passes(earned) ? true : Passes(earned + waiting) ? null : false;
        return new(graded, earned, sheet.Points, passed);
    }

    static Graded Grade(Question question, Answer? answer, Mark? mark) => (question, answer) switch
    {
        (Question.Open o, Answer.Written { Text: var t }) when t.Trim().Length > 0 => mark is { } m
            ? new(o.Key, AnswerState.Marked, Math.Clamp(m.Earned, 0, o.Points), o.Points, m.Comment.Length > 0 ? [m.Comment] : [])
            : new(o.Key, AnswerState.ToMark, 0, o.Points, []),
        (Question.Single s, Answer.Chosen { Options: [var i] }) when i >= 0 && i < s.Options.Count =>
            Share(s, s.Options[i].Right ? 1 : 0, 1, Say(s.Options[i])),
        (Question.Multiple m, Answer.Chosen { Options: var chosen }) when chosen.Any(i => i >= 0 && i < m.Options.Count) => Multiple(m, chosen),
        (Question.FillText f, Answer.Written { Text: var t }) when t.Trim().Length > 0 => Share(f, f.Accepted.Any(a => Same(a, t)) ? 1 : 0, 1),
        (Question.FillNumber f, Answer.Written { Text: var t }) when t.Trim().Length > 0 =>
            Share(f, ReadNumber(t) is { } n && Math.Abs(n - f.Value) <= f.Tolerance ? 1 : 0, 1),
        (Question.Ordering o, Answer.Arranged { Items: var items }) when items.Any(i => i >= 0) =>
            Share(o, Places(items, o.Items.Count, i => o.Items[i]), o.Items.Count),
        (Question.Match m, Answer.Arranged { Items: var items }) when items.Any(i => i >= 0) =>
            Share(m, Places(items, m.Pairs.Count, i => m.Pairs[i].Right), m.Pairs.Count),
        _ => new(question.Key, AnswerState.NotAnswered, 0, question.Points, []),
    };

    static Graded Multiple(Question.Multiple m, IReadOnlyList<int> chosen)
    {
        var picked = chosen.Where(i => i >= 0 && i < m.Options.Count).Distinct().ToArray();
        var rights = m.Options.Count(o => o.Right);
        var score = picked.Count(i => m.Options[i].Right) - picked.Count(i => !m.Options[i].Right);
        return Share(m, Math.Max(0, score), rights, [.. picked.SelectMany(i => Say(m.Options[i]))]);
    }

    /// <summary>How many things are at their right place; two that read the same stand for each other.</summary>
    static int Places(IReadOnlyList<int> items, int count, Func<int, string> text) =>
        Enumerable.Range(0, count).Count(place => place < items.Count && items[place] is var i && i >= 0 && i < count
            && (i == place || Same(text(i), text(place))));

    static Graded Share(Question q, int right, int of, IReadOnlyList<string>? feedback = null) =>
        new(q.Key, right >= of ? AnswerState.Right : right > 0 ? AnswerState.Partly : AnswerState.Wrong,
            of == 0 ? q.Points : q.Points * Math.Min(right, of) / of, q.Points, feedback ?? []);

    static string[] Say(Option o) => o.Feedback.Length > 0 ? [o.Feedback] : [];

    /// <summary>
    /// Two texts are the same answer after Unicode normalisation (NFKC, Unicode Standard Annex 15), case folding, trimming, and with runs of spaces as one.
    /// </summary>
    public static bool Same(string a, string b) => string.Equals(Folded(a), Folded(b), StringComparison.Ordinal);

    static string Folded(string text)
    {
        var b = new StringBuilder(text.Length);
        foreach (var c in text.Normalize(NormalizationForm.FormKC).Trim())
            if (!char.IsWhiteSpace(c)) b.Append(c);
            else if (b.Length > 0 && b[^1] != ' ') b.Append(' ');
        // Upper before lower case brings together what has more than one small letter (σ and ς); the sharp s is folded by hand.
        return b.ToString().Replace("ß", "ss", StringComparison.Ordinal).Replace("ẞ", "ss", StringComparison.Ordinal).ToUpperInvariant().ToLowerInvariant();
    }

    /// <summary>A number as people type it: a decimal point or comma, a minus of either kind, spaces between thousands.</summary>
    /// <returns>Null where it isn't one.</returns>
    public static decimal? ReadNumber(string text)
    {
        var t = text.Normalize(NormalizationForm.FormKC).Trim().Replace('−', '-').Replace(" ", "", StringComparison.Ordinal)
            .Replace("'", "", StringComparison.Ordinal);
        var (comma, point) = (t.LastIndexOf(','), t.LastIndexOf('.'));
        // Of a comma and a point the last one is the decimal sign; a comma alone is one too, unless it stands between groups of three more than once.
        if (comma >= 0 && point >= 0) t = comma > point ? t.Replace(".", "", StringComparison.Ordinal).Replace(',', '.')
            : t.Replace(",", "", StringComparison.Ordinal);
        else if (comma >= 0) t = t.IndexOf(',', StringComparison.Ordinal) == comma ? t.Replace(',', '.') : t.Replace(",", "", StringComparison.Ordinal);
        return decimal.TryParse(t, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var n) ? n : null;
    }

    /// <summary>
    /// An order for things that mustn't stand in their right one: always the same for the same person and question, and not the identity where there is
    /// another.
    /// </summary>
    /// <returns>The positions 0 to <paramref name="count"/> − 1, mixed.</returns>
    public static IReadOnlyList<int> Mixed(int count, long person, string key)
    {
        var order = Enumerable.Range(0, count).ToArray();
        // FNV-1a (Fowler, Noll, Vo) over the key begins a multiplicative generator (Knuth's MMIX constants); neither changes with the platform.
        var state = key.Aggregate(14695981039346656037UL, (h, c) => (h ^ c) * 1099511628211UL) ^ (ulong)person;
        for (var i = count - 1; i > 0; i--)
        {
            state = state * 6364136223846793005UL + 1442695040888963407UL;
            var j = (int)((state >> 33) % (ulong)(i + 1));
            (order[i], order[j]) = (order[j], order[i]);
        }
        if (count > 1 && order.Select((v, i) => v == i).All(same => same)) (order[0], order[1]) = (order[1], order[0]);
        return order;
    }
}

/// <summary>How one question did over all who handed the sheet in for the first time.</summary>
/// <param name="Answered">How many said anything to it, judged yet or not.</param>
/// <param name="Judged">How many answers a program or a person has judged; the figures after this one are over these.</param>
/// <param name="RightFirst">How many had it wholly right at the first try.</param>
/// <param name="Discrimination">Share of its points earned by the best 27 % less that by the weakest 27 %, −1 to 1; null with fewer than ten sheets.</param>
public sealed record QuestionFigures(string Key, int Sheets, int Answered, int Judged, int RightFirst, double? Discrimination);

/// <summary>Statistics over first tries.</summary>
public static class SheetFigures
{
    /// <summary>Below this many sheets no discrimination is told: it would be noise.</summary>
    public const int FewestSheets = 10;

    /// <remarks>
    /// The upper–lower index with groups of 27 %, after T. L. Kelley, “The selection of upper and lower groups for the validation of test items” (1939).
    /// Sheets are ranked by their points in all other questions, so that a question isn't compared with itself.
    /// </remarks>
    public static IReadOnlyList<QuestionFigures> Of(PracticeSheet sheet, IReadOnlyList<SheetResult> firstTries) =>
        [.. sheet.Questions.Select(q =>
        {
            var sheets = firstTries.Select(r => (All: r.Earned, Mine: r.Questions.FirstOrDefault(g => g.Key == q.Key))).Where(r => r.Mine is not null)
                .Select(r => (Others: r.All - r.Mine!.Earned, Mine: r.Mine!)).ToArray();
            var rows = sheets.Where(r => r.Mine.State != AnswerState.ToMark).ToArray();
            double? discrimination = null;
            if (rows.Length >= FewestSheets && q.Points > 0)
            {
                var group = (int)Math.Round(rows.Length * 0.27, MidpointRounding.AwayFromZero);
                var ranked = rows.OrderByDescending(r => r.Others).ToArray();
                double Share(IEnumerable<(int Others, Graded Mine)> part) => part.Average(r => (double)r.Mine.Earned / q.Points);
                discrimination = Share(ranked.Take(group)) - Share(ranked.TakeLast(group));
            }
            return new QuestionFigures(q.Key, sheets.Length, sheets.Count(r => r.Mine.State != AnswerState.NotAnswered), rows.Length,
                rows.Count(r => r.Mine.State == AnswerState.Right || r.Mine.State == AnswerState.Marked && r.Mine.Earned == r.Mine.Points), discrimination);
        })];
}
