using System.Text;
using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>People who come from elsewhere, from a list: its columns are told, a dry run shows each line, and then they move in.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = 2 * MoveInReading.MostBytes, ValueLengthLimit = 2 * MoveInReading.MostBytes),
    RequestSizeLimit(3 * MoveInReading.MostBytes)]
public sealed class MoveInModel(PeopleBatches batches) : DeskPage
{
    public const int PageSize = 50, MostColumns = 60;

    public override string Place => "move-in";
    /// <summary>The list as it was read, carried along until it is done.</summary>
    public string? Text { get; private set; }
    public MoveInReading? Reading { get; private set; }
    public MoveInTerms Terms { get; private set; } = new([], null, MoveInReading.NoNames, DateOrder.DayFirst, false, false);
    public MoveInLook? Look { get; private set; }
    public IReadOnlyList<string> Unknown { get; private set; } = [];
    public int At { get; private set; }

    public void OnGet() => Actor.NeedOwner();

    public async Task<IActionResult> OnPost(IFormFile? upload, string? pasted)
    {
        Actor.NeedOwner();
        ModelState.Clear();
        if (upload is { Length: > 0 })
        {
            if (upload.Length > MoveInReading.MostBytes) return Wrong($"The list is too long; {MoveInReading.MostBytes / 1024 / 1024} MB are the most.",
                "Upload");
            using var reader = new StreamReader(upload.OpenReadStream(), new UTF8Encoding(false), detectEncodingFromByteOrderMarks: true);
            Text = await reader.ReadToEndAsync(Ct);
        }
        else Text = pasted;
        if (string.IsNullOrWhiteSpace(Text)) return Wrong("Choose a file, or paste the list.", "Upload");
        // A sheet that isn't text, or not in UTF-8, is told as such instead of as a thousand odd lines.
        if (Text.Contains('\0') || Text.Count(c => c == '\uFFFD') > 3) return Wrong("That isn’t a CSV file in UTF-8. Save the sheet as CSV (UTF-8) first.",
            "Upload");
        Reading = new(Text);
        if (Reading.Heads.Count > MostColumns) return Wrong($"It has {Reading.Heads.Count} columns; {MostColumns} are the most.", "Upload");
        Terms = Terms with { Columns = Reading.Guess() };
        await Dry(0);
        return Page();
    }

    /// <summary>What would happen, by what is chosen.</summary>
    public async Task<IActionResult> OnPostLook(string? text, MoveInColumn[] columns, long plan, DateOrder dates, bool letters, bool allAtOnce, string[] name,
        long[] named, int at)
    {
        if (!Take(text, columns, plan, dates, letters, allAtOnce, name, named)) return Page();
        await Dry(Math.Clamp(at, 0, (Reading!.Count - 1) / PageSize));
        return Page();
    }

    public async Task<IActionResult> OnPostGo(string? text, MoveInColumn[] columns, long plan, DateOrder dates, bool letters, bool allAtOnce, string[] name,
        long[] named)
    {
        if (!Take(text, columns, plan, dates, letters, allAtOnce, name, named)) return Page();
        var begun = await batches.MoveIn(Actor, Text!, Terms, Ct);
        if (begun.Ok) return Redirect($"/desk/members/batches/{begun.Value}");
        Refuse(begun.Refusal!, begun.Field);
        await Dry(0);
        return Page();
    }

    bool Take(string? text, MoveInColumn[] columns, long plan, DateOrder dates, bool letters, bool allAtOnce, string[] name, long[] named)
    {
        Actor.NeedOwner();
        ModelState.Clear();
        Text = text;
        if (string.IsNullOrWhiteSpace(text) || text.Length > MoveInReading.MostBytes)
        {
            Refuse("Choose a file, or paste the list.", "Upload");
            return false;
        }
        Reading = new(text);
        var names = new Dictionary<string, PlanId>(StringComparer.CurrentCultureIgnoreCase);
        for (var i = 0; i < Math.Min(name.Length, named.Length); i++)
            if (name[i] is { Length: > 0 and <= 200 } n && Now.PlanById.ContainsKey(new(named[i]))) names[n] = new(named[i]);
        Terms = new([.. columns.Take(Reading.Heads.Count).Concat(Enumerable.Repeat(MoveInColumn.Nothing, Math.Max(0, Reading.Heads.Count - columns.Length)))],
            Now.PlanById.ContainsKey(new(plan)) ? new PlanId(plan) : null, names, dates, letters, allAtOnce);
        return true;
    }

    async Task Dry(int at)
    {
        Unknown = Reading!.UnknownPlans(Terms, Now);
        At = at;
        var look = await batches.Look(Text!, Terms, at, PageSize, Ct);
        if (look.Ok) Look = look.Value;
        else Refuse(look.Refusal!, look.Field);
    }

    IActionResult Wrong(string why, string field)
    {
        Text = null;
        Refuse(why, field);
        return Page();
    }

    public static string Word(MoveInColumn column) => column switch
    {
        MoveInColumn.Nothing => "isn’t used",
        MoveInColumn.Email => "address",
        MoveInColumn.Name => "name",
        MoveInColumn.FirstName => "first name",
        MoveInColumn.LastName => "last name",
        MoveInColumn.Plan => "tier or pass",
        MoveInColumn.From => "since which day",
        MoveInColumn.Until => "paid until",
        MoveInColumn.Finished => "pieces they have had",
        MoveInColumn.Note => "note for the team",
        _ => throw new ArgumentOutOfRangeException(nameof(column), column, "No such column."),
    };
}
