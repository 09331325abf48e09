using BrightCircle.App;
using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

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

/// <summary>Pictures and files as they come with a form in which something is said.</summary>
public sealed class PicturesSent
{
    /// <summary>Six of the largest.</summary>
    public const long MostBytes = TalkPicture.Most * PictureSizes.MaxBytes + (1 << 20);

    public List<IFormFile> Pictures { get; set; } = [];
    /// <summary>Those that are here already and still belong to it.</summary>
    public List<long> Kept { get; set; } = [];
    public string? Alt { get; set; }

    /// <summary>Takes up those that came, if any did.</summary>
    /// <param name="refused">Why they can't put anything in just now; null where they can.</param>
    public async Task<Result<Shown>> Take(BrightPage page, Uploader by, Func<Task<Result?>> refused)
    {
        if (Pictures.Count == 0) return new Shown(Kept, Alt);
        var taken = await page.HttpContext.RequestServices.GetRequiredService<TalkPictures>().Take(by, await refused(),
            [.. Pictures.Select(p => new PictureUpload(Path.GetFileName(p.FileName), p.Length, p.OpenReadStream))], page.HttpContext.RequestAborted);
        if (!taken.Ok) return Result.Refused(taken.Refusal!, taken.Field);
        Kept.AddRange(taken.Value!);
        return new Shown(Kept, Alt);
    }

    /// <summary>What was chosen before stays chosen where the words are refused.</summary>
    public async Task<PicturesChosen> Again(BrightPage page, Uploader by, bool open = false)
    {
        var services = page.HttpContext.RequestServices;
        return new(await services.GetRequiredService<TalkPictures>().Waiting(by, Kept, page.HttpContext.RequestAborted), Alt,
            services.GetRequiredService<FileLinks>(), page.Now.Site!.DocumentKinds, Open: open);
    }
}
