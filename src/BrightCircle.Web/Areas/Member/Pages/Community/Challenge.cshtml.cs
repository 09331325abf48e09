using BrightCircle.App.Community;
using BrightCircle.App.Words;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A challenge for whoever takes part: all together, and their own weeks; nobody else’s.</summary>
public sealed class ChallengeModel(Challenges challenges) : MemberPage
{
    public override string Place => "home";
    public new Challenge Challenge { get; private set; } = null!;
    public ChallengeBoard Board { get; private set; } = null!;

    LocalDate Today => Now.Calendar.Date(Moment);
    public bool IsOver => Challenge.IsOver(Today);
    public ChallengeRow? Own => Visitor.Member is { } me ? Board.Rows.FirstOrDefault(r => r.Member == me) : null;
    public Space? Space => Challenge.SpaceId is { } id && Now.SpaceById.TryGetValue(id, out var space) && Now.Book.Decide(Visitor.Facts, id, Moment).IsOpen
        ? space : null;
    /// <summary>What comes after this one.</summary>
    public (Challenge Next, string Join)? Next => Challenges.After(Now, Challenge, Today);
    public string Where => ChallengeWords.Long(Challenge, Today, Now.Culture) + ".";
    public bool MayMark => Visitor.Recorded is not null && Now.TallyById[Challenge.TallyId].ArchivedAt is null
        && Decide(Now.TallyById[Challenge.TallyId]).IsOpen;

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Now.Community.ChallengeById.TryGetValue(new(id), out var challenge) || !TakesPart(challenge)) return NotFound();
        Challenge = challenge;
        Board = await challenges.Board(challenge, Ct);
        return Page();
    }
}
