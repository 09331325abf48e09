using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Data;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.House;

/// <summary>How a letter looks beside the form it is written in.</summary>
/// <param name="Wrong">Why it can’t be shown; null where it can.</param>
/// <param name="Reader">As whom it is shown; empty while that comes after the page.</param>
public sealed record LetterLook(string? Wrong, string Reader, string? Preheader, RenderedLetter Letter);

/// <summary>A letter as a mail program shows it, by itself, for the frame beside the form. It is never a page of the site: nothing in it runs.</summary>
public static class LetterFrame
{
    // A letter brings its own styles, and its links lead nowhere here.
    const string Policy = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'self'; sandbox";
    public static readonly (string Key, string Word)[] Looks = [("wide", "designed"), ("phone", "on a phone"), ("dark", "in the dark")];

    /// <param name="letter">With its picture in it; null for nothing to show.</param>
    public static ContentResult Of(HttpContext context, RenderedLetter? letter, string? look)
    {
        context.Items[Endpoints.OwnPolicy] = Policy;
        var html = letter is null ? "" : look == "dark" ? LetterTemplates.InTheDark(letter.Html) : letter.Html;
        return new()
        {
            Content = html.Length > 0 ? html : "<!doctype html><html lang=\"en\"><head><title>Plain text</title></head><body></body></html>",
            ContentType = "text/html; charset=utf-8",
        };
    }
}

/// <summary>The field for a letter’s picture.</summary>
public static class LetterPicker
{
    public static FileId? Of(long? typed) => typed is > 0 and { } id ? new(id) : null;

    /// <summary>So many of the newest can be chosen from without scripts.</summary>
    public const int Most = 60;

    public static FileField Field(long? typed, IEnumerable<StoredFile> choices) =>
        new("Picture", "Picture", "A picture", [FileKind.Picture], Of(typed), choices, []);
}
