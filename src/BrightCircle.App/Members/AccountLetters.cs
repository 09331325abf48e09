using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Letters with a way in, for whoever has an account: they aren't about an event but asked for.</summary>
public sealed class AccountLetters(BrightContext db, Ids ids, Catalogue catalogue)
{
    public static readonly Duration LinkLasts = Duration.FromMinutes(30);
    static readonly Duration ConfirmLasts = Duration.FromDays(14), InviteLasts = Duration.FromDays(7);
    /// <summary>More letters that were asked for aren't written to one address within an hour.</summary>
    public const int AnHour = 5;

    /// <summary>Whether another letter that somebody asked for may go to an address: nobody is to be flooded by a stranger.</summary>
    public async Task<bool> MayWriteTo(string normalisedEmail, Instant at, CancellationToken ct)
    {
        var since = at - Duration.FromHours(1);
        return await db.Letters.CountAsync(l => (l.Kind == LetterKind.SignIn || l.Kind == LetterKind.HasAccount || l.Kind == LetterKind.Confirm
            || l.Kind == LetterKind.TeamInvite)
            && l.CreatedAt > since && l.ToAddress.ToUpper() == normalisedEmail, ct) < AnHour;
    }

    public void SignIn(Account account, string returnPath, Instant at) => Add(LetterKind.SignIn, "sign-in", account, returnPath, at, LinkLasts);

    /// <summary>Somebody began to join with an address that has an account.</summary>
    public void HasAccount(Account account, string returnPath, Instant at) => Add(LetterKind.HasAccount, "known", account, returnPath, at, LinkLasts);

    /// <summary>The team corrected an address: the new one is proved by the link.</summary>
    public void Confirm(Account account, Instant at) => Add(LetterKind.Confirm, "confirm", account, "/me", at, ConfirmLasts);

    /// <summary>Somebody is asked into the team.</summary>
    /// <param name="may">What they may do there.</param>
    public void Invite(Account account, string by, string may, Instant at) => Add(LetterKind.TeamInvite, "invite", account, "/desk", at, InviteLasts,
        new() { ["invited_by"] = by, ["may"] = may });

    void Add(LetterKind kind, string key, Account account, string returnPath, Instant at, Duration lasts, Dictionary<string, string>? fields = null)
    {
        var link = new SignInLink { Id = ids.Next(), AccountId = account.Id, CreatedAt = at, ExpiresAt = at + lasts, ReturnPath = returnPath };
        db.SignInLinks.Add(link);
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = kind,
            MemberId = account.Role is null ? new MemberId(account.Id) : null,
            ToAddress = account.Email!,
            ToName = account.Name,
            Fields = fields ?? new() { ["minutes"] = LinkLasts.TotalMinutes.ToString("0", catalogue.Now.Culture) },
            SignInLinkId = link.Id,
            Key = $"{key}-{link.Id}",
            CreatedAt = at,
        });
    }
}
