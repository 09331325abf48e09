using BrightCircle.Core.Learning;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>One tally as its member sees it.</summary>
/// <param name="MarkUrl">Where "I did it" is sent.</param>
/// <param name="Linked">Whether its name leads to its own page.</param>
/// <param name="MayMark">Whether there is a button.</param>
public sealed record TallyCard(BrightPage Page, TallyStanding Standing, string MarkUrl, bool Linked, bool MayMark);
