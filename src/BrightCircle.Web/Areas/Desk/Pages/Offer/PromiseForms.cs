using System.ComponentModel.DataAnnotations;
using System.Globalization;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Web.House;
using NodaTime;
using NodaTime.Text;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A pace as it is typed. What can't be read says so.</summary>
public sealed class PaceForm
{
    static readonly LocalTimePattern Time = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    /// <summary>Nothing for none of its own; once, steps, dates.</summary>
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Kind { get; set; } = "";
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Every { get; set; } = "7";
    public PaceUnit Unit { get; set; }
    public string? At { get; set; } = "09:00";
    public PacePart Part { get; set; }
    public PaceFrom From { get; set; }
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Lead { get; set; } = "0";
    public bool After { get; set; }
    /// <summary>A date and time a line.</summary>
    public string? Dates { get; set; }

    public static PaceForm Of(Pace? pace) => pace switch
    {
        null => new(),
        Pace.AtOnce a => new() { Kind = "once", After = a.AfterPrevious },
        Pace.Steps s => new()
        {
            Kind = "steps",
            Every = s.Every.ToString(CultureInfo.InvariantCulture),
            Unit = s.Unit,
            At = s.At is { } at ? Time.Format(at) : "",
            Part = s.Part,
            From = s.From,
            Lead = s.Lead.ToString(CultureInfo.InvariantCulture),
            After = s.AfterPrevious,
        },
        Pace.OnDates d => new() { Kind = "dates", Part = d.Part, After = d.AfterPrevious, Dates = string.Join("\n", d.Dates.Select(LocalInput.Write)) },
        _ => throw new InvalidOperationException($"No such pace: {pace}"),
    };

    /// <returns>The pace (null for none of its own), or what is wrong with it.</returns>
    public (Pace? Pace, string? Wrong) Read()
    {
        switch (Kind)
        {
            case "":
                return (null, null);
            case "once":
                return (new Pace.AtOnce(After), null);
            case "steps":
                if (!int.TryParse(Every, CultureInfo.InvariantCulture, out var every) || every is < 1 or > Pace.Most)
                    return (null, $"“{Every}” isn’t a number of days, weeks or months from 1 to {Pace.Most}.");
                if (!int.TryParse(Lead, CultureInfo.InvariantCulture, out var lead) || lead is < 0 or > Pace.Most)
                    return (null, $"“{Lead}” isn’t a number of days from 0 to {Pace.Most}.");
                LocalTime? at = null;
                if (!string.IsNullOrWhiteSpace(At))
                {
                    var parsed = Time.Parse(At.Trim().Length > 5 ? At.Trim()[..5] : At.Trim());
                    if (!parsed.Success) return (null, $"“{At}” isn’t a time of day. Write it as 09:00, or nothing for the hour they joined at.");
                    at = parsed.Value;
                }
                return (new Pace.Steps(every, Unit, at, Part, From, lead, After), null);
            case "dates":
                var dates = new List<LocalDateTime>();
                foreach (var line in (Dates ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
                {
                    var typed = line.Replace(' ', 'T');
                    if (typed.Length == 10) typed += "T09:00";
                    if (!LocalInput.TryReadMoment(typed, out var moment)) return (null, $"“{line}” isn’t a date. Write it as 2026-12-03 09:00, one a line.");
                    dates.Add(moment);
                }
                return (new Pace.OnDates([.. dates.Order()], Part, After), null);
            default:
                return (null, "Choose how it opens.");
        }
    }
}

/// <summary>One line of a promise as it is typed.</summary>
public sealed class PromiseLine
{
    /// <summary>everything, shelf-…, tally-…, or "one" with its name in <see cref="Thing"/>.</summary>
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Covers { get; set; } = "one";
    /// <summary>"Piece", "Piece › Module" or "Piece › Lesson".</summary>
    public string? Thing { get; set; }
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Reach { get; set; } = "everything";
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Latest { get; set; } = "3";
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string Keep { get; set; } = "nothing";
    [DisplayFormat(ConvertEmptyStringToNull = false)] public string KeepCount { get; set; } = "30";
    public PeriodUnit KeepUnit { get; set; }
    public PaceForm Pace { get; set; } = new();
    /// <summary>How long from joining; empty for without end.</summary>
    public string? Ends { get; set; }
    public PeriodUnit EndsUnit { get; set; } = PeriodUnit.Months;
    /// <summary>The plan that has to be held as well; 0 for none.</summary>
    public long NeedPlan { get; set; }
    /// <summary>The piece or lesson that has to be done before.</summary>
    public string? NeedDone { get; set; }
}

/// <summary>Reads and writes the lines of a promise.</summary>
public sealed class PromiseReading(CatalogueSnapshot now, Plan? plan)
{
    public PromiseLine Write(Inclusion i) => new()
    {
        Covers = i.Covers switch
        {
            Coverage.OnShelf s => $"shelf-{s.Shelf.Value}",
            Coverage.OneTally t => $"tally-{t.Tally.Value}",
            Coverage.OneSpace s => $"{(s.ReadOnly ? "reading" : "space")}-{s.Space.Value}",
            Coverage.OneSeries s => $"live-{s.Series.Value}",
            Coverage.WhatAPlanOpens o => $"plan-{o.Plan.Value}",
            Coverage.Everything => "everything",
            Coverage.OnePiece or Coverage.OneModule or Coverage.OneLesson => "one",
            _ => throw new ArgumentOutOfRangeException(nameof(i), i.Covers, "No such coverage."),
        },
        Thing = NameOf(i.Covers),
        Reach = i.Reach switch
        {
            Reach.EverythingReleased => "everything",
            Reach.FromJoining => "joining",
            Reach.WhilePaid => "paid",
            Reach.LastEditions => "latest",
            _ => throw new ArgumentOutOfRangeException(nameof(i), i.Reach, "No such reach."),
        },
        Latest = i.Reach is Reach.LastEditions l ? l.Count.ToString(CultureInfo.InvariantCulture) : "3",
        Keep = i.Keep switch
        {
            Keep.Nothing => "nothing",
            Keep.WhatHadOpened => "opened",
            Keep.ForPeriod => "period",
            _ => throw new ArgumentOutOfRangeException(nameof(i), i.Keep, "No such keep."),
        },
        KeepCount = i.Keep is Keep.ForPeriod p ? p.Length.Count.ToString(CultureInfo.InvariantCulture) : "30",
        KeepUnit = i.Keep is Keep.ForPeriod q ? q.Length.Unit : PeriodUnit.Days,
        Pace = PaceForm.Of(i.Pace),
        Ends = i.Ends?.Count.ToString(CultureInfo.InvariantCulture),
        EndsUnit = i.Ends?.Unit ?? PeriodUnit.Months,
        NeedPlan = i.Needs?.OfType<Need.HoldingPlan>().FirstOrDefault()?.Plan.Value ?? 0,
        NeedDone = (i.Needs ?? []).Select(n => n switch
        {
            Need.DoneLesson l when now.LessonById.ContainsKey(l.Lesson) => NameOf(new Coverage.OneLesson(l.Lesson)),
            Need.DonePiece p when now.PieceById.ContainsKey(p.Piece) => NameOf(new Coverage.OnePiece(p.Piece)),
            _ => null,
        }).FirstOrDefault(n => n is not null),
    };

    /// <summary>What a line says; null with a sentence where it can't be read.</summary>
    public (Inclusion? Line, string? Wrong) Read(PromiseLine l)
    {
        var id = l.Covers.Contains('-') && long.TryParse(l.Covers.AsSpan(l.Covers.IndexOf('-') + 1), CultureInfo.InvariantCulture, out var n) ? n : 0;
        Coverage? covers = l.Covers.StartsWith("shelf-", StringComparison.Ordinal) ? new Coverage.OnShelf(new(id))
            : l.Covers.StartsWith("tally-", StringComparison.Ordinal) ? new Coverage.OneTally(new(id))
            : l.Covers.StartsWith("space-", StringComparison.Ordinal) ? new Coverage.OneSpace(new(id))
            : l.Covers.StartsWith("reading-", StringComparison.Ordinal) ? new Coverage.OneSpace(new(id), true)
            : l.Covers.StartsWith("live-", StringComparison.Ordinal) ? new Coverage.OneSeries(new(id))
            : l.Covers.StartsWith("plan-", StringComparison.Ordinal) ? new Coverage.WhatAPlanOpens(new(id)) : l.Covers == "one"
                ? null : new Coverage.Everything();
        if (covers is null)
        {
            (covers, var wrong) = Find(l.Thing);
            if (covers is null) return (null, wrong);
        }
        var latest = 0;
        if (l.Reach == "latest" && (!int.TryParse(l.Latest, CultureInfo.InvariantCulture, out latest) || latest is < 1 or > Reach.LastEditions.Most))
            return (null, $"“{l.Latest}” isn’t a number of editions from 1 to {Reach.LastEditions.Most}.");
        Period? kept = null, ends = null;
        if (l.Keep == "period" && (kept = Length(l.KeepCount, l.KeepUnit)) is null)
            return (null, $"“{l.KeepCount}” isn’t a length from 1 to {Period.MaxCount}.");
        if (!string.IsNullOrWhiteSpace(l.Ends) && (ends = Length(l.Ends, l.EndsUnit)) is null)
            return (null, $"“{l.Ends}” isn’t a length from 1 to {Period.MaxCount}.");
        var (pace, paceWrong) = l.Pace.Read();
        if (paceWrong is not null) return (null, paceWrong);
        var needs = new List<Need>();
        if (l.NeedPlan > 0) needs.Add(new Need.HoldingPlan(new(l.NeedPlan)));
        if (!string.IsNullOrWhiteSpace(l.NeedDone))
            switch (Find(l.NeedDone))
            {
                case (Coverage.OnePiece p, _):
                    needs.Add(new Need.DonePiece(p.Piece));
                    break;
                case (Coverage.OneLesson x, _):
                    needs.Add(new Need.DoneLesson(x.Lesson));
                    break;
                case (null, var missing):
                    return (null, missing);
                default:
                    return (null, $"“{l.NeedDone.Trim()}” is a module. Name a lesson of it, or the whole piece.");
            }
        return (new(covers,
            l.Reach switch
            {
                "joining" => new Reach.FromJoining(),
                "paid" => new Reach.WhilePaid(),
                "latest" => new Reach.LastEditions(latest),
                _ => new Reach.EverythingReleased(),
            },
            kept is { } k ? new Keep.ForPeriod(k) : l.Keep == "opened" ? new Keep.WhatHadOpened() : new Keep.Nothing(), pace, ends,
            needs.Count > 0 ? needs : null), null);
    }

    static Period? Length(string typed, PeriodUnit unit) =>
        int.TryParse(typed, CultureInfo.InvariantCulture, out var n) && n is >= 1 and <= Period.MaxCount && Enum.IsDefined(unit) ? new(n, unit) : null;

    /// <summary>What piece-7, module-7 or lesson-7 means; null for anything else.</summary>
    public static Coverage? Named(string? text) => text?.Split('-') is not [var kind, var number]
        || !long.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var id) ? null : kind switch
        {
            "piece" => new Coverage.OnePiece(new(id)),
            "module" => new Coverage.OneModule(new(id)),
            "lesson" => new Coverage.OneLesson(new(id)),
            _ => null,
        };

    public string NameOf(Coverage covers) => covers switch
    {
        Coverage.OnePiece p when now.PieceById.TryGetValue(p.Piece, out var piece) => piece.Title,
        Coverage.OneModule m when now.Content.ModuleById.TryGetValue(m.Module, out var module) => $"{module.Piece.Title} › {module.Module.Title}",
        Coverage.OneLesson l when now.LessonById.TryGetValue(l.Lesson, out var lesson) => $"{now.PieceOf(lesson).Title} › {lesson.Title}",
        _ => "",
    };

    /// <summary>What a name means; what it could mean is said where it isn't one thing.</summary>
    (Coverage? Found, string? Wrong) Find(string? name)
    {
        static bool Same(string a, string b) => string.Equals(a.Trim(), b.Trim(), StringComparison.CurrentCultureIgnoreCase);
        var typed = name?.Trim() ?? "";
        if (typed.Length == 0) return (null, "Which one? Write the title of a piece, or “Piece › Lesson”.");
        var parts = typed.Split('›', 2);
        var inside = parts.Length > 1 ? parts[1] : null;
        Coverage[] found = [.. now.Pieces.Where(p => Same(p.Title, parts[0])).SelectMany(p => inside is null ? [new Coverage.OnePiece(p.Id)]
            : p.Outline.Modules.Where(m => Same(m.Title, inside)).Select(m => (Coverage)new Coverage.OneModule(m.Id))
                .Concat(p.Outline.Lessons.Where(l => Same(l.Title, inside)).Select(l => new Coverage.OneLesson(l.Id))))];
        // What was chosen before stays what it is, whatever else has its name by now.
        if (found.Length > 1 && plan?.Promise.Select(i => i.Covers).FirstOrDefault(found.Contains) is { } known) return (known, null);
        if (found.Length == 1) return (found[0], null);
        return (null, found.Length == 0 ? $"There is nothing called “{typed}”. Write the title of a piece, or “Piece › Lesson”."
            : $"Several are called “{typed}”. Give one of them another name first.");
    }

    /// <summary>Names that go on from what is typed.</summary>
    public IEnumerable<string> Suggest(string typed) => typed.Length < 2 ? []
        : now.Pieces.SelectMany(p => p.Outline.Modules.Select(m => m.Title).Concat(p.IsCourse ? p.Outline.Lessons.Select(l => l.Title) : [])
            .Select(t => $"{p.Title} › {t}").Prepend(p.Title))
            .Where(n => n.Contains(typed, StringComparison.CurrentCultureIgnoreCase)).Distinct().OrderBy(n => n.Contains('›')).Take(12);
}

/// <summary>The parts of a promise's sentence, each to be pressed and changed.</summary>
public static class PromiseSays
{
    public static string Covers(Inclusion? read, CatalogueSnapshot now) => read?.Covers switch
    {
        null => "Something that has to be named",
        Coverage.Everything => "Everything on every shelf",
        Coverage.OnShelf s => now.ShelfById.TryGetValue(s.Shelf, out var shelf) ? $"Everything on {shelf.Name}" : "A shelf that is gone",
        Coverage.OneTally t => now.TallyById.TryGetValue(t.Tally, out var tally) ? $"The tally {tally.Name}" : "A tally that is gone",
        Coverage.OneSpace s => now.SpaceById.TryGetValue(s.Space, out var space) ? $"The space {space.Name}{(s.ReadOnly ? ", to read along" : "")}"
            : "A space that is gone",
        Coverage.OneSeries s => now.Community.SeriesById.TryGetValue(s.Series, out var series) ? $"The live sessions {series.Name}"
            : "Live sessions that are gone",
        Coverage.WhatAPlanOpens p => $"As a bonus, everything that {(now.PlanById.ContainsKey(p.Plan) ? now.PlanName(p.Plan) : "a plan that is gone")} opens",
        Coverage.OnePiece p => now.PieceById.TryGetValue(p.Piece, out var piece) ? $"{(piece.IsCourse ? "The course" : "The piece")} “{piece.Title}”"
            : "A piece that is gone",
        Coverage.OneModule m => now.Content.ModuleById.TryGetValue(m.Module, out var module) ? $"“{module.Module.Title}” of “{module.Piece.Title}”"
            : "A module that is gone",
        Coverage.OneLesson x => now.LessonById.TryGetValue(x.Lesson, out var lesson) ? $"The lesson “{lesson.Title}”" : "A lesson that is gone",
        { } other => throw new InvalidOperationException($"No such coverage: {other}"),
    };

    public static string Reach(Inclusion? read) => read?.Reach switch
    {
        null or Core.Offer.Reach.EverythingReleased => "however old it is",
        { } reach => PromiseWords.ReachWords(reach),
    };

    public static string Pace(Inclusion? read) => read?.Pace is { } pace ? PaceWords.Describe(pace) : "as soon as it is out";

    public static string Keep(Inclusion? read) => read?.Keep switch
    {
        null => PromiseWords.KeepWords(new Core.Offer.Keep.Nothing()),
        Core.Offer.Keep.Nothing nothing => PromiseWords.KeepWords(nothing),
        { } keep => "and " + PromiseWords.KeepWords(keep),
    };

    public static string More(Inclusion? read, CatalogueSnapshot now)
    {
        var parts = new List<string>();
        if (read?.Ends is { } ends) parts.Add($"for {ends} from joining");
        foreach (var need in read?.Needs ?? [])
            parts.Add(need switch
            {
                Need.HoldingPlan p => $"if they also hold {now.PlanName(p.Plan)}",
                Need.DoneLesson l => $"once “{(now.LessonById.TryGetValue(l.Lesson, out var lesson) ? lesson.Title : "a lesson that is gone")}” is done",
                Need.DonePiece p => $"once “{(now.PieceById.TryGetValue(p.Piece, out var piece) ? piece.Title : "a piece that is gone")}” is done",
                _ => throw new InvalidOperationException($"No such need: {need}"),
            });
        return parts.Count == 0 ? "with no other condition" : string.Join(", ", parts);
    }
}
