namespace BrightCircle.Core.Content;

/// <summary>
/// How much of anything a lesson may hold. What is beyond is refused when it is saved or imported, whether the lesson is ready or not: these bounds keep pages
/// small
/// and the machine up. <see cref="BlockRules"/> says what a lesson needs beyond that to be ready.
/// </summary>
public static class ContentLimits
{
    public const int MostBlocks = 200, MostItems = 200, MostQuestions = 100, MostAnswers = 50, MostSteps = 100, MostRounds = 50;
    /// <summary>Stretches of a run: steps times rounds, each with its rest and countdown.</summary>
    public const int MostMoments = 3000;
    public const int TitleLength = 300, LineLength = 2000, TextLength = 500_000;
    public const int MostTimes = 1000, LongestStep = 7200, LongestRest = 3600, LongestLeadIn = 60, LongestEach = 600, LongestTimer = 86_400;

    /// <summary>The first thing that is beyond its bounds, as a sentence; null where nothing is.</summary>
    public static string? Beyond(IReadOnlyList<Block> blocks)
    {
        if (blocks.Count > MostBlocks) return $"A lesson holds {MostBlocks} blocks at most. Split it.";
        foreach (var b in blocks)
            if (Beyond(b) is { } wrong) return wrong;
        return null;
    }

    static string? Beyond(Block block) => block switch
    {
        Block.Text t => Text(t.Html, "The text"),
        Block.Pictures p => Many(p.Items.Count, "pictures") ?? Lines(p.Items.SelectMany(i => new[] { i.Alt, i.Caption })),
        Block.Video v => Beyond(v.Recording),
        Block.Audio a => Beyond(a.Recording),
        Block.Files f => Many(f.Items.Count, "files"),
        Block.Links l => Many(l.Items.Count, "links") ?? Lines(l.Items.SelectMany(i => new[] { i.Title, i.Url, i.Note })),
        Block.Booking k => Lines([k.Title, k.Url, k.Note]),
        Block.Live l => Lines([l.Title, l.Url, l.RecordingUrl ?? ""]) ?? Between(l.Minutes, 1, 1440, "The minutes of a live session"),
        Block.Timer t => Title(t.Title) ?? Between(t.Seconds ?? 0, 0, LongestTimer, "The seconds of a timer"),
        Block.Practice p => Beyond(p.Sheet),
        Block.Follow f => Beyond(f.Run),
        Block.CheckIn c => Beyond(c.Form),
        Block.Voices v => Many(v.Items.Count, "voices") ?? Lines(v.Items.SelectMany(i => new[] { i.Words, i.Who })),
        Block.Faq f => Many(f.Items.Count, "questions") ?? Lines(f.Items.SelectMany(i => new[] { i.Question, i.Answer })),
        Block.Inside or Block.Prices => null,
        _ => throw new InvalidOperationException($"No such block: {block}"),
    };

    static string? Beyond(Recording r) => Lines([r.Title, r.Url ?? ""]) ?? Text(r.Captions, "The captions") ?? Text(r.Transcript, "The transcript");

    static string? Beyond(FollowAlong f)
    {
        if (f.Steps.Count > MostSteps) return $"A follow-along has {MostSteps} steps at most.";
        return Title(f.Title) ?? Between(f.Rounds, 1, MostRounds, "Rounds") ?? Between(f.LeadInSeconds, 0, LongestLeadIn, "The seconds of a lead-in")
            ?? Between(f.RoundRestSeconds, 0, LongestRest, "The seconds between rounds") ?? Between(f.SecondsEach, 0, LongestEach, "The seconds one time takes")
            ?? f.Steps.Select(s => Title(s.Title) ?? Lines([s.Note]) ?? Between(s.Seconds ?? 0, 0, LongestStep, "The seconds of a step")
                ?? Between(s.Times ?? 0, 0, MostTimes, "The times of a step") ?? Between(s.RestSeconds, 0, LongestRest, "The seconds of a rest"))
                    .FirstOrDefault(w => w is not null)
            ?? (f.Steps.Count * f.Rounds * 3 > MostMoments
                ? $"{f.Rounds} rounds of {f.Steps.Count} steps are too long for one run; {MostMoments / 3} steps in all are the most." : null);
    }

    static string? Beyond(PracticeSheet s)
    {
        if (s.Questions.Count > MostQuestions) return $"A practice sheet has {MostQuestions} questions at most.";
        return Title(s.Title) ?? Text(s.Intro, "The introduction") ?? Between(s.Tries ?? 1, 1, 100, "Tries") ?? Between(s.PassPercent, 0, 100, "The pass mark")
            ?? s.Questions.Select(Beyond).FirstOrDefault(w => w is not null);
    }

    static string? Beyond(Question q)
    {
        var answers = q switch
        {
            Question.Single c => c.Options.SelectMany(o => new[] { o.Text, o.Feedback }),
            Question.Multiple c => c.Options.SelectMany(o => new[] { o.Text, o.Feedback }),
            Question.FillText f => f.Accepted,
            Question.Ordering o => o.Items,
            Question.Match m => m.Pairs.SelectMany(p => new[] { p.Left, p.Right }),
            Question.Open or Question.FillNumber => [],
            _ => throw new InvalidOperationException($"No such question: {q}"),
        };
        var list = answers.ToArray();
        var per = q is Question.Single or Question.Multiple or Question.Match ? 2 : 1;
        return list.Length > MostAnswers * per ? $"A question has {MostAnswers} answers at most." : Lines([q.Text, q.Explanation, .. list])
            ?? Between(q.Points, 0, 100, "Points") ?? Numbers(q);
    }

    static string? Numbers(Question q) =>
        q is Question.FillNumber n && (Math.Abs(n.Value) > 1_000_000_000_000m || Math.Abs(n.Tolerance) > 1_000_000_000_000m) ? "That number is too large."
            : null;

    static string? Beyond(Form f)
    {
        if (f.Questions.Count > MostQuestions) return $"A form has {MostQuestions} questions at most.";
        return Title(f.Title) ?? Lines([f.Thanks])
            ?? f.Questions.Select(q => q.Options.Count > MostAnswers ? $"A question has {MostAnswers} answers at most." : Lines([q.Text, .. q.Options]))
                .FirstOrDefault(w => w is not null);
    }

    static string? Many(int count, string what) => count > MostItems ? $"{MostItems} {what} in one place are the most." : null;
    static string? Title(string text) => text.Length > TitleLength ? $"“{text[..40]} …” is too long; {TitleLength} letters are the most." : null;
    static string? Lines(IEnumerable<string> texts) => texts.FirstOrDefault(t => t.Length > LineLength) is { } t
        ? $"“{t[..40]} …” is too long; {LineLength:N0} letters are the most." : null;
    static string? Text(string text, string what) => text.Length > TextLength ? $"{what} is too long; {TextLength:N0} signs are the most." : null;
    static string? Between(int n, int from, int to, string what) => n < from || n > to ? $"{what} go from {from} to {to:N0}." : null;
}
