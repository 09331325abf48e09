using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A letter to each owner.</summary>
public sealed class OwnerLetter(BrightContext db, Ids ids)
{
    List<Account>? owners;

    /// <param name="key">The same letter is never written twice.</param>
    /// <param name="words">What the link says.</param>
    public async Task Write(string key, string title, IEnumerable<string> lines, string words, string path, Instant at, CancellationToken ct)
    {
        owners ??= [.. (await db.Users.AsNoTracking().Where(a => a.Role == TeamRole.Owner).ToListAsync(ct)).Where(a => !a.IsShut)];
        foreach (var owner in owners)
            db.Letters.Add(new()
            {
                Id = ids.Next(),
                Kind = LetterKind.OwnerNews,
                ToAddress = owner.Email!,
                ToName = owner.Name,
                Key = $"{key}-{owner.Id}",
                CreatedAt = at,
                Fields = new()
                {
                    ["title"] = title,
                    ["lines"] = string.Join('\n', lines),
                    ["link_words"] = words,
                    ["desk_path"] = path,
                    ["settings_path"] = "/desk/settings#money",
                },
            });
    }
}
