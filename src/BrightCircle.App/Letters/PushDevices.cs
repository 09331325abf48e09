using System.Buffers.Text;
using BrightCircle.Core;
using BrightCircle.Core.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A browser that shows what is new.</summary>
/// <param name="Device">What it is on, as far as it says.</param>
/// <param name="SignIn">The number it is signed in by.</param>
/// <param name="Instead">No letter comes about talk and messages that show there.</param>
public sealed record OwnPushDevice(long Id, Device Device, Instant At, long? SignIn, bool Instead);

/// <summary>Browsers in which somebody wants to see what is new, also while the site isn’t open there.</summary>
public sealed class PushDevices(BrightContext db, Ids ids, PushSettings settings, IClock clock)
{
    /// <summary>Those to which something still goes.</summary>
    static IQueryable<PushDevice> Live(BrightContext db) =>
        db.PushDevices.Where(d => d.SignInId == null || db.SignIns.Any(s => s.Id == d.SignInId && s.EndedAt == null));

    public async Task<IReadOnlyList<OwnPushDevice>> Of(MemberId member, CancellationToken ct) => await Live(db).AsNoTracking().Where(d => d.MemberId == member)
        .OrderByDescending(d => d.At).ThenByDescending(d => d.Id).Select(d => new OwnPushDevice(d.Id,
            db.SignIns.Where(s => s.Id == d.SignInId).Select(s => s.Device).FirstOrDefault(), d.At, d.SignInId, d.Instead)).ToListAsync(ct);

    /// <summary>Puts one in, as the browser gives it (W3C Push API): its address, its key and its secret in base64url.</summary>
    /// <param name="signIn">The browser they are signed in with; 0 where it has no number.</param>
    public async Task<Result> Put(MemberId member, long signIn, string? endpoint, string? key, string? secret, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        if (endpoint is not { Length: > 0 and <= PushDevice.MostEndpoint } || !Uri.TryCreate(endpoint, UriKind.Absolute, out var uri) || uri.UserInfo.Length > 0
            || uri.Scheme != Uri.UriSchemeHttps && !(settings.Inside && uri.Scheme == Uri.UriSchemeHttp && uri.IsLoopback)) return Wrong;
        if (Read(key) is not { } point || !PushMessage.IsKey(point) || Read(secret) is not { Length: PushMessage.SecretSize } secretBytes) return Wrong;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // One browser has one address: whoever is signed in there now is who it is of.
        await db.PushDevices.Where(d => d.Endpoint == endpoint).ExecuteDeleteAsync(ct);
        if (await db.PushDevices.CountAsync(d => d.MemberId == member, ct) >= PushDevice.MostEach)
        {
            var oldest = await db.PushDevices.Where(d => d.MemberId == member).OrderBy(d => d.At).Select(d => d.Id).FirstAsync(ct);
            await db.PushDevices.Where(d => d.Id == oldest).ExecuteDeleteAsync(ct);
        }
        db.Add(new PushDevice
        {
            Id = ids.Next(),
            MemberId = member,
            SignInId = signIn == 0 ? null : signIn,
            Endpoint = endpoint,
            Key = point,
            Secret = secretBytes,
            At = at,
        });
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            // The same browser, at the same moment: it is in.
            return Result.Done;
        }
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    public async Task<Result> TakeAway(MemberId member, long device, CancellationToken ct) =>
        await db.PushDevices.Where(d => d.Id == device && d.MemberId == member).ExecuteDeleteAsync(ct) > 0 ? Result.Done : Gone;

    /// <summary>Whether what shows there comes instead of letters about it, or beside them.</summary>
    public async Task<Result> Set(MemberId member, long device, bool instead, CancellationToken ct) =>
        await db.PushDevices.Where(d => d.Id == device && d.MemberId == member).ExecuteUpdateAsync(u => u.SetProperty(d => d.Instead, instead), ct) > 0
            ? Result.Done : Gone;

    static byte[]? Read(string? text)
    {
        try
        {
            return text is { Length: > 0 and <= 200 } ? Base64Url.DecodeFromChars(text.TrimEnd('=')) : null;
        }
        catch (FormatException)
        {
            return null;
        }
    }

    static Result Gone => Result.Refused("That isn’t here any more.");
    static Result Wrong => Result.Refused("This browser didn’t say where it can be reached. Try it again.");

    /// <summary>Of which letters browsers show a line too: what is new to read, to answer or to come to. Money and signing in stay in the letter.</summary>
    static bool IsShown(LetterKind kind) => kind is LetterKind.Edition or LetterKind.Answered or LetterKind.Marked or LetterKind.Place or LetterKind.Session
        or LetterKind.Talk or LetterKind.TalkWord or LetterKind.Message or LetterKind.Words or LetterKind.Challenge;

    /// <summary>If no browser has taken what it shows instead of a letter for so long, the letter goes out.</summary>
    public static readonly Duration LetterAfter = Duration.FromHours(1);

    /// <summary>A browser to which a line goes.</summary>
    internal sealed record Shows(MemberId Member, long Id, bool Instead);

    /// <summary>Whether browsers show a letter instead of it: what is said in spaces and in messages, where somebody wants that in one of theirs.</summary>
    internal static bool Instead(Letter letter, ILookup<MemberId, Shows> devices) => letter.ShownAt is null
        && letter.Kind is LetterKind.Talk or LetterKind.Message or LetterKind.Words && letter.MemberId is { } to && devices[to].Any(d => d.Instead);

    /// <summary>The browsers of those to whom some letters go, for <see cref="Show"/>.</summary>
    internal static async Task<ILookup<MemberId, Shows>> For(BrightContext db, IEnumerable<Letter> letters, CancellationToken ct)
    {
        var members = letters.Where(l => l.MemberId is not null && IsShown(l.Kind)).Select(l => l.MemberId!.Value).Distinct().ToArray();
        var found = members.Length == 0 ? []
            : await Live(db).Where(d => members.Contains(d.MemberId)).Select(d => new Shows(d.MemberId, d.Id, d.Instead)).ToListAsync(ct);
        return found.ToLookup(d => d.Member);
    }

    /// <summary>Puts a line about a letter to the browsers of whoever it is for, in the same transaction.</summary>
    internal static void Show(BrightContext db, Ids ids, Letter letter, ILookup<MemberId, Shows> devices, string subject, Instant at, bool instead)
    {
        if (letter.MemberId is not { } to || !IsShown(letter.Kind)) return;
        var path = letter.Fields.FirstOrDefault(f => f.Key.EndsWith("_path", StringComparison.Ordinal) && f.Value.StartsWith('/')).Value ?? "/me";
        foreach (var device in devices[to])
            db.PushNotices.Add(new()
            {
                Id = ids.Next(),
                DeviceId = device.Id,
                LetterId = instead ? letter.Id : null,
                Title = Bounded.To(subject, 200),
                Path = Bounded.To(path, 200),
                At = at,
                NotBefore = at,
            });
    }
}
