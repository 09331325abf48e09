using BrightCircle.App.Catalogues;
using BrightCircle.Data;

namespace BrightCircle.App.Community;

/// <summary>Somebody who may see who else is here, decided just now: the owner lets members find one another, and at least one space is open to them. They see
/// all cards, of people in other spaces too; whoever has no space sees none.</summary>
public sealed class PeopleReader
{
    PeopleReader(long account, bool keeps, IReadOnlyList<SpaceReader> talks) => (Account, Keeps, Talks) = (account, keeps, talks);

    public long Account { get; }
    /// <summary>Of the team, and may take a card down.</summary>
    public bool Keeps { get; }
    /// <summary>The spaces that are open to them.</summary>
    public IReadOnlyList<SpaceReader> Talks { get; }

    /// <returns>Null where nobody is shown, or not to them.</returns>
    /// <param name="talks">The spaces that are open to them.</param>
    public static PeopleReader? For(CatalogueSnapshot now, IReadOnlyList<SpaceReader> talks) =>
        now.Site?.ShowsPeople == true && talks.Count > 0 ? new(talks[0].Account, talks[0].Keeps, talks) : null;
}
