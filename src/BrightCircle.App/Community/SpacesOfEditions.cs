using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Community;

/// <summary>With an edition a space of its own opens, for each that says so; in the one before nothing new begins.</summary>
public sealed class SpacesOfEditions(BrightContext db, Ids ids, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.SpaceOfEdition;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = new EditionId(item.Row.SubjectId);
            // What comes on a day between the others has no space of its own.
            if (await db.Editions.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id, ct) is not { Span: not EditionSpan.Day } edition) continue;
            var all = await db.Spaces.ToListAsync(ct);
            foreach (var like in all.Where(s => s.ByEdition && s.ClosedAt is null).ToArray())
            {
                if (all.Any(s => s.LikeId == like.Id && s.EditionId == id)) continue;
                var name = like.NameFor(edition.Title.Length > 0 ? edition.Title : Edition.NameFor(edition.Span, edition.FirstDay, catalogue.Now.Culture));
                // Two editions of one name: the second says the day it began.
                if (all.Any(s => string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase)))
                    name = like.NameFor(edition.FirstDay.ToString("d MMMM uuuu", catalogue.Now.Culture));
                if (all.Any(s => string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase))) continue;
                foreach (var before in all.Where(s => s.LikeId == like.Id && s.FullAt is null)) before.FullAt = item.Moment;
                all.Add(db.Add(new Space
                {
                    Id = ids.Next<SpaceId>(),
                    Name = name,
                    Kind = like.Kind,
                    Door = like.Door,
                    Manners = like.Manners,
                    Colour = like.Colour,
                    Nods = like.Nods,
                    HostIds = like.HostIds,
                    LikeId = like.Id,
                    EditionId = id,
                    Order = like.Order,
                    MadeAt = item.Moment,
                }).Entity);
                happened.Add("spaces opened with an edition");
            }
        }
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(ct);
}
