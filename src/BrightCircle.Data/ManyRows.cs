using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Storage;
using Microsoft.EntityFrameworkCore.Update;
using Npgsql;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

namespace BrightCircle.Data;

/// <summary>
/// Writes what a batch adds and takes away by the hundred: many new rows of one table by COPY, many rows taken away by one statement. The rest goes as
/// ever, row by row. Only within a transaction, so that all of it stands or nothing does.
/// </summary>
/// <remarks>
/// Taken away is first, then the rest, then what is added, a table after those it refers to. So a table is copied only where nothing of the rest refers to
/// it, and rows are taken away together only where nothing refers to their table and nobody guards them by a version.
/// </remarks>
sealed class ManyRows(DatabaseDependencies dependencies, RelationalDatabaseDependencies relational) : RelationalDatabase(dependencies, relational)
{
    /// <summary>From how many rows of one table on it is worth a command of its own.</summary>
    internal const int Many = 24;

    static readonly ConcurrentDictionary<IEntityType, Column[]?> Known = new();

    /// <param name="Unset">The value at which the database puts in its own default, where that is another one.</param>
    sealed record Column(IProperty Property, string Type, bool HasOther, object? Unset);

    public override async Task<int> SaveChangesAsync(IList<IUpdateEntry> entries, CancellationToken cancellationToken = default)
    {
        var connection = RelationalDependencies.Connection;
        if (entries.Count < Many || connection.CurrentTransaction is null) return await base.SaveChangesAsync(entries, cancellationToken);
        var byType = entries.ToLookup(e => (e.EntityType, e.EntityState));
        var removed = byType.Where(g => g.Key.EntityState == EntityState.Deleted && g.Count() >= Many && IsFree(g.Key.EntityType)).ToArray();
        var added = byType.Where(g => g.Key.EntityState == EntityState.Added && g.Count() >= Many && CanCopy(g.Key.EntityType, g)).ToList();
        List<IGrouping<(IEntityType EntityType, EntityState), IUpdateEntry>> rest;
        do rest = [.. byType.Where(g => !removed.Contains(g) && !added.Contains(g))];
        while (added.RemoveAll(a => rest.Any(r => r.Key.EntityType != a.Key.EntityType && Refers(r.Key.EntityType, a.Key.EntityType))) > 0);
        if (removed.Length + added.Count == 0) return await base.SaveChangesAsync(entries, cancellationToken);

        var db = (NpgsqlConnection)connection.DbConnection;
        try
        {
            foreach (var group in removed) await Remove(db, (NpgsqlTransaction)connection.CurrentTransaction.GetDbTransaction(), group, cancellationToken);
            IUpdateEntry[] singly = [.. rest.SelectMany(g => g)];
            if (singly.Length > 0) await base.SaveChangesAsync(singly, cancellationToken);
            while (added.Count > 0)
            {
                var next = added.First(a => added.All(b => a == b || !Refers(a.Key.EntityType, b.Key.EntityType)));
                await Copy(db, next.Key.EntityType, [.. next], cancellationToken);
                added.Remove(next);
            }
        }
        catch (PostgresException e)
        {
            throw new DbUpdateException("Many rows could not be written.", e);
        }
        return entries.Count;
    }

    static bool Refers(IEntityType from, IEntityType to) => from.GetForeignKeys().Any(f => f.PrincipalEntityType == to);

    static bool CanCopy(IEntityType type, IEnumerable<IUpdateEntry> entries) => Columns(type) is { } columns
        && columns.Where(c => c.HasOther).All(c => entries.All(e => !Equals(e.GetCurrentValue(c.Property), c.Unset)));

    static bool IsFree(IEntityType type) => Columns(type) is not null && !type.GetReferencingForeignKeys().Any()
        && type.FindPrimaryKey()!.Properties is [{ } key] && (key.GetTypeMapping().Converter?.ProviderClrType ?? key.ClrType) == typeof(long)
        && type.GetFlattenedProperties().All(p => !p.IsConcurrencyToken);

    /// <summary>The columns of a table that stands for itself: one class, one row, nothing of it in another table, nothing that comes back from the
    /// database and matters. Null for every other.</summary>
    static Column[]? Columns(IEntityType type) => Known.GetOrAdd(type, static t =>
    {
        if (t.BaseType is not null || t.GetDirectlyDerivedTypes().Any() || t.IsOwned() || t.FindPrimaryKey() is null
            || t.GetTableMappings().Count() != 1 || t.GetTableMappings().Single().Table.EntityTypeMappings.Count() != 1
            || t.GetComplexProperties().Any(c => c.ComplexType.IsMappedToJson()) || t.GetReferencingForeignKeys().Any(f => f.IsOwnership)) return null;
        // What the database alone may number is left to it, where it is no key.
        var numbered = t.GetProperties().Where(p => !p.IsKey() && p.GetValueGenerationStrategy() == NpgsqlValueGenerationStrategy.IdentityAlwaysColumn);
        var written = t.GetFlattenedProperties().Except(numbered).ToArray();
        if (written.Any(p => p.ValueGenerated != ValueGenerated.Never && !HasDefault(p))) return null;
        return [.. written.Select(p => new Column(p, ((RelationalTypeMapping)p.GetTypeMapping()).StoreTypeNameBase,
            HasDefault(p) && !Equals(p.GetDefaultValue(), p.Sentinel), p.Sentinel))];

        static bool HasDefault(IProperty p) => p.ValueGenerated == ValueGenerated.OnAdd && (p.GetDefaultValue() ?? p.GetDefaultValueSql()) is not null;
    });

    static async Task Copy(NpgsqlConnection db, IEntityType type, IUpdateEntry[] entries, CancellationToken ct)
    {
        var columns = Columns(type)!;
        var helper = new NpgsqlCommandBuilder();
        var names = string.Join(", ", columns.Select(c => helper.QuoteIdentifier(c.Property.GetColumnName())));
        // In the order of their keys, as rows written one by one are.
        var key = type.FindPrimaryKey()!.Properties;
        var keys = Array.ConvertAll(entries, e => Array.ConvertAll([.. key], p => e.GetCurrentProviderValue(p)));
        Array.Sort(keys, entries, Comparer<object?[]>.Create(static (a, b) =>
        {
            for (var i = 0; i < a.Length; i++)
                if (Comparer<object>.Default.Compare(a[i], b[i]) is not 0 and var c) return c;
            return 0;
        }));
        await using var copy = await db.BeginBinaryImportAsync($"copy {helper.QuoteIdentifier(type.GetTableName()!)} ({names}) from stdin (format binary)", ct);
        foreach (var entry in entries)
        {
            await copy.StartRowAsync(ct);
            foreach (var (property, store, _, _) in columns)
                if (entry.GetCurrentProviderValue(property) is { } value) await copy.WriteAsync(value, store, ct);
                else await copy.WriteNullAsync(ct);
        }
        await copy.CompleteAsync(ct);
    }

    static async Task Remove(NpgsqlConnection db, NpgsqlTransaction transaction, IGrouping<(IEntityType EntityType, EntityState), IUpdateEntry> group,
        CancellationToken ct)
    {
        var (type, key) = (group.Key.EntityType, group.Key.EntityType.FindPrimaryKey()!.Properties[0]);
        var helper = new NpgsqlCommandBuilder();
        await using var command = new NpgsqlCommand(
            $"delete from {helper.QuoteIdentifier(type.GetTableName()!)} where {helper.QuoteIdentifier(key.GetColumnName())} = any($1)", db, transaction);
        command.Parameters.Add(new NpgsqlParameter<long[]> { TypedValue = [.. group.Select(e => (long)e.GetCurrentProviderValue(key)!)] });
        var gone = await command.ExecuteNonQueryAsync(ct);
        if (gone != group.Count()) throw new DbUpdateConcurrencyException($"{group.Count()} rows were to go, and {gone} were there.", [.. group]);
    }
}
