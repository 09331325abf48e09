using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What is kept of the words in a form until they are sent.</summary>
/// <param name="Draft">Kept before; null for nothing.</param>
/// <param name="Act">The address of the form.</param>
public sealed record WordsKept(SayingPage Page, TalkDraft? Draft, string Act);

/// <summary>A page on which something is said, with pictures or without.</summary>
public abstract class SayingPage : MemberPage
{
    public const long MostBytes = PicturesSent.MostBytes;

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

    PicturesSent Sent => new() { Pictures = Pictures, Kept = Kept, Alt = Alt };

    /// <summary>Takes up the pictures that came, if any did.</summary>
    protected Task<App.Result<Shown>> Take(SpaceReader by) =>
        Sent.Take(this, by, () => HttpContext.RequestServices.GetRequiredService<Talk>().Refused(by, Ct));

    /// <summary>What was chosen before stays chosen where the words are refused.</summary>
    protected Task<PicturesChosen> Again(SpaceReader by, bool open = false) => Sent.Again(this, by, open);
}
