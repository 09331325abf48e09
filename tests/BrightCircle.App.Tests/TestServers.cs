using System.Diagnostics;
using System.Text.RegularExpressions;
using Npgsql;

namespace BrightCircle.App.Tests;

/// <summary>The real PostgreSQL and the real stand-ins, each its own process, one of each for a test run.</summary>
public static partial class TestServers
{
    static readonly Lock Gate = new();
    static Process? standIns;
    static string? connection;
    static int databases;
    static readonly HashSet<string> Templates = [];

    public static string Root { get; } = FindRoot();
    public static string Till { get; private set; } = "";
    public static string Postbox { get; private set; } = "";
    public static int SmtpPort { get; private set; }
    /// <summary>Where the sites of this run keep their files: another run's are elsewhere.</summary>
    public static string Files { get; } = NewFolder();
    public const string Secret = "the secret of the tests";

    static string NewFolder()
    {
        var folder = Directory.CreateTempSubdirectory("bright-tests-").FullName;
        AppDomain.CurrentDomain.ProcessExit += (_, _) => { try { Directory.Delete(folder, true); } catch (IOException) { } };
        return folder;
    }

    static string FindRoot()
    {
        var dir = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(dir, "BrightCircle.slnx")))
            dir = Path.GetDirectoryName(dir) ?? throw new InvalidOperationException("The solution is not above the tests.");
        return dir;
    }

    /// <summary>The cluster's connection; ./test hands it in, otherwise tools/pg-up is asked.</summary>
    public static string Connection
    {
        get
        {
            lock (Gate) return connection ??= Environment.GetEnvironmentVariable("BRIGHTCIRCLE_TEST_DB") is { Length: > 0 } given ? given : PgUp();
        }
    }

    public static string PgFolder => Environment.GetEnvironmentVariable("BRIGHTCIRCLE_TEST_PG") is { Length: > 0 } given ? given
        : Path.Combine(Root, ".run/test/pg");
    static int PgPort => new NpgsqlConnectionStringBuilder(Connection).Port;

    static string PgUp(int port = 0)
    {
        Directory.CreateDirectory(PgFolder);
        return Run("tools/pg-up", PgFolder, (port == 0 ? 7154 : port).ToString(System.Globalization.CultureInfo.InvariantCulture), "bright", "bright").Trim();
    }

    public static void RestartDatabase()
    {
        var port = PgPort;
        Run("tools/pg-up", "--stop", PgFolder);
        PgUp(port);
    }

    static string Run(string command, params string[] arguments)
    {
        var start = new ProcessStartInfo(Path.Combine(Root, command), arguments) { RedirectStandardOutput = true, RedirectStandardError = true };
        start.Environment["PG_FAST"] = "1";
        using var p = Process.Start(start)!;
        var errors = p.StandardError.ReadToEndAsync();
        var output = p.StandardOutput.ReadToEnd();
        p.WaitForExit();
        return p.ExitCode == 0 ? output : throw new InvalidOperationException($"{command}: {errors.Result}");
    }

    public static void StartStandIns()
    {
        lock (Gate)
        {
            if (standIns is { HasExited: false }) return;
            var start = new ProcessStartInfo("dotnet",
                [Path.Combine(AppContext.BaseDirectory, "BrightCircle.StandIns.dll"), "--Secret", Secret, "--ChargebackAfter",
                "00:00:02"])
            { RedirectStandardOutput = true, RedirectStandardInput = true };
            standIns = Process.Start(start)!;
            AppDomain.CurrentDomain.ProcessExit += (_, _) => { try { standIns.Kill(true); } catch (InvalidOperationException) { } };
            var line = standIns.StandardOutput.ReadLine() ?? throw new InvalidOperationException("The stand-ins said nothing.");
            var ready = Ready().Match(line);
            if (!ready.Success) throw new InvalidOperationException(line);
            (Till, Postbox, SmtpPort) = (ready.Groups[1].Value, ready.Groups[2].Value,
                int.Parse(ready.Groups[3].Value, System.Globalization.CultureInfo.InvariantCulture));
        }
    }

    /// <summary>A database as <paramref name="make"/> leaves it, made once for a run and copied from then on. Numbers start high and differently in
    /// each, so that keys never meet in the shared stand-ins.</summary>
    /// <param name="kind">Names what is made: letters only.</param>
    public static string NewDatabase(string kind, Action<string> make)
    {
        var templateName = Template(kind, make);
        lock (Gate)
        {
            var url = new NpgsqlConnectionStringBuilder(Connection) { Database = "postgres", Pooling = false };
            var pid = Environment.ProcessId;
            var name = $"test_{pid}_{++databases}";
            Sql(url, $"drop database if exists {name} with (force)", $"create database {name} template {templateName}");
            var made = new NpgsqlConnectionStringBuilder(Connection) { Database = name };
            Sql(made, $"alter sequence ids restart with {(pid % 100_000) * 100_000_000L + databases * 1_000_000L + 1000}");
            return made.ConnectionString;
        }
    }

    static string Template(string kind, Action<string> make)
    {
        var name = $"{kind}_{Environment.ProcessId}";
        lock (Gate)
            if (Templates.Contains(name)) return name;
        var url = new NpgsqlConnectionStringBuilder(Connection) { Database = "postgres", Pooling = false };
        Sql(url, $"drop database if exists {name} with (force)", $"create database {name}");
        make(new NpgsqlConnectionStringBuilder(Connection) { Database = name, Pooling = false }.ConnectionString);
        // Nobody may be connected to what is copied.
        Sql(url, $"select pg_terminate_backend(pid) from pg_stat_activity where datname = '{name}'");
        AppDomain.CurrentDomain.ProcessExit += (_, _) => { try { Sql(url, $"drop database if exists {name} with (force)"); } catch (NpgsqlException) { } };
        lock (Gate) Templates.Add(name);
        return name;
    }

    public static void DropDatabase(string connectionString)
    {
        var name = new NpgsqlConnectionStringBuilder(connectionString).Database;
        try { Sql(new NpgsqlConnectionStringBuilder(Connection) { Database = "postgres", Pooling = false }, $"drop database if exists {name} with (force)"); }
        catch (NpgsqlException) { /* left for the next run of pg-up to sweep */ }
    }

    static void Sql(NpgsqlConnectionStringBuilder url, params string[] commands)
    {
        using var c = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(url.ConnectionString) { Pooling = false }.ConnectionString);
        c.Open();
        foreach (var sql in commands)
            for (var tries = 1; ; tries++)
                try
                {
                    using var command = new NpgsqlCommand(sql, c);
                    command.ExecuteNonQuery();
                    break;
                }
                // The server’s own sweeping can be in a database just then, and nobody else may end that; it goes by itself.
                catch (PostgresException e) when (tries < 60 && e.SqlState is PostgresErrorCodes.InsufficientPrivilege or PostgresErrorCodes.ObjectInUse)
                {
                    Thread.Sleep(TimeSpan.FromSeconds(1));
                }
    }

    [GeneratedRegex(@"READY till=(\S+) postbox=(\S+) smtp=(\d+)")] private static partial Regex Ready();
}
