using BrightCircle.App.Community;
using BrightCircle.App.Learning;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>For whoever reached the aim of every week of a challenge.</summary>
public sealed class ChallengeCertificateModel(Challenges challenges) : MemberPage
{
    public override string Place => "home";
    public CertificateFacts Facts { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Now.Community.ChallengeById.TryGetValue(new(id), out var challenge) || Visitor.Member is not { } member
            || await challenges.CertificateOf(challenge, member, Ct) is not { } facts) return NotFound();
        Facts = facts;
        return Page();
    }
}
