using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Pictures as they stand in what was said.</summary>
public sealed record PicturesShown(IReadOnlyList<TalkPicture> Pictures, FileLinks Links);

/// <summary>Pictures in the form in which something is said.</summary>
/// <param name="Here">They are here already: of what is changed, or sent with words that were refused.</param>
/// <param name="Stand">They stand in what is changed.</param>
/// <param name="Open">It begins with pictures.</param>
/// <param name="Kinds">The kinds of files that may go with it, by their endings.</param>
public sealed record PicturesChosen(IReadOnlyList<TalkPicture> Here, string? Alt, FileLinks Links, IReadOnlyList<string> Kinds, bool Stand = false,
    bool Open = false)
{
    /// <summary>What is taken, for whoever chooses.</summary>
    public string Taken => "Up to six: pictures of 40 MB each at most, where they were taken isn’t kept; files of 20 MB, "
        + $"{string.Join(", ", Kinds)}.";
}

/// <summary>What is kept of the words in a form until they are sent.</summary>
/// <param name="Draft">Kept before; null for nothing.</param>
/// <param name="Act">The address of the form.</param>
public sealed record WordsKept(SayingPage Page, TalkDraft? Draft, string Act);

/// <summary>A page on which something is said, with pictures or without.</summary>
public abstract class SayingPage : MemberPage
{
    /// <summary>Six of the largest.</summary>
    public const long MostBytes = TalkPicture.Most * PictureSizes.MaxBytes + (1 << 20);

    public override string Place => "spaces";
    public FileLinks Links => HttpContext.RequestServices.GetRequiredService<FileLinks>();
    [BindProperty] public List<IFormFile> Pictures { get; set; } = [];
    /// <summary>Those that are here already and still belong to it.</summary>
    [BindProperty] public List<long> Kept { get; set; } = [];
    [BindProperty] public string? Alt { get; set; }
    public PicturesChosen Chosen { get; protected set; } = null!;

    /// <summary>When the page was loaded on which it is written, in milliseconds since 1970.</summary>
    [BindProperty] public long LoadedAt { get; set; }
    protected Instant Since => Instant.FromUnixTimeMilliseconds(Math.Clamp(LoadedAt, 0, Moment.ToUnixTimeMilliseconds()));
    /// <summary>Kept while it is typed, by the page’s script.</summary>
    protected bool IsScript => Request.Headers.ContainsKey("Bright-Script");

    protected IActionResult KeptForScript(App.Result done) =>
        done.Ok ? new StatusCodeResult(204) : new ContentResult { StatusCode = 422, Content = done.Refusal, ContentType = "text/plain; charset=utf-8" };

    protected void TellKept() =>
        Tell(Pictures.Count > 0 ? "Your words are kept. Choose the pictures again when you send them." : "It is kept, for you only, until you send it.");

    /// <summary>Takes up the pictures that came, if any did.</summary>
    protected async Task<App.Result<Shown>> Take(SpaceReader by)
    {
        if (Pictures.Count == 0) return new Shown(Kept, Alt);
        var services = HttpContext.RequestServices;
        var taken = await services.GetRequiredService<TalkPictures>().Take(by, await services.GetRequiredService<Talk>().Refused(by, Ct),
            [.. Pictures.Select(p => new PictureUpload(Path.GetFileName(p.FileName), p.Length, p.OpenReadStream))], Ct);
        if (!taken.Ok) return App.Result.Refused(taken.Refusal!, taken.Field);
        Kept.AddRange(taken.Value!);
        return new Shown(Kept, Alt);
    }

    /// <summary>What was chosen before stays chosen where the words are refused.</summary>
    protected async Task<PicturesChosen> Again(SpaceReader by, bool open = false) =>
        new(await HttpContext.RequestServices.GetRequiredService<TalkPictures>().Waiting(by, Kept, Ct), Alt, Links, Now.Site!.DocumentKinds,
            Open: open);
}
