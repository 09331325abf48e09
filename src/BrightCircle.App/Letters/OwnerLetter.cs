using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Why somebody of the team gets a letter, and where they can change it.</summary>
/// <param name="Why">After “because of”.</param>
public sealed record WhyLetter(string Why, string Words, string Path)
{
    public static WhyLetter Money { get; } = new("your settings", "which letters you get", "/desk/settings#money");
}

/// <summary>A letter to each owner, or to somebody of the team.</summary>
public sealed class OwnerLetter(BrightContext db, Ids ids)
{
    List<Account>? owners;

    /// <param name="key">The same letter is never written twice.</param>
    /// <param name="words">What the link says.</param>
    /// <param name="why">Null for what is set for money.</param>
    public async Task Write(string key, string title, IEnumerable<string> lines, string words, string path, Instant at, CancellationToken ct,
        WhyLetter? why = null)
    {
        owners ??= [.. (await db.Users.AsNoTracking().Where(a => a.Role == TeamRole.Owner).ToListAsync(ct)).Where(a => !a.IsShut)];
        foreach (var owner in owners) Put(owner, key, title, lines, words, path, at, why ?? WhyLetter.Money);
    }

    /// <summary>Writes to one of the team, unless they can’t come in any more.</summary>
    public async Task WriteTo(long account, string key, string title, IEnumerable<string> lines, string words, string path, Instant at, WhyLetter why,
        CancellationToken ct)
    {
        if (await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.Id == account && a.Role != null, ct) is { IsShut: false } one)
            Put(one, key, title, lines, words, path, at, why);
    }

    void Put(Account to, string key, string title, IEnumerable<string> lines, string words, string path, Instant at, WhyLetter why) =>
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = LetterKind.OwnerNews,
            ToAddress = to.Email!,
            ToName = to.Name,
            Key = $"{key}-{to.Id}",
            CreatedAt = at,
            Fields = new()
            {
                ["title"] = title,
                ["lines"] = string.Join('\n', lines),
                ["link_words"] = words,
                ["desk_path"] = path,
                ["why"] = why.Why,
                ["why_words"] = why.Words,
                ["settings_path"] = why.Path,
            },
        });
}
