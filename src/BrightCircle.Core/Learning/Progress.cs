using BrightCircle.Core.Content;

namespace BrightCircle.Core.Learning;

/// <summary>How far somebody has come: completed of countable, both always at hand.</summary>
/// <param name="Done">Lessons done.</param>
/// <param name="Of">Lessons that count: those open to the member, or those of the whole piece, as it was asked.</param>
public readonly record struct Progress(int Done, int Of)
{
    public bool IsComplete => Of > 0 && Done == Of;
    /// <summary>In percent, rounded down, so that 100 is said only when it is.</summary>
    public int Percent => Of == 0 ? 0 : 100 * Done / Of;

    /// <param name="counts">Which lessons count.</param>
    public static Progress Over(IEnumerable<Lesson> lessons, Func<Lesson, bool> counts, Func<LessonId, bool> isDone)
    {
        int done = 0, of = 0;
        foreach (var l in lessons)
            if (counts(l))
            {
                of++;
                if (isDone(l.Id)) done++;
            }
        return new(done, of);
    }

    public static Progress operator +(Progress a, Progress b) => new(a.Done + b.Done, a.Of + b.Of);
}

/// <summary>What has to have happened for a lesson to be done by itself.</summary>
public static class DoneRules
{
    /// <summary>From this share on a recording counts as played.</summary>
    public const double PlayedShare = 0.9;

    /// <summary>Whether a lesson is done without the member saying so.</summary>
    /// <param name="passed">Whether a practice sheet of this number was passed.</param>
    /// <param name="played">Whether the recording in the block of this number was played.</param>
    public static bool ByItself(DoneWhen when, IReadOnlyList<Block> blocks, Func<BlockId, bool> passed, Func<BlockId, bool> played) => when switch
    {
        DoneWhen.Marked => false,
        DoneWhen.Opened => true,
        DoneWhen.SheetPassed => blocks.Any(b => b is Block.Practice) && blocks.All(b => b is not Block.Practice || passed(b.Id)),
        DoneWhen.Watched => blocks.Any(IsRecording) && blocks.All(b => !IsRecording(b) || played(b.Id)),
        _ => throw new ArgumentOutOfRangeException(nameof(when)),
    };

    /// <summary>Only an upload tells how far it was played; a video kept elsewhere doesn't, and marks its lesson by hand.</summary>
    static bool IsRecording(Block b) => b is Block.Video { Recording.File: not null } or Block.Audio { Recording.File: not null };

    /// <summary>Whether the member is to be offered the mark: always, unless something else decides and can.</summary>
    public static bool MarkedByHand(DoneWhen when, IReadOnlyList<Block> blocks) => when switch
    {
        DoneWhen.SheetPassed => !blocks.Any(b => b is Block.Practice),
        DoneWhen.Watched => !blocks.Any(IsRecording),
        DoneWhen.Opened => false,
        _ => true,
    };
}

/// <summary>Who has completed a piece, and when.</summary>
public static class Completion
{
    /// <summary>The lessons that have to be done: all that are out.</summary>
    public static IReadOnlyList<Lesson> Counted(Piece piece) => [.. piece.Outline.Lessons.Where(l => l.ReleasedAt is not null)];

    /// <summary>The moment the last lesson was done; null as long as one isn't, and where there is none.</summary>
    public static NodaTime.Instant? Of(Piece piece, Func<LessonId, NodaTime.Instant?> doneAt)
    {
        NodaTime.Instant? last = null;
        foreach (var lesson in Counted(piece))
        {
            if (doneAt(lesson.Id) is not { } at) return null;
            if (last is null || at > last) last = at;
        }
        return last;
    }
}
