using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Settings;

/// <summary>What newcomers are asked to do first.</summary>
public sealed class WelcomeSettings(BrightContext db, Catalogue catalogue, Deeds deeds)
{
    public const int MostWords = 200;

    /// <param name="steps">Which; the piece to start with comes with the plan.</param>
    /// <param name="words">What is asked of whoever says hello; empty for the usual.</param>
    /// <param name="halfWay">Whoever goes away while joining may be reminded, if they say so.</param>
    public async Task<Result> Save(TeamActor by, IReadOnlyCollection<FirstStep> steps, string? words, bool halfWay, CancellationToken ct)
    {
        by.NeedEditor();
        var text = words?.Trim() ?? "";
        if (text.Length > MostWords) return Result.Refused($"That is too long; {MostWords} letters are the most.", "Words");
        if (steps.Any(s => !Enum.IsDefined(s) || s == FirstStep.StartHere)) return Result.Refused("There is no such step.", "Steps");
        var site = await db.Sites.SingleAsync(ct);
        (site.FirstSteps, site.HelloWords, site.WritesHalfWay) = ([.. steps.Distinct().Order()], text, halfWay);
        deeds.Note(by, "changed the first steps of newcomers", "/desk/settings/welcome");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
