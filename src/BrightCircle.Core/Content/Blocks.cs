using System.Text.Json.Serialization;
using NodaTime;

namespace BrightCircle.Core.Content;

/// <summary>A part of a lesson. Its number is the site's only one: what members did with a block stays with it wherever it is moved.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(Text), "text")]
[JsonDerivedType(typeof(Pictures), "pictures")]
[JsonDerivedType(typeof(Video), "video")]
[JsonDerivedType(typeof(Audio), "audio")]
[JsonDerivedType(typeof(Files), "files")]
[JsonDerivedType(typeof(Links), "links")]
[JsonDerivedType(typeof(Booking), "booking")]
[JsonDerivedType(typeof(Live), "live")]
[JsonDerivedType(typeof(Timer), "timer")]
[JsonDerivedType(typeof(Practice), "practice")]
[JsonDerivedType(typeof(Follow), "follow")]
[JsonDerivedType(typeof(CheckIn), "form")]
[JsonDerivedType(typeof(Voices), "voices")]
[JsonDerivedType(typeof(Faq), "faq")]
[JsonDerivedType(typeof(Inside), "inside")]
[JsonDerivedType(typeof(Prices), "prices")]
public abstract record Block
{
    private Block() { }

    public BlockId Id { get; init; }

    /// <summary>Rich text; its HTML was cleaned before it came here. A picture in it names its file: &lt;img data-file="123"&gt;.</summary>
    public sealed record Text(string Html) : Block;

    /// <summary>One picture, or a gallery of several.</summary>
    public sealed record Pictures(IReadOnlyList<Picture> Items) : Block;

    public sealed record Video(Recording Recording) : Block;
    public sealed record Audio(Recording Recording) : Block;

    /// <summary>Files to take away.</summary>
    public sealed record Files(IReadOnlyList<FileId> Items) : Block;

    public sealed record Links(IReadOnlyList<Link> Items) : Block;

    /// <summary>A way to book a time with somebody, at an address elsewhere.</summary>
    public sealed record Booking(string Title, string Url, string Note) : Block;

    /// <summary>A session that happens live: when, for how long, where, and afterwards the recording.</summary>
    /// <param name="StartsAt">In the site's time zone; null until it is settled.</param>
    public sealed record Live(string Title, LocalDateTime? StartsAt, int Minutes, string Url, string? RecordingUrl) : Block;

    /// <param name="Seconds">Null for a stopwatch; otherwise it counts down from there, 1 to 86,400.</param>
    public sealed record Timer(string Title, int? Seconds) : Block;

    public sealed record Practice(PracticeSheet Sheet) : Block;
    public sealed record Follow(FollowAlong Run) : Block;
    public sealed record CheckIn(Form Form) : Block;

    /// <summary>On a page of the owner's own: what members say.</summary>
    public sealed record Voices(IReadOnlyList<Voice> Items) : Block;

    /// <summary>On a page of the owner's own: questions and answers.</summary>
    public sealed record Faq(IReadOnlyList<Answered> Items) : Block;

    /// <summary>On a page of the owner's own: what is inside a plan, worked out from its promise.</summary>
    /// <param name="Plan">Null for the page's own, or all.</param>
    public sealed record Inside(PlanId? Plan) : Block;

    /// <summary>On a page of the owner's own: the ways to pay for a plan, or all that is on offer.</summary>
    public sealed record Prices(PlanId? Plan) : Block;

    /// <summary>What it is called, for outlines, buttons and messages.</summary>
    [JsonIgnore]
    public string Word => this switch
    {
        Text => "text",
        Pictures { Items.Count: > 1 } => "gallery",
        Pictures => "picture",
        Video => "video",
        Audio => "audio",
        Files => "files",
        Links => "links",
        Booking => "booking link",
        Live => "live session",
        Timer => "timer",
        Practice => "practice sheet",
        Follow => "follow-along",
        CheckIn => "form",
        Voices => "words of members",
        Faq => "questions and answers",
        Inside => "what’s inside",
        Prices => "prices",
        _ => throw new InvalidOperationException($"No such block: {GetType().Name}"),
    };

    /// <summary>The files it shows or gives away.</summary>
    public IEnumerable<FileId> UsedFiles() => this switch
    {
        Text t => RichTextFiles.In(t.Html),
        Pictures p => p.Items.Select(i => i.File),
        Video v => v.Recording.UsedFiles(),
        Audio a => a.Recording.UsedFiles(),
        Files f => f.Items,
        Follow f => f.Run.Steps.Where(s => s.Picture is not null).Select(s => s.Picture!.Value),
        Links or Booking or Live or Timer or Practice or CheckIn or Voices or Faq or Inside or Prices => [],
        _ => throw new InvalidOperationException($"No such block: {GetType().Name}"),
    };

    /// <summary>The same with other files in the place of those it uses.</summary>
    public Block WithFiles(Func<FileId, FileId> other) => this switch
    {
        Text t => t with { Html = RichTextFiles.Replace(t.Html, other) },
        Pictures p => p with { Items = [.. p.Items.Select(i => i with { File = other(i.File) })] },
        Video v => v with { Recording = v.Recording.WithFiles(other) },
        Audio a => a with { Recording = a.Recording.WithFiles(other) },
        Files f => f with { Items = [.. f.Items.Select(other)] },
        Follow f => f with { Run = f.Run with { Steps = [.. f.Run.Steps.Select(s => s.Picture is { } p ? s with { Picture = other(p) } : s)] } },
        Links or Booking or Live or Timer or Practice or CheckIn or Voices or Faq or Inside or Prices => this,
        _ => throw new InvalidOperationException($"No such block: {GetType().Name}"),
    };

    /// <summary>Its words as plain text, for the search; a transcript is given apart.</summary>
    public string PlainText() => this switch
    {
        Text t => RichTextFiles.Plain(t.Html),
        Pictures p => Lines(p.Items.SelectMany(i => new[] { i.Alt, i.Caption })),
        Video v => v.Recording.Title,
        Audio a => a.Recording.Title,
        Links l => Lines(l.Items.SelectMany(i => new[] { i.Title, i.Note })),
        Booking b => Lines([b.Title, b.Note]),
        Live l => l.Title,
        Timer t => t.Title,
        // Answers stay out: searching must not tell them.
        Practice p => Lines([p.Sheet.Title, p.Sheet.Intro, .. p.Sheet.Questions.Select(q => q.Text)]),
        Follow f => Lines([f.Run.Title, .. f.Run.Steps.SelectMany(s => new[] { s.Title, s.Note })]),
        CheckIn c => Lines([c.Form.Title, .. c.Form.Questions.Select(q => q.Text)]),
        Voices v => Lines(v.Items.SelectMany(i => new[] { i.Words, i.Who })),
        Faq f => Lines(f.Items.SelectMany(i => new[] { i.Question, i.Answer })),
        Files or Inside or Prices => "",
        _ => throw new InvalidOperationException($"No such block: {GetType().Name}"),
    };

    public string Transcript() => this switch
    {
        Video v => v.Recording.Transcript,
        Audio a => a.Recording.Transcript,
        _ => "",
    };

    static string Lines(IEnumerable<string> parts) => string.Join('\n', parts.Where(p => p.Length > 0));
}

public sealed record Picture(FileId File, string Alt, string Caption);

/// <summary>Something a member said.</summary>
public sealed record Voice(string Words, string Who);

/// <summary>A question with its answer.</summary>
public sealed record Answered(string Question, string Answer);

public sealed record Link(string Title, string Url, string Note);

/// <summary>A video or an audio recording: an upload, or a link to where it is kept.</summary>
/// <param name="Url">Its full address elsewhere; null for an upload.</param>
/// <param name="File">The uploaded file; null for a link.</param>
/// <param name="Captions">WebVTT (W3C); shown with an upload, and the transcript is read from it.</param>
/// <param name="Transcript">The spoken words as text. Lines that begin with a time ("12:40 …") can be pressed to go there.</param>
public sealed record Recording(string Title, string? Url, FileId? File, FileId? Poster, string Captions, string Transcript)
{
    public static Recording Empty { get; } = new("", null, null, null, "", "");

    public IEnumerable<FileId> UsedFiles()
    {
        if (File is { } f) yield return f;
        if (Poster is { } p) yield return p;
    }

    public Recording WithFiles(Func<FileId, FileId> other) => this with { File = File is { } f ? other(f) : null, Poster = Poster is { } p ? other(p) : null };
}

/// <summary>A lesson's parts in order.</summary>
public static class Blocks
{
    /// <summary>What is in a lesson, in words: "video, practice sheet"; plain text isn't mentioned beside others.</summary>
    public static string Kinds(IEnumerable<Block> blocks)
    {
        var words = blocks.Select(b => b.Word).Distinct().ToArray();
        return string.Join(", ", words.Where(w => w != "text" || words.Length == 1));
    }

    /// <summary>
    /// Puts a lesson in two at a block: that one and all after it go to the new lesson.
    /// </summary>
    /// <exception cref="ArgumentException">The block isn't in it, or is the first: then nothing would be left.</exception>
    public static (IReadOnlyList<Block> Stays, IReadOnlyList<Block> Goes) Split(IReadOnlyList<Block> blocks, BlockId at)
    {
        var i = blocks.ToList().FindIndex(b => b.Id == at);
        if (i < 1) throw new ArgumentException("A lesson is split at a block that isn’t its first.", nameof(at));
        return ([.. blocks.Take(i)], [.. blocks.Skip(i)]);
    }

    /// <summary>A copy with new numbers: what members did with the first doesn't count for it.</summary>
    public static IReadOnlyList<Block> Copy(IEnumerable<Block> blocks, Func<BlockId> next) => [.. blocks.Select(b => b with { Id = next() })];
}
