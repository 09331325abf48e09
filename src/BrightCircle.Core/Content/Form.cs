namespace BrightCircle.Core.Content;

public enum FormQuestionKind { Short, Long, Number, YesNo, Scale, One, Several }

/// <summary>When a question is asked: if an earlier one was answered so.</summary>
/// <param name="Of">The key of a question before it.</param>
public sealed record ShowIf(string Of, ShowWhen When, string Value);

public enum ShowWhen { Is, IsNot, Includes, AtLeast, AtMost, Answered }

/// <summary>A question of a form. Its text may use the person's name: "Thanks, {{ first_name }}", and what was answered before: "{{ answer.KEY }}".</summary>
/// <param name="Options">For one or several of: the choices. For a scale: the words at both ends.</param>
/// <param name="Condition">Null for always.</param>
public sealed record FormQuestion(string Key, FormQuestionKind Kind, string Text, bool Required, IReadOnlyList<string> Options, ShowIf? Condition);

public enum FormRepeat
{
    /// <summary>Each member answers once, and may change it.</summary>
    Once,
    /// <summary>Each member answers once in every week of ISO 8601.</summary>
    EveryWeek,
}

/// <summary>A form in a lesson: a check-in.</summary>
public sealed record Form(string Title, IReadOnlyList<FormQuestion> Questions, FormRepeat Repeat, string Thanks)
{
    /// <summary>The highest number of a scale; it begins at 1.</summary>
    public const int ScaleTo = 5;
}
