using BrightCircle.App.Catalogues;
using BrightCircle.Data;
using Microsoft.AspNetCore.Identity;

namespace BrightCircle.App.Members;

/// <summary>
/// Passwords by NIST SP 800-63B, section 3.1.1: long rather than odd, none of those that are tried first, nothing that stands on the page. No kinds of signs
/// are asked for.
/// </summary>
public sealed class PasswordRules(Catalogue catalogue) : IPasswordValidator<Account>
{
    public const int Least = 10, Most = 200;

    /// <summary>The longer ones of those that are used most; the shorter ones are refused by their length. From memory.</summary>
    static readonly HashSet<string> Common = new(StringComparer.OrdinalIgnoreCase)
    {
        "1234567890", "12345678910", "123456789a", "0123456789", "0987654321", "9876543210", "1111111111", "0000000000", "qwertyuiop", "qwertyuiop123",
            "qwerty12345", "qwerty123456",
        "asdfghjkl1", "asdfghjkl123", "zxcvbnm123", "1q2w3e4r5t", "1q2w3e4r5t6y", "q1w2e3r4t5", "1qaz2wsx3edc", "qazwsxedcrfv", "password12", "password123",
            "password1234", "password12345",
        "password2024", "password2025", "password2026", "passwordpassword", "mypassword", "mypassword1", "letmein123", "letmeinplease", "iloveyou12",
            "iloveyou123", "iloveyou1234", "iloveyouforever",
        "welcome123", "welcome1234", "welcome12345", "administrator", "administrator1", "admin12345", "adminadmin", "adminadmin1", "superman123",
            "batman12345", "football123", "baseball123",
        "princess123", "sunshine123", "starwars123", "dragon12345", "monkey12345", "master12345", "michael123", "jennifer123", "charlie123",
            "trustno1trustno1", "changeme123", "changemenow",
        "secret12345", "topsecret123", "abcdefghij", "abcdefghijk", "abcdefghijkl", "abc1234567", "abcd123456", "abc123abc123", "aaaaaaaaaa", "test123456",
            "testtest123", "testtesttest", "default123",
        "guest12345", "internet123", "computer123", "liverpool1", "liverpool123", "manchester", "manchester1", "chelsea123", "arsenal123", "summer2024",
            "summer2025", "summer2026", "winter2024", "winter2025", "winter2026",
        "correcthorsebatterystaple", "thisisapassword", "thisismypassword", "nopassword", "passw0rd123", "p@ssw0rd123", "p@ssword123", "whatever123",
            "freedom123", "blink182blink182", "qwertyqwerty", "hellohello", "hello12345", "helloworld",
        "helloworld1", "helloworld123", "lovelovelove", "loveyou123", "basketball", "basketball1", "volleyball", "motorcycle", "butterfly1", "chocolate1",
            "strawberry", "strawberry1", "watermelon", "christopher", "elizabeth1", "alexander1",
    };

    public Task<IdentityResult> ValidateAsync(UserManager<Account> manager, Account user, string? password) =>
        Task.FromResult(Wrong(password ?? "", user.Name, user.Email, catalogue.Now.Site?.Name) is { } why
            ? IdentityResult.Failed(new IdentityError { Code = "PasswordWeak", Description = why }) : IdentityResult.Success);

    /// <summary>What is wrong with a password, or null.</summary>
    public static string? Wrong(string password, string? name, string? email, string? site)
    {
        if (password.Length < Least) return $"A password has at least {Least} letters. A short sentence is good.";
        if (password.Length > Most) return $"A password has at most {Most} letters.";
        if (Common.Contains(password) || Common.Contains(password.TrimEnd('!', '.', '?', '1')))
            return "This password is one of those that are tried first. Choose another; a short sentence is good.";
        if (password.Distinct().Count() < 4 || IsRow(password)) return "This is too easy to guess. Choose another; a short sentence is good.";
        // Whatever stands on the page anyway is taken out; what is left has to be enough by itself.
        var left = password;
        foreach (var word in new[] { email, email?.Split('@')[0], name, site }.Concat((name ?? "").Split(' ')).Concat((site ?? "").Split(' '))
            .Where(w => w is { Length: > 2 }).OrderByDescending(w => w!.Length))
            left = left.Replace(word!, "", StringComparison.OrdinalIgnoreCase).Replace(word!.Replace(" ", ""), "", StringComparison.OrdinalIgnoreCase);
        return left.Length < password.Length && left.Length < 6
            ? "This is mostly your own name, your address or the site’s name. Choose another; a short sentence is good." : null;
    }

    /// <summary>Each sign one further than, or the same as, the one before.</summary>
    static bool IsRow(string password)
    {
        for (var step = -1; step <= 1; step++)
        {
            var same = true;
            for (var i = 1; i < password.Length && same; i++) same = password[i] - password[i - 1] == step;
            if (same) return true;
        }
        return false;
    }
}
