using System.Text.Json.Serialization;

namespace BrightCircle.Core.Learning;

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
    /// <summary>For ordering: which item was put at each place. For matching: which right side was given to each left one. Positions from 0, −1 where nothing
    /// was said.</summary>
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
