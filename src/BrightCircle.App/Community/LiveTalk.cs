using System.Collections.Concurrent;
using System.Globalization;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Threading.Channels;
using BrightCircle.App.Files;
using BrightCircle.App.Words;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Community;

/// <summary>A picture as it goes to whoever has a thread open.</summary>
/// <param name="File">Of a file its name and how large it is, in words; null for a picture.</param>
public sealed record LivePicture(string Small, string Full, int Width, int Height, string Alt, string? File);

/// <summary>A post as it goes to whoever has its thread open: the same for everybody.</summary>
/// <param name="Card">The account of whoever wrote it, where they have a card; null where they haven’t.</param>
/// <param name="Face">The picture on their card; null for how their name begins.</param>
public sealed record LivePost(string Id, string? Under, string Name, string First, string Initials, int Colour, bool Team, string Body,
    IReadOnlyList<LivePicture> Pictures, string? Card, string? Face, IReadOnlyList<string> Badges);

/// <summary>
/// What is said comes to those who have its thread open, on every node: whoever says something tells the database, which tells all nodes (NOTIFY); each asks
/// for what is new once, whoever many have it open there, and hands the same text to all of them.
/// </summary>
public sealed partial class LiveTalk(IServiceScopeFactory scopes, NpgsqlDataSource source, FileLinks links, ILogger<LiveTalk> log) : BackgroundService
{
    public const string Channel = "bright_talk";
    /// <summary>What is said within so long comes together.</summary>
    public static readonly TimeSpan Gathers = TimeSpan.FromSeconds(1);
    /// <summary>After so long whoever watches comes again, and it is decided anew whether they may.</summary>
    public static readonly TimeSpan Watches = TimeSpan.FromMinutes(2);
    /// <summary>So that what stands between knows that somebody is there.</summary>
    static readonly TimeSpan Silent = TimeSpan.FromSeconds(25);
    const int MostAtOnce = 200;

    sealed record News(string LastId, string Json);

    readonly Dictionary<long, List<Channel<News>>> watched = [];
    readonly Lock gate = new();
    readonly TaskCompletionSource listens = new();

    /// <summary>It hears what is said.</summary>
    public Task Listens => listens.Task;

    /// <summary>So many have a thread open here.</summary>
    public int Watching(long thread) => Watchers(thread).Length;

    Channel<News>[] Watchers(long thread)
    {
        lock (gate) return watched.TryGetValue(thread, out var all) ? [.. all] : [];
    }

    /// <summary>Tells all nodes that something stands in a thread. It is heard when the transaction is committed.</summary>
    internal static Task Tell(BrightContext db, long thread, long post, CancellationToken ct) => db.Database.ExecuteSqlAsync(
        $"select pg_notify({Channel}, {string.Create(CultureInfo.InvariantCulture, $"{thread}:{post}")})", ct);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            try
            {
                await links.Ready(stop);
                await using var connection = await source.OpenConnectionAsync(stop);
                var heard = new ConcurrentQueue<string>();
                connection.Notification += (_, e) => heard.Enqueue(e.Payload);
                await using (var listen = new NpgsqlCommand($"listen {Channel}", connection)) await listen.ExecuteNonQueryAsync(stop);
                listens.TrySetResult();
                while (true)
                {
                    await connection.WaitAsync(stop);
                    await Task.Delay(Gathers, stop);
                    // Waiting hears one at a time; whatever came meanwhile is heard before the answer to a question.
                    await using (var rest = new NpgsqlCommand("select 1", connection)) await rest.ExecuteNonQueryAsync(stop);
                    var said = new List<(long Thread, long Post)>();
                    while (heard.TryDequeue(out var one))
                        if (one.Split(':') is [var t, var p] && long.TryParse(t, out var thread) && long.TryParse(p, out var post)) said.Add((thread, post));
                    foreach (var of in said.GroupBy(s => s.Thread)) await Bring(of.Key, [.. of.Select(s => s.Post)], stop);
                }
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested) { }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException or IOException or InvalidOperationException)
            {
                ListenBroke(log, e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stop).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    async Task Bring(long thread, long[] posts, CancellationToken ct)
    {
        if (Watching(thread) == 0) return;
        foreach (var those in posts.Order().Chunk(MostAtOnce))
            if (await Read(thread, p => those.Contains(p.Id), ct) is { } news)
                foreach (var channel in Watchers(thread))
                    // Whoever can't keep up comes again, and gets what they missed.
                    if (!channel.Writer.TryWrite(news)) channel.Writer.TryComplete();
    }

    async Task<News?> Read(long thread, System.Linq.Expressions.Expression<Func<TalkPost, bool>> which, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var posts = await db.TalkPosts.AsNoTracking().Where(p => p.ThreadId == thread && p.GoneAt == null && !p.IsFirst
            && db.TalkThreads.Any(t => t.Id == thread && t.HiddenAt == null)).Where(which).OrderBy(p => p.Id).Take(MostAtOnce).ToListAsync(ct);
        if (posts.Count == 0) return null;
        var ids = posts.ConvertAll(p => p.Id);
        var trip = new OneTrip(db);
        var shown = trip.List(db.TalkPictures.AsNoTracking().Where(p => p.PostId != null && ids.Contains(p.PostId.Value)).OrderBy(p => p.Place));
        long[] accounts = [.. posts.Where(p => p.AccountId is not null).Select(p => p.AccountId!.Value).Distinct()];
        const string Sql = $"with x as (select unnest({{0}}) as account_id) {ReadPeople.AuthorsSql}";
        var wrote = trip.List(db.Database.SqlQueryRaw<Author>(Sql, accounts));
        await trip.Ask(ct);
        var (pictures, authors) = (shown.Value.OrderBy(p => p.Place).ToLookup(p => p.PostId!.Value), wrote.Value.ToDictionary(a => a.Account));
        Author? By(TalkPost p) => p.AccountId is { } account ? authors.GetValueOrDefault(account) : null;
        return new(Text(posts[^1].Id), JsonSerializer.Serialize(posts.Select(p => new LivePost(Text(p.Id), p.AnswersId is { } under ? Text(under) : null,
            p.Name,
            Member.FirstNameOf(p.Name), Member.Initials(p.Name), Say.ColourOf(p.Name), p.ByTeam, p.Body, [.. pictures[p.Id].Select(x =>
                new LivePicture(links.ForTalk(x.Id, true), links.ForTalk(x.Id, false), x.Width, x.Height, x.Alt,
                    x.FileName is { } file ? $"{file}, {Say.Bytes(x.Bytes ?? 0)}" : null))],
            By(p) is { HasCard: true } card ? Text(card.Account) : null, By(p)?.Picture is { } face ? links.ForTalk(face, true) : null,
            By(p)?.Badges ?? [])), JsonSerializerOptions.Web));
    }

    static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);

    /// <summary>What is said in a thread from now on, for whoever may read it; first what was said since the last they have.</summary>
    /// <param name="after">The last post they have.</param>
    public async IAsyncEnumerable<SseItem<string>> Watch(long thread, long after, [EnumeratorCancellation] CancellationToken ct)
    {
        var channel = System.Threading.Channels.Channel.CreateBounded<News>(16);
        lock (gate)
        {
            if (!watched.TryGetValue(thread, out var all)) watched[thread] = all = [];
            all.Add(channel);
        }
        try
        {
            if (await Read(thread, p => p.Id > after, ct) is { } missed) yield return Item(missed);
            var ends = Environment.TickCount64 + (long)Watches.TotalMilliseconds;
            while (Environment.TickCount64 < ends)
            {
                using var silence = CancellationTokenSource.CreateLinkedTokenSource(ct);
                silence.CancelAfter(Silent);
                News? news = null;
                try
                {
                    if (!await channel.Reader.WaitToReadAsync(silence.Token)) yield break;
                    channel.Reader.TryRead(out news);
                }
                catch (OperationCanceledException) when (!ct.IsCancellationRequested) { }
                yield return news is null ? new SseItem<string>("", "still") : Item(news);
            }
        }
        finally
        {
            lock (gate)
            {
                var all = watched[thread];
                all.Remove(channel);
                if (all.Count == 0) watched.Remove(thread);
            }
        }
    }

    static SseItem<string> Item(News news) => new(news.Json, "posts") { EventId = news.LastId };

    [LoggerMessage(EventName = "TalkListenBroke", Level = LogLevel.Warning, Message = "Listening for what is said broke and is tried again: {Reason}")]
    static partial void ListenBroke(ILogger log, string reason);
}
