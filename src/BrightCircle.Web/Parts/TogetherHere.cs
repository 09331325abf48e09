using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>What belongs to a piece beside its lessons, as far as it is open to whoever looks: its spaces, and the next live session of its series.</summary>
public sealed class TogetherHere
{
    public TogetherHere(BrightPage page, Piece piece)
    {
        Page = page;
        if (page.Visitor.Person is null) return;
        var now = page.Now;
        Spaces = [.. now.Spaces.Where(s => s.PieceId == piece.Id && s.ClosedAt is null && page.Visitor.Talks(now, s.Id, page.Moment) is not null)];
        Next = now.Community.Ahead(page.Moment).FirstOrDefault(s => now.Community.SeriesById[s.SeriesId].PieceId == piece.Id
            && now.Book.Decide(page.Visitor.Facts, s.SeriesId, page.Moment).IsOpen);
    }

    public BrightPage Page { get; }
    public IReadOnlyList<Space> Spaces { get; } = [];
    public LiveSession? Next { get; }
}
