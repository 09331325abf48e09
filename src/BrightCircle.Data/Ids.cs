using Npgsql;

namespace BrightCircle.Data;

/// <summary>
/// Numbers for new rows, known before they are written, so that a whole event (payment, facts, letter, due work) goes in one batch.
/// One sequence serves all tables; each process takes a block at a time.
/// </summary>
public sealed class Ids(NpgsqlDataSource source)
{
    public const int Block = 200;
    readonly Lock gate = new();
    long next, end;

    public long Next()
    {
        lock (gate)
        {
            if (next == end)
            {
                using var command = source.CreateCommand("select nextval('ids')");
                next = (long)command.ExecuteScalar()!;
                end = next + Block;
            }
            return next++;
        }
    }

    public T Next<T>() where T : struct, Core.ITypedId<T> => T.From(Next());
}
