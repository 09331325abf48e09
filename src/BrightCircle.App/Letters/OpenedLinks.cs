using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>
/// Which links of letters to many are followed, where the owner has that counted. A counted link leads through the site: the letter’s number, sealed, and the
/// how-manieth link it is. Where it leads stands in the letter itself, so that nobody can make one that leads elsewhere.
/// </summary>
public sealed class OpenedLinks(BrightContext db, Catalogue catalogue, SignInTokens tokens, SiteAddress address, Deeds deeds, IClock clock)
{
    /// <summary>Where a counted link leads, noting that it was followed.</summary>
    /// <param name="note">False for programs that only look.</param>
    /// <returns>Null where there is no such letter or link.</returns>
    public async Task<string?> Follow(string token, int link, bool note, CancellationToken ct)
    {
        if (tokens.ReadLetter(token) is not { } id) return null;
        var found = await db.Letters.Where(l => l.Id == id && l.MailingId != null).Select(l => new
        {
            l.MemberId,
            Mailing = l.MailingId!.Value,
            Body = db.Mailings.Where(m => m.Id == l.MailingId).Select(m => m.Body).First(),
        }).FirstOrDefaultAsync(ct);
        if (found is null || MailingLinks.Of(found.Body) is var links && (link < 0 || link >= links.Count)) return null;
        if (note && catalogue.Now.Site!.CountsLinks && found.MemberId is { } member)
        {
            var at = clock.GetCurrentInstant();
            await db.Database.ExecuteSqlAsync($"""
                insert into opened_links (letter_id, link, member_id, mailing_id, at) values ({id}, {link}, {member.Value}, {found.Mailing}, {at})
                on conflict do nothing
                """, ct);
        }
        return MailingLinks.Whole(links[link], address.Url);
    }

    /// <summary>Has it counted, or no longer. What was counted stays.</summary>
    public async Task Count(TeamActor by, bool counts, CancellationToken ct)
    {
        by.NeedOwner();
        var site = await db.Sites.SingleAsync(ct);
        if (site.CountsLinks == counts) return;
        site.CountsLinks = counts;
        deeds.Note(by, counts ? "had opened links counted" : "had opened links counted no longer", "/desk/settings/mail");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
    }
}
