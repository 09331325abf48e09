using System.Security.Cryptography;
using System.Text;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>The second step as its owner sees it.</summary>
/// <param name="Since">Null while it isn't on.</param>
/// <param name="SpareLeft">How many codes for when the phone is lost are left.</param>
public sealed record SecondStepState(Instant? Since, int SpareLeft)
{
    public bool IsOn => Since is not null;
}

/// <summary>A key to be put into an app: as a picture, and as letters to type.</summary>
public sealed record SecondStepKey(string Letters, string Address);

/// <summary>
/// The team’s second step of signing in: a code from an app (RFC 6238), or one of ten that are kept for when the phone is lost. Codes go by the real time,
/// however far a rehearsal’s clock is ahead, and none is taken twice.
/// </summary>
public sealed class SecondSteps(BrightContext db, Catalogue catalogue, UserManager<Account> accounts, IDataProtectionProvider protection, Deeds deeds,
    IWallClock wall)
{
    public const int Spares = 10;
    readonly IDataProtector protector = protection.CreateProtector("second-step");

    Instant RealTime => wall.Moment;

    public async Task<bool> Has(long account, CancellationToken ct) => await db.SecondSteps.AnyAsync(s => s.AccountId == account && s.Since != null, ct);

    public async Task<SecondStepState> Of(long account, CancellationToken ct) =>
        await db.SecondSteps.AsNoTracking().Where(s => s.AccountId == account).Select(s => new { s.Since, s.Spare.Length }).FirstOrDefaultAsync(ct) is { } s
            ? new(s.Since, s.Length) : new(null, 0);

    /// <summary>A key for an app; the same one until it is proved by a code. Nothing is asked for yet.</summary>
    public async Task<Result<SecondStepKey>> Begin(TeamActor by, CancellationToken ct)
    {
        var step = await db.SecondSteps.FirstOrDefaultAsync(s => s.AccountId == by.AccountId, ct);
        if (step?.Since is not null) return Result.Refused("Your second step is on already.");
        if (step is null)
        {
            step = new()
            {
                AccountId = by.AccountId,
                Key = protector.Protect(Convert.ToBase64String(RandomNumberGenerator.GetBytes(OneTimePassword.KeyBytes)))
            };
            db.Add(step);
            try
            {
                await db.SaveChangesAsync(ct);
            }
            catch (DbUpdateException e) when (Unique.Violated(e))
            {
                db.ChangeTracker.Clear();
                step = await db.SecondSteps.AsNoTracking().SingleAsync(s => s.AccountId == by.AccountId, ct);
            }
        }
        var key = KeyOf(step);
        var email = await db.Users.Where(a => a.Id == by.AccountId).Select(a => a.Email).FirstAsync(ct);
        return new SecondStepKey(string.Join(' ', OneTimePassword.Base32(key).Chunk(4).Select(c => new string(c))),
            OneTimePassword.Address(key, catalogue.Now.Site!.Name, email!));
    }

    /// <summary>A first code shows that the app has the key: from now on it is asked for.</summary>
    /// <returns>The codes for when the phone is lost: shown this once.</returns>
    public async Task<Result<string[]>> TurnOn(TeamActor by, string? code, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(by.AccountId, ct) is not { } step) return Result.Refused("Begin with the picture.");
        if (step.Since is not null) return Result.Refused("Your second step is on already.");
        if (OneTimePassword.Check(KeyOf(step), code ?? "", RealTime, 0) is not { } at) return Result.Refused(NotNow, "Code");
        (step.Since, step.LastStep) = (RealTime, at);
        var spare = NewSpares(step);
        deeds.Note(by, "turned the second step of their signing in on");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return spare;
    }

    /// <summary>Ten new ones in the place of those there are.</summary>
    public Task<Result<string[]>> RenewSpares(TeamActor by, string? code, CancellationToken ct) => WithCode(by, code, NewSpares, ct);

    public async Task<Result> TurnOff(TeamActor by, string? code, CancellationToken ct)
    {
        if (catalogue.Now.Site!.TeamNeedsSecondStep) return Result.Refused("Everybody in the team needs it here. An owner can change that.");
        var done = await WithCode(by, code, step =>
        {
            db.Remove(step);
            deeds.Note(by, "turned the second step of their signing in off");
            return [];
        }, ct);
        return done.Ok ? Result.Done : Result.Refused(done.Refusal!, done.Field);
    }

    /// <summary>Somebody’s phone and codes are gone: an owner lets them sign in without, until they set it up anew.</summary>
    public async Task<Result> TakeOff(TeamActor by, long account, CancellationToken ct)
    {
        by.NeedOwner();
        if (account == by.AccountId) return Result.Refused("Your own is turned off where you set it up, with a code.");
        if (await db.SecondSteps.FirstOrDefaultAsync(s => s.AccountId == account, ct) is not { } step) return Result.Refused("They have none.");
        db.Remove(step);
        var name = await db.Users.Where(a => a.Id == account).Select(a => a.Name).FirstAsync(ct);
        deeds.Note(by, $"took the second step of {name}’s signing in off", "/desk/settings/team");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Whether everybody in the team has to have one.</summary>
    public async Task<Result> Require(TeamActor by, bool all, CancellationToken ct)
    {
        by.NeedOwner();
        if (all && !await Has(by.AccountId, ct)) return Result.Refused("Set your own up first: then you know how it is done.");
        var site = await db.Sites.SingleAsync(ct);
        if (site.TeamNeedsSecondStep == all) return Result.Done;
        site.TeamNeedsSecondStep = all;
        deeds.Note(by, all ? "asked everybody in the team for a second step of signing in" : "left the second step of signing in to each of the team",
            "/desk/settings/team");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Whether a code lets somebody in, who has shown the first step: an app’s, once, or a spare one, once. Wrong ones lock as wrong passwords
    /// do.</summary>
    public async Task<Result> Check(long account, string? code, CancellationToken ct)
    {
        var person = await accounts.FindByIdAsync(account.ToString(System.Globalization.CultureInfo.InvariantCulture));
        if (person is null || await accounts.IsLockedOutAsync(person)) return Result.Refused("Too many tries. Wait five minutes.");
        await using (var transaction = await db.Database.BeginTransactionAsync(ct))
        {
            if (await Locked(account, ct) is { Since: not null } step && Takes(step, code))
            {
                await db.SaveChangesAsync(ct);
                await transaction.CommitAsync(ct);
                await accounts.ResetAccessFailedCountAsync(person);
                return Result.Done;
            }
        }
        await accounts.AccessFailedAsync(person);
        return Result.Refused(NotNow, "Code");
    }

    const string NotNow = "This code isn’t good now. The app shows a new one every half minute; each is good once.";

    async Task<Result<string[]>> WithCode(TeamActor by, string? code, Func<SecondStep, string[]> then, CancellationToken ct)
    {
        var good = await Check(by.AccountId, code, ct);
        if (!good.Ok) return Result.Refused(good.Refusal!, good.Field);
        var step = await db.SecondSteps.FirstOrDefaultAsync(s => s.AccountId == by.AccountId, ct);
        if (step is null) return Result.Refused("Your second step is off already.");
        var made = then(step);
        await db.SaveChangesAsync(ct);
        return made;
    }

    /// <summary>Takes a code, and sees to it that it is never taken again.</summary>
    bool Takes(SecondStep step, string? code)
    {
        if (OneTimePassword.Check(KeyOf(step), code ?? "", RealTime, step.LastStep) is { } at)
        {
            step.LastStep = at;
            return true;
        }
        var hash = HashOf(step.AccountId, code ?? "");
        if (!step.Spare.Contains(hash)) return false;
        step.Spare = [.. step.Spare.Where(s => s != hash)];
        return true;
    }

    /// <summary>One at a time: of two who use the same code at once, one gets in.</summary>
    async Task<SecondStep?> Locked(long account, CancellationToken ct)
    {
        await db.Database.ExecuteSqlAsync($"select 1 from second_steps where account_id = {account} for update", ct);
        return await db.SecondSteps.FirstOrDefaultAsync(s => s.AccountId == account, ct);
    }

    /// <summary>50 bits each, so that a hash of it can’t be tried through.</summary>
    static string[] NewSpares(SecondStep step)
    {
        var codes = Enumerable.Range(0, Spares).Select(_ => OneTimePassword.Base32(RandomNumberGenerator.GetBytes(7))[..10].ToLowerInvariant()).ToArray();
        step.Spare = [.. codes.Select(c => HashOf(step.AccountId, c))];
        return [.. codes.Select(c => $"{c[..5]}-{c[5..]}")];
    }

    static string HashOf(long account, string code) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(
        $"{account}:{string.Concat(code.Where(char.IsAsciiLetterOrDigit)).ToLowerInvariant()}")));

    byte[] KeyOf(SecondStep step) => Convert.FromBase64String(protector.Unprotect(step.Key));
}
