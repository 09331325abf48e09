using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using Npgsql;

namespace BrightCircle.App.Content;

/// <param name="Snippet">A few words around what was found, as HTML with &lt;mark&gt;; null where it mustn't be shown.</param>
public sealed record SearchHit(Piece Piece, Lesson? Lesson, bool Open, string? Snippet);

/// <summary>Searches inside content with PostgreSQL's full text, in the language of the site: titles over text, text over transcripts.</summary>
public sealed class SearchContent(NpgsqlDataSource source, Catalogue catalogue)
{
    /// <summary>As many hits as are shown; three times as many are looked at, since a single lesson and its piece are one hit.</summary>
    const int Most = 50;

    /// <summary>For members and visitors: over what they may know of. A locked hit is told by its title; no word of its text is.</summary>
    public Task<IReadOnlyList<SearchHit>> ForVisitor(string? text, MemberFacts facts, NodaTime.Instant moment, CancellationToken ct)
    {
        var book = catalogue.Now.Book;
        return Find(text, drafts: facts.IsTeam, (piece, lesson) =>
        {
            var decision = lesson is null ? book.Decide(facts, piece.Id, moment) : book.Decide(facts, lesson.Id, moment);
            return decision.State is AccessState.Open ? true : decision.State is AccessState.Locked ? false : null;
        }, ct);
    }

    /// <summary>For the team: over everything.</summary>
    public Task<IReadOnlyList<SearchHit>> ForTeam(string? text, CancellationToken ct) => Find(text, drafts: true, (_, _) => true, ct);

    /// <param name="drafts">Whether what isn't out is looked at too: otherwise it mustn't take the places of what is.</param>
    async Task<IReadOnlyList<SearchHit>> Find(string? text, bool drafts, Func<Piece, Lesson?, bool?> opens, CancellationToken ct)
    {
        var now = catalogue.Now;
        if (string.IsNullOrWhiteSpace(text)) return [];
        var language = now.Site?.Language ?? "english";
        await using var command = source.CreateCommand("""
            select t.piece_id, t.lesson_id, case when row_number() over (order by t.rank desc, t.piece_id desc) <= $4 then ts_headline($1::regconfig, translate(t.body || ' ' || t.transcript, '<>&', '   '), q, 'StartSel=[[, StopSel=]], MaxFragments=2, MaxWords=18, MinWords=6, FragmentDelimiter= … ') end
            from (select s.piece_id, s.lesson_id, s.body, s.transcript, q, ts_rank(s.tsv, q) as rank from search_texts s, websearch_to_tsquery($1::regconfig, $2) q
                  where s.tsv @@ q and ($5 or exists (select 1 from pieces p where p.id = s.piece_id and p.released_at is not null) and (s.lesson_id is null or exists (select 1 from lessons l where l.id = s.lesson_id and l.released_at is not null)))
                  order by rank desc, s.piece_id desc limit $3) t
            order by t.rank desc, t.piece_id desc
            """);
        command.Parameters.Add(new() { Value = language });
        command.Parameters.Add(new() { Value = text.Length > 200 ? text[..200] : text });
        command.Parameters.Add(new() { Value = Most * 3 });
        command.Parameters.Add(new() { Value = Most });
        command.Parameters.Add(new() { Value = drafts });
        var hits = new List<SearchHit>();
        await using var r = await command.ExecuteReaderAsync(ct);
        while (hits.Count < Most && await r.ReadAsync(ct))
        {
            if (!now.PieceById.TryGetValue(new(r.GetInt64(0)), out var piece)) continue;
            Lesson? lesson = null;
            if (!r.IsDBNull(1) && !now.LessonById.TryGetValue(new(r.GetInt64(1)), out lesson)) continue;
            if (opens(piece, lesson) is not { } open) continue;
            // A single lesson and its piece are one thing to whoever searches.
            if (!piece.IsCourse && hits.Any(h => h.Piece.Id == piece.Id)) continue;
            var snippet = !open || r.IsDBNull(2) ? null : System.Net.WebUtility.HtmlEncode(r.GetString(2)).Replace("[[", "<mark>", StringComparison.Ordinal).Replace("]]", "</mark>", StringComparison.Ordinal);
            hits.Add(new(piece, piece.IsCourse ? lesson : null, open, snippet));
        }
        return hits;
    }
}
