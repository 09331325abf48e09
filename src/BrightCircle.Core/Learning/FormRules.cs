using System.Text.RegularExpressions;
using BrightCircle.Core.Content;
using NodaTime;

namespace BrightCircle.Core.Learning;

/// <summary>Which questions are asked, whether the answers will do, and what is said.</summary>
public static partial class FormRules
{
    /// <summary>
    /// The questions that are asked, given the answers so far: a question whose condition hangs on one that isn't asked itself is not asked either.
    /// </summary>
    public static IReadOnlyList<FormQuestion> Asked(Form form, IReadOnlyDictionary<string, string> answers)
    {
        var asked = new List<FormQuestion>();
        foreach (var q in form.Questions)
            if (q.Condition is not { } c || asked.Any(a => a.Key == c.Of) && Holds(c, answers.GetValueOrDefault(c.Of, ""))) asked.Add(q);
        return asked;
    }

    static bool Holds(ShowIf c, string given) => c.When switch
    {
        ShowWhen.Answered => given.Trim().Length > 0,
        ShowWhen.Is => Grading.Same(given, c.Value),
        ShowWhen.IsNot => given.Trim().Length > 0 && !Grading.Same(given, c.Value),
        ShowWhen.Includes => Several(given).Any(g => Grading.Same(g, c.Value)),
        ShowWhen.AtLeast => Grading.ReadNumber(given) is { } n && Grading.ReadNumber(c.Value) is { } v && n >= v,
        ShowWhen.AtMost => Grading.ReadNumber(given) is { } n && Grading.ReadNumber(c.Value) is { } v && n <= v,
    };

    /// <summary>Several choices stand in one answer, one on a line.</summary>
    public static IReadOnlyList<string> Several(string answer) => answer.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    /// <summary>What is wrong with the answers, by question key; empty where nothing is. Questions that aren't asked need no answer.</summary>
    public static IReadOnlyDictionary<string, string> Wrong(Form form, IReadOnlyDictionary<string, string> answers)
    {
        var wrong = new Dictionary<string, string>();
        foreach (var q in Asked(form, answers))
        {
            var given = answers.GetValueOrDefault(q.Key, "").Trim();
            if (given.Length == 0)
            {
                if (q.Required) wrong[q.Key] = "This one needs an answer.";
                continue;
            }
            var refusal = q.Kind switch
            {
                FormQuestionKind.Number when Grading.ReadNumber(given) is null => "This is a number, like 12 or 3.5.",
                FormQuestionKind.Scale when Grading.ReadNumber(given) is not (>= 1 and <= Form.ScaleTo) => $"Choose from 1 to {Form.ScaleTo}.",
                FormQuestionKind.YesNo when given is not ("yes" or "no") => "Choose yes or no.",
                FormQuestionKind.One when !q.Options.Contains(given) => "Choose one of these.",
                FormQuestionKind.Several when Several(given).Any(g => !q.Options.Contains(g)) => "Choose from these.",
                _ when given.Length > 4000 => "That is too long; 4,000 letters are the most.",
                _ => null,
            };
            if (refusal is not null) wrong[q.Key] = refusal;
        }
        return wrong;
    }

    /// <summary>Only the answers to questions that are asked, trimmed, without empty ones.</summary>
    public static Dictionary<string, string> Kept(Form form, IReadOnlyDictionary<string, string> answers) =>
        Asked(form, answers).Select(q => (q.Key, Given: answers.GetValueOrDefault(q.Key, "").Trim())).Where(a => a.Given.Length > 0)
            .ToDictionary(a => a.Key, a => a.Given);

    /// <summary>Puts the person's first name and earlier answers into a text. What isn't known leaves nothing behind, nor the comma before it.</summary>
    public static string Worded(string text, string firstName, IReadOnlyDictionary<string, string> answers) => Field().Replace(text, m =>
    {
        var value = m.Groups["f"].Value == "first_name" ? firstName
            : answers.GetValueOrDefault(m.Groups["k"].Value, "").Replace("\n", ", ", StringComparison.Ordinal);
        return value.Length > 0 ? m.Groups["before"].Value + value : "";
    });

    /// <summary>The stretch an answer belongs to: nothing for once, the ISO 8601 week ("2026-W53") otherwise.</summary>
    public static string Turn(Form form, LocalDate day) => form.Repeat switch
    {
        FormRepeat.Once => "",
        FormRepeat.EveryWeek => WeekOf(day),
    };

    /// <summary>"2026-W53" for 2026-12-31 and for 2027-01-01 (ISO 8601).</summary>
    public static string WeekOf(LocalDate day) => Time.IsoWeek.Of(day).ToString();

    [GeneratedRegex(@"(?<before>,?\s?)\{\{\s*(?<f>first_name|answer\.(?<k>\w+))\s*\}\}", RegexOptions.CultureInvariant)]
    private static partial Regex Field();
}
