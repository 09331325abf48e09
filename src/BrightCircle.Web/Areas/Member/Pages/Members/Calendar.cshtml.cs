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

    public string Why(Released r) => Core.Access.Why.Explain(
        Now.Book, Visitor.Facts, r.Piece, r.Lesson, Moment, Now.Calendar.Of(Visitor.Person?.ZoneId), Now.NameOf)
        .ForMember;
    /// <summary>"Thu 3 Dec, 09:00", where the member is.</summary>
    public string Local(Instant at) => Now.Calendar.Of(Visitor.Person?.ZoneId).Local(at).ToString("ddd d MMM, HH:mm", Now.Culture);
}
