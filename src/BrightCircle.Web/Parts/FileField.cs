using BrightCircle.Data;

namespace BrightCircle.Web.Parts;

/// <summary>A field for a file of the site: a list to choose from, which scripts make into a picker with search and upload.</summary>
public sealed record FileField(string Name, string Id, string Label, FileKind? Kind, FileId? Chosen, IEnumerable<StoredFile> Choices);
