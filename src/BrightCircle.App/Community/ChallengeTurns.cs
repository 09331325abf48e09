using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Challenge = BrightCircle.Core.Community.Challenge;

namespace BrightCircle.App.Community;

/// <summary>The two mornings of a challenge: everybody who takes part gets a letter on the one it begins, and on the one after it is over.</summary>
public sealed class ChallengeTurns(BrightContext db, Challenges challenges, Catalogue catalogue, Tell tell) : IDueHandler
{
    static readonly LocalTime Morning = new(8, 0);
    const string Begins = "begins";

    public DueKind Kind => DueKind.ChallengeTurn;

    internal static void Put(BrightContext db, Ids ids, Challenge challenge, SiteCalendar calendar)
    {
        foreach (var (turn, day) in new[] { (Begins, challenge.StartsOn), ("over", challenge.EndsOn.PlusDays(1)) })
            db.PutDue(ids, DueKind.ChallengeTurn, challenge.Id.Value, calendar.At(day + Morning), $"challenge-{turn}-{challenge.Id.Value}", $"\"{turn}\"");
    }

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            if (!catalogue.Now.Community.ChallengeById.TryGetValue(new(item.Row.SubjectId), out var challenge)) continue;
            var begins = item.Row.Payload == $"\"{Begins}\"";
            // A letter that it begins comes too late once its first week is over.
            if (begins && challenge.WeekOf(catalogue.Now.Calendar.Date(item.Moment)) > 1) continue;
            var board = await challenges.Board(challenge, ct);
            var those = board.Rows.Select(r => r.Member).ToArray();
            var members = await db.Members.Where(m => those.Contains(m.Id)).OrderBy(m => m.Id).ToListAsync(ct);
            var rows = board.Rows.ToDictionary(r => r.Member);
            if (!begins && challenge.BadgeId is { } id && catalogue.Now.TagById.GetValueOrDefault(id) is { } badge)
            {
                var bear = (await db.MemberTags.Where(t => t.TagId == id && those.Contains(t.MemberId)).Select(t => t.MemberId).ToListAsync(ct)).ToHashSet();
                foreach (var member in members.Where(m => board.Finished(rows[m.Id]) && !bear.Contains(m.Id)))
                {
                    db.Add(new MemberTag { MemberId = member.Id, TagId = id, At = item.Moment });
                    tell.Of(member, new Event.TagPutOn(id, badge.Name), item.Moment);
                }
            }
            foreach (var member in members)
            {
                var row = rows[member.Id];
                var met = begins ? 0 : Enumerable.Range(1, challenge.Weeks).Count(w => board.Met(row, w));
                // Who never began isn't told how it ended.
                if (!begins && row.Done.Sum() == 0) continue;
                tell.Of(member, new Event.ChallengeNews(challenge.Id, challenge.Name, begins ? ChallengeNewsKind.Begins : board.Finished(row)
                    ? ChallengeNewsKind.Finished : ChallengeNewsKind.Over, met, challenge.Weeks, board.Aims[0]), item.Moment);
                happened.Add("told of a challenge");
            }
        }
    }
}
