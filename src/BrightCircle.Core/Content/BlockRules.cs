
namespace BrightCircle.Core.Content;

/// <summary>Something that keeps a lesson from being ready, in words, at the block it is about.</summary>
public sealed record BlockProblem(BlockId Block, string Text);

/// <summary>What a block needs before members can use it. Unfinished blocks are kept all the same: only being ready waits for them.</summary>
public static class BlockRules
{
    public static IReadOnlyList<BlockProblem> Problems(IReadOnlyList<Block> blocks) =>
        [.. blocks.SelectMany(b => Of(b).Select(text => new BlockProblem(b.Id, text)))];

    /// <summary>An address elsewhere that a member may be sent to: complete, and http or https.</summary>
    public static bool IsWebAddress(string? url) => Uri.TryCreate(url, UriKind.Absolute, out var uri)
        && (uri.Scheme == Uri.UriSchemeHttps || uri.Scheme == Uri.UriSchemeHttp) && uri.Host.Length > 0;

    static IEnumerable<string> Of(Block block)
    {
        switch (block)
        {
            case Block.Pictures p:
                if (p.Items.Count == 0) yield return "The picture is missing.";
                if (p.Items.Any(i => i.Alt.Length == 0)) yield return "Say what each picture shows, for those who can’t see it.";
                break;
            case Block.Video v:
                foreach (var problem in Of(v.Recording, "video")) yield return problem;
                break;
            case Block.Audio a:
                foreach (var problem in Of(a.Recording, "recording")) yield return problem;
                break;
            case Block.Files { Items.Count: 0 }:
                yield return "No file is chosen yet.";
                break;
            case Block.Links l:
                if (l.Items.Count == 0) yield return "No link is written yet.";
                foreach (var link in l.Items.Where(i => !IsWebAddress(i.Url)))
                    yield return $"“{(link.Title.Length > 0 ? link.Title : link.Url)}” needs a full address, beginning with https://.";
                break;
            case Block.Voices v:
                if (v.Items.Count == 0) yield return "Nobody says anything yet.";
                if (v.Items.Any(i => i.Words.Length == 0)) yield return "One of the voices says nothing.";
                break;
            case Block.Faq f:
                if (f.Items.Count == 0) yield return "No question is written yet.";
                if (f.Items.Any(i => i.Question.Length == 0 || i.Answer.Length == 0)) yield return "Each question needs its answer.";
                break;
            case Block.Booking b:
                if (!IsWebAddress(b.Url)) yield return "The booking link needs a full address, beginning with https://.";
                break;
            case Block.Live l:
                if (l.Title.Length == 0) yield return "The live session needs a title.";
                if (l.StartsAt is null) yield return "Say when the live session begins.";
                if (!IsWebAddress(l.Url)) yield return "The live session needs the address where it happens, beginning with https://.";
                if (l.RecordingUrl is not null && !IsWebAddress(l.RecordingUrl)) yield return "The recording’s address begins with https://.";
                if (l.Minutes is < 1 or > 1440) yield return "A live session takes from 1 to 1,440 minutes.";
                break;
            case Block.Timer { Seconds: < 1 or > 86_400 }:
                yield return "A countdown is from one second to a day long.";
                break;
            case Block.Practice p:
                foreach (var problem in Of(p.Sheet)) yield return problem;
                break;
            case Block.Follow f:
                foreach (var problem in Of(f.Run)) yield return problem;
                break;
            case Block.CheckIn c:
                foreach (var problem in Of(c.Form)) yield return problem;
                break;
        }
    }

    static IEnumerable<string> Of(Recording r, string word)
    {
        if (r.File is null && r.Url is null) yield return $"The {word} is missing: upload it, or link to where it is.";
        if (r.Url is not null && !IsWebAddress(r.Url)) yield return $"The {word} is linked by its full address, beginning with https://.";
        if (r.Captions.Length > 0 && WebVtt.Read(r.Captions) is { Ok: false } wrong) yield return $"Captions, line {wrong.WrongLine}: {wrong.Wrong}";
    }

    static IEnumerable<string> Of(PracticeSheet s)
    {
        if (s.Questions.Count == 0) yield return "The practice sheet has no question yet.";
        if (s.PassPercent is < 0 or > 100) yield return "The pass mark is from 0 to 100 percent.";
        if (s.Tries is < 1 or > 100) yield return "Tries go from 1 to 100; leave them empty for as many as one likes.";
        foreach (var (q, n) in s.Questions.Select((q, i) => (q, i + 1)))
        {
            if (q.Text.Length == 0) yield return $"Question {n} has no words.";
            if (q.Points is < 0 or > 100) yield return $"Question {n}: points go from 0 to 100.";
            var wrong = q switch
            {
                Question.Single c when c.Options.Count < 2 => "needs two answers to choose from.",
                Question.Single c when c.Options.Count(o => o.Right) != 1 => "needs exactly one right answer; mark it.",
                Question.Multiple c when c.Options.Count < 2 => "needs two answers to choose from.",
                Question.Multiple c when !c.Options.Any(o => o.Right) => "needs a right answer; mark it.",
                Question.FillText { Accepted.Count: 0 } => "needs an accepted answer.",
                Question.FillNumber { Tolerance: < 0 } => "has a tolerance below nothing.",
                Question.Ordering o when o.Items.Count < 2 => "needs two things to put in order.",
                Question.Match m when m.Pairs.Count < 2 => "needs two pairs to match.",
                Question.Match m when m.Pairs.Any(p => p.Left.Length == 0 || p.Right.Length == 0) => "has a pair with one side only.",
                _ => null,
            };
            if (wrong is not null) yield return $"Question {n} {wrong}";
        }
    }

    static IEnumerable<string> Of(FollowAlong f)
    {
        if (f.Steps.Count == 0) yield return "The follow-along has no step yet.";
        if (f.Rounds is < 1 or > 50) yield return "Rounds go from 1 to 50.";
        if (f.LeadInSeconds is < 0 or > 60) yield return "The lead-in is from 0 to 60 seconds.";
        foreach (var (s, n) in f.Steps.Select((s, i) => (s, i + 1)))
        {
            if (s.Title.Length == 0) yield return $"Step {n} has no name.";
            if (s.Seconds is null && s.Times is null) yield return $"Step {n} needs a time or a number of times.";
            if (s.Seconds is < 1 or > 7200) yield return $"Step {n} lasts from a second to two hours.";
            if (s.Times is < 1 or > 1000) yield return $"Step {n} is done from 1 to 1,000 times.";
        }
    }

    static IEnumerable<string> Of(Form f)
    {
        if (f.Questions.Count == 0) yield return "The form has no question yet.";
        var known = new HashSet<string>();
        foreach (var (q, n) in f.Questions.Select((q, i) => (q, i + 1)))
        {
            if (q.Text.Length == 0) yield return $"Question {n} has no words.";
            if (q.Kind is FormQuestionKind.One or FormQuestionKind.Several && q.Options.Count < 2)
                yield return $"Question {n} needs two answers to choose from.";
            if (q.Condition is { } c && !known.Contains(c.Of)) yield return $"Question {n} hangs on a question that doesn’t stand before it.";
            known.Add(q.Key);
        }
    }
}
