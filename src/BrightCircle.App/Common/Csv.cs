using CsvHelper;

namespace BrightCircle.App;

/// <summary>The one way to write CSV (RFC 4180): line ends CR LF, and no cell can be taken for a formula.</summary>
public static class Csv
{
    public static CsvWriter Writer(TextWriter text) => CsvWriter.Create(text, new() { Injection = CsvInjection.Escape, NewLine = "\r\n" }, true);
}
