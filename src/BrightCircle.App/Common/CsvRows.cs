using System.Text;

namespace BrightCircle.App;

/// <summary>CSV (RFC 4180) with the line each record begins on.</summary>
public static class CsvRows
{
    /// <summary>Commas, semicolons or tabs between the cells: whichever the first line has most of.</summary>
    public static List<(int Line, List<string> Cells)> Read(string text)
    {
        var end = text.IndexOf('\n');
        var first = end < 0 ? text : text[..end];
        return Read(text, new[] { ',', ';', '\t' }.MaxBy(s => first.Count(c => c == s)));
    }

    public static List<(int Line, List<string> Cells)> Read(string text, char separator)
    {
        var rows = new List<(int, List<string>)>();
        var (cells, cell, quoted, line, began) = (new List<string>(), new StringBuilder(), false, 1, 1);
        void End()
        {
            cells.Add(cell.ToString());
            cell.Clear();
        }
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (c == '\n') line++;
            if (quoted)
            {
                if (c != '"') cell.Append(c);
                else if (i + 1 < text.Length && text[i + 1] == '"') { cell.Append('"'); i++; }
                else quoted = false;
            }
            else if (c == '"' && cell.Length == 0) quoted = true;
            else if (c == separator) End();
            else if (c == '\n')
            {
                End();
                rows.Add((began, cells));
                (cells, began) = ([], line);
            }
            else if (c != '\r') cell.Append(c);
        }
        if (cell.Length > 0 || cells.Count > 0)
        {
            End();
            rows.Add((began, cells));
        }
        return rows;
    }
}
