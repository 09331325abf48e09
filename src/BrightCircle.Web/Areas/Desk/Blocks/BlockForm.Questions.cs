using System.Globalization;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;

namespace BrightCircle.Web.Areas.Desk.Blocks;

/// <summary>
/// The questions of practice sheets. Every kind has the same rows of answers (a text, whether it is right, what is said about it, what belongs to it), so that
/// a question can become one of another kind without what was typed getting lost. Row n has the fields NAME-option-n, NAME-feedback-n, NAME-pair-n.
/// </summary>
public sealed partial class BlockForm
{
    const int MostAnswers = 200;

    /// <summary>One line of a question's answers.</summary>
    public sealed record AnswerRow(string Text, bool Right, string Feedback, string Pair)
    {
        public static AnswerRow Empty { get; } = new("", false, "", "");
    }

    Question Question_(BlockId id, string key)
    {
        var name = $"b-{id.Value}-{key}";
        var (text, points, explanation) = (Typed(name + "-text"), Number(name + "-points", 1) ?? 1, Typed(name + "-explanation"));
        var rows = AnswerRows(name);
        switch (Typed(name + "-kind"))
        {
            case "open": return new Question.Open(key, text, points, explanation);
            case "multiple": return new Question.Multiple(key, text, points, explanation, [.. rows.Select(Option_)]);
            case "text": return new Question.FillText(key, text, points, explanation, [.. rows.Select(r => r.Text)]);
            case "number":
                // Where it has just become a number, the first answer may be one.
                var value = form.ContainsKey(name + "-number") ? Decimal(name + "-number") : rows.Count > 0 ? Grading.ReadNumber(rows[0].Text) : null;
                return new Question.FillNumber(key, text, points, explanation, value ?? 0, Decimal(name + "-tolerance") ?? 0, Typed(name + "-unit"));
            case "order": return new Question.Ordering(key, text, points, explanation, [.. rows.Select(r => r.Text)]);
            case "match": return new Question.Match(key, text, points, explanation, [.. rows.Select(r => new Pair(r.Text, r.Pair))]);
            default: return new Question.Single(key, text, points, explanation, [.. rows.Select(Option_)]);
        }
    }

    static Option Option_(AnswerRow row) => new(row.Text, row.Right, row.Feedback);

    IReadOnlyList<AnswerRow> AnswerRows(string name)
    {
        var right = form[name + "-right"];
        var rows = new List<AnswerRow>();
        for (var i = 0; i < MostAnswers && form.ContainsKey($"{name}-option-{i}"); i++)
        {
            var row = new AnswerRow(Typed($"{name}-option-{i}"), right.Contains(i.ToString(CultureInfo.InvariantCulture)), Typed($"{name}-feedback-{i}"),
                Typed($"{name}-pair-{i}"));
            if (row.Text.Length > 0 || row.Pair.Length > 0) rows.Add(row);
        }
        if (rows.Count == 0 && Typed(name + "-number") is { Length: > 0 } number) rows.Add(AnswerRow.Empty with { Text = number, Right = true });
        return rows;
    }

    decimal? Decimal(string name)
    {
        var typed = Typed(name);
        if (typed.Length == 0) return null;
        if (Grading.ReadNumber(typed) is { } n) return n;
        Wrong[name] = new($"“{typed}” isn’t a number.", typed);
        return null;
    }

    /// <summary>A number as it stands in a field.</summary>
    public static string Written(decimal n) => n.ToString("0.############", CultureInfo.InvariantCulture);

    public static IReadOnlyList<AnswerRow> AnswersOf(Question q) => q switch
    {
        Question.Single s => [.. s.Options.Select(o => new AnswerRow(o.Text, o.Right, o.Feedback, ""))],
        Question.Multiple m => [.. m.Options.Select(o => new AnswerRow(o.Text, o.Right, o.Feedback, ""))],
        Question.FillText f => [.. f.Accepted.Select(t => AnswerRow.Empty with { Text = t })],
        Question.Ordering o => [.. o.Items.Select(t => AnswerRow.Empty with { Text = t })],
        Question.Match m => [.. m.Pairs.Select(p => AnswerRow.Empty with { Text = p.Left, Pair = p.Right })],
        Question.FillNumber or Question.Open => [],
        _ => throw new ArgumentOutOfRangeException(nameof(q), q.GetType().Name, "No such kind of question."),
    };

    public static string KindOf(Question q) => q switch
    {
        Question.Single => "single",
        Question.Multiple => "multiple",
        Question.FillText => "text",
        Question.FillNumber => "number",
        Question.Ordering => "order",
        Question.Match => "match",
        Question.Open => "open",
        _ => throw new ArgumentOutOfRangeException(nameof(q), q.GetType().Name, "No such kind of question."),
    };

    /// <summary>One answer of a question less, or one place up. (One more is the empty line that always stands last.)</summary>
    static Block Answers(Block block, string key, string what, int n) => block is not Block.Practice p || what == "add" ? block : p with
    {
        Sheet = p.Sheet with
        {
            Questions = [.. p.Sheet.Questions.Select(q => q.Key != key ? q : q switch
            {
                Question.Single s => s with { Options = Rows(s.Options, what, n, null!) },
                Question.Multiple m => m with { Options = Rows(m.Options, what, n, null!) },
                Question.FillText f => f with { Accepted = Rows(f.Accepted, what, n, "") },
                Question.Ordering o => o with { Items = Rows(o.Items, what, n, "") },
                Question.Match m => m with { Pairs = Rows(m.Pairs, what, n, null!) },
                Question.FillNumber or Question.Open => q,
                _ => throw new ArgumentOutOfRangeException(nameof(block), q.GetType().Name, "No such kind of question."),
            })],
        },
    };
}
