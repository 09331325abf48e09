using System.Text.Json.Serialization;

namespace BrightCircle.Core.Learning;

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
    public sealed record Single(string Key, string Text, int Points, string Explanation, IReadOnlyList<Option> Options) : Question(Key, Text, Points, Explanation);
    public sealed record Multiple(string Key, string Text, int Points, string Explanation, IReadOnlyList<Option> Options) : Question(Key, Text, Points, Explanation);
    /// <param name="Accepted">All answers that are right; compared as <see cref="Grading.Same"/> says.</param>
    public sealed record FillText(string Key, string Text, int Points, string Explanation, IReadOnlyList<string> Accepted) : Question(Key, Text, Points, Explanation);
    /// <param name="Tolerance">How far off it may be, either way; 0 for exactly.</param>
    public sealed record FillNumber(string Key, string Text, int Points, string Explanation, decimal Value, decimal Tolerance, string Unit) : Question(Key, Text, Points, Explanation);
    /// <param name="Items">In the right order.</param>
    public sealed record Ordering(string Key, string Text, int Points, string Explanation, IReadOnlyList<string> Items) : Question(Key, Text, Points, Explanation);
    public sealed record Match(string Key, string Text, int Points, string Explanation, IReadOnlyList<Pair> Pairs) : Question(Key, Text, Points, Explanation);
}

/// <param name="Feedback">Shown to whoever chose it.</param>
public sealed record Option(string Text, bool Right, string Feedback);

public sealed record Pair(string Left, string Right);

/// <summary>What was answered to one question.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(Written), "written")]
[JsonDerivedType(typeof(Chosen), "chosen")]
[JsonDerivedType(typeof(Arranged), "arranged")]
public abstract record Answer
{
    private Answer() { }
    /// <summary>Words or a number, as they were typed.</summary>
    public sealed record Written(string Text) : Answer;
    /// <summary>The positions of the chosen options, from 0.</summary>
    public sealed record Chosen(IReadOnlyList<int> Options) : Answer;
    /// <summary>For ordering: which item was put at each place. For matching: which right side was given to each left one. Positions from 0, −1 where nothing was said.</summary>
    public sealed record Arranged(IReadOnlyList<int> Items) : Answer;
}

public enum AnswerState { Right, Partly, Wrong, NotAnswered, ToMark, Marked }

/// <param name="Earned">Points, from 0 to the question's.</param>
public sealed record Graded(string Key, AnswerState State, int Earned, int Points, IReadOnlyList<string> Feedback);

/// <summary>What the team said to an open answer.</summary>
public sealed record Mark(int Earned, string Comment);

/// <param name="Passed">Null while it hangs on answers that nobody has marked yet.</param>
public sealed record SheetResult(IReadOnlyList<Graded> Questions, int Earned, int Points, bool? Passed)
{
    public int Waiting => Questions.Count(q => q.State == AnswerState.ToMark);
    /// <summary>Earned of possible, in percent, rounded down; 100 where nothing can be earned.</summary>
    public int Percent => Points == 0 ? 100 : 100 * Earned / Points;
}
