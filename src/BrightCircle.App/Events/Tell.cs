using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Events;

/// <summary>An event as it is told to those who listen.</summary>
/// <param name="Id">The number of its journal entry.</param>
public sealed record Told(long Id, Member Member, Event What, Instant At, TeamActor? By);

/// <summary>Hears every event in the transaction it belongs to. What it writes is committed with it.</summary>
public interface IListen
{
    void Hear(Told told);
}

/// <summary>The one way to tell that something happened: the journal gets it, and whoever listens hears it.</summary>
public sealed class Tell(BrightContext db, Ids ids, IEnumerable<IListen> listeners)
{
    public void Of(Member member, Event what, Instant at, TeamActor? by = null)
    {
        var entry = new JournalEntry { Id = ids.Next(), MemberId = member.Id, At = at, Kind = what.Kind, Event = what, By = by?.Name };
        db.Journal.Add(entry);
        var told = new Told(entry.Id, member, what, at, by);
        foreach (var listener in listeners) listener.Hear(told);
    }
}
