using System.Text.Json;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Npgsql;

namespace BrightCircle.App.Content;

/// <summary>A lesson as the editor opens it.</summary>
/// <param name="Others">Who else has it open.</param>
/// <param name="Files">What it uses, and the newest there are to choose from; of each what a choice shows.</param>
public sealed record OpenedLesson(LessonDraft Draft, IReadOnlyList<string> Others, IReadOnlyList<StoredFile> Files);

/// <summary>Opens a lesson in the editor: one round trip, which also says that somebody is at it.</summary>
public sealed class OpenLesson(NpgsqlDataSource source, EditingNow editing)
{
    /// <summary>Null where the lesson isn't there any more.</summary>
    /// <param name="recent">How many of the newest files come with it.</param>
    public async Task<OpenedLesson?> Do(TeamActor by, LessonId id, int recent, CancellationToken ct)
    {
        by.NeedEditor();
        await using var batch = source.CreateBatch();
        batch.BatchCommands.Add(
            new("select l.title, l.minutes, l.teaser, l.done_when, l.edition_id, l.ready, l.version, c.blocks from lessons l join lesson_contents c on "
                + "c.lesson_id = l.id where l.id = $1 and l.trashed_at is null")
            { Parameters = { new() { Value = id.Value } } });
        batch.BatchCommands.Add(editing.Command(by, id));
        batch.BatchCommands.Add(new("""
            select id, name, alt, kind from files where id in (select file_id from file_uses where "user" = 'Lesson' and user_id = $1)
            union (select id, name, alt, kind from files order by id desc limit $2)
            """)
        { Parameters = { new() { Value = id.Value }, new() { Value = recent } } });
        await using var r = await batch.ExecuteReaderAsync(ct);
        if (!await r.ReadAsync(ct)) return null;
        var draft = new LessonDraft(r.GetString(0), r.IsDBNull(1) ? null : r.GetInt32(1), r.GetBoolean(2), Enum.Parse<DoneWhen>(r.GetString(3)),
            r.IsDBNull(4) ? null : new EditionId(r.GetInt64(4)), r.GetBoolean(5),
            JsonSerializer.Deserialize<IReadOnlyList<Block>>(r.GetString(7), CoreJson.Options)!, r.GetInt32(6));
        await r.NextResultAsync(ct);
        var others = await EditingNow.Names(r, ct);
        await r.NextResultAsync(ct);
        var files = new List<StoredFile>();
        while (await r.ReadAsync(ct))
            files.Add(new() { Id = new(r.GetInt64(0)), Name = r.GetString(1), Alt = r.GetString(2), Kind = Enum.Parse<FileKind>(r.GetString(3)) });
        return new(draft, others, files);
    }
}
