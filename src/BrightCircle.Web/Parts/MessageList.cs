using BrightCircle.App.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>What a member and the team wrote to each other.</summary>
/// <param name="ToTeam">The team reads it: names lead to people.</param>
public sealed record MessageList(BrightPage Page, DialogueView View, bool ToTeam);
