using BrightCircle.App.Files;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A piece, or one of its lessons, as a page to print: only what is open to whoever asks.</summary>
public sealed class PrintModel(MemberReader reader, FileLinks links) : BrightPage
{
    const int MostLessons = 200;
    public Piece Piece { get; private set; } = null!;
    public bool Whole { get; private set; }
    public IReadOnlyList<LessonView> Lessons { get; private set; } = [];

    public async Task<IActionResult> OnGet(long? piece, long? lesson)
    {
        if (lesson is { } l)
        {
            if (!Now.LessonById.TryGetValue(new(l), out var one) || !Decide(one).IsOpen) return NotFound();
            Piece = Now.PieceOf(one);
            return await Load([one]);
        }
        if (!Now.PieceById.TryGetValue(new(piece ?? 0), out var p)) return NotFound();
        (Piece, Whole) = (p, true);
        return await Load([.. LessonLoader.Known(this, p).Lessons.Where(x => Decide(x).IsOpen).Take(MostLessons)]);
    }

    async Task<IActionResult> Load(IReadOnlyList<Lesson> lessons)
    {
        if (lessons.Count == 0) return NotFound();
        var (blocks, files) = await reader.Contents([.. lessons.Select(l => l.Id)], Ct);
        await links.Ready(Ct);
        Lessons = [.. lessons.Where(l => blocks.ContainsKey(l.Id))
            .Select(l => new LessonView { Page = this, Piece = Piece, Lesson = l, Reading = LessonReading.Plain(blocks[l.Id], files), Links = links,
            Outline = Outline.Empty })];
        return Page();
    }
}
