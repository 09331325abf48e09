using System.Net;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.Core.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>
/// Brings lines about what is new to browsers, by their push services (RFC 8030). Some are claimed for a while, sent side by side, and marked; a worker killed
/// in between leaves them to be sent again after that while. A browser whose address is gone is forgotten; what nobody takes within a day is.
/// </summary>
public sealed class DeliverNotices(IServiceScopeFactory scopes, HouseClock clock, IWallClock wall, IHttpClientFactory http, PushKey keys, Catalogue catalogue)
{
    public const string Client = "push";
    const int AtOnce = 20, MostTries = 6;
    static readonly Duration Claimed = Duration.FromMinutes(2);
    /// <summary>What is older isn’t news.</summary>
    public static readonly Duration Holds = Duration.FromDays(1);

    /// <returns>How many were taken.</returns>
    public async Task<int> Run(CancellationToken ct)
    {
        var taken = 0;
        while (true)
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            var now = clock.Moment;
            var (until, old) = (now + Claimed, now - Holds);
            var some = (await db.PushNotices.FromSql($"""
                update push_notices set not_before = {until}, tries = tries + 1 where id in (select id from push_notices
                    where not_before <= {now} order by not_before, id limit {AtOnce} for update skip locked) returning *
                """).AsNoTracking().ToListAsync(ct)).ToArray();
            if (some.Length == 0) return taken;
            var devices = some.Select(n => n.DeviceId).Distinct().ToArray();
            // Whoever signed out there sees nothing there.
            var live = await db.PushDevices.AsNoTracking().Where(d => devices.Contains(d.Id)
                && (d.SignInId == null || db.SignIns.Any(s => s.Id == d.SignInId && s.EndedAt == null))).ToDictionaryAsync(d => d.Id, ct);
            var ready = some.Where(n => n.At > old && live.ContainsKey(n.DeviceId)).ToArray();
            using var key = await keys.Get(ct);
            var answers = await Task.WhenAll(ready.Select(n => Post(key, n, live[n.DeviceId], ct)));
            var over = some.Except(ready).Select(n => n.Id).ToList();
            foreach (var (notice, answer) in ready.Zip(answers))
            {
                if (answer == Answer.Taken) taken++;
                if (answer == Answer.Gone) await db.PushDevices.Where(d => d.Id == notice.DeviceId).ExecuteDeleteAsync(ct);
                if (answer != Answer.Later || notice.Tries >= MostTries) over.Add(notice.Id);
                else
                {
                    var next = now + Duration.FromMinutes(Math.Pow(4, notice.Tries));
                    await db.PushNotices.Where(n => n.Id == notice.Id).ExecuteUpdateAsync(u => u.SetProperty(n => n.NotBefore, next), ct);
                }
            }
            await db.PushNotices.Where(n => over.Contains(n.Id)).ExecuteDeleteAsync(ct);
            long[] Letters(IEnumerable<PushNotice> of) => [.. of.Where(n => n.LetterId is not null).Select(n => n.LetterId!.Value).Distinct()];
            var shown = Letters(ready.Zip(answers).Where(x => x.Second == Answer.Taken).Select(x => x.First));
            if (shown.Length > 0)
                await db.Letters.Where(l => shown.Contains(l.Id) && l.State == LetterState.Queued)
                    .ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Shown), ct);
            // Where nobody shows it after all, the letter goes out.
            var lost = Letters(some.Where(n => over.Contains(n.Id)));
            if (lost.Length > 0)
                await db.Letters.Where(l => lost.Contains(l.Id) && l.State == LetterState.Queued && !db.PushNotices.Any(n => n.LetterId == l.Id))
                    .ExecuteUpdateAsync(u => u.SetProperty(l => l.NotBefore, now), ct);
        }
    }

    enum Answer { Taken, Later, Refused, Gone }

    async Task<Answer> Post(ECDsa key, PushNotice notice, PushDevice device, CancellationToken ct)
    {
        try
        {
            var site = catalogue.Now.Site!;
            var endpoint = new Uri(device.Endpoint);
            var text = JsonSerializer.SerializeToUtf8Bytes(new { title = notice.Title, body = site.Name, path = notice.Path });
            using var request = new HttpRequestMessage(HttpMethod.Post, endpoint);
            request.Headers.TryAddWithoutValidation("Authorization", PushSender.Authorization(key, endpoint, site.HelpAddress, wall.Moment));
            request.Headers.Add("TTL", ((long)Holds.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture));
            request.Content = new ByteArrayContent(PushMessage.Encrypt(text, device.Key, device.Secret));
            request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
            request.Content.Headers.ContentEncoding.Add("aes128gcm");
            using var client = http.CreateClient(Client);
            using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, ct);
            return answer switch
            {
                { IsSuccessStatusCode: true } => Answer.Taken,
                // RFC 8030, section 7.3: the subscription is over.
                { StatusCode: HttpStatusCode.NotFound or HttpStatusCode.Gone } => Answer.Gone,
                { StatusCode: HttpStatusCode.TooManyRequests or >= HttpStatusCode.InternalServerError } => Answer.Later,
                // Whatever else it says, it says of this message.
                { StatusCode: var _ } => Answer.Refused,
            };
        }
        catch (OperationCanceledException) when (!ct.IsCancellationRequested)
        {
            return Answer.Later;
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            // Whatever is wrong with one of them, the others are sent.
            return Answer.Later;
        }
    }
}

/// <summary>Sends them in real time.</summary>
public sealed class NoticeWorker(DeliverNotices notices, HouseClock clock, Catalogue catalogue, ILogger<NoticeWorker> log) : WorkApart(clock, log)
{
    protected override Task Round(CancellationToken ct) => catalogue.Now.Site is null ? Task.CompletedTask : notices.Run(ct);
}
