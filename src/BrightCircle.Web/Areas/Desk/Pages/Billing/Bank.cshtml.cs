using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Reads the bank's list of what came in, and notes what pays an order.</summary>
public sealed class BankModel(BankLines bank, ReceiveMoney receive) : DeskPage
{
    public override string Place => "bank";
    public IReadOnlyList<BankLine>? Lines { get; private set; }
    public string Iso(LocalDate day) => LocalDatePattern.Iso.Format(day);

    public string Found => Lines!.Count(l => l.Match == BankMatch.Fits) is > 0 and var n
        ? $"{Count(n, "line")} of {Lines!.Count} {(n == 1 ? "pays" : "pay")} an order"
        : Lines!.Count == 0 ? "No money came in by this list" : "None of these lines pays an order by its reference and amount";

    public string Word(BankLine line) => line.Match switch
    {
        BankMatch.Fits => "reference and amount are right",
        BankMatch.OtherAmount => $"the reference is right, but {Money(line.Order!.Asked!.Value)} is waited for",
        BankMatch.Unclear => "the reference is right, but which amount came in isn’t said: open it and note it there",
        BankMatch.NotWaiting => "this order doesn’t wait for money (any more)",
        BankMatch.Several => "it names several orders: open them one by one",
        BankMatch.None => "no reference of an order here",
        _ => throw new InvalidOperationException($"No such match: {line.Match}"),
    };

    public void OnGet() { }

    public async Task<IActionResult> OnPostRead(IFormFile? list)
    {
        Actor.NeedSupport();
        string? text = null;
        if (list is { Length: > 0 and <= BankLines.MostLetters })
        {
            using var reader = new StreamReader(list.OpenReadStream());
            text = await reader.ReadToEndAsync(Ct);
        }
        else if (list is { Length: > BankLines.MostLetters })
        {
            Refuse("That file is too large. Take fewer weeks at once.", "List");
            return Page();
        }
        var read = await bank.Read(text?.Replace("\0", "", StringComparison.Ordinal), Ct);
        if (read.Ok) Lines = read.Value;
        else Refuse(read.Refusal!, read.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostReceived(string[]? orders)
    {
        var (done, no) = (0, new List<string>());
        foreach (var marked in (orders ?? []).Take(BankLines.MostLines))
        {
            var parts = marked.Split('_');
            if (!long.TryParse(parts[0], System.Globalization.CultureInfo.InvariantCulture, out var order)) continue;
            if (await receive.Confirm(Actor, order, parts.Length > 1 ? LocalInput.DayOrNone(parts[1]) : null, Ct) is { Ok: false } refused)
                no.Add(refused.Refusal!);
            else done++;
        }
        Tell(done + no.Count == 0 ? "Nothing was marked." : string.Join(" ", no.Distinct().Prepend($"{Count(done, "order")} paid.")));
        return Redirect("/desk/orders");
    }
}
