using BrightCircle.Core.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>A piece as a card, with how far the member has come with it; null for visitors.</summary>
public sealed record PieceCard(Piece Piece, BrightPage Page, PieceWay? Way);
