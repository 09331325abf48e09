using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Words;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>Writes to the owners about one thing with money.</summary>
public sealed class OwnerNews(BrightContext db, OwnerLetter letter, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.OwnerNews;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        var told = await db.Journal.AsNoTracking().Where(j => numbers.Contains(j.Id)).Join(db.Members, j => j.MemberId, m => m.Id, (j, m) => new { j, m.Name })
            .ToDictionaryAsync(x => x.j.Id, ct);
        foreach (var item in items)
            if (told.TryGetValue(item.Row.SubjectId, out var one))
            {
                var line = $"{one.Name} {EventWords.Of(one.j.Event, catalogue.Now)}";
                await letter.Write(item.Row.Key, line, [line], "Their page", $"/desk/members/{one.j.MemberId!.Value.Value}", item.Moment, ct);
                happened.Add("owner told");
            }
    }
}
