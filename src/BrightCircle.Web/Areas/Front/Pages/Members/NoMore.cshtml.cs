using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>From a letter: no more of its kind, or of all of them.</summary>
public sealed class NoMoreModel(SignInTokens tokens) : BrightPage
{
    public bool Known { get; private set; }
    public bool Done { get; private set; }
    /// <summary>The series it is about; null for every other letter to all.</summary>
    public LetterSeries? Series { get; private set; }
    bool all, talk;

    public string What => talk && !all ? "letters about what is said in spaces" : Series is { } s && !all ? $"letters “{s.Name}”" : "letters to all";
    /// <summary>What comes after the token in the address.</summary>
    public string Of => talk ? "?of=talk" : Series is { } s ? $"?of={s.Id}" : "";

    public void OnGet(string token, bool done, string? of, bool all = false) =>
        (Known, Done, talk, Series, this.all) = (tokens.ReadUnsubscribe(token) is not null, done, of == "talk",
        long.TryParse(of, System.Globalization.CultureInfo.InvariantCulture, out var id) ? Now.People.SeriesById.GetValueOrDefault(id) : null, all);
}
