using System.Diagnostics.CodeAnalysis;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Unicode;
using Microsoft.AspNetCore.Html;

namespace BrightCircle.Web.Parts;

/// <summary>
/// Markup written piece by piece: what stands in the text is taken as it is, and everything that is put into it is encoded, so that nothing has to be thought
/// of. Numbers are written as SVG wants them, with a point and two places at most. Only what is markup already (<see cref="IHtmlContent"/>) goes in as it is.
/// </summary>
public sealed class Markup : IHtmlContent
{
    readonly StringBuilder text = new(1024);

    /// <summary>Encodes what means something in markup, and leaves the letters and signs of all languages as they are: pages are UTF-8.</summary>
    public static HtmlEncoder Encoder { get; } = HtmlEncoder.Create(UnicodeRanges.All);

    /// <summary>Nothing at all, for the other branch.</summary>
    public static IHtmlContent Nothing => HtmlString.Empty;
    /// <summary>A text of our own that is markup.</summary>
    public static IHtmlContent Raw([ConstantExpected] string markup) => new HtmlString(markup);

    public static Markup Of(Piece piece) => piece.Into;
    public Markup Add([InterpolatedStringHandlerArgument("")] Piece piece) => piece.Into;

    public void WriteTo(TextWriter writer, HtmlEncoder encoder)
    {
        foreach (var chunk in text.GetChunks()) writer.Write(chunk.Span);
    }

    public override string ToString() => text.ToString();

    [InterpolatedStringHandler]
    public readonly struct Piece
    {
        public Markup Into { get; }

#pragma warning disable IDE0060 // The compiler passes both lengths.
        public Piece(int literal, int holes, Markup into) => Into = into;
        public Piece(int literal, int holes) => Into = new();
#pragma warning restore IDE0060

        public void AppendLiteral(string markup) => Into.text.Append(markup);
        public void AppendFormatted(string? value)
        {
            if (value is { Length: > 0 }) Into.text.Append(Encoder.Encode(value));
        }
        public void AppendFormatted(double value)
        {
            Span<char> digits = stackalloc char[40];
            if (value.TryFormat(digits, out var n, "0.##", CultureInfo.InvariantCulture)) Into.text.Append(digits[..n]);
            else Into.text.Append(CultureInfo.InvariantCulture, $"{value:0.##}");
        }
        public void AppendFormatted(long value) => Into.text.Append(CultureInfo.InvariantCulture, $"{value}");
        public void AppendFormatted(IHtmlContent? markup)
        {
            switch (markup)
            {
                case null: break;
                case Markup m: Into.text.Append(m.text); break;
                case HtmlString s: Into.text.Append(s.Value); break;
                default:
                    using (var writer = new StringWriter(Into.text, CultureInfo.InvariantCulture)) markup.WriteTo(writer, Encoder);
                    break;
            }
        }
    }
}
