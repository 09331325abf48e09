using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Storage;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace BrightCircle.Data;

public static class DataSetup
{
    /// <summary>Registers the database: one pooled source of connections, contexts on it, and row numbers.</summary>
    public static IServiceCollection AddBrightData(this IServiceCollection services, string connection)
    {
        services.AddSingleton(_ => Source(connection));
        services.AddDbContextPool<BrightContext>((s, o) => Configure(o, s.GetRequiredService<NpgsqlDataSource>()), 64);
        services.AddSingleton<Ids>();
        services.AddSingleton<MemberReader>();
        return services;
    }

    // Nothing of ours is set for longer than a transaction, so a connection needn't be cleaned before the next one has it: that would be seven commands more
    // for each page.
    public static NpgsqlDataSource Source(string connection)
    {
        var b = new NpgsqlDataSourceBuilder(new NpgsqlConnectionStringBuilder(
            connection)
        { MaxAutoPrepare = 100, AutoPrepareMinUsages = 3, MaxPoolSize = 40, NoResetOnClose = true }.ConnectionString);
        b.UseNodaTime();
        return b.Build();
    }

    static readonly AnswersAtHand AtHand = new();

    public static void Configure(DbContextOptionsBuilder options, NpgsqlDataSource source) =>
        options.UseNpgsql(source, n => n.UseNodaTime()).UseSnakeCaseNamingConvention().AddInterceptors(AtHand).ReplaceService<IDatabase, ManyRows>();
}

/// <summary>Lets the migration tool make a context without the application.</summary>
sealed class DesignTime : IDesignTimeDbContextFactory<BrightContext>
{
    public BrightContext CreateDbContext(string[] args)
    {
        var o = new DbContextOptionsBuilder<BrightContext>();
        DataSetup.Configure(o, DataSetup.Source(Environment.GetEnvironmentVariable("BRIGHTCIRCLE_DB") ?? "Host=127.0.0.1;Database=design"));
        return new(o.Options);
    }
}
