using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using Microsoft.AspNetCore.Html;
using NodaTime;

namespace BrightCircle.Web.Parts;

/// <summary>The product's own pictures, drawn on the server from what Core computes. Colours come from classes, so they follow the scheme.</summary>
public static class Svg
{
    static readonly CultureInfo Words = CultureInfo.GetCultureInfo("en-GB");

    static readonly IHtmlContent Hatched = Markup.Raw(" fill=\"url(#hatch)\""), Strong = Markup.Raw(" class=\"strong\"");

    /// <summary>How a ring cell is filled: what happened to it decides, its shelf colours it.</summary>
    public enum RingFill { Empty, Draft, Pale, Full }

    // The shapes depend on nothing but how many shelves there are.
    static readonly ConcurrentDictionary<(int Shelves, int Shelf, int Month), string> Paths = new();

    const int MostRings = 200;
    // What was drawn of a ring (a version of the catalogue has one), by how its cells are filled.
    static readonly ConditionalWeakTable<YearRing, ConcurrentDictionary<string, HtmlString>> Drawn = new();

    /// <summary>
    /// The year ring: twelve months round, a ring per shelf, the needle at the house clock. Where a cell leads and what it says has to follow from the cell and
    /// how it is filled, so that everybody for whom it is filled alike is shown the same drawing; <paramref name="title"/> tells one use from another.
    /// </summary>
    public static IHtmlContent Ring(YearRing ring, Instant now, SiteCalendar calendar, Func<RingCell, RingFill> fill, Func<RingCell, string?> link,
        Func<RingCell, string> says, string title, string? middle = null, string? under = null)
    {
        var fills = new char[ring.Cells.Count];
        for (var i = 0; i < fills.Length; i++) fills[i] = (char)('a' + (int)fill(ring.Cells[i]));
        var local = calendar.Local(now);
        var drawings = Drawn.GetOrCreateValue(ring);
        var key = $"{title}|{new string(fills)}|{local.Year * 1000 + local.DayOfYear}|{middle}|{under}";
        if (drawings.TryGetValue(key, out var drawn)) return drawn;
        if (drawings.Count >= MostRings) drawings.Clear();
        return drawings[key] = new(DrawRing(ring, fills, local, calendar.Month(now), link, says, title, middle, under).ToString());
    }

    static Markup DrawRing(YearRing ring, char[] fills, LocalDateTime local, YearMonth thisMonth, Func<RingCell, string?> link, Func<RingCell, string> says,
        string title, string? middle, string? under)
    {
        var b = new Markup();
        const double outer = 108, inner = 44, labels = 119;
        var band = ring.Shelves.Count == 0 ? outer - inner : (outer - inner) / ring.Shelves.Count;
        b.Add($"<svg class=\"ring\" viewBox=\"-135 -135 270 270\" role=\"group\" aria-label=\"{title}\"><defs><pattern id=\"hatch\" width=\"5\" height=\"5\" "
            + $"patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><rect class=\"hatch-bg\" width=\"5\" height=\"5\"/><line "
            + $"class=\"hatch-line\" x1=\"0\" y1=\"0\" x2=\"0\" y2=\"5\"/></pattern></defs>");
        var rank = ring.Shelves.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
        foreach (var (at, cell) in ring.Cells.Index())
        {
            var path = Paths.GetOrAdd((ring.Shelves.Count, rank[cell.Shelf.Id], cell.Month.Month), key =>
                Arc((key.Month - 1) * Math.PI / 6 + .012, key.Month * Math.PI / 6 - .012, inner + key.Shelf * band + 1, inner + (key.Shelf + 1) * band - 1));
            var kind = (RingFill)(fills[at] - 'a') switch
            {
                RingFill.Full => "cell-full",
                RingFill.Pale => "cell-pale",
                RingFill.Draft => "cell-draft",
                RingFill.Empty => "cell-empty",
                _ => throw new ArgumentOutOfRangeException(nameof(fills))
            };
            var href = link(cell);
            var said = says(cell);
            if (href is not null) b.Add($"<a href=\"{href}\" aria-label=\"{said}\">");
            b.Add($"<path class=\"cell {kind} f{cell.Shelf.Colour}\"{(kind == "cell-draft" ? Hatched : Markup.Nothing)} "
                + $"d=\"{path}\"><title>{said}</title></path>");
            if (href is not null) b.Add($"</a>");
        }
        foreach (var month in ring.Months)
        {
            var a = (month.Month - .5) * Math.PI / 6;
            b.Add($"<text x=\"{labels * Math.Sin(a)}\" y=\"{-labels * Math.Cos(a) + 4}\" font-size=\"12\" "
                + $"text-anchor=\"middle\"{(month == thisMonth ? Strong : Markup.Nothing)}>"
                + $"{month.OnDayOfMonth(1).ToString("MMM", CultureInfo.InvariantCulture)}</text>");
        }
        var angle = (local.Month - 1 + (local.Day - 1.0) / CalendarSystem.Iso.GetDaysInMonth(local.Year, local.Month)) * Math.PI / 6;
        b.Add($"<line class=\"needle-l\" stroke-width=\"3.5\" x1=\"{28 * Math.Sin(angle)}\" y1=\"{-28 * Math.Cos(angle)}\" x2=\"{112 * Math.Sin(angle)}\" "
            + $"y2=\"{-112 * Math.Cos(angle)}\"/><circle class=\"needle-d\" r=\"5.5\" cx=\"{28 * Math.Sin(angle)}\" cy=\"{-28 * Math.Cos(angle)}\"/>");
        b.Add($"<text class=\"title\" y=\"-1\" text-anchor=\"middle\" font-size=\"11\">{middle ?? local.ToString("MMMM", Words)}</text><text y=\"11\" "
            + $"text-anchor=\"middle\" font-size=\"9.5\">{under ?? local.Year.ToString(Words)}</text></svg>");
        return b;
    }

    static string Arc(double a0, double a1, double r0, double r1) =>
        Markup.Of(
            $"M{r1 * Math.Sin(a0)} {-r1 * Math.Cos(a0)}A{r1} {r1} 0 0 1 {r1 * Math.Sin(a1)} {-r1 * Math.Cos(a1)}L{r0 * Math.Sin(a1)} "
            + $"{-r0 * Math.Cos(a1)}A{r0} {r0} 0 0 0 {r0 * Math.Sin(a0)} {-r0 * Math.Cos(a0)}Z").ToString();

    /// <summary>The mark of a standing: a circle filled like a moon. The word stands beside it.</summary>
    public static IHtmlContent Moon(Standing standing)
    {
        const string circle = "<circle cx=\"8\" cy=\"8\" r=\"6.2\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\"/>";
        var inside = standing switch
        {
            Standing.Active => "<circle cx=\"8\" cy=\"8\" r=\"6.2\" fill=\"currentColor\" stroke=\"currentColor\" stroke-width=\"1.6\"/>",
            Standing.Trial => circle + "<path d=\"M8 8V1.8A6.2 6.2 0 0 1 14.2 8Z\" fill=\"currentColor\"/>",
            Standing.Grace => circle + "<path d=\"M8 1.8A6.2 6.2 0 0 1 8 14.2Z\" fill=\"currentColor\"/>",
            Standing.Ending => circle + "<path d=\"M8 8V1.8A6.2 6.2 0 1 1 1.8 8Z\" fill=\"currentColor\"/>",
            Standing.Lapsed => circle,
            Standing.Paused => "<circle cx=\"8\" cy=\"8\" r=\"6.2\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\" stroke-dasharray=\"2.6 2.2\"/>",
            Standing.Guest => "<circle cx=\"8\" cy=\"8\" r=\"2.6\" fill=\"currentColor\"/>",
        };
        return Markup.Of($"<svg class=\"moon st-{standing.Word()}\" viewBox=\"0 0 16 16\" aria-hidden=\"true\">{new HtmlString(inside)}</svg>");
    }

    /// <summary>Mark and word.</summary>
    public static IHtmlContent StandingWord(Standing standing) => Markup.Of($"<span class=\"standing\">{Moon(standing)}{standing.Word()}</span>");

    /// <summary>A payment schedule as dots over time.</summary>
    /// <param name="goesOn">What is said of one that doesn’t end: to the owner, or to whoever pays.</param>
    public static IHtmlContent Schedule(PaymentSchedule schedule, Instant start, SiteCalendar calendar, CultureInfo culture, string goesOn,
        string ends = "open for good")
    {
        if (schedule.Payments.Count == 0) return HtmlString.Empty;
        var shown = schedule.Payments.Take(5).ToArray();
        const double left = 34, width = 350;
        var last = shown.Length == 1 ? shown[0].DueAt + Duration.FromDays(30) : shown[^1].DueAt;
        double X(Instant at) => left + width * (at - start).TotalDays / Math.Max(1, (last - start).TotalDays);
        var b = Markup.Of($"<svg class=\"fluid\" viewBox=\"0 0 430 84\" aria-hidden=\"true\">");
        b.Add($"<line class=\"rail-l\" x1=\"{left}\" x2=\"{left + width}\" y1=\"48\" y2=\"48\"/>");
        if (schedule.Total is null)
            b.Add($"<line class=\"rail-l\" stroke-dasharray=\"3 4\" x1=\"{left + width}\" x2=\"{left + width + 40}\" y1=\"48\" y2=\"48\"/>");
        var previous = -100.0;
        foreach (var p in shown)
        {
            var x = Math.Max(X(p.DueAt), previous + 46);
            previous = x;
            var trial = p.Purpose == PaymentPurpose.Trial;
            b.Add($"<circle class=\"{(trial ? "needle-d" : "pay-ok")}\" cx=\"{x}\" cy=\"48\" r=\"{(trial ? 5 : 8)}\"/><text x=\"{x}\" y=\"16\" "
                + $"font-size=\"11\" text-anchor=\"middle\">{(p.DueAt == start ? "today" : calendar.Date(p.DueAt).ToString("d MMM", culture))}</text><text "
                + $"class=\"strong\" x=\"{x}\" y=\"31\" font-size=\"12\" text-anchor=\"middle\">{p.Amount.FormatShort(culture)}</text>");
        }
        // What is open, where that has a length of its own.
        if (schedule.AccessEnds is not null) b.Add($"<rect class=\"open-span\" x=\"{left}\" y=\"60\" width=\"{width + 40}\" height=\"7\" rx=\"3.5\"/>");
        b.Add($"<text x=\"{left}\" y=\"{(schedule.AccessEnds is null ? 76 : 80)}\" font-size=\"11\">{(schedule.Total is null ? goesOn : ends)}</text></svg>");
        return b;
    }

    /// <summary>What came in day by day, as bars, with as many days before as a thin line behind them.</summary>
    public static IHtmlContent SalesDays(App.Insight.SalesView view, CultureInfo culture)
    {
        const double left = 6, width = 908, top = 10, height = 120;
        var most = Math.Max(1, view.Days.Max(d => Math.Max(d.Received.Minor, d.Before.Minor)));
        var step = width / view.Days.Count;
        double H(Money m) => height * m.Minor / most;
        var b = Markup.Of($"<svg class=\"fluid\" viewBox=\"0 0 920 160\" aria-hidden=\"true\">");
        var every = Math.Max(1, view.Days.Count / 10);
        for (var i = 0; i < view.Days.Count; i++)
        {
            var (day, received, before) = view.Days[i];
            var x = left + i * step;
            if (before.Minor > 0)
                b.Add($"<rect class=\"sales-before\" x=\"{x + step * .12}\" y=\"{top + height - H(before)}\" width=\"{step * .76}\" height=\"{H(before)}\"/>");
            if (received.Minor > 0)
                b.Add($"<rect class=\"sales-day\" x=\"{x + step * .26}\" y=\"{top + height - H(received)}\" width=\"{step * .48}\" "
                    + $"height=\"{H(received)}\" rx=\"1.5\"/>");
            if (i % every == 0) b.Add($"<text x=\"{x + step / 2}\" y=\"150\" font-size=\"11\" text-anchor=\"middle\">{day.ToString("d MMM", culture)}</text>");
        }
        b.Add($"<line class=\"rail-l\" x1=\"{left}\" x2=\"{left + width}\" y1=\"{top + height}\" y2=\"{top + height}\"/></svg>");
        return b;
    }

    /// <summary>What the life line draws below the standing: holdings, payments, openings.</summary>
    public sealed record LifeRow(string Name, bool Gift, IReadOnlyList<(Instant From, Instant? To)> Spans);

    /// <summary>A member's life line: standing, holdings, payments and openings on one axis.</summary>
    public static IHtmlContent Life(LifeLine line, IReadOnlyList<LifeRow> holdings, IReadOnlyList<(Instant At, bool Paid)> payments,
        IReadOnlyList<Instant> openings, Instant now, SiteCalendar calendar)
    {
        if (line.Stretches.Count == 0) return HtmlString.Empty;
        const double left = 128, right = 806;
        var from = line.Stretches[0].From;
        var until = Instant.Max(line.Stretches[^1].To, now + Duration.FromDays(3));
        double X(Instant at) => left + (right - left) * Math.Clamp((at - from) / (until - from), 0, 1);
        var height = 74 + holdings.Count * 24 + 52;
        var b = new Markup();
        b.Add($"<svg class=\"fluid\" viewBox=\"0 0 820 {height}\" aria-hidden=\"true\">");
        var months = NodaTime.Period.Between(calendar.Date(from), calendar.Date(until), PeriodUnits.Months).Months + 1;
        var step = months <= 7 ? 1 : months <= 18 ? 3 : 6;
        for (var m = calendar.Month(from).PlusMonths(1); calendar.At(m.OnDayOfMonth(1).AtMidnight()) < until; m = m.PlusMonths(1))
        {
            if ((m.Month - 1) % step != 0) continue;
            var x = X(calendar.At(m.OnDayOfMonth(1).AtMidnight()));
            b.Add($"<line class=\"axis\" x1=\"{x}\" x2=\"{x}\" y1=\"20\" y2=\"{height - 8}\"/><text x=\"{x}\" y=\"12\" font-size=\"12\" "
                + $"text-anchor=\"middle\">{m.OnDayOfMonth(1).ToString(m.Month == 1 || step == 6 ? "MMM yy" : "MMM", CultureInfo.InvariantCulture)}</text>");
        }
        b.Add($"<text class=\"strong\" x=\"0\" y=\"41\" font-size=\"13\">Standing</text>");
        foreach (var s in line.Stretches)
        {
            var (x0, x1) = (X(s.From), X(s.To));
            var word = s.State.Standing.Word();
            b.Add($"<rect class=\"bar-{word}\" x=\"{x0}\" y=\"28\" width=\"{Math.Max(2, x1 - x0 - 1)}\" height=\"18\" rx=\"3\"/>");
            if (x1 - x0 > 52)
                b.Add($"<text class=\"bar-word{(s.State.Standing is Standing.Lapsed or Standing.Guest ? " on-pale" : "")}\" x=\"{(x0 + x1) / 2}\" y=\"41\" "
                    + $"text-anchor=\"middle\">{word}</text>");
        }
        var y = 60.0;
        foreach (var row in holdings)
        {
            b.Add($"<text class=\"strong\" x=\"0\" y=\"{y + 10}\" font-size=\"13\">{row.Name}</text>");
            foreach (var (f, t) in row.Spans) b.Add(
                $"<rect class=\"hold-bar{(row.Gift ? " gift" : "")}\" x=\"{X(f)}\" y=\"{y}\" width=\"{Math.Max(3, X(t ?? until) - X(f))}\" height=\"12\" "
                + $"rx=\"6\"/>");
            y += 24;
        }
        b.Add($"<text class=\"strong\" x=\"0\" y=\"{y + 10}\" font-size=\"13\">Payments</text>");
        foreach (var (at, paid) in payments) b.Add($"<circle class=\"{(paid ? "pay-ok" : "pay-no")}\" cx=\"{X(at)}\" cy=\"{y + 6}\" r=\"4\"/>");
        y += 26;
        b.Add($"<text class=\"strong\" x=\"0\" y=\"{y + 10}\" font-size=\"13\">Opened</text>");
        foreach (var week in openings.GroupBy(o => (int)((o - from).TotalDays / 7)))
            b.Add($"<rect class=\"open-bar\" x=\"{X(from + Duration.FromDays(week.Key * 7))}\" y=\"{y + 14 - Math.Min(14, 3 + week.Count() * 2.5)}\" "
                + $"width=\"4\" height=\"{Math.Min(14, 3 + week.Count() * 2.5)}\"/>");
        b.Add($"<line class=\"needle-l\" stroke-width=\"2.5\" x1=\"{X(now)}\" x2=\"{X(now)}\" y1=\"20\" y2=\"{height - 6}\"/></svg>");
        return b;
    }

    /// <summary>A cover where there is no picture: where in the year the piece stands, in its shelf's colour.</summary>
    public static IHtmlContent Cover(Shelf shelf, int month, long seed) => Covers.GetOrAdd((shelf.Colour, month, seed % CoversRepeat), DrawCover);

    // Whatever the number it is drawn from, there are only so many ways it looks: the least common multiple of 140, 3 and 5.
    const long CoversRepeat = 420;
    static readonly ConcurrentDictionary<(int Colour, int Month, long Seed), IHtmlContent> Covers = new();

    static IHtmlContent DrawCover((int Colour, int Month, long Seed) key)
    {
        var (colour, month, seed) = key;
        var cx = 60 + seed * 37 % 140;
        var b = new Markup();
        b.Add($"<svg class=\"cover f{colour}\" viewBox=\"0 0 260 104\" preserveAspectRatio=\"xMidYMid slice\" aria-hidden=\"true\"><rect class=\"cover-bg\" "
            + $"width=\"260\" height=\"104\"/>");
        for (var r = 0; r < 5; r++)
        {
            var radius = 26 + r * 24;
            b.Add($"<circle class=\"cover-c\" cx=\"{cx}\" cy=\"92\" r=\"{radius}\" stroke-width=\"{2 + (r + seed) % 3 * 3}\"/>");
        }
        var (a0, a1) = ((month - 1) * Math.PI / 6, month * Math.PI / 6);
        // The ring is turned so that its month always lies in the visible half.
        var turn = -(a0 + a1) / 2 + (seed % 5 - 2) * .22;
        foreach (var radius in (int[])[50, 74, 98])
            b.Add($"<path class=\"cover-now\" stroke-width=\"9\" d=\"M{cx + radius * Math.Sin(a0 + turn)} {92 - radius * Math.Cos(a0 + turn)}A{radius} "
                + $"{radius} 0 0 1 {cx + radius * Math.Sin(a1 + turn)} {92 - radius * Math.Cos(a1 + turn)}\"/>");
        b.Add($"</svg>");
        return new HtmlString(b.ToString());
    }

    /// <summary>A small ring of how much is done; the words stand beside it.</summary>
    public static IHtmlContent ProgressRing(int done, int of)
    {
        var share = of == 0 ? 0 : 100.0 * done / of;
        return Markup.Of(
            $"<svg class=\"progress-ring\" viewBox=\"0 0 48 48\" aria-hidden=\"true\"><circle cx=\"24\" cy=\"24\" r=\"19\" class=\"ring-bg\"/><circle "
            + $"cx=\"24\" cy=\"24\" r=\"19\" class=\"ring-arc\" pathLength=\"100\" stroke-dasharray=\"{share} 100\" transform=\"rotate(-90 24 24)\"/></svg>");
    }

    /// <summary>A week's tally as a small ring: a stretch for each time of the aim, in the middle how often it was done. The words stand beside it.</summary>
    public static IHtmlContent TallyRing(TallyWeek week)
    {
        var b = Markup.Of($"<svg class=\"tally-ring\" viewBox=\"0 0 64 64\" aria-hidden=\"true\">");
        // More than a dozen stretches can't be told apart: then the ring is one.
        var parts = week.Aim <= 12 ? week.Aim : 1;
        for (var i = 0; i < parts; i++)
        {
            var share = parts == 1 ? week.Share : i < week.Done ? 1 : 0;
            var (gap, each) = (parts == 1 ? 0 : 4.0, 100.0 / parts);
            b.Add($"<circle cx=\"32\" cy=\"32\" r=\"26\" class=\"ring-bg\" pathLength=\"100\" stroke-dasharray=\"{each - gap} 100\" "
                + $"stroke-dashoffset=\"{-i * each - gap / 2}\" transform=\"rotate(-90 32 32)\"/>");
            if (share > 0)
                b.Add($"<circle cx=\"32\" cy=\"32\" r=\"26\" class=\"ring-arc{(week.Met ? " met" : "")}\" pathLength=\"100\" "
                    + $"stroke-dasharray=\"{(each - gap) * share} 100\" stroke-dashoffset=\"{-i * each - gap / 2}\" transform=\"rotate(-90 32 32)\"/>");
        }
        b.Add($"<text x=\"32\" y=\"39\" text-anchor=\"middle\">{week.Done}</text></svg>");
        return b;
    }

    /// <summary>The weeks of a tally as columns, each with a line at its aim; the table beside it says the same in figures.</summary>
    public static IHtmlContent TallyWeeks(IReadOnlyList<TallyWeek> weeks, string title)
    {
        const double w = 22, h = 96;
        var most = 1.12 * weeks.Max(x => Math.Max(x.Done, x.Aim));
        var b = new Markup();
        b.Add($"<svg class=\"tally-weeks\" viewBox=\"0 0 {weeks.Count * w} {h + 22}\" role=\"img\" aria-label=\"{title}\">");
        var month = 0;
        for (var i = 0; i < weeks.Count; i++)
        {
            var x = weeks[i];
            var (height, aim) = (h * x.Done / most, h - h * x.Aim / most);
            b.Add($"<rect class=\"col{(x.Met ? " met" : "")}\" x=\"{i * w + 3}\" y=\"{h - height}\" width=\"{w - 6}\" height=\"{height}\" "
                + $"rx=\"2\"><title>{x.Week.ToString()}: {x.Done} of {x.Aim}</title></rect><line class=\"aim\" x1=\"{i * w}\" x2=\"{(i + 1) * w}\" "
                + $"y1=\"{aim}\" y2=\"{aim}\"/>");
            if (x.Week.Sunday.Month != month && (i == 0 || x.Week.Sunday.Day <= 7))
                b.Add($"<text x=\"{i * w + 3}\" y=\"{h + 16}\" font-size=\"11\">{x.Week.Sunday.ToString("MMM", CultureInfo.InvariantCulture)}</text>");
            month = x.Week.Sunday.Month;
        }
        b.Add($"<line class=\"base\" x1=\"0\" x2=\"{weeks.Count * w}\" y1=\"{h}\" y2=\"{h}\"/></svg>");
        return b;
    }

    /// <summary>Where the house clock stands in the ribbon of twelve months, from 0 to 100.</summary>
    public static double NeedleAt(YearMonth first, Instant now, SiteCalendar calendar)
    {
        var local = calendar.Local(now);
        var month = (local.Year - first.Year) * 12 + local.Month - first.Month;
        return (month + (local.Day - 1 + local.Hour / 24.0) / CalendarSystem.Iso.GetDaysInMonth(local.Year, local.Month)) / 12 * 100;
    }
}
