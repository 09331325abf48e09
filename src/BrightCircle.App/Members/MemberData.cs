using System.IO.Compression;
using System.Text;
using System.Text.Json;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Members;

/// <summary>
/// Everything that is kept about a person, as a zip of JSON files with a list of what is in them: to be handed to them when they ask (the GDPR’s articles 15
/// and 20). What would act in their name (secrets of links, the card’s token) is left out.
/// </summary>
public sealed class MemberData(NpgsqlDataSource source, BrightContext db, IClock clock)
{
    public Task<Core.Members.Member?> Find(MemberId id, CancellationToken ct) => db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);

    /// <summary>Makes the zip row by row, in a file that goes when it is closed: it takes no more memory for somebody who has done much.</summary>
    /// <returns>What it is to be called, and the zip from its beginning; null where there is no such member.</returns>
    public async Task<(string Name, Stream Zip)?> Of(MemberId member, CancellationToken ct)
    {
        if (await Find(member, ct) is not { } m) return null;
        var file = new FileStream(Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 65536,
            FileOptions.Asynchronous | FileOptions.DeleteOnClose);
        try
        {
            await Write(m, file, ct);
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
        file.Position = 0;
        return ($"{ForFile(m.Name)}.zip", file);
    }

    async Task Write(Core.Members.Member m, Stream to, CancellationToken ct)
    {
        await using var zip = new ZipArchive(to, ZipArchiveMode.Create, leaveOpen: true);
        await using var connection = await source.OpenConnectionAsync(ct);
        // All of one moment, whatever happens meanwhile.
        await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead, ct);
        var list = new StringBuilder($"What is kept about {m.Name}, {m.Email}, on {clock.GetCurrentInstant().ToDateTimeUtc():yyyy-MM-dd HH:mm} UTC.\n\n"
            + "Each file is JSON (RFC 8259). Moments are UTC; amounts are in the smallest unit of their currency.\n\n");
        await Rows("you", "select to_jsonb(t) from members t where id = $1", "who you are");
        foreach (var t in MemberTables.All.Where(t => t.File is not null))
            await Rows(t.File!, $"select to_jsonb(t) - $2 from {t.Table} t where {t.Of} order by 1", t.Says, t.Hide);
        await using (var readme = new StreamWriter(await zip.CreateEntry("README.txt").OpenAsync(ct))) await readme.WriteAsync(list, ct);

        async Task Rows(string file, string query, string says, string[]? hide = null)
        {
            await using var command = new NpgsqlCommand(query, connection, transaction);
            command.Parameters.Add(new() { Value = m.Id.Value });
            if (hide is not null) command.Parameters.Add(new() { Value = hide });
            await using var rows = await command.ExecuteReaderAsync(ct);
            var count = 0;
            await using var stream = await zip.CreateEntry($"{file}.json").OpenAsync(ct);
            await using var json = new Utf8JsonWriter(stream, new() { Indented = true });
            json.WriteStartArray();
            for (; await rows.ReadAsync(ct); count++)
            {
                json.WriteRawValue(rows.GetString(0));
                if (json.BytesPending > 64_000) await json.FlushAsync(ct);
            }
            json.WriteEndArray();
            list.Append(System.Globalization.CultureInfo.InvariantCulture, $"{file}.json: {says} ({count})\n");
        }
    }

    /// <summary>A name as it can stand in the name of a file.</summary>
    static string ForFile(string name)
    {
        var safe = string.Concat(name.Normalize(NormalizationForm.FormD).Where(char.IsAsciiLetterOrDigit).Take(40)).ToLowerInvariant();
        return safe.Length == 0 ? "data" : safe;
    }
}
