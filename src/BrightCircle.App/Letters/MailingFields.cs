using System.Net;
using System.Text.RegularExpressions;
using BrightCircle.App.Catalogues;
using BrightCircle.Core.Members;

namespace BrightCircle.App.Letters;

/// <summary>Something that stands in a letter to many and is another for each reader.</summary>
/// <param name="Key">As it is written: {{ first_name }}.</param>
/// <param name="Words">What it is, for whoever writes.</param>
/// <param name="CanBeEmpty">For some readers there is nothing: a word in its place is needed.</param>
/// <param name="Sample">What can stand there; empty where nothing is known of it.</param>
public sealed record MailingField(string Key, string Words, bool CanBeEmpty, string Sample = "")
{
    /// <summary>As it is put into a text.</summary>
    public string AsWritten => CanBeEmpty ? $"{{{{ {Key} | default: \"friend\" }}}}" : $"{{{{ {Key} }}}}";
}

/// <summary>The fields of letters to many: which there are, whether a text uses them rightly, and the text with a reader's values.</summary>
/// <remarks>Written as in Liquid: {{ tier | default: "our letter" }}. More than that isn't taken, so that nothing a letter says depends on a program.</remarks>
public static partial class MailingFields
{
    public static IReadOnlyList<MailingField> All(CatalogueSnapshot now) =>
    [
        new("first_name", "First name", false, "Robin"),
        new("name", "Whole name", false, "Robin Hale"),
        new("tier", "Their tier", true, now.Plans.FirstOrDefault(p => p.IsTier)?.Name ?? ""),
        new("edition", "The newest edition", now.CurrentEdition is null, now.CurrentEdition?.Title ?? ""),
        .. now.Spaces.Count == 0 ? Array.Empty<MailingField>() : [new("threads", "What is talked about", true, "“A first thread”, “another” and “a third”")],
        new("site", "This site’s name", false, now.Site?.Name ?? ""),
        .. now.OwnFields.Select(f => new MailingField(KeyOf(f), f.Name, true, SampleOf(f, now))),
    ];

    static string SampleOf(OwnField field, CatalogueSnapshot now) => field.Kind switch
    {
        OwnFieldKind.Choice => field.Choices[0],
        OwnFieldKind.Number => "12",
        OwnFieldKind.Date => new NodaTime.LocalDate(2026, 5, 3).ToString("d MMMM uuuu", now.Culture),
        OwnFieldKind.Text => "",
        _ => throw new InvalidOperationException($"No such kind: {field.Kind}"),
    };

    /// <summary>A field of the owner's own, as it is written: its name in small letters, with strokes for what is no letter.</summary>
    public static string KeyOf(OwnField field)
    {
        var key = NoLetter().Replace(field.Name.ToLowerInvariant(), "_").Trim('_');
        return key.Length == 0 || char.IsAsciiDigit(key[0]) ? $"field_{field.Id.Value}" : key;
    }

    /// <returns>What is wrong with the fields of a text, in a sentence; null where nothing is.</returns>
    public static string? WrongWith(string text, CatalogueSnapshot now) => WrongWith(text, All(now));

    /// <param name="all">The fields it may name.</param>
    public static string? WrongWith(string text, IReadOnlyList<MailingField> all)
    {
        foreach (Match m in Field().Matches(text))
        {
            var key = m.Groups["key"].Value;
            if (all.FirstOrDefault(f =>
                f.Key == key) is not { } field) return $"There is no field “{key}”. There are: {string.Join(", ", all.Select(f => f.Key))}.";
            if (field.CanBeEmpty && !m.Groups["else"].Success)
                return $"“{key}” is empty for some. Say what stands there then: {field.AsWritten}.";
        }
        var rest = Field().Replace(text, "");
        return rest.Contains("{{", StringComparison.Ordinal) || rest.Contains("}}", StringComparison.Ordinal) || rest.Contains("{%", StringComparison.Ordinal)
            ? "Two braces begin or end a field here, and it can’t be read. A field looks like {{ first_name }}." : null;
    }

    /// <summary>The keys a text uses.</summary>
    public static IReadOnlySet<string> Used(string text) => Field().Matches(text).Select(m => m.Groups["key"].Value).ToHashSet();

    /// <param name="html">The text is HTML, and what stands in it is escaped.</param>
    public static string Fill(string text, IReadOnlyDictionary<string, string> values, bool html) => Fill(text, (key, instead) =>
    {
        // What may be empty has its word beside it; a name that is no name and has none is greeted as in every letter.
        instead ??= "there";
        var value = values.GetValueOrDefault(key) is { Length: > 0 } known ? known : html ? WebUtility.HtmlDecode(instead) : instead;
        return html ? WebUtility.HtmlEncode(value) : value;
    });

    /// <summary>The text with its fields filled in, whatever they are.</summary>
    /// <param name="value">The value of a key, with the word beside it as it stands in the text; null where it has none.</param>
    public static string Fill(string text, Func<string, string?, string> value) =>
        Field().Replace(text, m => value(m.Groups["key"].Value, m.Groups["else"].Success ? m.Groups["else"].Value : null));

    const string Gap = "(?:\\s|&nbsp;)*", Quote = "[\"“”]";
    [GeneratedRegex(@"\{\{" + Gap + "(?<key>[a-z][a-z0-9_]*)" + Gap + "(?:\\|" + Gap + "default:" + Gap + Quote + "(?<else>[^\"“”{}<>]*)" + Quote + Gap
        + @")?\}\}")]
    private static partial Regex Field();
    [GeneratedRegex("[^a-z0-9]+")] private static partial Regex NoLetter();
}
