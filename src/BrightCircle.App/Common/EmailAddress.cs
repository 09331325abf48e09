namespace BrightCircle.App;

/// <summary>Addresses as people type them.</summary>
public static class EmailAddress
{
    public static bool TryRead(string? typed, out string email)
    {
        email = typed?.Trim() ?? "";
        return email.Length is > 2 and <= 254 && !email.Contains(' ') && !email.AsSpan().ContainsAnyInRange('\0', '\u001f')
            && MimeKit.MailboxAddress.TryParse(email, out var parsed) && parsed.Address == email && parsed.Domain.Contains('.') && !parsed.Domain.EndsWith('.');
    }

    /// <summary>As accounts are looked up: the same for every way of writing capitals.</summary>
    public static string Normalise(string email) => email.Trim().ToUpperInvariant();
}
