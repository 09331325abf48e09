namespace BrightCircle.Core.Members;

/// <summary>Numbers to ring somebody up.</summary>
public static class PhoneNumber
{
    /// <summary>The most digits of an international number (ITU-T E.164, 6.1), and the fewest one is taken with here.</summary>
    public const int Most = 15, Fewest = 4;
    public const int MostLetters = 40;

    /// <summary>Takes a number as people write it: digits, a plus before them, and spaces, brackets, dots, strokes and slashes between.</summary>
    /// <param name="number">As it was typed, without what stood around it; empty for none.</param>
    public static bool TryRead(string? typed, out string number)
    {
        number = typed?.Trim() ?? "";
        if (number.Length == 0) return true;
        var digits = number.Count(char.IsAsciiDigit);
        return number.Length <= MostLetters && digits is >= Fewest and <= Most && number.LastIndexOf('+') <= 0
            && number.All(c => char.IsAsciiDigit(c) || c is '+' or ' ' or '(' or ')' or '.' or '-' or '/');
    }
}
