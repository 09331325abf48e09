using BrightCircle.App.Catalogues;
using BrightCircle.Data;

namespace BrightCircle.App.Community;

/// <summary>Somebody who may see who else is here, decided just now: the owner lets members find one another, and at least one space is open to them. They see
/// all cards, of people in other spaces too; whoever has no space sees none.</summary>
public sealed class PeopleReader
{
    PeopleReader(long account, bool keeps, IReadOnlyList<SpaceReader> talks, bool mayWrite) =>
        (Account, Keeps, Talks, MayWriteToOthers) = (account, keeps, talks, mayWrite);

    public long Account { get; }
    /// <summary>Of the team, and may take a card down: they keep every space.</summary>
    public bool Keeps { get; }
    /// <summary>The spaces that are open to them.</summary>
    public IReadOnlyList<SpaceReader> Talks { get; }

    /// <summary>The owner lets members write to one another, and they are one: not of the team, nor looked at through somebody’s eyes.</summary>
    public bool MayWriteToOthers { get; }

    /// <returns>Null where nobody is shown, or not to them.</returns>
    /// <param name="talks">The spaces that are open to them.</param>
    public static PeopleReader? For(CatalogueSnapshot now, IReadOnlyList<SpaceReader> talks) =>
        now.Site?.ShowsPeople == true && talks.Count > 0 ? new(talks[0].Account, talks.All(t => t.Keeps), talks,
            now.Site.MembersWrite && !talks[0].IsTeam && !talks[0].IsOnlyLooking) : null;
}
