using System.Collections;
using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Npgsql;

namespace BrightCircle.Data;

/// <summary>What a question will have been answered with, once <see cref="OneTrip.Ask"/> is over.</summary>
public sealed class Answer<T>
{
    T? value;
    bool given;

    /// <exception cref="InvalidOperationException">It hasn't been asked yet.</exception>
    public T Value
    {
        get => given ? value! : throw new InvalidOperationException("The question hasn’t been asked yet.");
        internal set => (this.value, given) = (value, true);
    }
}

/// <summary>
/// Several questions to the database in one round trip. The queries are ordinary ones of the context, and it makes its entities of the answers as ever:
/// their commands go out as one batch, and while the context runs each query it is handed the reader that is there already.
/// </summary>
public sealed class OneTrip(BrightContext db)
{
    readonly List<(NpgsqlBatchCommand Command, Func<NpgsqlDataReader, CancellationToken, Task> Take)> questions = [];

    public Answer<List<T>> List<T>(IQueryable<T> query) => Query(query, async (q, ct) => await q.ToListAsync(ct));
    public Answer<T?> First<T>(IQueryable<T> query) where T : class => Query(query.Take(1), async (q, ct) => (await q.ToListAsync(ct)).FirstOrDefault());
    public Answer<int> Count<T>(IQueryable<T> query) =>
        Query(query.GroupBy(_ => 1).Select(g => g.Count()), async (q, ct) => (await q.ToListAsync(ct)).FirstOrDefault());

    /// <summary>A command of one's own, with parameters $1, $2, …</summary>
    public Answer<T> Command<T>(string sql, Func<NpgsqlDataReader, CancellationToken, Task<T>> read, params object[] about)
    {
        var (command, answer) = (new NpgsqlBatchCommand(sql), new Answer<T>());
        foreach (var value in about) command.Parameters.Add(new() { Value = value });
        questions.Add((command, async (r, ct) => answer.Value = await read(r, ct)));
        return answer;
    }

    Answer<T> Query<TRow, T>(IQueryable<TRow> query, Func<IQueryable<TRow>, CancellationToken, Task<T>> run)
    {
        var answer = new Answer<T>();
        using var made = query.CreateDbCommand();
        var command = new NpgsqlBatchCommand(made.CommandText);
        foreach (NpgsqlParameter p in made.Parameters) command.Parameters.Add(p.Clone());
        questions.Add((command, async (r, ct) =>
        {
            db.AtHand = r;
            try
            {
                answer.Value = await run(query, ct);
            }
            finally
            {
                db.AtHand = null;
            }
        }
        ));
        return answer;
    }

    public async Task Ask(CancellationToken ct)
    {
        await db.Database.OpenConnectionAsync(ct);
        try
        {
            await using var batch = ((NpgsqlConnection)db.Database.GetDbConnection()).CreateBatch();
            foreach (var (command, _) in questions) batch.BatchCommands.Add(command);
            await using var reader = await batch.ExecuteReaderAsync(ct);
            foreach (var (_, take) in questions)
            {
                await take(reader, ct);
                await reader.NextResultAsync(ct);
            }
        }
        finally
        {
            questions.Clear();
            await db.Database.CloseConnectionAsync();
        }
    }
}

/// <summary>Hands the context the reader that stands at the answer to what it is about to ask.</summary>
sealed class AnswersAtHand : DbCommandInterceptor
{
    public override ValueTask<InterceptionResult<DbDataReader>> ReaderExecutingAsync(
        DbCommand command, CommandEventData eventData, InterceptionResult<DbDataReader> result, CancellationToken cancellationToken = default) =>
        new(eventData.Context is BrightContext { AtHand: { } reader } ? InterceptionResult<DbDataReader>.SuppressWithResult(new OneAnswer(reader)) : result);

    /// <summary>One result of a reader that others still have to read: closing it closes nothing.</summary>
    sealed class OneAnswer(NpgsqlDataReader r) : DbDataReader
    {
        public override object this[int ordinal] => r[ordinal];
        public override object this[string name] => r[name];
        public override int Depth => r.Depth;
        public override int FieldCount => r.FieldCount;
        public override bool HasRows => r.HasRows;
        public override bool IsClosed => false;
        public override int RecordsAffected => -1;
        public override bool Read() => r.Read();
        public override Task<bool> ReadAsync(CancellationToken cancellationToken) => r.ReadAsync(cancellationToken);
        public override bool NextResult() => false;
        public override bool IsDBNull(int ordinal) => r.IsDBNull(ordinal);
        public override Task<bool> IsDBNullAsync(int ordinal, CancellationToken cancellationToken) => r.IsDBNullAsync(ordinal, cancellationToken);
        public override T GetFieldValue<T>(int ordinal) => r.GetFieldValue<T>(ordinal);
        public override Task<T> GetFieldValueAsync<T>(int ordinal, CancellationToken cancellationToken) => r.GetFieldValueAsync<T>(ordinal, cancellationToken);
        public override bool GetBoolean(int ordinal) => r.GetBoolean(ordinal);
        public override byte GetByte(int ordinal) => r.GetByte(ordinal);
        public override long GetBytes(int ordinal, long dataOffset, byte[]? buffer, int bufferOffset, int length) =>
            r.GetBytes(ordinal, dataOffset, buffer, bufferOffset, length);
        public override char GetChar(int ordinal) => r.GetChar(ordinal);
        public override long GetChars(int ordinal, long dataOffset, char[]? buffer, int bufferOffset, int length) =>
            r.GetChars(ordinal, dataOffset, buffer, bufferOffset, length);
        public override string GetDataTypeName(int ordinal) => r.GetDataTypeName(ordinal);
        public override DateTime GetDateTime(int ordinal) => r.GetDateTime(ordinal);
        public override decimal GetDecimal(int ordinal) => r.GetDecimal(ordinal);
        public override double GetDouble(int ordinal) => r.GetDouble(ordinal);
        public override Type GetFieldType(int ordinal) => r.GetFieldType(ordinal);
        public override float GetFloat(int ordinal) => r.GetFloat(ordinal);
        public override Guid GetGuid(int ordinal) => r.GetGuid(ordinal);
        public override short GetInt16(int ordinal) => r.GetInt16(ordinal);
        public override int GetInt32(int ordinal) => r.GetInt32(ordinal);
        public override long GetInt64(int ordinal) => r.GetInt64(ordinal);
        public override string GetName(int ordinal) => r.GetName(ordinal);
        public override int GetOrdinal(string name) => r.GetOrdinal(name);
        public override string GetString(int ordinal) => r.GetString(ordinal);
        public override object GetValue(int ordinal) => r.GetValue(ordinal);
        public override int GetValues(object[] values) => r.GetValues(values);
        public override IEnumerator GetEnumerator() => new DbEnumerator(this);
    }
}
