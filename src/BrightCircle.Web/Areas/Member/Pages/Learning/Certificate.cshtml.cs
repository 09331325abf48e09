using BrightCircle.App.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class CertificateModel(MemberReader reader, Catalogue catalogue) : MemberPage
{
    public CertificateFacts Facts { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long piece)
    {
        if (await Endpoints.CertificateOf(piece, Visitor, catalogue, reader, Ct) is not { } facts) return NotFound();
        Facts = facts;
        return Page();
    }
}
