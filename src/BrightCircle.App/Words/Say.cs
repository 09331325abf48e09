using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.App.Words;

/// <summary>The product's figures as people say them. Every page and letter words a price, a count or a promise through here.</summary>
public static class Say
{
    /// <summary>"2 of 3 this week, 4 weeks in a row".</summary>
    public static string Words(this TallyStanding s)
    {
        var week = s.ThisWeek.Done > s.ThisWeek.Aim ? $"{s.ThisWeek.Done} this week, the aim is {s.ThisWeek.Aim}"
            : $"{s.ThisWeek.Done} of {s.ThisWeek.Aim} this week";
        return week + (s.Streak > 1 ? $", {s.Streak} weeks in a row" : s.ThisWeek.Met ? ", the aim is met" : "");
    }

    /// <summary>For whom a price is, in a few words; null for anybody.</summary>
    public static string? Buyers(BuyerRule? rule, CatalogueSnapshot now)
    {
        string Names(IReadOnlyList<PlanId> plans) => string.Join(", ", plans.Select(p => now.PlanName(p)));
        return rule switch
        {
            null => null,
            BuyerRule.Holders h => $"for who holds {Names(h.Plans)}",
            BuyerRule.FormerHolders f => $"for who held {Names(f.Plans)}",
            BuyerRule.Newcomers => "for newcomers",
            BuyerRule.Listed => "for a list of members",
            _ => throw new InvalidOperationException($"No such rule: {rule}"),
        };
    }

    /// <summary>A person’s colour beside what they wrote, from 1 to 8: always the same.</summary>
    public static int ColourOf(string name)
    {
        var sum = 7;
        foreach (var c in name) sum = (sum * 31 + c) & 0xFFFF;
        return sum % 8 + 1;
    }

    /// <summary>"£18.00 a month", "£50.00 every 3 months", "£69.00 once", "free".</summary>
    public static string Price(PriceTerms terms, CultureInfo culture) => terms switch
    {
        PriceTerms.Free => "free",
        PriceTerms.OnePayment p => $"{p.Amount.Format(culture)} once",
        PriceTerms.Instalments { First: { } first } i => $"{first.Format(culture)}, then {i.Count - 1} × {i.Amount.Format(culture)} {Every(i.Every)}",
        PriceTerms.Instalments i => $"{i.Count} × {i.Amount.Format(culture)} {Every(i.Every)}",
        PriceTerms.Recurring { First: { } first } r => $"{first.Format(culture)} first, then {r.Amount.Format(culture)} {Every(r.Every)}",
        PriceTerms.Recurring r => $"{r.Amount.Format(culture)} {Every(r.Every)}",
        _ => throw new InvalidOperationException($"No such terms: {terms}"),
    };

    /// <summary>"10 % off 3 payments", "£20.00 off the first payment", "50 % off every payment".</summary>
    public static string Coupon(Coupon c, CultureInfo culture) => $"{Off(c.Off, culture)} off {Of(c.Payments)}";

    static string Off(CouponOff off, CultureInfo culture) => off switch
    {
        CouponOff.Percent p => $"{p.Of100}\u00a0%",
        CouponOff.Amount a => a.Off.Format(culture),
        _ => throw new InvalidOperationException($"No such kind: {off}"),
    };

    static string Of(int? payments) => payments switch { null => "every payment", 1 => "the first payment", { } n => $"the first {n} payments" };

    /// <summary>"a month", "every 3 months".</summary>
    public static string Every(Core.Time.Period period) => period.Count == 1 ? $"a {period.UnitWord}" : $"every {period}";

    /// <summary>"7 days free, then" or "7 days for £1.00, then".</summary>
    public static string TrialThen(Trial trial, CultureInfo culture) =>
        trial.Price.IsZero ? $"{trial.Length} free, then" : $"{trial.Length} for {trial.Price.Format(culture)}, then";

    /// <summary>The whole price in one line: "7 days free, then £18.00 a month", "3 × £26.00 a month, open for 1 year".</summary>
    public static string FullPrice(PriceTerms terms, CultureInfo culture) =>
        (terms.TrialOrNull is { } trial ? $"{TrialThen(trial, culture)} {Price(terms, culture)}" : Price(terms, culture))
            + (terms.JoiningFee is { } fee ? $", and {fee.Format(culture)} for joining" : "")
            + (terms is PriceTerms.Recurring ? "" : OpenFor(terms, culture) is { Length: > 0 } open ? $", {open}" : "")
            + (terms.Seats is { } seats ? $", with {Count(seats, "seat")} for others" : "");

    /// <summary>"open for 1 year", "open until 30 June 2027"; nothing where it doesn't end by itself.</summary>
    public static string OpenFor(PriceTerms terms, CultureInfo culture) => terms.Access switch
    {
        null => "",
        AccessLength.For f => $"open for {f.Length}",
        AccessLength.UntilDay u => $"open until {u.Last.ToString("d MMMM uuuu", culture)}",
        _ => throw new InvalidOperationException($"No such length: {terms.Access}"),
    };

    /// <summary>"£10.00 until 30 November, then £18.00": a sale that runs; nothing where none does.</summary>
    public static string SaleOf(PriceTerms terms, Instant moment, SiteCalendar calendar, CultureInfo culture) => terms.SaleAt(moment) is not { } sale ? ""
        : $"{(sale.All ? "For whoever joins" : "For the first payment")} until {calendar.Date(sale.Until - Duration.Epsilon).ToString("d MMMM", culture)}; "
            + $"usually {terms.Headline!.Value.Format(culture)}.";

    /// <summary>One way to pay beside another: "saves £36.00 (16.7 %) over a year", "£9.00 (13.0 %) more"; nothing where they come to the same.</summary>
    public static string Beside(PriceComparison c, CultureInfo culture)
    {
        if (c.Difference.IsZero) return "";
        var share = (Math.Abs(c.PerMille) / 10m).ToString("0.0", culture) + "\u00a0%";
        return c.Difference.Minor < 0 ? $"saves {(-c.Difference).Format(culture)} ({share}){(c.OverAYear ? " over a year" : "")}"
            : $"{c.Difference.Format(culture)} ({share}) more{(c.OverAYear ? " over a year" : "")}";
    }

    public static string Joined(Plan plan, Core.Offer.Price price, CultureInfo culture) => $"{plan.Name}, {FullPrice(price.Terms, culture)}";

    /// <summary>The big figure of a price card: "£18", "Free".</summary>
    public static string Headline(PriceTerms terms, CultureInfo culture, Instant? at = null) =>
        (at is { } moment ? terms.HeadlineAt(moment) : terms.Headline) is not { } amount ? "Free"
        : terms is PriceTerms.Instalments { First: null } i ? $"{i.Count} × {amount.FormatShort(culture)}" : amount.FormatShort(culture);

    /// <summary>What stands beside the figure: "a month"; nothing where it is paid once.</summary>
    public static string HeadlineEvery(PriceTerms terms) => terms.Interval is { } every ? Every(every) : "";

    /// <summary>The trial in a sentence, where there is one: "7 days free, then £18.00 a month."</summary>
    public static string? TrialSentence(PriceTerms terms, CultureInfo culture) =>
        terms.TrialOrNull is not null || terms.JoiningFee is not null
            || terms is PriceTerms.Recurring { First: not null } or PriceTerms.Instalments { First: not null }
            ? FullPrice(terms with { Access = null, Seats = null }, culture) + "." : null;

    /// <summary>What terms add to a join link: "-month", "-3months", "-once"; nothing for free.</summary>
    public static string CodePart(PriceTerms terms) => terms switch
    {
        PriceTerms.Free => "",
        PriceTerms.OnePayment => "-once",
        PriceTerms.Instalments { Count: var n } => $"-in-{n.ToString(CultureInfo.InvariantCulture)}",
        PriceTerms.Recurring { Every: var e } => e.Count == 1 ? $"-{e.UnitWord}" : $"-{e.Count.ToString(CultureInfo.InvariantCulture)}{e.UnitWord}s",
        _ => throw new InvalidOperationException($"No such terms: {terms}"),
    };

    /// <summary>What a price comes to, so that prices can be compared.</summary>
    public static string Effective(PriceTerms terms, PaymentSchedule schedule, CultureInfo culture, Plan plan) => terms switch
    {
        PriceTerms.Free => terms.Access is null ? "No card needed." : $"No card needed; {OpenFor(terms, culture)}.",
        PriceTerms.OnePayment when terms.Access is not null => $"Paid once, {OpenFor(terms, culture)}.",
        PriceTerms.OnePayment => PromiseWords.Lasts(plan.Promise) is { } length ? $"Paid once, open for {length}." : "Paid once, yours for good.",
        PriceTerms.Instalments =>
            $"{schedule.Total!.Value.Format(culture)} in all{(terms.Access is null ? ", yours for good" : $", {OpenFor(terms, culture)}")}.",
        PriceTerms.Recurring { Every: { Unit: PeriodUnit.Months, Count: 1 } } => $"{schedule.EffectiveYearly!.Value.Format(culture)} over a year.",
        PriceTerms.Recurring => $"That is {schedule.EffectiveMonthly!.Value.Format(culture)} a month.",
        _ => throw new InvalidOperationException($"No such terms: {terms}"),
    };

    /// <summary>At which pace a price opens what its plan promises, as a sentence; nothing where it says nothing of its own.</summary>
    public static string PaceOf(Plan plan, PriceId price) => plan.PaceOf.TryGetValue(price, out var pace) && PaceWords.Describe(pace) is var words
        ? $"{char.ToUpperInvariant(words[0])}{words[1..]}." : "";

    /// <summary>A few names out of many: "a, b and c", "a, b, c and 4 more".</summary>
    public static string List(IEnumerable<string> some, int total)
    {
        string[] names = [.. some];
        if (total > names.Length) return $"{string.Join(", ", names)} and {total - names.Length} more";
        return names.Length <= 1 ? string.Concat(names) : $"{string.Join(", ", names[..^1])} and {names[^1]}";
    }

    /// <summary>"1 member", "3 members".</summary>
    public static string Count(long n, string one, string? many = null) =>
        $"{n.ToString("N0", CultureInfo.GetCultureInfo("en-GB"))} {(n == 1 ? one : many ?? one + "s")}";

    /// <summary>"in 3 days", "tomorrow", "today", "3 days ago", in calendar days of the zone; within the day "in 2 h", "12 min ago".</summary>
    public static string Relative(Instant moment, Instant now, SiteCalendar calendar)
    {
        var days = NodaTime.Period.DaysBetween(calendar.Date(now), calendar.Date(moment));
        if (days == 0)
        {
            var minutes = (long)Math.Round((moment - now).TotalMinutes);
            return minutes switch
            {
                0 => "just now",
                > 0 and < 60 => $"in {minutes} min",
                >= 60 => $"in {minutes / 60} h",
                > -60 => $"{-minutes} min ago",
                _ => $"{-minutes / 60} h ago",
            };
        }
        return days switch
        {
            1 => "tomorrow",
            -1 => "yesterday",
            > 1 and < 60 => $"in {days} days",
            < -1 and > -60 => $"{-days} days ago",
            >= 60 => $"in {days / 30} months",
            _ => $"{-days / 30} months ago",
        };
    }

    /// <summary>"45 min", "1 h", "2 h 10 min".</summary>
    public static string Length(int minutes) => minutes < 60 ? $"{minutes} min" : minutes % 60 == 0 ? $"{minutes / 60} h"
        : $"{minutes / 60} h {minutes % 60} min";

    /// <summary>"820 bytes", "3.4 MB".</summary>
    public static string Bytes(long bytes) => bytes < 1000 ? $"{bytes} bytes" : bytes < 1_000_000 ? $"{bytes / 1000} kB" : bytes < 1_000_000_000
        ? $"{(bytes / 1_000_000.0).ToString("0.#", CultureInfo.InvariantCulture)} MB"
        : $"{(bytes / 1_000_000_000.0).ToString("0.##", CultureInfo.InvariantCulture)} GB";

    /// <summary>A shelf colour by its name, for whoever doesn’t see it.</summary>
    public static string Colour(int number) => number switch
    {
        1 => "blue",
        2 => "orange",
        3 => "green",
        4 => "rose",
        5 => "straw",
        6 => "sky",
        7 => "grey",
        8 => "rust",
        _ => throw new ArgumentOutOfRangeException(nameof(number), number, "There are eight colours."),
    };
}
