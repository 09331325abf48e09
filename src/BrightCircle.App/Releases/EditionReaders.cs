using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <summary>For whom an edition opens something.</summary>
public sealed class EditionReaders(Catalogue catalogue, MemberReader reader)
{
    /// <summary>Decided for every member who holds anything, by the same rules as everywhere; what anybody may open counts for nobody.</summary>
    /// <returns>Each with what opens for them: p and l before the numbers of pieces and lessons.</returns>
    public async IAsyncEnumerable<(Holder Who, string[] Theirs)> Of(EditionId id, Instant at,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken ct)
    {
        var now = catalogue.Now;
        (string Name, Thing Thing)[] parts = [
            .. now.PartsOf[id].Where(p => p.Ready).Select(p => ($"p{p.Id.Value}", (Thing)p.Id)),
            .. now.LessonPartsOf[id].Where(l => l.Ready).Select(l => ($"l{l.Id.Value}", (Thing)l.Id))];
        await foreach (var holder in reader.AllHolders(ct))
        {
            var facts = holder.FactsAt(at);
            var theirs = parts.Where(p => now.Book.Decide(facts, p.Thing, at) is { IsOpen: true, Rule: not AccessRule.Teaser }).Select(p => p.Name).ToArray();
            if (theirs.Length > 0) yield return (holder, theirs);
        }
    }
}
