using BrightCircle.App.House;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.Core.Members;
using BrightCircle.Data;

namespace BrightCircle.App.Letters;

public sealed class SiteAddress
{
    /// <summary>The public address of the site, without a slash at the end.</summary>
    public string Url { get; set; } = "http://localhost:5080";
}

/// <summary>Makes the model of a letter from its stored facts and the catalogue.</summary>
public sealed class LetterModels(Catalogue catalogue, SignInTokens tokens, SiteAddress address)
{
    /// <param name="showLink">False for showing the letter to the team: the personal link stays the member's.</param>
    public Dictionary<string, object> For(Letter letter, bool showLink = true)
    {
        var now = catalogue.Now;
        var model = new Dictionary<string, object>
        {
            ["site"] = now.Site!.Name,
            ["help_address"] = now.Site.HelpAddress,
            ["first_name"] = Member.FirstNameOf(letter.ToName),
            ["email"] = letter.ToAddress,
        };
        foreach (var (key, value) in letter.Fields)
            if (key.EndsWith("_path", StringComparison.Ordinal)) model[key[..^5] + "_link"] = address.Url + value;
            else model[key] = value;
        if (letter.SignInLinkId is { } link) model["personal_link"] = showLink ? $"{address.Url}/in/{tokens.ForSignIn(link)}" : $"{address.Url}/in/…";
        if (letter.Kind == LetterKind.Edition && letter.EditionId is { } id)
        {
            var edition = now.Editions.First(e => e.Id == id);
            model["edition"] = edition.Title;
            model["opening"] = edition.Opening;
            model["parts"] = now.PartsOf[id].Where(p => p.ReleasedAt is not null).Select(p => Part(p.Title, p, p.Minutes))
                .Concat(now.LessonPartsOf[id].Where(l => l.ReleasedAt is not null).Select(l => Part($"{now.PieceOf(l).Title}: {l.Title}", now.PieceOf(l), l.Minutes))).ToArray();

            Dictionary<string, string> Part(string title, Core.Content.Piece p, int? minutes) => new()
            {
                ["title"] = title,
                ["shelf"] = now.ShelfById[p.ShelfId].Name,
                ["length"] = minutes is { } m ? $" · {m} min" : "",
            };
            model["edition_link"] = address.Url + EditionPath.Of(edition);
            model["unsubscribe_link"] = UnsubscribeLink(letter) ?? "";
        }
        return model;
    }

    /// <summary>Where one click ends letters of this kind; null for letters about the member's own money and access.</summary>
    public string? UnsubscribeLink(Letter letter) =>
        letter is { Kind: LetterKind.Edition, MemberId: { } member } ? $"{address.Url}/no-more/{tokens.ForUnsubscribe(member)}" : null;
}
