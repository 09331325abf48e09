using System.Security.Cryptography;
using System.Text;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using MimeKit;
using MimeKit.Cryptography;

namespace BrightCircle.App.Letters;

/// <summary>A line to put into the DNS.</summary>
public sealed record DnsLine(string Name, string Text);

/// <summary>
/// Signs letters (RFC 6376, RSA with SHA-256 over relaxed header lines and body), so that their readers’ servers know that they come from this site and weren’t
/// changed on the way. The key is made here, kept protected by the data-protection keys, and used once the owner has published its other half.
/// </summary>
public sealed class MailSigning(Catalogue catalogue, IDataProtectionProvider protection, MailSettings settings)
{
    public const int KeyBits = 2048;
    static readonly HeaderId[] Signed = [HeaderId.From, HeaderId.To, HeaderId.Subject, HeaderId.Date, HeaderId.MessageId, HeaderId.ReplyTo,
        HeaderId.MimeVersion,
        HeaderId.ContentType, HeaderId.ListUnsubscribe, HeaderId.ListUnsubscribePost, HeaderId.ListId];
    readonly IDataProtector protector = protection.CreateProtector("mail-signing");
    volatile Made? made;

    sealed record Made(string Key, DkimSigner Signer);

    public string Domain => settings.From.Split('@')[^1];

    /// <summary>Signs a letter as the last thing before it goes, if the owner has turned that on.</summary>
    public void Sign(MimeMessage message)
    {
        if (catalogue.Now.Site is not { SignsMail: true, MailKey: { } key, MailSelector: var selector }) return;
        if (made is not { } m || m.Key != key)
        {
            using var pem = new MemoryStream(Encoding.ASCII.GetBytes(protector.Unprotect(key)));
            made = m = new(key, new(pem, Domain, selector)
            {
                HeaderCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
                BodyCanonicalizationAlgorithm = DkimCanonicalizationAlgorithm.Relaxed,
                SignatureAlgorithm = DkimSignatureAlgorithm.RsaSha256,
            });
        }
        // Nothing on the way has a reason to write it differently.
        message.Prepare(EncodingConstraint.SevenBit);
        // RFC 8058, section 4: one-click headers have to be signed. Those that a letter lacks are left out.
        m.Signer.Sign(message, [.. Signed.Where(message.Headers.Contains)]);
    }

    internal string Protect(RSA key) => protector.Protect(key.ExportRSAPrivateKeyPem());

    /// <summary>The other half of the key, as it is to stand in the DNS; null while there is none.</summary>
    public DnsLine? Line
    {
        get
        {
            if (catalogue.Now.Site is not { MailKey: { } key, MailSelector: var selector }) return null;
            using var rsa = RSA.Create();
            rsa.ImportFromPem(protector.Unprotect(key));
            return new($"{selector}._domainkey.{Domain}", $"v=DKIM1; k=rsa; p={Convert.ToBase64String(rsa.ExportSubjectPublicKeyInfo())}");
        }
    }

    /// <summary>Where returned letters are handed in: an address of this site that is known to whoever set the mail server up.</summary>
    public string ReportKey => protection.CreateProtector("mail-reports").Protect("reports");

    public bool IsReportKey(string? key)
    {
        try
        {
            return key is { Length: > 0 } && protection.CreateProtector("mail-reports").Unprotect(key) == "reports";
        }
        catch (CryptographicException)
        {
            return false;
        }
    }
}

/// <summary>Makes the key letters are signed with, and says whether they are.</summary>
public sealed class SetUpSigning(BrightContext db, Catalogue catalogue, MailSigning signing, Deeds deeds)
{
    /// <summary>A new key under a new name: the old one can stay in the DNS until the last letter that was signed with it has arrived.</summary>
    public async Task<Result> MakeKey(TeamActor by, CancellationToken ct)
    {
        by.NeedOwner();
        var site = await db.Sites.SingleAsync(ct);
        if (site.SignsMail) return Result.Refused("Letters are signed with the one there is. Stop signing first.");
        using var rsa = RSA.Create(MailSigning.KeyBits);
        site.MailSelector = "bright" + (int.TryParse(site.MailSelector.Replace("bright", "", StringComparison.Ordinal), out var last) ? last + 1 : 1);
        site.MailKey = signing.Protect(rsa);
        deeds.Note(by, "made a key to sign letters with", "/desk/settings/mail");
        return await Save(ct);
    }

    public async Task<Result> Use(TeamActor by, bool sign, CancellationToken ct)
    {
        by.NeedOwner();
        var site = await db.Sites.SingleAsync(ct);
        if (sign && site.MailKey is null) return Result.Refused("Make a key first.");
        if (site.SignsMail == sign) return Result.Done;
        site.SignsMail = sign;
        deeds.Note(by, sign ? "had letters signed from now on" : "had letters signed no longer", "/desk/settings/mail");
        return await Save(ct);
    }

    async Task<Result> Save(CancellationToken ct)
    {
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
