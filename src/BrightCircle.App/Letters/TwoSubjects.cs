using BrightCircle.Core;
using BrightCircle.Data;

namespace BrightCircle.App.Letters;

/// <summary>
/// Two subjects of a letter to many are tried on a part of its readers, half of them each; after some hours the rest get the one of which the larger share
/// of readers opened a link. Who is in the part, and with which subject, follows from the numbers of letter and member alone: asked twice, it is the same.
/// </summary>
public static class TwoSubjects
{
    /// <summary>So many of a hundred readers are tried on.</summary>
    public const int LeastPart = 5, MostPart = 50, UsualPart = 20;
    public const int MostHours = 72, UsualHours = 4;

    /// <summary>Whether a member is tried on with the other subject; null for those who wait.</summary>
    /// <param name="part">Of a hundred.</param>
    public static bool? TriedOn(long mailing, MemberId member, int part)
    {
        var mixed = Mixed((ulong)mailing * 0x9E3779B97F4A7C15 ^ (ulong)member.Value);
        return mixed % 100 < (ulong)part ? (mixed >> 32) % 2 == 1 : null;
    }

    /// <summary>Whether this reader gets the other subject.</summary>
    public static bool GetsOther(Mailing mailing, MemberId? member) => mailing.TryPart is { } part && member is { } m
        && (TriedOn(mailing.Id, m, part) ?? mailing.Tried?.OtherIsBetter ?? false);

    /// <summary>Why two subjects can't be told apart in a letter; null where they can.</summary>
    public static string? CantTell(string body, Site site) => !site.CountsLinks
        ? "Which of two subjects is better is told by the links that are opened, and here they aren’t counted. "
            + "That is switched on under Settings, Sending letters."
        : MailingLinks.Of(body).Count == 0 ? "Which of two subjects is better is told by the links that are opened, and there is none in this letter." : null;

    /// <summary>The mixing step of SplitMix64 (Steele, Lea, Flood: Fast splittable pseudorandom number generators, 2014).</summary>
    static ulong Mixed(ulong z)
    {
        z = (z ^ z >> 30) * 0xBF58476D1CE4E5B9;
        z = (z ^ z >> 27) * 0x94D049BB133111EB;
        return z ^ z >> 31;
    }
}
