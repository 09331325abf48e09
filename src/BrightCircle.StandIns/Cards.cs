namespace BrightCircle.StandIns;

/// <summary>How a made-up card behaves.</summary>
public enum Behaviour { Approves, FailsLater, Lost, NeedsCardholder, TimesOut, ChargedBackLater }

/// <summary>Card numbers that can't be real: they begin with 99, which no issuer has, and pass the check digit of ISO/IEC 7812-1 (Luhn).</summary>
public static class Cards
{
    public static IReadOnlyList<(string Number, Behaviour Behaviour, string Says)> Known { get; } =
    [
        (WithCheckDigit("990010000000000"), Behaviour.Approves, "approves always"),
        (WithCheckDigit("990020000000000"), Behaviour.FailsLater, "approves the first time, then has insufficient funds"),
        (WithCheckDigit("990030000000000"), Behaviour.Lost, "a lost card: refused for good"),
        (WithCheckDigit("990040000000000"), Behaviour.NeedsCardholder, "the cardholder has to confirm every payment"),
        (WithCheckDigit("990050000000000"), Behaviour.TimesOut, "answers with a time-out although the money moved"),
        (WithCheckDigit("990060000000000"), Behaviour.ChargedBackLater, "approves, and is charged back later"),
    ];

    /// <summary>Luhn: every second digit from the right doubled, digits summed, a multiple of ten.</summary>
    public static bool IsLuhnValid(string digits)
    {
        if (digits.Length < 2 || digits.Any(c => c is < '0' or > '9')) return false;
        var sum = 0;
        for (var i = 0; i < digits.Length; i++)
        {
            var d = digits[^(i + 1)] - '0';
            if (i % 2 == 1) d = d * 2 > 9 ? d * 2 - 9 : d * 2;
            sum += d;
        }
        return sum % 10 == 0;
    }

    public static string WithCheckDigit(string digits)
    {
        for (var check = '0'; check <= '9'; check++)
            if (IsLuhnValid(digits + check)) return digits + check;
        throw new ArgumentException("Not digits.", nameof(digits));
    }

    /// <returns>What is wrong with a typed number, or null; other 99 numbers behave as their fifth digit says, or approve.</returns>
    public static string? Read(string? typed, out string number, out Behaviour behaviour)
    {
        number = new([.. (typed ?? "").Where(char.IsAsciiDigit)]);
        var digits = number;
        behaviour = Known.Where(k => k.Number[..5] == (digits.Length >= 5 ? digits[..5] : "")).Select(k => k.Behaviour).FirstOrDefault(Behaviour.Approves);
        if (number.Length != 16) return "A card number has 16 digits.";
        if (!IsLuhnValid(number)) return "That number’s check digit is wrong.";
        return number.StartsWith("99", StringComparison.Ordinal) ? null : "Only made-up cards work here: they begin with 99.";
    }

    public static string Spaced(string number) => string.Join(' ', Enumerable.Range(0, 4).Select(i => number.Substring(i * 4, 4)));
    public static string Label(string number) => "•••• " + number[^4..];
}
