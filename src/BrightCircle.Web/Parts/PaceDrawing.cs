using BrightCircle.Core.Access;
using Microsoft.AspNetCore.Html;

namespace BrightCircle.Web.Parts;

/// <summary>The parts of a piece along the days from its start, and where people on their way are today.</summary>
public static class PaceDrawing
{
    const double Left = 232, Right = 960, Top = 34;

    /// <param name="drags">Whether its dots can be dragged.</param>
    public static IHtmlContent Of(PaceLayout layout, IReadOnlyList<(int Day, int People)> people, bool drags)
    {
        var rows = layout.Rows;
        if (rows.Count == 0) return HtmlString.Empty;
        var last = rows.Max(r => Math.Max(r.Day ?? 0, r.Usual ?? 0));
        var span = Math.Max(7, last + Math.Max(1, last / 12));
        var (row, perDay) = (rows.Count > 16 ? 26.0 : 38, (Right - Left) / span);
        double X(int day) => Left + Math.Min(day, span) * perDay;
        double Y(int at) => Top + 20 + at * row;
        var bottom = Y(rows.Count - 1) + 22;
        var height = bottom + (people.Count > 0 ? 34 : 12);
        var b = Markup.Of(
            $"<svg class=\"fluid pace-line\" viewBox=\"0 0 980 {height}\" data-per-day=\"{perDay}\" role=\"img\" aria-label=\"The parts by the day on which "
            + $"each opens\">");
        var step = Step(span);
        for (var day = 0; day <= span; day += step)
            b.Add($"<line class=\"grid-l\" x1=\"{X(day)}\" x2=\"{X(day)}\" y1=\"{Top}\" y2=\"{bottom}\"/><text x=\"{X(day)}\" y=\"20\" font-size=\"12\" "
                + $"text-anchor=\"middle\">{(day == 0 ? "start" : $"day {day}")}</text>");
        var together = layout.Together.SelectMany(g => g).Select(r => r.Lesson.Id).ToHashSet();
        foreach (var (at, r) in rows.Index())
        {
            var y = Y(at);
            b.Add($"<text x=\"{Left - 14}\" y=\"{y + 4}\" font-size=\"13\" text-anchor=\"end\">{Short(r.Lesson.Title)}</text>");
            if (r.Day is not { } day)
            {
                b.Add($"<text class=\"soft-t\" x=\"{Left + 4}\" y=\"{y + 4}\" font-size=\"12\">no date yet</text>");
                continue;
            }
            b.Add($"<rect class=\"pace-open\" x=\"{X(day)}\" y=\"{y - 7}\" width=\"{Right - X(day)}\" height=\"14\" rx=\"7\"/>");
            if (r.Usual is { } usual && usual != day)
                b.Add($"<circle class=\"pace-was\" cx=\"{X(usual)}\" cy=\"{y}\" r=\"8\"/><line class=\"pace-way\" x1=\"{X(Math.Min(usual, day)) + 9}\" "
                    + $"x2=\"{X(Math.Max(usual, day)) - 9}\" y1=\"{y}\" y2=\"{y}\"/>");
            var kind = together.Contains(r.Lesson.Id) ? "pace-dot same" : "pace-dot";
            var title = Markup.Of($"<title>{r.Lesson.Title}: {(day == 0 ? "at the start" : $"day {day}")}{(r.Usual is null ? "" : ", moved by hand")}</title>");
            if (drags)
                b.Add($"<circle class=\"{kind} drag\" cx=\"{X(day)}\" cy=\"{y}\" r=\"9\" data-part=\"{r.Lesson.Id.Value}\" "
                    + $"data-day=\"{day}\">{title}</circle>");
            else b.Add($"<circle class=\"{kind}\" cx=\"{X(day)}\" cy=\"{y}\" r=\"9\">{title}</circle>");
        }
        foreach (var (day, n) in Together(people, Math.Max(1, (int)(34 / perDay))))
            b.Add($"<line class=\"needle-l\" x1=\"{X(day)}\" x2=\"{X(day)}\" y1=\"{Top}\" y2=\"{bottom + 8}\"/><rect class=\"needle-d\" x=\"{X(day) - 17}\" "
                + $"y=\"{bottom + 6}\" width=\"34\" height=\"20\" rx=\"10\"/><text class=\"on-sun\" x=\"{X(day)}\" y=\"{bottom + 20}\" font-size=\"12\" "
                + $"text-anchor=\"middle\">{n}</text>");
        return b.Add($"</svg>");
    }

    /// <summary>People who stand too close to be drawn apart are drawn as one.</summary>
    static IEnumerable<(int Day, int People)> Together(IReadOnlyList<(int Day, int People)> people, int within)
    {
        for (var i = 0; i < people.Count;)
        {
            var (from, sum, weighed) = (people[i].Day, 0, 0L);
            for (; i < people.Count && people[i].Day < from + within; i++) (sum, weighed) =
                (sum + people[i].People, weighed + (long)people[i].Day * people[i].People);
            yield return ((int)(weighed / sum), sum);
        }
    }

    static int Step(int span)
    {
        foreach (var s in (int[])[1, 2, 7, 14, 28, 56, 91, 182]) if (span / s <= 12) return s;
        return 364;
    }

    static string Short(string title) => title.Length <= 32 ? title : title[..30].TrimEnd() + "…";
}
