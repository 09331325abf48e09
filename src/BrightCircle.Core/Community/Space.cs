using BrightCircle.Core.Access;
using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>What a space is for; it says who may begin something in it, and how it looks.</summary>
public enum SpaceKind
{
    /// <summary>Whoever may write begins what they like.</summary>
    Talk,
    /// <summary>Each thread is a question; one of its answers can be marked as the one that helped.</summary>
    Questions,
    /// <summary>The team begins, everybody else answers.</summary>
    Announcements,
    /// <summary>People say who they are.</summary>
    Introductions,
    /// <summary>People show what they made: each thread begins with a picture, and its list is one of pictures.</summary>
    Showcase,
}

/// <summary>A room to talk in. Plans promise it like anything else; what a member may do in it is an access decision.</summary>
public sealed class Space
{
    public const int MostName = 60, MostDoor = 300, MostManners = 600, MostWord = 24, Words = 3, MostHosts = 50;

    public SpaceId Id { get; init; }
    public string Name { get; set; } = "";
    public SpaceKind Kind { get; set; }
    /// <summary>What stands at its door: what it is for, in a sentence or two.</summary>
    public string Door { get; set; } = "";
    /// <summary>How people talk in it; empty for nothing.</summary>
    public string Manners { get; set; } = "";
    /// <summary>One of the site's eight colours.</summary>
    public int Colour { get; set; } = 1;
    public int Order { get; set; }
    /// <summary>Open to everybody who has an account, whatever they hold.</summary>
    public bool ForGuests { get; set; }
    /// <summary>It belongs to a piece: whoever that is open to may talk in it, whatever else promises it; null for none.</summary>
    public PieceId? PieceId { get; set; }
    /// <summary>Of that piece only the cohort whose it is talks in it; null for whoever the piece is open to.</summary>
    public CohortId? CohortId { get; init; }
    /// <summary>The hosts that keep it, by their accounts; none for every host.</summary>
    public IReadOnlyList<long> HostIds { get; set; } = [];
    /// <summary>It is what the spaces of editions are made like: with each edition of a month or a week one opens that looks like it and is promised with
    /// it. Nobody talks in it itself.</summary>
    public bool ByEdition { get; set; }
    /// <summary>The space it was made like, which says who comes in; null for one that stands by itself.</summary>
    public SpaceId? LikeId { get; init; }
    /// <summary>The edition it was made for.</summary>
    public EditionId? EditionId { get; init; }
    /// <summary>Nothing new begins in it any more, since the next one opened; what was begun goes on.</summary>
    public Instant? FullAt { get; set; }
    /// <summary>The words with which others agree in one press.</summary>
    public IReadOnlyList<string> Nods { get; set; } = UsualNods;
    /// <summary>Nothing is written in it any more; it can be read.</summary>
    public Instant? ClosedAt { get; set; }
    public Instant MadeAt { get; init; }

    public static IReadOnlyList<string> UsualNods { get; } = ["Well said", "Same here", "Tell more"];

    /// <summary>Whether somebody may come in at a moment, and whether they may write: by a promise of the space, by what is open to everybody, or because
    /// the piece it belongs to is open to them, with the cohort whose it is. Whoever may write may come in; in a closed space nobody writes.</summary>
    public (bool Reads, bool Writes) OpenTo(AccessBook book, MemberFacts facts, Instant moment)
    {
        if (ByEdition && !facts.IsTeam) return (false, false);
        var promised = LikeId ?? Id;
        var (reads, writes) = PieceId is { } piece ? book.TalksAbout(facts, piece, CohortId, moment) : default;
        reads |= book.Decide(facts, promised, moment).IsOpen;
        return (reads, reads && ClosedAt is null && (writes || book.Decide(facts, Thing.WritingIn(promised), moment).IsOpen));
    }

    /// <summary>Whether a host keeps it: every host does where none is named.</summary>
    public bool IsHostedBy(long account) => HostIds.Count == 0 || HostIds.Contains(account);

    /// <summary>Whether somebody who may write in it may begin a thread.</summary>
    public bool TakesThreads(bool byTeam) => ClosedAt is null && !ByEdition && (byTeam || Kind != SpaceKind.Announcements && FullAt is null);

    /// <summary>The name of the one that is made for an edition.</summary>
    public string NameFor(string edition) => NameOf(Name, edition);

    /// <summary>What a space is called that is one of several, as long as a name can be.</summary>
    public static string NameOf(string all, string one) => $"{all}, {one}" is { Length: > MostName } name ? name[..MostName].TrimEnd() : $"{all}, {one}";
}
