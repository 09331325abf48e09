using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>How a line of the bank's list goes with what is waited for.</summary>
public enum BankMatch
{
    /// <summary>Reference and amount are those of an order that waits.</summary>
    Fits,
    /// <summary>The reference is of an order, and the amount is another one.</summary>
    OtherAmount,
    /// <summary>The order doesn't wait any more: paid, given up, or called off.</summary>
    NotWaiting,
    /// <summary>It names several orders.</summary>
    Several,
    /// <summary>It names no order of this site.</summary>
    None,
}

/// <param name="Number">The line in the file, from 1.</param>
/// <param name="Text">What the bank says, for people.</param>
/// <param name="Amount">Null where it couldn't be read.</param>
public sealed record BankLine(int Number, string Text, LocalDate? Day, Money? Amount, BankMatch Match, Checkout? Order, PlanId? Plan);

/// <summary>
/// Reads a bank's list of money that came in, and finds the orders it pays: by the reference and the exact amount, and by nothing else.
/// </summary>
public sealed class BankLines(BrightContext db, Catalogue catalogue)
{
    public const int MostLines = 5000, MostLetters = 2_000_000;

    /// <param name="csv">As the bank gives it: with a heading, and commas, semicolons or tabs between the fields.</param>
    public async Task<Result<IReadOnlyList<BankLine>>> Read(string? csv, CancellationToken ct)
    {
        if (string.IsNullOrWhiteSpace(csv)) return Result.Refused("Choose the bank’s list, as CSV.", "List");
        if (csv.Length > MostLetters) return Result.Refused("That file is too large. Take fewer weeks at once.", "List");
        var rows = CsvRows.Read(csv.TrimStart('\uFEFF'));
        if (rows.Count > MostLines) return Result.Refused($"At most {MostLines} lines at once.", "List");
        var references = rows.Select(r => r.Cells.SelectMany(CreditorReference.FindIn).Distinct().ToArray()).ToArray();
        var all = references.SelectMany(r => r).Distinct().ToArray();
        var orders = await db.Checkouts.AsNoTracking().Where(c => c.Reference != null && all.Contains(c.Reference)).ToDictionaryAsync(c => c.Reference!, ct);
        var holdings = orders.Values.Where(o => o.PriceId is null && o.HoldingId is not null).Select(o => o.HoldingId!.Value).ToArray();
        var plans = await db.Holdings.AsNoTracking().Where(h => holdings.Contains(h.Id)).ToDictionaryAsync(h => h.Id, h => h.PlanId, ct);
        var now = catalogue.Now;
        var lines = new List<BankLine>();
        for (var i = 0; i < rows.Count; i++)
        {
            var cells = rows[i].Cells;
            var known = references[i].Select(orders.GetValueOrDefault).OfType<Checkout>().ToArray();
            var amounts = cells.Select(Amount).OfType<Money>().ToArray();
            // A heading, and what went out, say nothing of money that came.
            if (known.Length == 0 && amounts.All(a => a.Minor <= 0)) continue;
            var order = known.Length == 1 ? known[0] : null;
            var amount = order?.Asked is { } asked && amounts.Contains(asked) ? asked : amounts.Where(a => a.Minor > 0).Select(a => (Money?)a).FirstOrDefault();
            var match = known.Length > 1 ? BankMatch.Several : order is null ? BankMatch.None
                : order.State != CheckoutState.Placed ? BankMatch.NotWaiting : amount == order.Asked ? BankMatch.Fits : BankMatch.OtherAmount;
            var plan = order is null ? (PlanId?)null : order.PriceId is { } price ? now.PriceById[price].PlanId : plans[order.HoldingId!.Value];
            lines.Add(new(rows[i].Line, string.Join(" · ", cells.Select(f => f.Trim()).Where(f => f.Length > 0)),
                cells.Select(Day).FirstOrDefault(d => d is not null),
                amount, match, order, plan));
        }
        // Two lines for one order are one payment too many: neither is taken by itself.
        foreach (var twice in lines.Where(l => l.Match == BankMatch.Fits).GroupBy(l => l.Order!.Id).Where(g => g.Count() > 1).SelectMany(g => g.Skip(1))
            .ToArray())
            lines[lines.IndexOf(twice)] = twice with { Match = BankMatch.NotWaiting };
        return lines;

        // A field is an amount where all of it is one; signs, spaces and the currency's own are let through.
        Money? Amount(string field)
        {
            var typed = field.Trim().Replace(now.Currency.Code, "", StringComparison.OrdinalIgnoreCase).Trim();
            if (typed.Length is 0 or > 20 || !typed.Any(char.IsAsciiDigit) || typed.Any(char.IsLetter) || Day(typed) is not null) return null;
            var minus = typed[0] is '-' or '−';
            // An amount that can be read in two ways is none: nothing is guessed.
            return Money.Read(typed.TrimStart('+', '-', '−'), now.Currency, now.Culture) is AmountRead.Amount { Money: var money } ? minus ? -money : money
                : null;
        }

        LocalDate? Day(string field)
        {
            foreach (var pattern in Days)
                if (pattern.Parse(field.Trim()) is { Success: true } day) return day.Value;
            return null;
        }
    }

    // A day with a four-digit year first, or written out with dots or slashes as on the continent; 03/04/2026 in another order can't be told apart.
    static readonly NodaTime.Text.LocalDatePattern[] Days =
    [
        NodaTime.Text.LocalDatePattern.Iso, NodaTime.Text.LocalDatePattern.CreateWithInvariantCulture("dd.MM.uuuu"),
        NodaTime.Text.LocalDatePattern.CreateWithInvariantCulture("dd/MM/uuuu"), NodaTime.Text.LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu"),
    ];
}
