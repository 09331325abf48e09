using System.Diagnostics;
using BrightCircle.App;
using BrightCircle.App.Due;
using BrightCircle.App.Insight;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Routines;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.Bench;

/// <summary>Audiences, letters, routines, arrivals and departures, beside a thousand members and beside a hundred thousand.</summary>
public static partial class BenchMain
{
    static async Task<double> Middle(int times, Func<Task> what)
    {
        var took = new List<double>();
        for (var i = 0; i < times + 2; i++)
        {
            var watch = Stopwatch.StartNew();
            await what();
            if (i >= 2) took.Add(watch.Elapsed.TotalMilliseconds);
        }
        return took.Order().ElementAt(took.Count / 2);
    }

    static async Task AboutPeople()
    {
        await using var house = await House.Open();
        var audience = new Condition.AllOf([new Condition.InStanding([Standing.Trial, Standing.Active]), new Condition.Holds([house.Keeper]),
            new Condition.Not(new Condition.Seen(new When.InLast(30)))]);
        var (fewArrivals, fewDepartures, there) = (0.0, 0.0, 0);
        foreach (var many in new[] { 1_000, 100_000 })
        {
            await ManyMembers.Add(house, many - there);
            there = many;
            await house.Ask(db => db.Database.ExecuteSqlRawAsync("vacuum analyze"));
            var counted = await Middle(9, () => house.Get<Audiences, AudienceLook>(async s => (await s.Look(audience, null, default)).Look));
            Row($"an audience of three lines counted, ten names, {many:N0} members", $"{counted:0} ms", "", "", many > 1000 ? "under 300 ms" : "");
            var arrivals = await Middle(9, () => house.Get<Arrivals, ArrivalsView>(s => s.Load(house.Clock.Moment, default)));
            var departures = await Middle(9, () => house.Get<Departures, DeparturesView>(s => s.Load(house.Clock.Moment, default)));
            Row($"arrivals beside {many:N0} members", $"{arrivals:0.0} ms", fewArrivals > 0 ? $"1,000: {fewArrivals:0.0} ms" : "",
                fewArrivals > 0 ? $"{arrivals / fewArrivals:0.00}" : "", fewArrivals > 0 ? "< 1.50" : "");
            Row($"departures beside {many:N0} members", $"{departures:0.0} ms", fewDepartures > 0 ? $"1,000: {fewDepartures:0.0} ms" : "",
                fewDepartures > 0 ? $"{departures / fewDepartures:0.00}" : "", fewDepartures > 0 ? "< 1.50" : "");
            (fewArrivals, fewDepartures) = (arrivals, departures);
        }

        var text = house.Services.GetRequiredService<IServiceScopeFactory>().CreateScope().ServiceProvider.GetRequiredService<MailingText>();
        var letter = new Mailing
        {
            Subject = "News for {{ name }}",
            Body = string.Concat(Enumerable.Repeat("<div>Dear {{ first_name }}, all is <strong>well</strong>.</div>", 30))
        };
        for (var i = 0; i < 200; i++) text.Render(letter, "Ann Lee", new Dictionary<string, string>(), "#");
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < 2000; i++) text.Render(letter, $"Ann {i}", new Dictionary<string, string>(), "#");
        Row("letters to many rendered, one core", $"{2000 / watch.Elapsed.TotalSeconds:0}/s", "", "", "at least 500/s");

        await LettersHandedOver(house);

        // Five thousand go through a letter, a wait, a question, another letter and a tag.
        const int people = 5_000;
        var tag = (await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "through", null, 1, null, default))).Value;
        var keepers = (await house.Get<Audiences, Result<AudienceId>>(s =>
            s.Save(house.Owner, null, "Keepers", new Condition.Holds([house.Keeper]), default))).Value;
        var id = (await house.Get<EditRoutine, Result<long>>(s => s.New(house.Owner, null, default))).Value;
        var made = await house.Get<EditRoutine, long>(s => s.NewLetter(house.Owner, id, default));
        await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, made, new("Hello", "", "<div>Dear {{ first_name }}</div>", null, false, null, 1),
            default));
        await house.Get<EditRoutine, Result>(s => s.Change(house.Owner, id, 1, null, _ => Script.Of(new Trigger.SignsIn(), new Step.SendLetter(1, made),
            new Step.Wait(2, 1, 0), new Step.Branch(3, keepers, [new Step.SendLetter(4, made)], []), new Step.PutTag(5, tag)), default));
        await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default));
        await house.Ask(async db =>
        {
            RoutineBegins.Put(db, house.Services.GetRequiredService<Ids>(), id,
                await db.Members.OrderBy(m => m.Id).Take(people).Select(m => m.Id).ToListAsync(),
                house.Clock.Moment);
            return await db.SaveChangesAsync();
        });
        watch.Restart();
        var due = house.Services.GetRequiredService<RunDue>();
        await due.Run();
        await due.Forward(house.Clock.Moment + Duration.FromDays(1) + Duration.FromMinutes(5), new(), _ => Task.CompletedTask);
        var steps = await house.Ask(db => db.RoutineDone.CountAsync());
        Row($"routine steps, {people:N0} people", $"{steps / watch.Elapsed.TotalSeconds:0}/s ({steps:N0} steps)", "", "", "at least 1,000/s");
        var waiting = await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.RoutineStep || d.Kind == DueKind.RoutineBegin));
        Row("rows of routines that wait when all are through", $"{waiting}", "", "", "0");
    }

    /// <summary>A letter to everybody: its copies written, made and handed to a mail server that keeps nothing, beside the mail library alone.</summary>
    static async Task LettersHandedOver(House house)
    {
        using var sink = new MailSink();
        var settings = house.Services.GetRequiredService<MailSettings>();
        var before = settings.Port;
        settings.Port = sink.Port;
        // What waits already goes first.
        await house.Deliver();
        var audience = (await house.Get<Audiences, Result<AudienceId>>(s =>
            s.Save(house.Owner, null, "All", new Condition.Named("post.example"), default))).Value;
        var id = (await house.Get<Mailings, Result<long>>(s => s.New(house.Owner, null, null, null, default))).Value;
        await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, id, new("News for {{ name }}", "",
            string.Concat(Enumerable.Repeat("<div>Dear {{ first_name }}, all is <strong>well</strong>.</div>", 30)), audience, false, null, 1), default));
        await house.Get<SendMailing, Result>(s => s.Do(house.Owner, id, null, false, default));
        var watch = Stopwatch.StartNew();
        await house.Services.GetRequiredService<RunDue>().Run();
        var copies = await house.Ask(db => db.Letters.CountAsync(l => l.MailingId == id));
        Row($"copies of a letter to many written, {copies:N0}", $"{copies / watch.Elapsed.TotalSeconds:N0}/s", "", "", "");

        var taken = sink.Taken;
        var (first, most) = (GC.GetTotalMemory(true), 0L);
        using var stop = new CancellationTokenSource();
        var looking = Task.Run(async () =>
        {
            // What is in use after the first tenth, and never much more.
            while (!stop.IsCancellationRequested)
            {
                await Task.Delay(2000);
                if (sink.Taken - taken > copies / 10) most = Math.Max(most, GC.GetTotalMemory(true));
                else first = Math.Max(first, GC.GetTotalMemory(true));
            }
        });
        watch.Restart();
        await house.Deliver();
        var rate = (sink.Taken - taken) / watch.Elapsed.TotalSeconds;
        await stop.CancelAsync();
        await looking;

        // The yardstick: letters of the same size, made beforehand, by the library alone.
        const int alone = 4000;
        var one = new MimeKit.MimeMessage
        {
            Body = new MimeKit.BodyBuilder { HtmlBody = new string('x', 3000), TextBody = new string('x', 1500) }
            .ToMessageBody(),
            Subject = "News"
        };
        one.From.Add(MimeKit.MailboxAddress.Parse("letters@site.example"));
        one.To.Add(MimeKit.MailboxAddress.Parse("somebody@post.example"));
        using var client = new MailKit.Net.Smtp.SmtpClient();
        // As the site does: at once.
        var socket = new System.Net.Sockets.Socket(System.Net.Sockets.SocketType.Stream, System.Net.Sockets.ProtocolType.Tcp) { NoDelay = true };
        await socket.ConnectAsync("127.0.0.1", sink.Port);
        await client.ConnectAsync(socket, "127.0.0.1", sink.Port, MailKit.Security.SecureSocketOptions.None);
        watch.Restart();
        for (var i = 0; i < alone; i++) await client.SendAsync(one);
        var library = alone / watch.Elapsed.TotalSeconds;
        Row($"letters made and handed to a mail server, {sink.Taken - taken - alone:N0}", $"{rate:N0}/s",
            $"the mail library alone: {library:N0}/s", $"{rate / library:0.00}", "");
        Row("memory in use while they went, beside after the first tenth", $"{most / 1e6:0.0} MB", $"{first / 1e6:0.0} MB", $"{(double)most / first:0.00}",
            "flat");
        settings.Port = before;
    }
}

file static class HouseSteps
{
    public static async Task<TResult> Get<T, TResult>(this House house, Func<T, Task<TResult>> ask) where T : notnull
    {
        TResult result = default!;
        await house.Do<T>(async s => result = await ask(s));
        return result;
    }
}
