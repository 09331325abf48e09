using System.Globalization;
using System.Net;
using System.Text;
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

    static string N(double v) => v.ToString("0.##", CultureInfo.InvariantCulture);
    static string Enc(string s) => WebUtility.HtmlEncode(s);

    /// <summary>How a ring cell is filled: what happened to it decides, its shelf colours it.</summary>
    public enum RingFill { Empty, Draft, Pale, Full }

    // The shapes depend on nothing but how many shelves there are.
    static readonly System.Collections.Concurrent.ConcurrentDictionary<(int Shelves, int Shelf, int Month), string> Paths = new();

    /// <summary>The year ring: twelve months round, a ring per shelf, the needle at the house clock.</summary>
    public static IHtmlContent Ring(YearRing ring, Instant now, SiteCalendar calendar, Func<RingCell, RingFill> fill, Func<RingCell, string?> link,
        Func<RingCell, string> says, string title, string? middle = null, string? under = null)
    {
        var b = new StringBuilder(24 * 1024);
        const double outer = 108, inner = 44, labels = 119;
        var band = ring.Shelves.Count == 0 ? outer - inner : (outer - inner) / ring.Shelves.Count;
        b.Append(
            Words, $"<svg class=\"ring\" viewBox=\"-135 -135 270 270\" role=\"group\" aria-label=\"{Enc(title)}\"><defs><pattern id=\"hatch\" width=\"5\" "
                + $"height=\"5\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><rect class=\"hatch-bg\" width=\"5\" height=\"5\"/><line "
                + $"class=\"hatch-line\" x1=\"0\" y1=\"0\" x2=\"0\" y2=\"5\"/></pattern></defs>");
        var thisMonth = calendar.Month(now);
        var rank = ring.Shelves.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
        foreach (var cell in ring.Cells)
        {
            var path = Paths.GetOrAdd((ring.Shelves.Count, rank[cell.Shelf.Id], cell.Month.Month), key =>
                Arc((key.Month - 1) * Math.PI / 6 + .012, key.Month * Math.PI / 6 - .012, inner + key.Shelf * band + 1, inner + (key.Shelf + 1) * band - 1));
            var kind = fill(cell) switch { RingFill.Full => "cell-full", RingFill.Pale => "cell-pale", RingFill.Draft => "cell-draft", _ => "cell-empty" };
            var href = link(cell);
            var said = Enc(says(cell));
            if (href is not null) b.Append(CultureInfo.InvariantCulture, $"<a href=\"{Enc(href)}\" aria-label=\"{said}\">");
            b.Append(CultureInfo.InvariantCulture,
                $"<path class=\"cell {kind} f{cell.Shelf.Colour}\"{(kind == "cell-draft" ? " fill=\"url(#hatch)\"" : "")} "
                + $"d=\"{path}\"><title>{said}</title></path>");
            if (href is not null) b.Append("</a>");
        }
        foreach (var month in ring.Months)
        {
            var a = (month.Month - .5) * Math.PI / 6;
            b.Append(CultureInfo.InvariantCulture,
                $"<text x=\"{N(labels * Math.Sin(a))}\" y=\"{N(-labels * Math.Cos(a) + 4)}\" font-size=\"12\" text-anchor=\"middle\"{(month == thisMonth ? " "
                + $"class=\"strong\"" : "")}>{month.OnDayOfMonth(1).ToString("MMM", CultureInfo.InvariantCulture)}</text>");
        }
        var local = calendar.Local(now);
        var at = (local.Month - 1 + (local.Day - 1.0) / CalendarSystem.Iso.GetDaysInMonth(local.Year, local.Month)) * Math.PI / 6;
        b.Append(
            CultureInfo.InvariantCulture,
            $"<line class=\"needle-l\" stroke-width=\"3.5\" x1=\"{N(28 * Math.Sin(at))}\" y1=\"{N(-28 * Math.Cos(at))}\" x2=\"{N(112 * Math.Sin(at))}\" "
            + $"y2=\"{N(-112 * Math.Cos(at))}\"/><circle class=\"needle-d\" r=\"5.5\" cx=\"{N(28 * Math.Sin(at))}\" cy=\"{N(-28 * Math.Cos(at))}\"/>");
        b.Append(
            CultureInfo.InvariantCulture,
            $"<text class=\"title\" y=\"-1\" text-anchor=\"middle\" font-size=\"11\">{Enc(middle ?? local.ToString("MMMM", Words))}</text><text y=\"11\" "
            + $"text-anchor=\"middle\" font-size=\"9.5\">{Enc(under ?? local.Year.ToString(Words))}</text></svg>");
        return new HtmlString(b.ToString());
    }

    static string Arc(double a0, double a1, double r0, double r1) =>
        $"M{N(r1 * Math.Sin(a0))} {N(-r1 * Math.Cos(a0))}A{N(r1)} {N(r1)} 0 0 1 {N(r1 * Math.Sin(a1))} {N(-r1 * Math.Cos(a1))}L{N(r0 * Math.Sin(a1))} "
        + $"{N(-r0 * Math.Cos(a1))}A{N(r0)} {N(r0)} 0 0 0 {N(r0 * Math.Sin(a0))} {N(-r0 * Math.Cos(a0))}Z";

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
            Standing.Guest => "<circle cx=\"8\" cy=\"8\" r=\"2.6\" fill=\"currentColor\"/>",
            _ => throw new ArgumentOutOfRangeException(nameof(standing)),
        };
        return new HtmlString($"<svg class=\"moon st-{standing.Word()}\" viewBox=\"0 0 16 16\" aria-hidden=\"true\">{inside}</svg>");
    }

    /// <summary>Mark and word.</summary>
    public static IHtmlContent StandingWord(Standing standing) => new HtmlString($"<span class=\"standing\">{Moon(standing)}{standing.Word()}</span>");

    /// <summary>A payment schedule as dots over time.</summary>
    public static IHtmlContent Schedule(PaymentSchedule schedule, Instant start, SiteCalendar calendar, CultureInfo culture)
    {
        if (schedule.Payments.Count == 0) return HtmlString.Empty;
        var shown = schedule.Payments.Take(5).ToArray();
        const double left = 34, width = 350;
        var last = shown.Length == 1 ? shown[0].DueAt + Duration.FromDays(30) : shown[^1].DueAt;
        double X(Instant at) => left + width * (at - start).TotalDays / Math.Max(1, (last - start).TotalDays);
        var b = new StringBuilder("<svg class=\"fluid\" viewBox=\"0 0 430 84\" aria-hidden=\"true\">");
        b.Append(CultureInfo.InvariantCulture, $"<line class=\"rail-l\" x1=\"{left}\" x2=\"{left + width}\" y1=\"48\" y2=\"48\"/>");
        if (schedule.Total is null) b.Append(CultureInfo.InvariantCulture,
            $"<line class=\"rail-l\" stroke-dasharray=\"3 4\" x1=\"{left + width}\" x2=\"{left + width + 40}\" y1=\"48\" y2=\"48\"/>");
        var previous = -100.0;
        foreach (var p in shown)
        {
            var x = Math.Max(X(p.DueAt), previous + 46);
            previous = x;
            var trial = p.Purpose == PaymentPurpose.Trial;
            b.Append(CultureInfo.InvariantCulture,
                $"<circle class=\"{(trial ? "needle-d" : "pay-ok")}\" cx=\"{N(x)}\" cy=\"48\" r=\"{(trial ? 5 : 8)}\"/><text x=\"{N(x)}\" y=\"16\" "
                + $"font-size=\"11\" text-anchor=\"middle\">{(p.DueAt == start ? "today" : calendar.Date(p.DueAt).ToString("d MMM", culture))}</text><text "
                + $"class=\"strong\" x=\"{N(x)}\" y=\"31\" font-size=\"12\" text-anchor=\"middle\">{Enc(p.Amount.FormatShort(culture))}</text>");
        }
        b.Append(
            CultureInfo.InvariantCulture,
            $"<text x=\"{left}\" y=\"76\" font-size=\"11\">{(schedule.Total is null ? "goes on until they leave" : "open for good")}</text></svg>");
        return new HtmlString(b.ToString());
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
        var b = new StringBuilder();
        b.Append(CultureInfo.InvariantCulture, $"<svg class=\"fluid\" viewBox=\"0 0 820 {height}\" aria-hidden=\"true\">");
        var months = NodaTime.Period.Between(calendar.Date(from), calendar.Date(until), PeriodUnits.Months).Months + 1;
        var step = months <= 7 ? 1 : months <= 18 ? 3 : 6;
        for (var m = calendar.Month(from).PlusMonths(1); calendar.At(m.OnDayOfMonth(1).AtMidnight()) < until; m = m.PlusMonths(1))
        {
            if ((m.Month - 1) % step != 0) continue;
            var x = X(calendar.At(m.OnDayOfMonth(1).AtMidnight()));
            b.Append(CultureInfo.InvariantCulture,
                $"<line class=\"axis\" x1=\"{N(x)}\" x2=\"{N(x)}\" y1=\"20\" y2=\"{height - 8}\"/><text x=\"{N(x)}\" y=\"12\" font-size=\"12\" "
                + $"text-anchor=\"middle\">{m.OnDayOfMonth(1).ToString(m.Month == 1 || step == 6 ? "MMM yy" : "MMM", CultureInfo.InvariantCulture)}</text>");
        }
        b.Append("<text class=\"strong\" x=\"0\" y=\"41\" font-size=\"13\">Standing</text>");
        foreach (var s in line.Stretches)
        {
            var (x0, x1) = (X(s.From), X(s.To));
            var word = s.State.Standing.Word();
            b.Append(CultureInfo.InvariantCulture,
                $"<rect class=\"bar-{word}\" x=\"{N(x0)}\" y=\"28\" width=\"{N(Math.Max(2, x1 - x0 - 1))}\" height=\"18\" rx=\"3\"/>");
            if (x1 - x0 > 52) b.Append(CultureInfo.InvariantCulture,
                $"<text class=\"bar-word{(s.State.Standing is Standing.Lapsed or Standing.Guest ? " on-pale" : "")}\" x=\"{N((x0 + x1) / 2)}\" y=\"41\" "
                + $"text-anchor=\"middle\">{word}</text>");
        }
        var y = 60.0;
        foreach (var row in holdings)
        {
            b.Append(CultureInfo.InvariantCulture, $"<text class=\"strong\" x=\"0\" y=\"{N(y + 10)}\" font-size=\"13\">{Enc(row.Name)}</text>");
            foreach (var (f, t) in row.Spans) b.Append(
                CultureInfo.InvariantCulture,
                $"<rect class=\"hold-bar{(row.Gift ? " gift" : "")}\" x=\"{N(X(f))}\" y=\"{N(y)}\" width=\"{N(Math.Max(3, X(t ?? until) - X(f)))}\" "
                + $"height=\"12\" rx=\"6\"/>");
            y += 24;
        }
        b.Append(CultureInfo.InvariantCulture, $"<text class=\"strong\" x=\"0\" y=\"{N(y + 10)}\" font-size=\"13\">Payments</text>");
        foreach (var (at, paid) in payments) b.Append(
            CultureInfo.InvariantCulture, $"<circle class=\"{(paid ? "pay-ok" : "pay-no")}\" cx=\"{N(X(at))}\" cy=\"{N(y + 6)}\" r=\"4\"/>");
        y += 26;
        b.Append(CultureInfo.InvariantCulture, $"<text class=\"strong\" x=\"0\" y=\"{N(y + 10)}\" font-size=\"13\">Opened</text>");
        foreach (var week in openings.GroupBy(o => (int)((o - from).TotalDays / 7)))
            b.Append(CultureInfo.InvariantCulture,
                $"<rect class=\"open-bar\" x=\"{N(X(from + Duration.FromDays(week.Key * 7)))}\" y=\"{N(y + 14 - Math.Min(14, 3 + week.Count() * 2.5))}\" "
                + $"width=\"4\" height=\"{N(Math.Min(14, 3 + week.Count() * 2.5))}\"/>");
        b.Append(
            CultureInfo.InvariantCulture,
            $"<line class=\"needle-l\" stroke-width=\"2.5\" x1=\"{N(X(now))}\" x2=\"{N(X(now))}\" y1=\"20\" y2=\"{height - 6}\"/></svg>");
        return new HtmlString(b.ToString());
    }

    /// <summary>A cover where there is no picture: where in the year the piece stands, in its shelf's colour.</summary>
    public static IHtmlContent Cover(Shelf shelf, int month, long seed)
    {
        var cx = 60 + seed * 37 % 140;
        var b = new StringBuilder();
        b.Append(
            CultureInfo.InvariantCulture,
            $"<svg class=\"cover f{shelf.Colour}\" viewBox=\"0 0 260 104\" preserveAspectRatio=\"xMidYMid slice\" aria-hidden=\"true\"><rect "
            + $"class=\"cover-bg\" width=\"260\" height=\"104\"/>");
        for (var r = 0; r < 5; r++)
        {
            var radius = 26 + r * 24;
            b.Append(CultureInfo.InvariantCulture,
                $"<circle class=\"cover-c\" cx=\"{cx}\" cy=\"92\" r=\"{radius}\" stroke-width=\"{N(2 + (r + seed) % 3 * 3)}\"/>");
        }
        var (a0, a1) = ((month - 1) * Math.PI / 6, month * Math.PI / 6);
        // The ring is turned so that its month always lies in the visible half.
        var turn = -(a0 + a1) / 2 + (seed % 5 - 2) * .22;
        foreach (var radius in (int[])[50, 74, 98])
            b.Append(CultureInfo.InvariantCulture,
                $"<path class=\"cover-now\" stroke-width=\"9\" d=\"M{N(cx + radius * Math.Sin(a0 + turn))} {N(92 - radius * Math.Cos(a0 + turn))}A{radius} "
                + $"{radius} 0 0 1 {N(cx + radius * Math.Sin(a1 + turn))} {N(92 - radius * Math.Cos(a1 + turn))}\"/>");
        b.Append("</svg>");
        return new HtmlString(b.ToString());
    }

    /// <summary>A small ring of how much is done; the words stand beside it.</summary>
    public static IHtmlContent ProgressRing(int done, int of)
    {
        var share = of == 0 ? 0 : 100.0 * done / of;
        return new HtmlString(string.Create(CultureInfo.InvariantCulture,
            $"<svg class=\"progress-ring\" viewBox=\"0 0 48 48\" aria-hidden=\"true\"><circle cx=\"24\" cy=\"24\" r=\"19\" class=\"ring-bg\"/><circle "
            + $"cx=\"24\" cy=\"24\" r=\"19\" class=\"ring-arc\" pathLength=\"100\" stroke-dasharray=\"{N(share)} 100\" transform=\"rotate(-90 24 "
            + $"24)\"/></svg>"));
    }

    /// <summary>A week's tally as a small ring: a stretch for each time of the aim, in the middle how often it was done. The words stand beside it.</summary>
    public static IHtmlContent TallyRing(TallyWeek week)
    {
        var b = new StringBuilder("<svg class=\"tally-ring\" viewBox=\"0 0 64 64\" aria-hidden=\"true\">");
        // More than a dozen stretches can't be told apart: then the ring is one.
        var parts = week.Aim <= 12 ? week.Aim : 1;
        for (var i = 0; i < parts; i++)
        {
            var share = parts == 1 ? week.Share : i < week.Done ? 1 : 0;
            var (gap, each) = (parts == 1 ? 0 : 4.0, 100.0 / parts);
            b.Append(CultureInfo.InvariantCulture,
                $"<circle cx=\"32\" cy=\"32\" r=\"26\" class=\"ring-bg\" pathLength=\"100\" stroke-dasharray=\"{N(each - gap)} 100\" "
                + $"stroke-dashoffset=\"{N(-i * each - gap / 2)}\" transform=\"rotate(-90 32 32)\"/>");
            if (share > 0) b.Append(CultureInfo.InvariantCulture,
                $"<circle cx=\"32\" cy=\"32\" r=\"26\" class=\"ring-arc{(week.Met ? " met" : "")}\" pathLength=\"100\" "
                + $"stroke-dasharray=\"{N((each - gap) * share)} 100\" stroke-dashoffset=\"{N(-i * each - gap / 2)}\" transform=\"rotate(-90 32 32)\"/>");
        }
        b.Append(CultureInfo.InvariantCulture, $"<text x=\"32\" y=\"39\" text-anchor=\"middle\">{week.Done}</text></svg>");
        return new HtmlString(b.ToString());
    }

    /// <summary>The weeks of a tally as columns, each with a line at its aim; the table beside it says the same in figures.</summary>
    public static IHtmlContent TallyWeeks(IReadOnlyList<TallyWeek> weeks, string title)
    {
        const double w = 22, h = 96;
        var most = 1.12 * weeks.Max(x => Math.Max(x.Done, x.Aim));
        var b = new StringBuilder();
        b.Append(
            CultureInfo.InvariantCulture,
            $"<svg class=\"tally-weeks\" viewBox=\"0 0 {N(weeks.Count * w)} {N(h + 22)}\" role=\"img\" aria-label=\"{Enc(title)}\">");
        var month = 0;
        for (var i = 0; i < weeks.Count; i++)
        {
            var x = weeks[i];
            var (height, aim) = (h * x.Done / most, h - h * x.Aim / most);
            b.Append(CultureInfo.InvariantCulture,
                $"<rect class=\"col{(x.Met ? " met" : "")}\" x=\"{N(i * w + 3)}\" y=\"{N(h - height)}\" width=\"{N(w - 6)}\" height=\"{N(height)}\" "
                + $"rx=\"2\"><title>{Enc($"{x.Week}: {x.Done} of {x.Aim}")}</title></rect><line class=\"aim\" x1=\"{N(i * w)}\" x2=\"{N((i + 1) * w)}\" "
                + $"y1=\"{N(aim)}\" y2=\"{N(aim)}\"/>");
            if (x.Week.Sunday.Month != month && (i == 0 || x.Week.Sunday.Day <= 7))
                b.Append(CultureInfo.InvariantCulture,
                $"<text x=\"{N(i * w + 3)}\" y=\"{N(h + 16)}\" font-size=\"11\">{x.Week.Sunday.ToString("MMM", CultureInfo.InvariantCulture)}</text>");
            month = x.Week.Sunday.Month;
        }
        b.Append(CultureInfo.InvariantCulture, $"<line class=\"base\" x1=\"0\" x2=\"{N(weeks.Count * w)}\" y1=\"{N(h)}\" y2=\"{N(h)}\"/></svg>");
        return new HtmlString(b.ToString());
    }

    /// <summary>Where the house clock stands in the ribbon of twelve months, from 0 to 100.</summary>
    public static double NeedleAt(YearMonth first, Instant now, SiteCalendar calendar)
    {
        var local = calendar.Local(now);
        var month = (local.Year - first.Year) * 12 + local.Month - first.Month;
        return (month + (local.Day - 1 + local.Hour / 24.0) / CalendarSystem.Iso.GetDaysInMonth(local.Year, local.Month)) / 12 * 100;
    }
}
