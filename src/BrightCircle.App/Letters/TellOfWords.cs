using System.Text.Json;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>Another member has written to somebody, who hasn’t seen it here since: a letter says that, and nothing of what was written.</summary>
public sealed class TellOfWords(BrightContext db, Ids ids) : IDueHandler
{
    sealed record What(long Exchange, long Member);

    public DueKind Kind => DueKind.WordsWritten;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var what = JsonSerializer.Deserialize<What>(item.Row.Payload!, CoreJson.Options)!;
            var (exchange, to) = (what.Exchange, new MemberId(what.Member));
            var found = await db.ExchangePeople.AsNoTracking().Where(p => p.ExchangeId == exchange && p.MemberId == to && p.ShutAt == null)
                .Join(db.Exchanges, p => p.ExchangeId, e => e.Id, (p, e) => new { p.SeenAt, e.LastAt, e.LastById, e.AgreedAt })
                .FirstOrDefaultAsync(ct);
            if (found is null || found.LastById == to || found.SeenAt >= found.LastAt) continue;
            var member = await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == to && m.WantsTalk
                && db.Users.Any(a => a.Id == what.Member && a.EmailConfirmed), ct);
            var from = await db.Members.Where(m => m.Id != to && db.ExchangePeople.Any(p => p.ExchangeId == exchange && p.MemberId == m.Id))
                .Select(m => m.Name).FirstOrDefaultAsync(ct);
            if (member is not { IsForgotten: false } || from is null || await db.Letters.AnyAsync(l => l.Key == item.Row.Key, ct)) continue;
            db.Letters.Add(new()
            {
                Id = ids.Next(),
                Kind = LetterKind.Words,
                MemberId = to,
                ToAddress = member.Email,
                ToName = member.Name,
                Key = item.Row.Key,
                CreatedAt = item.Moment,
                Fields = new()
                {
                    ["by"] = LetterModels.FirstName(from) is { Length: > 0 } first ? first : "Another member",
                    ["asks"] = found.AgreedAt is null ? "yes" : "",
                    ["messages_path"] = $"/me/messages/{exchange}",
                },
            });
            happened.Add("told of words of a member");
        }
    }
}
