using System.Text.RegularExpressions;
using AngleSharp.Html.Parser;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Content;
using BrightCircle.App.Due;
using BrightCircle.App.Learning;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What came of saying something.</summary>
/// <param name="Id">The thread that was begun, or the post that was written in one.</param>
/// <param name="Waits">It waits until the team has seen it.</param>
public sealed record Said(long Id, bool Waits);

/// <summary>Pictures that belong to what is said, in their order.</summary>
/// <param name="Alt">What they show, for whoever can’t see them.</param>
public sealed record Shown(IReadOnlyList<long> Pictures, string? Alt)
{
    public static Shown Nothing { get; } = new([], null);

    /// <summary>Its place among them, from 0; -1 where it isn’t one of them.</summary>
    public int PlaceOf(long picture) => Pictures.ToList().IndexOf(picture);
}

/// <summary>What people write in spaces.</summary>
public sealed partial class Talk(BrightContext db, Ids ids, RichText rich, Catalogue catalogue, TalkPictures pictures, Mentions mentions, DraftTalk drafts,
    IClock clock)
{
    /// <summary>So much may be written in an hour.</summary>
    public const int MostAnHour = 60;

    /// <summary>Begins a thread.</summary>
    /// <param name="choices">What can be chosen in it, a line each; null or empty for nothing.</param>
    public async Task<Result<Said>> Begin(SpaceReader by, string? title, string? body, CancellationToken ct, Shown? shown = null, string? choices = null)
    {
        if (!by.MayBegin) return Result.Refused(WhyNotBegin(by));
        var words = title?.Trim() ?? "";
        if (words.Length is 0 or > TalkThread.MostTitle) return Result.Refused(words.Length == 0 ? "Give it a title, so that others see what it is about."
            : $"The title is {TalkThread.MostTitle} letters at most.", "Title");
        if (by.Space.Kind == SpaceKind.Showcase && !await pictures.AnyPicture(by, null, shown?.Pictures ?? [], ct))
            return Result.Refused("Here everything begins with a picture: choose one.", "Pictures");
        var chosen = Choosing.Read(choices);
        if (!chosen.Ok) return Result.Refused(chosen.Refusal!, chosen.Field);
        var text = await Read(by, body, shown, ct);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        var at = clock.GetCurrentInstant();
        var held = await Holds(by, $"{words}\n{string.Join('\n', chosen.Value!)}\n{text.Value}", ct);
        var thread = db.Add(new TalkThread
        {
            Id = ids.Next(),
            SpaceId = by.Space.Id,
            Title = words,
            At = at,
            LastAt = at,
            HiddenAt = held is null ? null : at,
            Choices = chosen.Value is { Count: > 0 } list ? list : null,
        }).Entity;
        var post = Post(by, thread.Id, text.Value!, at, null, true, held);
        Saw(by, thread.Id, post.Id, at);
        db.Add(new TalkFollow { AccountId = by.Account, ThreadId = thread.Id, Follows = true });
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.SaveChangesAsync(ct);
        await pictures.Belong(by, post.Id, shown, ct);
        await drafts.Forget(by, by.Space.Id.Value, ct);
        if (held is null) await Stands(by.Space.Id, post, ct);
        await transaction.CommitAsync(ct);
        return new Said(thread.Id, held is not null);
    }

    /// <param name="answers">A post of the thread; null to answer the whole.</param>
    public async Task<Result<Said>> Answer(SpaceReader by, long thread, long? answers, string? body, CancellationToken ct, Shown? shown = null)
    {
        if (!by.MayWrite) return Result.Refused(Closed);
        var text = await Read(by, body, shown, ct);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // The count and the order are the thread's own: one after the other.
        var of = (await db.TalkThreads.FromSql($"select * from talk_threads where id = {thread} for update").AsTracking().ToListAsync(ct)).FirstOrDefault();
        if (of is null || of.SpaceId != by.Space.Id || of.HiddenAt is not null) return Result.Refused("This thread isn’t here any more.");
        if (of.ClosedAt is not null && !by.IsTeam) return Result.Refused("This thread is closed.");
        if (answers is { } to)
        {
            var asked = await db.TalkPosts.AsNoTracking().FirstOrDefaultAsync(p => p.Id == to && p.ThreadId == thread, ct);
            if (asked is null || asked.GoneAt is not null) return Result.Refused("What you answer isn’t here any more.");
            // One level deep: an answer to an answer stands beside it. What is said to the first post is said to all.
            answers = asked.IsFirst ? null : asked.AnswersId ?? asked.Id;
        }
        var at = clock.GetCurrentInstant();
        var held = await Holds(by, text.Value!, ct);
        var post = Post(by, thread, await mentions.Mark(thread, text.Value!, ct), at, answers, false, held);
        if (held is null) (of.Answers, of.LastAt) = (of.Answers + 1, at);
        await db.SaveChangesAsync(ct);
        await pictures.Belong(by, post.Id, shown, ct);
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_seen (account_id, thread_id, post_id, at) values ({by.Account}, {thread}, {post.Id}, {at})
            on conflict (account_id, thread_id) do update set post_id = excluded.post_id, at = excluded.at
            """, ct);
        // Who writes in a thread wants to hear how it goes on, unless they said that they don't.
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_follows (account_id, thread_id, follows) values ({by.Account}, {thread}, true) on conflict do nothing
            """, ct);
        await drafts.Forget(by, thread, ct);
        if (held is null) await Stands(by.Space.Id, post, ct);
        await transaction.CommitAsync(ct);
        return new Said(post.Id, held is not null);
    }

    /// <summary>What belongs to words that everybody sees from now on: whoever wants to hear of them does, and so does whoever is named in them.</summary>
    internal async Task Stands(SpaceId space, TalkPost post, CancellationToken ct)
    {
        await TalkDue.Put(db, ids, space, post.ThreadId, post.At, ct);
        await mentions.Follow(post, ct);
        await LiveTalk.Tell(db, post.ThreadId, post.Id, ct);
    }

    /// <summary>Changes one's own words, and the pictures with them; after a while it is said that they were.</summary>
    /// <param name="shown">All the pictures it has from now on; null for those it has.</param>
    public async Task<Result> Edit(SpaceReader by, long post, string? body, CancellationToken ct, Shown? shown = null)
    {
        if (!by.MayWrite) return Result.Refused(Closed);
        var own = await Own(by, post, ct);
        if (own is null) return Result.Refused(NotYours);
        var had = await pictures.Of(post, ct);
        var stays = shown?.Pictures ?? [.. had.Select(p => p.Id)];
        if (own.IsFirst && by.Space.Kind == SpaceKind.Showcase && !await pictures.AnyPicture(by, post, stays, ct))
            return Result.Refused("Here everything begins with a picture: let one stand, or choose another.", "Pictures");
        if (await Refused(by, ct) is { } refused) return refused;
        var text = Clean(rich, body, stays.Count > 0);
        if (!text.Ok) return Result.Refused(text.Refusal!, text.Field);
        if (stays.Count > TalkPicture.Most) return Result.Refused(TalkPictures.TooMany, "Pictures");
        var words = await mentions.Mark(own.ThreadId, text.Value!, ct);
        if (own.Body == words && had.Select(p => p.Id).SequenceEqual(stays)) return Result.Done;
        // What would have waited doesn't come in by a change.
        if (await Holds(by, words, ct) is { } held && held != HoldReason.FirstPost)
            return Result.Refused("With these words it would have to wait until the team has seen it. Say it in a new post.", "Body");
        var at = clock.GetCurrentInstant();
        own.Body = words;
        if (at - own.At > TalkPost.QuietFor) own.EditedAt = at;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.SaveChangesAsync(ct);
        await pictures.Belong(by, post, new(stays, shown?.Alt), ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes one's own words away: a trace of them stays, so that answers to them can be understood.</summary>
    public async Task<Result> TakeAway(SpaceReader by, long post, CancellationToken ct)
    {
        if (by.IsOnlyLooking) return Result.Refused(Closed);
        var own = await Own(by, post, ct);
        if (own is null) return Result.Refused(NotYours);
        var at = clock.GetCurrentInstant();
        (own.TakenBody, own.Body, own.GoneAt) = (own.Body, "", at);
        db.PutDue(ids, DueKind.ForgetWords, own.Id, at + Duration.FromDays(TalkPost.KeptDays), $"forget-words-{own.Id}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Agrees in a word, or no longer.</summary>
    public async Task<Result> Nod(SpaceReader by, long post, int word, CancellationToken ct)
    {
        if (!by.MayWrite || !by.Confirmed) return Result.Refused(by.MayWrite ? AskAndAnswer.Unproved : Closed);
        if (await Barred(by, ct) is { } barred) return barred;
        if (word < 0 || word >= by.Space.Nods.Count) return Result.Refused("There is no such word here.");
        var at = clock.GetCurrentInstant();
        if (await db.TalkNods.Where(n => n.PostId == post && n.AccountId == by.Account && n.Word == word).ExecuteDeleteAsync(ct) > 0) return Result.Done;
        // Nobody agrees with themselves, nor with what isn't in this space.
        var put = await db.Database.ExecuteSqlAsync($"""
            insert into talk_nods (post_id, account_id, word, at)
            select p.id, {by.Account}, {word}, {at} from talk_posts p join talk_threads t on t.id = p.thread_id
            where p.id = {post} and p.gone_at is null and p.account_id is distinct from {by.Account} and t.space_id = {by.Space.Id.Value} and t.hidden_at
                is null
            on conflict do nothing
            """, ct);
        return put > 0 ? Result.Done : Result.Refused("That isn’t here any more.");
    }

    Task<TalkPost?> Own(SpaceReader by, long post, CancellationToken ct) => db.TalkPosts.FirstOrDefaultAsync(p => p.Id == post && p.AccountId == by.Account
        && p.GoneAt == null && db.TalkThreads.Any(t => t.Id == p.ThreadId && t.SpaceId == by.Space.Id && t.HiddenAt == null), ct);

    TalkPost Post(SpaceReader by, long thread, string body, Instant at, long? answers, bool first, HoldReason? held) => db.Add(new TalkPost
    {
        Id = ids.Next(),
        ThreadId = thread,
        AnswersId = answers,
        IsFirst = first,
        AccountId = by.Account,
        Name = by.Name,
        ByTeam = by.IsTeam,
        Body = body,
        At = at,
        Held = held,
        GoneAt = held is null ? null : at,
    }).Entity;

    void Saw(SpaceReader by, long thread, long post, Instant at) => db.Add(new TalkSeen { AccountId = by.Account, ThreadId = thread, PostId = post, At = at });

    async Task<Result<string>> Read(SpaceReader by, string? body, Shown? shown, CancellationToken ct)
    {
        if (await Refused(by, ct) is { } refused) return refused;
        var text = Clean(rich, body, shown);
        if (!text.Ok) return text;
        var since = clock.GetCurrentInstant() - Duration.FromHours(1);
        return !by.IsTeam && await db.TalkPosts.CountAsync(p => p.AccountId == by.Account && p.At > since, ct) >= MostAnHour
            ? Result.Refused("That is a lot for an hour. Try again a little later.", "Body") : text;
    }

    /// <summary>Why somebody who can't begin a thread in a space can't.</summary>
    static string WhyNotBegin(SpaceReader by) => by switch
    {
        { MayWrite: false } => Closed,
        { Space.ByEdition: true } => "Nobody talks here: a space like it opens with each edition.",
        { Space.FullAt: not null } => "Nothing new begins here: there is a newer space for that. What was begun goes on.",
        { Space.Kind: SpaceKind.Announcements } => "Here the team begins, and everybody answers.",
        _ => throw new InvalidOperationException("They can begin something here."),
    };

    /// <summary>Why somebody to whom writing is open can't put anything in just now; null where they can.</summary>
    public async Task<Result?> Refused(SpaceReader by, CancellationToken ct) => !by.MayWrite ? Result.Refused(Closed)
        : !by.Confirmed ? Result.Refused(AskAndAnswer.Unproved, "Body")
        : await Barred(by, ct) is { } barred ? Result.Refused(barred.Refusal!, "Body") : null;

    /// <summary>Why what somebody wrote waits until the team has seen it; null where it doesn't.</summary>
    async Task<HoldReason?> Holds(SpaceReader by, string body, CancellationToken ct)
    {
        var rules = catalogue.Now.Site!.Holds;
        if (by.IsTeam || rules == HoldRules.None) return null;
        var account = by.Account;
        var standing = await db.TalkPosts.Where(p => p.AccountId == account && p.GoneAt == null).Take(HoldRules.KnownAfter).CountAsync(ct);
        var document = new HtmlParser().ParseDocument($"<body>{body}</body>");
        return rules.Of(document.Body!.TextContent, document.QuerySelector("a") is not null, standing);
    }

    /// <summary>Why somebody can't write anywhere for a time; null where they can.</summary>
    Task<Result?> Barred(SpaceReader by, CancellationToken ct) => TalkBars.Of(db, catalogue.Now, by.Account, clock.GetCurrentInstant(), ct);

    /// <summary>To whoever can't write.</summary>
    public static string BarredWords(TalkBar bar, CatalogueSnapshot now) =>
        $"You can read, and not write, until {now.Calendar.Date(bar.Until).ToString("d MMMM", now.Culture)}: {bar.Why.TrimEnd('.')}. "
        + $"If you see it otherwise, write to {now.Site!.HelpAddress}.";

    /// <summary>The words as they are kept, with the signs people know from letters and chats (Markdown): nothing but text is in them.</summary>
    /// <param name="mayBeEmpty">Something else is shown with them.</param>
    internal static Result<string> Clean(RichText rich, string? body, bool mayBeEmpty = false)
    {
        if (body?.Length > TalkPost.MostBody * 2) return Result.Refused(TooLong, "Body");
        var document = new HtmlParser().ParseDocument($"<body>{rich.FromMarkdown(Lines(body ?? ""))}</body>");
        foreach (var other in document.QuerySelectorAll("img, figure, table").ToArray()) other.Remove();
        if (document.Body!.TextContent.Trim().Length == 0) return mayBeEmpty ? "" : Result.Refused("Write something first.", "Body");
        var clean = document.Body.InnerHtml.Trim();
        return clean.Length > TalkPost.MostBody ? Result.Refused(TooLong, "Body") : clean;
    }

    /// <summary>The same, with what goes with it: then words aren’t needed.</summary>
    internal static Result<string> Clean(RichText rich, string? body, Shown? shown) => shown?.Pictures.Count > TalkPicture.Most
        ? Result.Refused(TalkPictures.TooMany, "Pictures") : Clean(rich, body, shown is { Pictures.Count: > 0 });

    /// <summary>How what was written begins, in a line.</summary>
    /// <param name="html">Null where nothing is left of it.</param>
    internal static string Beginning(string? html, int most) =>
        html is null ? "" : Bounded.To(Words(html).ReplaceLineEndings(" "), most);

    /// <summary>What was written, as plain text; where it has no words, that something else is there.</summary>
    internal static string Words(string html) => Plain(html) is { Length: > 0 } words ? words : "A picture or a file";

    /// <summary>Words as they are kept, as plain text: a line for each paragraph.</summary>
    internal static string Plain(string html) => new HtmlParser().ParseDocument($"<body>{html.Replace("</p>", "</p>\n", StringComparison.Ordinal)
        .Replace("<br>", "<br>\n", StringComparison.Ordinal)}</body>").Body!.TextContent.Trim();

    /// <summary>A line that was ended stays ended.</summary>
    static string Lines(string text) => text.ReplaceLineEndings("  \n");

    /// <summary>What was written, to be changed.</summary>
    public static string Written(TalkPost post) => LineStart().Replace(HtmlToMarkdown.Write(Mentions.Unmarked(post.Body)).Replace("  \n", "\n",
        StringComparison.Ordinal),
        "").Trim();

    /// <summary>What somebody wrote, to be answered to: with their name before it and a sign at each line.</summary>
    public static string Quoted(TalkPost post) =>
        string.Concat($"{post.Name}:\n{Written(post)}".Split('\n').Select(l => $"> {l}".TrimEnd() + "\n")) + "\n";

    [GeneratedRegex(@"(?<=\n) (?=\S)")] private static partial Regex LineStart();

    internal const string Closed = "Here you can read, and not write.", NotYours = "You can change only what you wrote yourself.",
        TooLong = "That is too long. Say it in several posts.";
}
