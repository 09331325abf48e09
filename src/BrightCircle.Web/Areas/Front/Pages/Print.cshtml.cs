using BrightCircle.App.Content;
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
        if (Piece.Places is not null && Visitor.Member is { } m && !(await reader.Places(Piece.Id, m, Ct)).HasPlace) return Redirect(PathOf(Piece));
        var views = new List<LessonView>();
        await links.Ready(Ct);
        foreach (var l in lessons)
            if (await reader.Read(l.Id, [], Visitor.Member, note: false, done: false, questions: false, "", Moment, Ct) is { } reading)
                views.Add(new() { Page = this, Piece = Piece, Lesson = l, Reading = reading, Links = links, Outline = Outline.Empty });
        Lessons = views;
        return Page();
    }
}
