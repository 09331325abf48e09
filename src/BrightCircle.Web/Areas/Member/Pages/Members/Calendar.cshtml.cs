using BrightCircle.App.Files;
using BrightCircle.App.Settings;
using BrightCircle.Core.Access;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What will open for a member, day by day, with the reason.</summary>
public sealed class CalendarModel(FileLinks links, SiteAddress address) : MemberPage
{
    const int Most = 300;

    public override string Place => "home";
    public override bool KeptOffline => true;
    public IReadOnlyList<IGrouping<YearMonth, Released>> Months { get; private set; } = [];
    public int Total { get; private set; }
    public string? Feed { get; private set; }

    public async Task OnGet()
    {
        var all = Now.ComingTo(Visitor.Facts, Moment).ToArray();
        (Total, Months) = (all.Length, [.. all.Take(Most).GroupBy(r => Now.Calendar.Of(Visitor.Person?.ZoneId).Month(r.At))]);
        if (Visitor.Recorded is not { } member) return;
        await links.Ready(Ct);
        Feed = $"{address.Url}/feed/{links.TokenFor("feed", member.Value, Visitor.Person!.FeedsVersion)}/opens.ics";
    }

    /// <summary>Whose turn it is by which pace; nothing for what simply comes out then.</summary>
    public string Reason(Released r) => Now.Book.TurnOf(Visitor.Facts, Decide(r), r.Thing) is { } turn && Why.Of(turn, r.Piece, FullDay) is var words
        ? $"{char.ToUpper(words[0], Now.Culture)}{words[1..]}." : "";
}
