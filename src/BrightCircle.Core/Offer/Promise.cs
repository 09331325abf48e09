using System.Text.Json.Serialization;

namespace BrightCircle.Core.Offer;

/// <summary>What an inclusion is about. Covering a parent covers what is added to it later.</summary>
[JsonDerivedType(typeof(Everything), "everything")]
[JsonDerivedType(typeof(OnShelf), "shelf")]
[JsonDerivedType(typeof(OnePiece), "piece")]
[JsonDerivedType(typeof(OneModule), "module")]
[JsonDerivedType(typeof(OneLesson), "lesson")]
[JsonDerivedType(typeof(OneTally), "tally")]
public abstract record Coverage
{
    private Coverage() { }
    public sealed record Everything : Coverage;
    public sealed record OnShelf(ShelfId Shelf) : Coverage;
    public sealed record OnePiece(PieceId Piece) : Coverage;
    /// <summary>The lessons of one module, those added later too; a lesson moved out of it isn't covered any more.</summary>
    public sealed record OneModule(ModuleId Module) : Coverage;
    public sealed record OneLesson(LessonId Lesson) : Coverage;
    /// <summary>A tally is kept while it is held: reach and keep say nothing about it.</summary>
    public sealed record OneTally(TallyId Tally) : Coverage;
}

/// <summary>How far back an inclusion goes.</summary>
[JsonDerivedType(typeof(EverythingReleased), "everything")]
[JsonDerivedType(typeof(FromJoining), "joining")]
[JsonDerivedType(typeof(WhilePaid), "paid")]
public abstract record Reach
{
    private Reach() { }
    /// <summary>All that has been released, however long ago.</summary>
    public sealed record EverythingReleased : Reach;
    /// <summary>What is released at or after the holding's start, and the edition current when joining.</summary>
    public sealed record FromJoining : Reach;
    /// <summary>What is released, or current, in a paid interval.</summary>
    public sealed record WhilePaid : Reach;
}

/// <summary>What stays open after leaving.</summary>
[JsonDerivedType(typeof(Nothing), "nothing")]
[JsonDerivedType(typeof(WhatHadOpened), "opened")]
public abstract record Keep
{
    private Keep() { }
    public sealed record Nothing : Keep;
    /// <summary>What was open at the end of the last paid moment.</summary>
    public sealed record WhatHadOpened : Keep;
}

/// <summary>One part of a promise: what is covered, how far back, what stays.</summary>
public sealed record Inclusion(Coverage Covers, Reach Reach, Keep Keep);
