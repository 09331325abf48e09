namespace BrightCircle.App.Routines;

/// <summary>Settings under "Programs".</summary>
/// <param name="Inside">Other programs may also be on this machine or in its own network: for rehearsing, or where only the owner's own programs run
/// there.</param>
public sealed record ProgramSettings(bool Inside = false)
{
    public ProgramSettings() : this(false) { }
}

/// <summary>Where another program is told: an address out in the open, never one of the house's own network.</summary>
public static class CallAddress
{
    /// <returns>What is wrong with it; null where nothing is, and where none is given yet.</returns>
    public static string? WrongWith(string url) => url.Length == 0 ? null
        : url.Length > Core.Routines.Step.MostText || !Uri.TryCreate(url, UriKind.Absolute, out var at) || !IsSafe(at)
            || at.UserInfo.Length > 0 || at.Host.Length == 0 ? "Write the address of the other program, beginning with https://." : null;

    /// <summary>Nobody on the way reads who it is about; on this machine there is no way.</summary>
    static bool IsSafe(Uri at) => at.Scheme == Uri.UriSchemeHttps || at.Scheme == Uri.UriSchemeHttp && at.IsLoopback;
}
