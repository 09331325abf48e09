using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>Something that came or comes out, as a row of a list.</summary>
public sealed record ReleasedRow(BrightPage Page, Released Thing);
