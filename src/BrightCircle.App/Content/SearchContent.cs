using BrightCircle.App.Catalogues;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Content;

/// <param name="Snippet">A few words around what was found, as HTML with &lt;mark&gt;; null where it mustn't be shown.</param>
public sealed record SearchHit(Piece Piece, Lesson? Lesson, bool Open, string? Snippet);

/// <summary>Searches inside content with PostgreSQL's full text, in the language of the site: titles over text, text over transcripts.</summary>
public sealed class SearchContent(NpgsqlDataSource source, Catalogue catalogue)
{
    /// <summary>As many hits as are shown; three times as many are looked at, since a single lesson and its piece are one hit.</summary>
    const int Most = 50;

    /// <summary>For members and visitors: over what they may know of. What is locked is found by its title only, and no word of its text is told.</summary>
    public Task<IReadOnlyList<SearchHit>> ForVisitor(string? text, MemberFacts facts, Instant moment, CancellationToken ct)
    {
        var now = catalogue.Now;
        // What is open is worked out here, by the one who knows; the search is told in whose bodies it may look.
        var open = new HashSet<long>();
        var known = new HashSet<long>();
        foreach (var p in now.Pieces)
        {
            var whole = now.Book.Decide(facts, p.Id, moment);
            if (whole.IsKnown) known.Add(p.Id.Value);
            if (whole.IsOpen) open.Add(p.Id.Value);
            foreach (var l in p.Outline.Lessons)
            {
                var one = now.Book.Decide(facts, l.Id, moment);
                if (one.IsKnown) known.Add(l.Id.Value);
                if (one.IsOpen) open.Add(l.Id.Value);
            }
        }
        return Find(text, open, known, ct);
    }

    /// <summary>For the team: over everything.</summary>
    public Task<IReadOnlyList<SearchHit>> ForTeam(string? text, CancellationToken ct) => Find(text, null, null, ct);

    /// <param name="open">The pieces and lessons whose bodies are looked through; null for all.</param>
    /// <param name="known">Those whose titles are; null for all. Where nothing of it is known, nothing is found.</param>
    async Task<IReadOnlyList<SearchHit>> Find(string? text, HashSet<long>? open, HashSet<long>? known, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (string.IsNullOrWhiteSpace(text)) return [];
        var words = text.Replace('\0', ' ');
        var language = now.Site?.Language ?? "english";
        await using var command = source.CreateCommand("""
            select t.piece_id, t.lesson_id, case when row_number() over (order by t.rank desc, t.piece_id desc) <= $4 and t.is_open
              then ts_headline($1::regconfig, translate(t.body || ' ' || t.transcript, '<>&', '   '), q,
                  'StartSel=[[, StopSel=]], MaxFragments=2, MaxWords=18, MinWords=6, FragmentDelimiter= … ') end
            from (select s.piece_id, s.lesson_id, s.body, s.transcript, q, s.is_open, case when s.is_open then ts_rank(s.tsv, q) else ts_rank(s.title_tsv,
                q) end as rank
                  from (select s.*, to_tsvector($1::regconfig, s.title) as title_tsv, $5::bigint[] is null or coalesce(s.lesson_id,
                      s.piece_id) = any($5::bigint[]) as is_open
                        from search_texts s, websearch_to_tsquery($1::regconfig, $2) q
                        where s.tsv @@ q and ($6::bigint[] is null or coalesce(s.lesson_id, s.piece_id) = any($6::bigint[]))) s,
                            websearch_to_tsquery($1::regconfig, $2) q
                  where s.is_open or s.title_tsv @@ q
                  order by rank desc, s.piece_id desc limit $3) t
            order by t.rank desc, t.piece_id desc
            """);
        command.Parameters.Add(new() { Value = language });
        command.Parameters.Add(new() { Value = words.Length > 200 ? words[..200] : words });
        command.Parameters.Add(new() { Value = Most * 3 });
        command.Parameters.Add(new() { Value = Most });
        foreach (var some in new[] { open, known })
            command.Parameters.Add(new()
            {
                Value = some is null ? DBNull.Value : some.ToArray(),
                NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Bigint
            });
        var hits = new List<SearchHit>();
        await using var r = await command.ExecuteReaderAsync(ct);
        while (hits.Count < Most && await r.ReadAsync(ct))
        {
            if (!now.PieceById.TryGetValue(new(r.GetInt64(0)), out var piece)) continue;
            Lesson? lesson = null;
            if (!r.IsDBNull(1) && !now.LessonById.TryGetValue(new(r.GetInt64(1)), out lesson)) continue;
            // A single lesson and its piece are one thing to whoever searches.
            if (!piece.IsCourse && hits.Any(h => h.Piece.Id == piece.Id)) continue;
            var isOpen = open is null || open.Contains(lesson?.Id.Value ?? piece.Id.Value);
            var snippet = r.IsDBNull(2) ? null : System.Net.WebUtility.HtmlEncode(r.GetString(2)).Replace("[[", "<mark>", StringComparison.Ordinal)
                .Replace("]]", "</mark>", StringComparison.Ordinal);
            hits.Add(new(piece, piece.IsCourse ? lesson : null, isOpen, snippet));
        }
        return hits;
    }
}
