using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Data;

namespace BrightCircle.App.Letters;

/// <summary>What the owner is told of at once, and a host of their hours, waits as due work of the same transaction.</summary>
public sealed class OwnerListens(BrightContext db, Ids ids, Catalogue catalogue) : IListen
{
    public void Hear(Told told)
    {
        if (catalogue.Now.Site is not null && (OwnerEvents.When(told.What, catalogue.Now) == OwnerLetterWhen.AtOnce || OwnerEvents.IsForHost(told.What)))
            db.PutDue(ids, DueKind.OwnerNews, told.Id, told.At, $"owner-{told.Id}");
    }
}
