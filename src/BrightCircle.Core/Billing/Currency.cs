namespace BrightCircle.Core.Billing;

/// <summary>A currency of ISO 4217 with its own number of decimals (JPY 0, GBP 2, BHD 3).</summary>
public readonly record struct Currency
{
    // ISO 4217, active currencies; the list is from memory of the standard's table A.1, the exponents are what the tests check.
    const string Known =
        "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP CNY COP CRC CUP CVE CZK " +
        "DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS " +
        "KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD " +
        "OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP " +
        "TRY TTD TWD TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG";

    static readonly HashSet<string> Codes = [.. Known.Split(' ')];
    static readonly HashSet<string> NoDecimals = ["BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "VND", "VUV", "XAF", "XOF", "XPF"];
    static readonly HashSet<string> ThreeDecimals = ["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"];

    /// <exception cref="ArgumentException">Not an active ISO 4217 code.</exception>
    public Currency(string code)
    {
        if (!IsKnown(code)) throw new ArgumentException($"“{code}” is not a currency code of ISO 4217.", nameof(code));
        Code = code;
    }

    public string Code { get; }

    /// <summary>How many decimals the minor unit stands for: 0, 2 or 3.</summary>
    public int Decimals => NoDecimals.Contains(Code) ? 0 : ThreeDecimals.Contains(Code) ? 3 : 2;

    /// <summary>Minor units in one major unit: 1, 100 or 1,000.</summary>
    public int MinorPerMajor => Decimals switch { 0 => 1, 2 => 100, 3 => 1000, _ => throw new InvalidOperationException() };

    public static bool IsKnown(string? code) => code is not null && Codes.Contains(code);
    public static IReadOnlyCollection<string> All => Codes;

    /// <summary>The sign people write before an amount, or the code where there is no common one.</summary>
    public string Sign => Code switch { "GBP" => "£", "EUR" => "€", "USD" => "$", "JPY" => "¥", "INR" => "₹", _ => Code + "\u00a0" };

    public override string ToString() => Code;
}
