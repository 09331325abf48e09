using BrightCircle.App.Content;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Data;

namespace BrightCircle.Web.Parts;

/// <summary>States and kinds as they are shown: one word and one colour each, wherever they stand. A new one doesn’t compile until it has both.</summary>
public static class Tags
{
    public static string Word(PaymentState state) => state switch
    {
        PaymentState.Paid => "paid",
        PaymentState.Failed => "failed",
        PaymentState.PartlyRefunded => "partly refunded",
        PaymentState.Refunded => "refunded",
        PaymentState.ChargedBack => "charged back",
    };

    public static string Colour(PaymentState state) => state switch
    {
        PaymentState.Paid => "good",
        PaymentState.Failed or PaymentState.ChargedBack => "bad",
        PaymentState.PartlyRefunded or PaymentState.Refunded => "plum",
    };

    public static string Word(PieceState state) => state switch
    {
        PieceState.Draft => "draft",
        PieceState.Ready => "ready",
        PieceState.Released => "released",
    };

    public static string Colour(PieceState state) => state switch
    {
        PieceState.Draft => "",
        PieceState.Ready => "plum",
        PieceState.Released => "good",
    };

    public static string Word(EditionState state) => state switch
    {
        EditionState.Draft => "draft",
        EditionState.Scheduled => "scheduled",
        EditionState.Released => "released",
    };

    public static string Colour(EditionState state) => state switch
    {
        EditionState.Draft => "",
        EditionState.Scheduled => "plum",
        EditionState.Released => "good",
    };

    public static string Word(ImportVerb verb) => verb switch
    {
        ImportVerb.Makes => "new",
        ImportVerb.Changes => "changed",
        ImportVerb.Same => "same",
        ImportVerb.Refuses => "refused",
    };

    public static string Colour(ImportVerb verb) => verb switch
    {
        ImportVerb.Makes => "good",
        ImportVerb.Changes or ImportVerb.Same => "plum",
        ImportVerb.Refuses => "bad",
    };

    public static string Word(Difficulty difficulty) => difficulty switch
    {
        Difficulty.Anyone => "for anyone",
        Difficulty.Beginner => "for beginners",
        Difficulty.Practised => "for the practised",
        Difficulty.Expert => "for experts",
    };

    /// <summary>What marks a line that came, went or stayed.</summary>
    public static string Colour(DiffKind kind) => kind switch
    {
        DiffKind.Added => "ins",
        DiffKind.Removed => "del",
        DiffKind.Same => "",
    };

    /// <summary>A file's picture in a list; a picture shows itself.</summary>
    public static string Icon(FileKind kind) => kind switch
    {
        FileKind.Picture => "bi-image",
        FileKind.Video => "bi-film",
        FileKind.Audio => "bi-mic",
        FileKind.Document => "bi-file-earmark",
    };
}
