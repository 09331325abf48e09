using BrightCircle.Core;
using BrightCircle.Core.Content;
using DiffPlex.DiffBuilder;
using DiffPlex.DiffBuilder.Model;

namespace BrightCircle.App.Content;

public enum DiffKind { Same, Added, Removed }

public readonly record struct DiffLine(DiffKind Kind, string Text);

/// <summary>What changed between two versions of a lesson, in words.</summary>
/// <param name="fileName">Names a file.</param>
/// <param name="tallyName">Names a tally.</param>
public sealed class LessonChanges(Func<FileId, string> fileName, Func<TallyId, string> tallyName)
{
    public IReadOnlyList<DiffLine> Between((string Title, IReadOnlyList<Block> Blocks)? before, (string Title, IReadOnlyList<Block> Blocks) after)
    {
        string Text((string Title, IReadOnlyList<Block> Blocks) v) => string.Join('\n', Words(v.Title, v.Blocks));
        return [.. InlineDiffBuilder.Diff(before is { } b ? Text(b) : "", Text(after)).Lines.Where(l => l.Text.Length > 0)
            .Select(l => new DiffLine(l.Type switch
        {
            ChangeType.Inserted => DiffKind.Added,
            ChangeType.Deleted => DiffKind.Removed,
            _ => DiffKind.Same,
        }, l.Text))];
    }

    /// <summary>Everything a version says, line by line, as somebody would read it out.</summary>
    public IEnumerable<string> Words(string title, IReadOnlyList<Block> blocks) =>
        blocks.SelectMany(b => Of(b).Prepend($"{char.ToUpperInvariant(b.Word[0])}{b.Word[1..]}:")).Prepend(title).SelectMany(l => l.Split('\n'))
            .Select(l => l.Trim()).Where(l => l.Length > 0);

    IEnumerable<string> Of(Block block) => block switch
    {
        Block.Text t => [t.PlainText()],
        Block.Pictures p => p.Items.Select(i => $"{fileName(i.File)}{Said("it shows", i.Alt)}{Said("below it", i.Caption)}"),
        Block.Video v => Of(v.Recording),
        Block.Audio a => Of(a.Recording),
        Block.Files f => f.Items.Select(fileName),
        Block.Links l => l.Items.Select(i => $"{i.Title} at {i.Url}{Said("note", i.Note)}"),
        Block.Voices v => [.. v.Items.SelectMany(i => new[] { i.Words, i.Who })],
        Block.Faq f => [.. f.Items.SelectMany(i => new[] { i.Question, i.Answer })],
        Block.Inside or Block.Prices => [],
        Block.Booking k => [k.Title, $"at {k.Url}", k.Note],
        Block.Live l => [l.Title, l.StartsAt is { } at ? "begins " + at.ToString("d MMMM uuuu, HH:mm", null) : "no beginning yet", $"{l.Minutes} minutes",
            $"at {l.Url}", l.RecordingUrl is { } r ? $"recording at {r}" : ""],
        Block.Timer t => [t.Title, t.Seconds is { } s ? WebVtt.Clock(s) : "counts up"],
        Block.Practice p => Of(p.Sheet),
        Block.Follow f => Of(f.Run),
        Block.CheckIn c => Of(c.Form),
        _ => throw new InvalidOperationException($"No such block: {block}"),
    };

    IEnumerable<string> Of(Recording r) =>
    [
        r.Title, r.File is { } f ? fileName(f) : "", r.Url is { } url ? $"kept at {url}" : "",
            r.Poster is { } p ? $"picture before it begins: {fileName(p)}" : "",
        r.Captions.Length > 0 ? "captions:\n" + r.Captions : "", r.Transcript.Length > 0 ? "transcript:\n" + r.Transcript : "",
    ];

    static IEnumerable<string> Of(PracticeSheet s) =>
    [
        s.Title, s.Intro, $"passed with {s.PassPercent} %, {(s.Tries is { } n ? $"{n} {(n == 1 ? "try" : "tries")}" : "as many tries as one likes")}",
        .. s.Questions.SelectMany((q, i) => Of(q).Prepend($"question {i + 1}, {q.Points} {(q.Points == 1 ? "point" : "points")}: {q.Text}")
            .Append(q.Explanation.Length > 0 ? "explained: " + q.Explanation : "")),
    ];

    static IEnumerable<string> Of(Question q) => q switch
    {
        Question.Open => ["answered in one’s own words"],
        Question.Single s => s.Options.Select(Of),
        Question.Multiple m => m.Options.Select(Of),
        Question.FillText t => t.Accepted.Select(a => "right: " + a),
        Question.FillNumber n => [$"right: {n.Value}{(n.Tolerance > 0 ? $", {n.Tolerance} more or less" : "")} {n.Unit}"],
        Question.Ordering o => o.Items.Select((item, i) => $"{i + 1}. {item}"),
        Question.Match m => m.Pairs.Select(p => $"{p.Left} goes with {p.Right}"),
        _ => throw new InvalidOperationException($"No such question: {q}"),
    };

    static string Of(Option o) => $"{(o.Right ? "right" : "wrong")}: {o.Text}{Said("then", o.Feedback)}";

    IEnumerable<string> Of(FollowAlong f) =>
    [
        f.Title, $"{f.Rounds} {(f.Rounds == 1 ? "round" : "rounds")}, {f.LeadInSeconds} s to get ready, {f.RoundRestSeconds} s between rounds",
            f.Sounds ? "with sounds" : "", f.Tally is { } t ? $"offers to mark {tallyName(t)}" : "",
        .. f.Steps.Select(
            (s, i) =>
            $"step {i + 1}: {s.Title}, {(s.Seconds is { } sec ? WebVtt.Clock(sec) : $"{s.Times} times")}{(s.RestSeconds > 0 ? $", then {s.RestSeconds} s of "
            + $"rest" : "")}{Said("note", s.Note)}{(s.Picture is { } p ? $"; picture: {fileName(p)}" : "")}"),
    ];

    static IEnumerable<string> Of(Form f) =>
    [
        f.Title, f.Repeat == FormRepeat.Once ? "answered once" : "answered every week",
        .. f.Questions.Select(
            (q, i) =>
            $"question {i + 1}{(q.Required ? "" : ", if one likes")}: {q.Text}{(q.Options.Count > 0 ? $" ({string.Join(", "
            + $"", q.Options)})" : "")}{(q.Condition is null ? "" : "; only after a certain answer")}"),
        f.Thanks.Length > 0 ? "afterwards: " + f.Thanks : "",
    ];

    static string Said(string how, string what) => what.Length > 0 ? $"; {how}: {what}" : "";
}
