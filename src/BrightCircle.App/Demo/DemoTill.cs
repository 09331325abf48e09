using System.Net.Http.Json;
using System.Text.Json;

namespace BrightCircle.App.Demo;

/// <summary>Stands for the people in front of the stand-ins: types cards into the Till's page and tells the Postbox which addresses to refuse.</summary>
public sealed class DemoTill(string tillUrl, string postboxUrl) : IDisposable
{
    readonly HttpClient till = new() { BaseAddress = new(tillUrl) };
    readonly HttpClient postbox = new() { BaseAddress = new(postboxUrl) };

    public const string Approves = "9900100000000000", FailsLater = "9900200000000008", Lost = "9900300000000006", NeedsCardholder = "9900400000000004",
        TimesOut = "9900500000000001", ChargedBackLater = "9900600000000009";

    public Task SetCallbacks(string mode) => Send(till, "/control/callbacks", new { mode });

    /// <summary>Pays on the page of a session, found in its address.</summary>
    /// <param name="expires">The card's last month: "2027-01"; null for ever.</param>
    public Task Pay(string sessionUrl, string number, string? expires = null) =>
        Send(till, $"/control/sessions/{sessionUrl.Split('/')[^1]}/pay", new { number, expires });

    /// <summary>How a shop reaches it: "" as ever, "slow", "away".</summary>
    public Task Reach(string shop, string mode, int seconds = 5) => Send(till, "/control/reach", new { shop, mode, seconds });

    public Task Refuse(string address) => Send(postbox, "/control/rules", new { address, rule = "refuse" });

    public async Task<IReadOnlyList<(string Id, string Key)>> Charges()
    {
        var all = await till.GetFromJsonAsync<JsonElement>("/control/charges");
        return [.. all.EnumerateArray().Select(c => (c.GetProperty("id").GetString()!, c.GetProperty("key").GetString()!))];
    }

    /// <summary>A bank takes a charge back, and the site isn't told by the Till.</summary>
    /// <returns>The dispute's reference.</returns>
    public async Task<string> TakeBack(string charge)
    {
        await Send(till, $"/control/charges/{charge}/chargeback?quietly=true", new { });
        var all = await till.GetFromJsonAsync<JsonElement>("/control/disputes");
        return all.EnumerateArray().First(d => d.GetProperty("charge").GetString() == charge).GetProperty("id").GetString()!;
    }

    public Task ChargeBack(string charge) => Send(till, $"/control/charges/{charge}/chargeback", new { });

    static async Task Send(HttpClient http, string path, object body)
    {
        using var response = await http.PostAsJsonAsync(path, body);
        if (!response.IsSuccessStatusCode) throw new InvalidOperationException(
            $"{path}: {(int)response.StatusCode} {await response.Content.ReadAsStringAsync()}");
    }

    public void Dispose()
    {
        till.Dispose();
        postbox.Dispose();
    }
}
