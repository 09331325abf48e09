using System.Globalization;
using System.Security.Cryptography;
using BrightCircle.App;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.House;

/// <summary>A passkey as its owner sees it.</summary>
/// <param name="Number">What it is taken away by.</param>
/// <param name="IsSynced">Whether the device keeps it with others of theirs.</param>
public sealed record OwnPasskey(string Number, string Name, DateTimeOffset At, bool IsSynced);

/// <summary>
/// Signing in with what a device or a key keeps (W3C Web Authentication): the framework checks the answers, this keeps the question between two requests and
/// says who may do what. A passkey is only taken where the device has made sure who holds it, by a finger, a face or a PIN: it stands for both steps.
/// </summary>
public sealed class Passkeys(UserManager<Account> accounts, IPasskeyHandler<Account> handler, IDataProtectionProvider protection, Admission admission,
    Deeds deeds, BrightContext db)
{
    public const int Most = 10, MostLetters = 60;
    const string Cookie = "bright-passkey";
    static readonly TimeSpan Good = TimeSpan.FromMinutes(5);
    readonly ITimeLimitedDataProtector protector = protection.CreateProtector("passkey").ToTimeLimitedDataProtector();

    public async Task<IReadOnlyList<OwnPasskey>> Of(long account, CancellationToken ct) =>
        [.. (await db.UserPasskeys.AsNoTracking().Where(p => p.UserId == account)
            .Select(p => new { p.CredentialId, p.Data.Name, p.Data.CreatedAt, p.Data.IsBackedUp }).ToListAsync(ct)).OrderBy(p => p.CreatedAt)
            .Select(p => new OwnPasskey(Convert.ToHexStringLower(p.CredentialId), p.Name ?? "A passkey", p.CreatedAt, p.IsBackedUp))];

    /// <summary>What the browser is asked to make.</summary>
    public async Task<Result<string>> AskToMake(HttpContext http, long account)
    {
        if (await Find(account) is not { } person) return Result.Refused("This account isn’t here any more.");
        if ((await accounts.GetPasskeysAsync(person)).Count >= Most) return Result.Refused($"{Most} passkeys are the most. Take one away first.");
        var asked = await handler.MakeCreationOptionsAsync(
            new() { Id = IdOf(person), Name = person.Email!, DisplayName = person.Name }, http);
        Keep(http, asked.AttestationState!);
        return asked.CreationOptionsJson;
    }

    /// <summary>Takes what it made.</summary>
    /// <param name="made">Its answer, as JSON.</param>
    public async Task<Result> Add(HttpContext http, long account, string? made, string? name, TeamActor? by)
    {
        if (await Find(account) is not { } person) return Result.Refused("This account isn’t here any more.");
        name = name?.Trim() is { Length: > 0 } typed ? typed : "A passkey";
        if (name.Length > MostLetters) return Result.Refused($"A name of at most {MostLetters} letters.", "Name");
        if (Kept(http) is not { } state || string.IsNullOrEmpty(made)) return Result.Refused(TooLate);
        var answer = await handler.PerformAttestationAsync(new() { HttpContext = http, CredentialJson = made, AttestationState = state });
        // The question was about this account and no other, and the device knows who holds it.
        if (!answer.Succeeded || answer.UserEntity.Id != IdOf(person) || !answer.Passkey.IsUserVerified)
            return Result.Refused("That wasn’t taken. The device has to ask for your finger, face or PIN, and answer on this site.");
        answer.Passkey.Name = name;
        if (by is not null) deeds.Note(by, $"made a passkey for their signing in, “{name}”");
        var added = await accounts.AddOrUpdatePasskeyAsync(person, answer.Passkey);
        return added.Succeeded ? Result.Done : Result.Refused("That wasn’t taken. Try again.");
    }

    public async Task<Result> TakeAway(long account, string? number, TeamActor? by)
    {
        if (await Find(account) is not { } person) return Result.Refused("This account isn’t here any more.");
        if ((await accounts.GetPasskeysAsync(person)).FirstOrDefault(p => Convert.ToHexStringLower(p.CredentialId) == number) is not { } passkey)
            return Result.Refused("It is gone already.");
        if (by is not null) deeds.Note(by, $"took a passkey of their signing in away, “{passkey.Name}”");
        await accounts.RemovePasskeyAsync(person, passkey.CredentialId);
        return Result.Done;
    }

    /// <summary>What the browser is asked at the door. Nobody’s name is asked for or told: the device knows which it has.</summary>
    public async Task<string> AskToSignIn(HttpContext http)
    {
        var asked = await handler.MakeRequestOptionsAsync(null, http);
        Keep(http, asked.AssertionState!);
        return asked.RequestOptionsJson;
    }

    /// <summary>Lets somebody in by its answer.</summary>
    public async Task<Result<Account>> SignIn(HttpContext http, string? answer)
    {
        if (Kept(http) is not { } state || string.IsNullOrEmpty(answer)) return Result.Refused(TooLate);
        var shown = await handler.PerformAssertionAsync(new() { HttpContext = http, CredentialJson = answer, AssertionState = state });
        if (!shown.Succeeded || !shown.Passkey.IsUserVerified || shown.User.IsShut)
            return Result.Refused("This passkey isn’t known here. Sign in with a link or a password; then you can make a new one.");
        // How often it was used is kept: one that counts backwards is a copy, and refused the next time.
        await accounts.AddOrUpdatePasskeyAsync(shown.User, shown.Passkey);
        await admission.Whole(http, shown.User.Id);
        return shown.User;
    }

    const string TooLate = "That took too long, or came from another page. Try again.";

    Task<Account?> Find(long account) => accounts.FindByIdAsync(account.ToString(CultureInfo.InvariantCulture));

    static string IdOf(Account account) => account.Id.ToString(CultureInfo.InvariantCulture);

    void Keep(HttpContext http, string state) => http.Response.Cookies.Append(Cookie, protector.Protect(state, Good),
        new() { HttpOnly = true, SameSite = SameSiteMode.Strict, Secure = http.Request.IsHttps, MaxAge = Good, IsEssential = true });

    /// <summary>The question this browser was asked, once.</summary>
    string? Kept(HttpContext http)
    {
        if (http.Request.Cookies[Cookie] is not { } kept) return null;
        http.Response.Cookies.Delete(Cookie);
        try
        {
            return protector.Unprotect(kept);
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
