using System.Globalization;
using BrightCircle.Core;

namespace BrightCircle.App.Settings;

/// <summary>How a site writes numbers, dates and signs of money.</summary>
public static class Cultures
{
    /// <summary>The ones to choose from, by name, with an example of each.</summary>
    public static IReadOnlyDictionary<string, string> All { get; } = new[]
    {
        "en-GB", "en-IE", "en-US", "en-CA", "en-AU", "en-NZ", "en-ZA", "en-IN", "de-DE", "de-AT", "de-CH", "fr-FR", "fr-CH", "fr-CA", "es-ES", "es-MX", "it-IT",
        "pt-PT", "pt-BR", "nl-NL", "nl-BE", "sv-SE", "nb-NO", "da-DK", "fi-FI", "pl-PL", "cs-CZ", "hu-HU", "ro-RO", "el-GR", "tr-TR", "ja-JP",
    }.ToDictionary(n => n, n => $"{CultureInfo.GetCultureInfo(n).EnglishName}: {1234.5m.ToString("N2", CultureInfo.GetCultureInfo(n))}");

    /// <summary>What suits a currency where nobody has chosen yet: English, with the signs and marks of a place where it is paid with.</summary>
    public static string For(Currency currency) => currency.Code switch
    {
        "EUR" => "en-IE",
        "USD" => "en-US",
        "CAD" => "en-CA",
        "AUD" => "en-AU",
        "NZD" => "en-NZ",
        "ZAR" => "en-ZA",
        "INR" => "en-IN",
        _ => "en-GB",
    };
}
