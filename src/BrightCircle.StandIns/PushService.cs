using System.Collections.Concurrent;

namespace BrightCircle.StandIns;

/// <summary>A push service (RFC 8030): takes what is sent to a browser and keeps it for whoever asks. It can’t read any of it.</summary>
public static class PushService
{
    sealed record Taken(string Authorization, string Ttl, string Coding, string Body);
    sealed record AnswerBody(int? Status);

    const int MostBytes = 4096, MostKept = 200;

    public static void Map(WebApplication app)
    {
        var kept = new ConcurrentDictionary<string, ConcurrentQueue<Taken>>();
        var answers = new ConcurrentDictionary<string, int>();
        app.MapPost("/push/{browser}", async (HttpContext http, string browser) =>
        {
            if (answers.TryGetValue(browser, out var status)) return Results.StatusCode(status);
            if (http.Request.ContentLength is null or > MostBytes) return Results.StatusCode(413);
            using var body = new MemoryStream();
            await http.Request.Body.CopyToAsync(body);
            var queue = kept.GetOrAdd(browser, _ => new());
            queue.Enqueue(new(http.Request.Headers.Authorization.ToString(), http.Request.Headers["TTL"].ToString(),
                http.Request.Headers.ContentEncoding.ToString(), Convert.ToBase64String(body.ToArray())));
            while (queue.Count > MostKept) queue.TryDequeue(out _);
            return Results.Created($"/push/{browser}/1", null);
        });
        app.MapGet("/push/{browser}", (string browser) => kept.TryGetValue(browser, out var queue) ? queue.ToArray() : []);
        // How it answers from now on; null for taking everything again.
        app.MapPost("/push/{browser}/answer", (string browser, AnswerBody answer) =>
        {
            if (answer.Status is { } status) answers[browser] = status;
            else answers.TryRemove(browser, out _);
        });
    }
}
