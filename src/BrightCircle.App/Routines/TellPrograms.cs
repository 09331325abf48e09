using System.Net;
using System.Net.Http.Headers;
using System.Text;
using BrightCircle.App.Clock;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;

namespace BrightCircle.App.Routines;

/// <summary>
/// Tells other programs what waits to be told. Some are claimed for a while, told side by side, and marked; a worker killed in between leaves them to be told
/// again after that while, under the same key. A program that doesn’t take it is asked again for some days, ever more seldom.
/// </summary>
public sealed class TellPrograms(IServiceScopeFactory scopes, HouseClock clock, IHttpClientFactory http, ProgramKey keys)
{
    public const string Client = "programs";
    const int AtOnce = 20;
    static readonly Duration Claimed = Duration.FromMinutes(2);
    /// <summary>So long what was taken stands in the list.</summary>
    public static readonly Duration Kept = Duration.FromDays(30);
    /// <summary>How long it waits after each try that failed; with the last it is given up.</summary>
    public static IReadOnlyList<Duration> Waits { get; } = [Duration.FromMinutes(1), Duration.FromMinutes(10), Duration.FromHours(1), Duration.FromHours(6),
        Duration.FromDays(1), Duration.FromDays(2)];

    /// <returns>How many were told or tried.</returns>
    public async Task<int> Run(CancellationToken ct)
    {
        var all = 0;
        while (true)
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            var now = clock.Moment;
            var until = now + Claimed;
            var some = await db.OutgoingCalls.FromSql($"""
                update outgoing_calls set next_at = {until}, tries = tries + 1 where id in (select id from outgoing_calls
                    where state = 'Waiting' and next_at <= {now} order by next_at, id limit {AtOnce} for update skip locked) returning *
                """).AsTracking().ToListAsync(ct);
            if (some.Count == 0)
            {
                if (all > 0) await Forget(db, now, ct);
                return all;
            }
            var answers = await Task.WhenAll(some.Select(c => Post(c, ct)));
            foreach (var (call, (took, forGood, said)) in some.Zip(answers))
            {
                call.Answer = Bounded.To(said, 300);
                if (took) call.State = CallState.Taken;
                else if (forGood || call.Tries > Waits.Count) call.State = CallState.GivenUp;
                else call.NextAt = clock.Moment + Waits[call.Tries - 1];
            }
            await db.SaveChangesAsync(ct);
            all += some.Count;
        }
    }

    /// <summary>What was taken long ago isn't kept.</summary>
    static Task Forget(BrightContext db, Instant now, CancellationToken ct)
    {
        var before = now - Kept;
        return db.OutgoingCalls.Where(c => c.State == CallState.Taken && c.At < before).ExecuteDeleteAsync(ct);
    }

    async Task<(bool Took, bool ForGood, string Said)> Post(OutgoingCall call, CancellationToken ct)
    {
        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, call.Url);
            request.Content = new StringContent(call.Body, Encoding.UTF8, new MediaTypeHeaderValue("application/json", "utf-8"));
            request.Headers.Add("Bright-Key", call.Key);
            if (keys.Sign(call.Body) is { } signed) request.Headers.Add("Bright-Signed", signed);
            using var client = http.CreateClient(Client);
            using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, ct);
            var said = $"{(int)answer.StatusCode} {answer.ReasonPhrase}".Trim();
            // RFC 9110: 410 says that it won't be there again.
            return (answer.IsSuccessStatusCode, answer.StatusCode == HttpStatusCode.Gone, said);
        }
        catch (OperationCanceledException) when (!ct.IsCancellationRequested)
        {
            return (false, false, "It gave no answer in time.");
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // Whatever is wrong with one of them, the others are told.
            return (false, false, e.Message);
        }
    }
}

/// <summary>Tells them in real time.</summary>
public sealed class ProgramWorker(TellPrograms tell, HouseClock clock, ILogger<ProgramWorker> log) : WorkApart(clock, log)
{
    protected override Task Round(CancellationToken ct) => tell.Run(ct);
}

/// <summary>What became of what other programs were told.</summary>
public sealed class ToldPrograms(BrightContext db, IClock clock)
{
    public sealed record Row(long Id, string Member, MemberId MemberId, long RoutineId, string Url, Instant At, CallState State, int Tries, string Answer,
        Instant NextAt);

    public const int Most = 60;

    /// <summary>Those that weren't taken first, then the newest.</summary>
    public Task<List<Row>> Latest(CancellationToken ct) => db.OutgoingCalls.AsNoTracking()
        .OrderBy(c => c.State == CallState.GivenUp ? 0 : 1).ThenByDescending(c => c.Id).Take(Most)
        .Select(c => new Row(c.Id, db.Members.Where(m => m.Id == c.MemberId).Select(m => m.Name).First(), c.MemberId, c.RoutineId, c.Url, c.At, c.State,
            c.Tries, c.Answer, c.NextAt)).ToListAsync(ct);

    /// <summary>Tells again what was given up.</summary>
    /// <param name="id">Null for all of it.</param>
    public async Task<int> Again(TeamActor by, long? id, CancellationToken ct)
    {
        by.NeedEditor();
        var at = clock.GetCurrentInstant();
        return await db.OutgoingCalls.Where(c => c.State == CallState.GivenUp && (id == null || c.Id == id))
            .ExecuteUpdateAsync(u => u.SetProperty(c => c.State, CallState.Waiting).SetProperty(c => c.NextAt, at).SetProperty(c => c.Tries, 0), ct);
    }

    /// <summary>Leaves it: it isn’t said any more that it couldn’t be told.</summary>
    public async Task<int> Leave(TeamActor by, long? id, CancellationToken ct)
    {
        by.NeedEditor();
        return await db.OutgoingCalls.Where(c => c.State == CallState.GivenUp && (id == null || c.Id == id)).ExecuteDeleteAsync(ct);
    }
}
