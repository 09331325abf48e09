namespace BrightCircle.Data;

/// <summary>A place where videos are kept, and how a link to one becomes the address it is shown from in the page.</summary>
/// <param name="Host">The host of the link: "videos.example". Hosts below it count too.</param>
/// <param name="Link">What the link's path looks like, with {id} where the video's name stands: "/watch?v={id}", "/v/{id}".</param>
/// <param name="Embed">The address it is shown from: "https://player.videos.example/embed/{id}".</param>
public sealed record VideoHost(string Host, string Link, string Embed)
{
    /// <summary>None is known from the start: which ones are allowed is the owner's word.</summary>
    public static IReadOnlyList<VideoHost> Default { get; } = [];
}
