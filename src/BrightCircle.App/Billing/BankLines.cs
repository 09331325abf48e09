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
    /// <summary>The reference is of an order, and several amounts stand in the line: which one came in isn't said.</summary>
    Unclear,
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
    /// <summary>So much of a field is looked through for a reference: banks give 140 letters for the words of a transfer.</summary>
    const int LongestField = 1000;

    // What banks write above their columns, in the languages of the neighbours (common practice).
    static readonly string[] InWords = ["amount", "credit", "paid in", "money in", "received", "betrag", "haben", "montant", "crédit", "importe", "importo",
        "bedrag"];
    static readonly string[] OtherWords = ["balance", "saldo", "solde", "kontostand", "debit", "débit", "paid out", "money out", "withdraw", "soll", "fee"];

    /// <param name="csv">As the bank gives it: with a heading, and commas, semicolons or tabs between the fields.</param>
    public async Task<Result<IReadOnlyList<BankLine>>> Read(string? csv, CancellationToken ct)
    {
        if (string.IsNullOrWhiteSpace(csv)) return Result.Refused("Choose the bank’s list, as CSV.", "List");
        if (csv.Length > MostLetters) return Result.Refused("That file is too large. Take fewer weeks at once.", "List");
        var rows = CsvRows.Read(csv.TrimStart('\uFEFF'));
        if (rows.Count == 0) return Result.Refused("Nothing stands in that file.", "List");
        if (rows.Count > MostLines) return Result.Refused($"At most {MostLines} lines at once.", "List");
        var references = rows.Select(r => r.Cells.Select(c => c.Length > LongestField ? c[..LongestField] : c).SelectMany(CreditorReference.FindIn).Distinct()
            .ToArray()).ToArray();
        var all = references.SelectMany(r => r).Distinct().ToArray();
        var orders = await db.Checkouts.AsNoTracking().Where(c => c.Reference != null && all.Contains(c.Reference)).ToDictionaryAsync(c => c.Reference!, ct);
        // What is asked for a turn has no price of its own.
        var holdings = orders.Values.Where(o => o.PriceId is null).Select(o => o.HoldingId!.Value).ToArray();
        var plans = await db.Holdings.Where(h => holdings.Contains(h.Id)).Select(h => new { h.Id, h.PlanId }).ToDictionaryAsync(h => h.Id, h => h.PlanId, ct);
        var now = catalogue.Now;
        var dates = TypedDay.OrderOf(now.Culture);
        var column = Columns(rows[0].Cells.Any(c => Amount(c) is not null || TypedDay.Read(c, dates) is not null) ? [] : rows[0].Cells);
        var lines = new List<BankLine>();
        for (var i = 0; i < rows.Count; i++)
        {
            var cells = rows[i].Cells;
            var known = references[i].Select(orders.GetValueOrDefault).OfType<Checkout>().ToArray();
            var amounts = cells.Where((_, at) => column(at)).Select(Amount).OfType<Money>().Where(a => a.Minor != 0).Distinct().ToArray();
            // A heading, and what went out, say nothing of money that came.
            if (known.Length == 0 && (amounts.Length == 0 || amounts.Any(a => a.Minor < 0))) continue;
            var order = known.Length == 1 ? known[0] : null;
            var amount = amounts.Length == 1 && amounts[0].Minor > 0 ? amounts[0] : (Money?)null;
            var match = known.Length > 1 ? BankMatch.Several : order is null ? BankMatch.None : order.State != CheckoutState.Placed ? BankMatch.NotWaiting
                : amount is null ? BankMatch.Unclear : amount == order.Asked ? BankMatch.Fits : BankMatch.OtherAmount;
            var plan = order is null ? (PlanId?)null : order.PriceId is { } price ? now.PriceById[price].PlanId : plans[order.HoldingId!.Value];
            lines.Add(new(rows[i].Line, string.Join(" · ", cells.Select(f => f.Trim()).Where(f => f.Length > 0)),
                cells.Select(c => TypedDay.Read(c, dates)).FirstOrDefault(d => d is not null), amount, match, order, plan));
        }
        // The first of several lines for one order pays it; after that it doesn't wait any more.
        var paid = new HashSet<long>();
        for (var i = 0; i < lines.Count; i++)
            if (lines[i].Match == BankMatch.Fits && !paid.Add(lines[i].Order!.Id)) lines[i] = lines[i] with { Match = BankMatch.NotWaiting };
        return lines;

        // By the heading: the column of what came in where one is named so, else all but those of what went out and of what is left.
        static Func<int, bool> Columns(List<string> heads)
        {
            bool Says(int at, string[] words) => at < heads.Count && words.Any(w => heads[at].Contains(w, StringComparison.OrdinalIgnoreCase));
            var named = Enumerable.Range(0, heads.Count).Where(at => Says(at, InWords) && !Says(at, OtherWords)).ToHashSet();
            return named.Count > 0 ? named.Contains : at => !Says(at, OtherWords);
        }

        // A field is an amount where all of it is one; signs, spaces and the currency's own are let through.
        Money? Amount(string field)
        {
            var typed = field.Trim().Replace(now.Currency.Code, "", StringComparison.OrdinalIgnoreCase).Trim();
            if (typed.Length is 0 or > 20 || !typed.Any(char.IsAsciiDigit) || typed.Any(char.IsLetter) || TypedDay.Read(typed, dates) is not null) return null;
            var minus = typed[0] is '-' or '−';
            // An amount that can be read in two ways is none: nothing is guessed.
            return Money.Read(typed.TrimStart('+', '-', '−'), now.Currency, now.Culture) is AmountRead.Amount { Money: var money } ? minus ? -money : money
                : null;
        }
    }
}
