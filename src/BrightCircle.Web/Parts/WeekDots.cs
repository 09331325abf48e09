using Microsoft.AspNetCore.Html;

namespace BrightCircle.Web.Parts;

/// <summary>What was done in a week beside its aim: a dot each, filled for what was done.</summary>
public static class WeekDots
{
    /// <summary>With more than so many a number says it better.</summary>
    const int Most = 8;

    public static IHtmlContent Of(int done, int aim)
    {
        if (Math.Max(done, aim) > Most) return Markup.Of($"{done} of {aim}");
        var dots = Markup.Of($"<span class=\"done-dots\" role=\"img\" aria-label=\"{done} of {aim}\">");
        for (var i = 0; i < Math.Max(done, aim); i++)
        {
            if (i < done) dots.Add($"<i class=\"on\"></i>");
            else dots.Add($"<i></i>");
        }
        return dots.Add($"</span>");
    }
}
