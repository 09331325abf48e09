using NodaTime;

namespace BrightCircle.App.Clock;

/// <summary>Real time, for what the outside world stamps: signatures, time-outs. Everything else reads <see cref="IClock"/>.</summary>
public interface IWallClock
{
    Instant Moment { get; }
}

public sealed class WallClock : IWallClock
{
    // The one place where the machine's clock is read.
    public Instant Moment => SystemClock.Instance.GetCurrentInstant();
}

/// <summary>
/// The site's clock: real time, plus how far a demo was moved forward. While it is being moved it stands at the moment that is being worked on.
/// </summary>
public sealed class HouseClock(IWallClock wall) : IClock
{
    sealed record Setting(Duration Ahead, Instant? Standing);
    volatile Setting setting = new(Duration.Zero, null);

    /// <summary>To the microsecond, as the database keeps it: a moment read back is the moment that was written.</summary>
    public Instant GetCurrentInstant() => setting is { Standing: { } at } ? at : Whole(wall.Moment + setting.Ahead);

    static Instant Whole(Instant moment) => Instant.FromUnixTimeTicks(moment.ToUnixTimeTicks() / 10 * 10);

    public Instant Moment => GetCurrentInstant();
    public Duration Ahead => setting.Ahead;
    public bool IsStanding => setting.Standing is not null;

    /// <summary>Stands still at a moment until it is let go.</summary>
    public void StandAt(Instant moment) => setting = setting with { Standing = moment };

    /// <summary>Goes on from the moment it stands at.</summary>
    /// <returns>How far ahead of real time it is from now on.</returns>
    public Duration LetGo()
    {
        var s = setting;
        if (s.Standing is { } at) setting = new(at - wall.Moment, null);
        return setting.Ahead;
    }

    public void SetAhead(Duration ahead)
    {
        if (!IsStanding) setting = new(ahead, null);
    }
}
