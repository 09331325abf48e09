using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Something somebody began to write, with where it belongs.</summary>
/// <param name="Thread">The thread it answers in; null where it would begin one.</param>
/// <param name="Title">Of the thread, or of the one it would begin; empty where it has none yet.</param>
public sealed record Begun(SpaceId Space, long? Thread, string Title, string Words, Instant At);

/// <summary>What people began to write in spaces: kept until it is sent or thrown away.</summary>
public sealed class DraftTalk(BrightContext db, IClock clock)
{
    /// <summary>Keeps what is typed so far, in the place of what was kept there before; nothing typed is nothing kept.</summary>
    /// <param name="thread">The thread it answers in; null to begin one.</param>
    /// <param name="choices">What can be chosen in the thread it would begin.</param>
    /// <param name="since">When the page it was typed on was loaded: where something was sent from there meanwhile, it is that.</param>
    public async Task<Result> Keep(SpaceReader by, long? thread, string? title, string? body, long? answers, Instant since, CancellationToken ct,
        string? choices = null)
    {
        if (!by.MayWrite) return Result.Refused(Talk.Closed);
        var (head, words, lines) = (title?.Trim() ?? "", body?.TrimEnd() ?? "", choices?.TrimEnd() ?? "");
        if (head.Length > TalkThread.MostTitle) return Result.Refused($"The title is {TalkThread.MostTitle} letters at most.", "Title");
        if (words.Length > TalkPost.MostBody) return Result.Refused(Talk.TooLong, "Body");
        if (lines.Length > TalkDraft.MostChoices) return Result.Refused("That is too long to choose from.", "Choices");
        var place = thread ?? by.Space.Id.Value;
        if (head.Length == 0 && words.Length == 0 && lines.Length == 0)
        {
            await Forget(by, place, ct);
            return Result.Done;
        }
        var at = clock.GetCurrentInstant();
        var kept = await db.Database.ExecuteSqlAsync($"""
            insert into talk_drafts (account_id, place_id, title, body, choices, answers_id, at)
            select {by.Account}, {place}, {head}, {words}, {lines}, {answers}, {at}
            where not exists (select 1 from talk_posts p join talk_threads t on t.id = p.thread_id where p.account_id = {by.Account} and p.at > {since}
              and ({thread}::bigint is not null and t.id = {thread} or {thread}::bigint is null and p.is_first and t.space_id = {place}))
            on conflict (account_id, place_id) do update set title = excluded.title, body = excluded.body, choices = excluded.choices,
              answers_id = excluded.answers_id, at = excluded.at
            """, ct);
        if (kept == 0) return Result.Refused("It was sent already.");
        await db.Database.ExecuteSqlAsync($"""
            delete from talk_drafts where account_id = {by.Account} and place_id in
              (select place_id from talk_drafts where account_id = {by.Account} order by at desc, place_id desc offset {TalkDraft.Most})
            """, ct);
        return Result.Done;
    }

    public Task Forget(SpaceReader by, long place, CancellationToken ct) =>
        db.TalkDrafts.Where(d => d.AccountId == by.Account && d.PlaceId == place).ExecuteDeleteAsync(ct);

    /// <summary>What somebody began to write in a place; null for nothing.</summary>
    public async Task<TalkDraft?> Of(SpaceReader by, long place, CancellationToken ct) =>
        by.IsOnlyLooking ? null : await db.TalkDrafts.AsNoTracking().FirstOrDefaultAsync(d => d.AccountId == by.Account && d.PlaceId == place, ct);
}
