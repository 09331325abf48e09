using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.App.Settings;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Data;

namespace BrightCircle.App.Letters;

/// <summary>A letter to many as one reader gets it.</summary>
public sealed class MailingText(Catalogue catalogue, LetterTemplates templates, SignInTokens tokens, SiteAddress address)
{
    /// <param name="fields">What stands in the fields for this reader, beside the name.</param>
    /// <param name="unsubscribe">Null where nobody is to be asked: on a trial, and in a look at it.</param>
    /// <param name="other">With the other of two subjects.</param>
    /// <param name="letter">Of a copy that goes out: its number, by which its links are counted where they are.</param>
    public RenderedLetter Render(Mailing mailing, string name, IReadOnlyDictionary<string, string> fields, string? unsubscribe, long? letter = null,
        bool other = false)
    {
        var now = catalogue.Now;
        var first = LetterModels.FirstName(name);
        var values = new Dictionary<string, string>(fields)
        {
            ["first_name"] = first,
            ["name"] = first.Length == 0 ? "" : name.Trim(),
            ["site"] = now.Site!.Name,
            ["edition"] = now.CurrentEdition?.Title ?? "",
        };
        var audience = mailing.AudienceId is { } id && now.People.AudienceById.TryGetValue(id, out var a) ? a.Name : "";
        var series = mailing.SeriesId is { } s ? now.People.SeriesById.GetValueOrDefault(s)?.Name : null;
        return templates.Many(MailingFields.Fill(other ? mailing.OtherSubject! : mailing.Subject, values, html: false),
            MailingFields.Fill(mailing.Preheader, values, html: false),
            Links(MailingFields.Fill(mailing.Body, values, html: true), letter, mailing.MemberId is null), new(now.Site.Name, now.Site.HelpAddress,
                now.Site.Logo is null ? null : address.Url + "/logo", mailing.MemberId is not null ? "You get this because somebody of the team wrote to you."
                    : mailing.RoutineId is { } r ? WhyOf(r, now) : Why(audience, series), unsubscribe, mailing.PictureId),
            mailing.Plain);
    }

    /// <summary>A link to a page of the site is a whole address in a letter. One that is counted leads through the site, and that is said, also where the
    /// letter is only looked at.</summary>
    string Links(string body, long? letter, bool toMany)
    {
        var counts = catalogue.Now.Site!.CountsLinks && toMany && MailingLinks.Of(body).Count > 0;
        var token = counts && letter is { } id ? tokens.ForLetter(id) : null;
        var whole = MailingLinks.Instead(body, (to, n) => token is null ? MailingLinks.Whole(to, address.Url) : $"{address.Url}/l/{token}/{n}");
        return counts ? whole + "<p>Which of these links is opened is counted.</p>" : whole;
    }

    static string Why(string audience, string? series) => series is not null ? $"You get “{series}” because you are one of: {audience}."
        : audience.Length > 0 ? $"You get this because you are one of: {audience}." : "";

    static string WhyOf(long routine, CatalogueSnapshot now) =>
        now.People.RoutineById.TryGetValue(routine, out var r) ? $"You get this because {RoutineWords.Because(r.Script.When, now)}." : "";

    /// <summary>Where one click ends letters of this kind; null for a letter to one.</summary>
    public string? UnsubscribeLink(MemberId member, Mailing of) => of.MemberId is not null ? null : UnsubscribeLink(member, of.SeriesId);

    string UnsubscribeLink(MemberId member, long? series) =>
        $"{address.Url}/no-more/{tokens.ForUnsubscribe(member)}{(series is { } s ? $"?of={s}" : "?of=many")}";
}
