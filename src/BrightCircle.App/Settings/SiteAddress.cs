namespace BrightCircle.App.Settings;

public sealed class SiteAddress
{
    /// <summary>The public address of the site, without a slash at the end.</summary>
    public string Url { get; set; } = "http://localhost:5080";
}
