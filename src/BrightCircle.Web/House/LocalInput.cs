using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.House;

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

    public static string Write(LocalDateTime moment) => Minutes.Format(moment);
}
