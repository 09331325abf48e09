using BrightCircle.App.Community;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A space: what is talked about in it, what is new first.</summary>
public sealed class SpaceModel(ReadTalk talk, BrightCircle.App.Files.FileLinks links) : MemberPage
{
    public BrightCircle.App.Files.FileLinks Links => links;

    const int PageSize = 30;
    public override string Place => "spaces";
    public SpaceReader Reader { get; private set; } = null!;
    public SpaceView View { get; private set; } = null!;
    public Pager Pager { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id, int page = 1)
    {
        if (Visitor.Talks(Now, new(id), Moment) is not { } reader) return NotFound();
        Reader = reader;
        page = Math.Clamp(page, 1, 100_000);
        View = await talk.Space(reader, page, PageSize, Moment, Ct);
        Pager = new(page, View.Count, PageSize, p => $"/spaces/{id}?page={p}");
        return Page();
    }

    /// <summary>Something was written in it since the reader was here, and they haven’t seen it.</summary>
    public bool IsNew(ThreadRow t) => View.Before is { } before && t.LastAt > before && !(t.SeenAt >= t.LastAt);
    /// <summary>The threads in which something was written since; and the others.</summary>
    public IEnumerable<IGrouping<bool, ThreadRow>> Groups => View.Threads.GroupBy(t => View.Before is { } before && t.LastAt > before && !t.Pinned)
        .OrderByDescending(g => g.Key);

    public static IReadOnlyList<(BrightCircle.Core.Community.Telling How, string Word)> Tellings { get; } =
    [
        (BrightCircle.Core.Community.Telling.Followed, "once a day, threads I follow"), (BrightCircle.Core.Community.Telling.Daily, "once a day, everything"),
        (BrightCircle.Core.Community.Telling.Weekly, "on Mondays, everything"), (BrightCircle.Core.Community.Telling.AtOnce, "at once, everything"),
        (BrightCircle.Core.Community.Telling.Never, "never"),
    ];

    public async Task<IActionResult> OnPostTell(long id, BrightCircle.Core.Community.Telling telling, [FromServices] FollowTalk follow)
    {
        if (Visitor.Talks(Now, new(id), Moment) is not { } by || Visitor.Recorded is null) return NotFound();
        var done = ModelState.IsValid ? await follow.Space(by, telling, Ct) : App.Result.Refused("Choose how often.");
        Tell(done.Ok ? "It is kept." : done.Refusal!);
        return Redirect($"/spaces/{id}");
    }
}
