using System.Text.Json.Serialization;

namespace BrightCircle.Core.Content;

/// <summary>Questions in a lesson.</summary>
/// <param name="Tries">How often it may be handed in, from 1; null for as often as one likes.</param>
/// <param name="PassPercent">The share of the points that passes, 0 to 100.</param>
public sealed record PracticeSheet(string Title, string Intro, IReadOnlyList<Question> Questions, int? Tries, int PassPercent)
{
    [JsonIgnore] public int Points => Questions.Sum(q => q.Points);
    /// <summary>A person has to read some of the answers.</summary>
    [JsonIgnore] public bool NeedsMarking => Questions.Any(q => q is Question.Open);
}

/// <summary>One question. Its key is unique in its sheet and stays the same when the sheet is edited.</summary>
/// <param name="Points">What it is worth, 0 to 100.</param>
/// <param name="Explanation">Shown after handing in, whatever was answered.</param>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(Open), "open")]
[JsonDerivedType(typeof(Single), "single")]
[JsonDerivedType(typeof(Multiple), "multiple")]
[JsonDerivedType(typeof(FillText), "text")]
[JsonDerivedType(typeof(FillNumber), "number")]
[JsonDerivedType(typeof(Ordering), "order")]
[JsonDerivedType(typeof(Match), "match")]
public abstract record Question(string Key, string Text, int Points, string Explanation)
{
    /// <summary>Answered in one's own words; the team marks it.</summary>
    public sealed record Open(string Key, string Text, int Points, string Explanation) : Question(Key, Text, Points, Explanation);
    public sealed record Single(string Key, string Text, int Points, string Explanation, IReadOnlyList<Option> Options)
        : Question(Key, Text, Points, Explanation);
    public sealed record Multiple(string Key, string Text, int Points, string Explanation, IReadOnlyList<Option> Options)
        : Question(Key, Text, Points, Explanation);
    /// <param name="Accepted">All answers that are right; compared after normalising.</param>
    public sealed record FillText(string Key, string Text, int Points, string Explanation, IReadOnlyList<string> Accepted)
        : Question(Key, Text, Points, Explanation);
    /// <param name="Tolerance">How far off it may be, either way; 0 for exactly.</param>
    public sealed record FillNumber(string Key, string Text, int Points, string Explanation, decimal Value, decimal Tolerance, string Unit)
        : Question(Key, Text, Points, Explanation);
    /// <param name="Items">In the right order.</param>
    public sealed record Ordering(string Key, string Text, int Points, string Explanation, IReadOnlyList<string> Items)
        : Question(Key, Text, Points, Explanation);
    public sealed record Match(string Key, string Text, int Points, string Explanation, IReadOnlyList<Pair> Pairs) : Question(Key, Text, Points, Explanation);
}

/// <param name="Feedback">Shown to whoever chose it.</param>
public sealed record Option(string Text, bool Right, string Feedback);

public sealed record Pair(string Left, string Right);
