using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App;

/// <summary>Days and moments as browsers' own fields send and take them (HTML, local date and time strings).</summary>
public static class LocalInput
{
    static readonly LocalDateTimePattern Minutes = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm");

    public static bool TryReadMoment(string? typed, out LocalDateTime moment)
    {
        // Some browsers send seconds too.
        var read = Minutes.Parse(typed is { Length: > 16 } ? typed[..16] : typed ?? "");
        moment = read.Success ? read.Value : default;
        return read.Success;
    }

    /// <summary>A day where one is written; false where what is written isn't one.</summary>
    /// <param name="day">Null where nothing is written.</param>
    public static bool TryReadDay(string? typed, out LocalDate? day)
    {
        var read = string.IsNullOrWhiteSpace(typed) ? null : LocalDatePattern.Iso.Parse(typed);
        day = read is { Success: true } ? read.Value : null;
        return read is null or { Success: true };
    }

    /// <summary>The same, where what isn't a day counts as none.</summary>
    public static LocalDate? DayOrNone(string? typed) => TryReadDay(typed, out var day) ? day : null;

    /// <summary>Null where there is none.</summary>
    public static string? Write(LocalDate? day) => day is { } d ? LocalDatePattern.Iso.Format(d) : null;

    public static string Write(LocalDateTime moment) => Minutes.Format(moment);

    static readonly LocalTimePattern Time = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    public static bool TryReadTime(string? typed, out LocalTime time)
    {
        var read = Time.Parse(typed is { Length: > 5 } ? typed[..5] : typed ?? "");
        time = read.Success ? read.Value : default;
        return read.Success;
    }

    public static string Write(LocalTime time) => Time.Format(time);
}
