using BrightCircle.App.Catalogues;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.App.Settings;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Makes the model of a letter from its stored facts and the catalogue.</summary>
public sealed class LetterModels(Catalogue catalogue, SignInTokens tokens, SiteAddress address, LetterTemplates templates)
{
    /// <summary>A letter of the house as it reads: in the owner's words where there are some.</summary>
    /// <param name="own">Null for as it came with the house.</param>
    /// <param name="showLink">False for showing it to the team: what is the member's alone is left out.</param>
    public RenderedLetter Render(Letter letter, LetterText? own, bool showLink = true)
    {
        var model = For(letter, showLink);
        return own?.Body is { } body ? templates.Own(letter.Kind.ToString(), own.Subject, own.Preheader, body, model,
                new((string)model["site"], (string)model["help_address"], model.GetValueOrDefault("logo_link") as string, (string)model["why"],
                    model["unsubscribe_link"] is string { Length: > 0 } link ? link : null, own.PictureId))
            : templates.Render(letter.Kind.ToString(), model);
    }

    /// <summary>What the fields of a letter of the house say, from made-up facts: by their keys, in plain words; empty for those that say nothing.</summary>
    public IReadOnlyDictionary<string, string> Samples(HouseLetter house, PlanId? plan, string name, Instant at) =>
        templates.Values(house.Kind.ToString(), For(HouseLetters.Sample(house, plan, name, "somebody@mail.example", catalogue.Now, at), showLink: false));

    /// <summary>The words a letter goes out with, as things stand.</summary>
    public LetterText? TextFor(Letter letter) => catalogue.Now.People.TextFor(letter.Kind, letter.PlanId);

    public string SiteName => catalogue.Now.Site!.Name;
    public string HelpAddress => catalogue.Now.Site!.HelpAddress;

    /// <param name="showLink">False for showing the letter to the team: the personal link stays the member's.</param>
    public Dictionary<string, object> For(Letter letter, bool showLink = true)
    {
        var now = catalogue.Now;
        var model = new Dictionary<string, object>
        {
            ["site"] = now.Site!.Name,
            ["help_address"] = now.Site.HelpAddress,
            ["first_name"] = Greeting(letter.ToName),
            ["email"] = letter.ToAddress,
            ["why"] = HouseLetters.Why(letter.Kind),
            ["phone_link"] = address.Url + "/phone",
            ["unsubscribe_link"] = (showLink ? UnsubscribeLink(letter) : null) ?? "",
        };
        if (now.Site.Logo is not null) model["logo_link"] = address.Url + "/logo";
        foreach (var (key, value) in letter.Fields)
            // A seat’s address is a way in, like a personal link: only whoever gets the letter sees it.
            if (key == "seat_path" && !showLink) model["seat_link"] = $"{address.Url}/seat/…";
            else if (key == "voucher_path" && !showLink) model["voucher_link"] = $"{address.Url}/key/…";
            else if (key == "lines") model[key] = value.Split('\n').Select(l => new Dictionary<string, string> { ["text"] = l }).ToArray();
            else if (key.EndsWith("_path", StringComparison.Ordinal)) model[key[..^5] + "_link"] = address.Url + value;
            else model[key] = value;
        // Receipts from before there were other ways to pay than the card.
        if (letter.Kind == LetterKind.Receipt && !model.ContainsKey("from") && model.TryGetValue("card", out var card)) model["from"] = $"from the card {card}";
        if (letter.SignInLinkId is { } link) model["personal_link"] = showLink ? $"{address.Url}/in/{tokens.ForSignIn(link)}" : $"{address.Url}/in/…";
        if (letter.Kind == LetterKind.Edition) model["parts"] = Array.Empty<Dictionary<string, string>>();
        if (letter.Kind == LetterKind.Edition && letter.EditionId is { } id)
        {
            var edition = now.Editions.First(e => e.Id == id);
            model["edition"] = edition.Title;
            model["opening"] = edition.Opening;
            // Only what opens for this member is told of; which that is was decided when the letter was written.
            var theirs = letter.Fields.TryGetValue("things", out var t) ? t.Split(' ').ToHashSet() : null;
            model["parts"] = now.PartsOf[id].Where(p => p.ReleasedAt is not null && theirs?.Contains($"p{p.Id.Value}") != false)
                .Select(p => Part(p.Title, p, p.Minutes))
                .Concat(now.LessonPartsOf[id].Where(l => l.ReleasedAt is not null && theirs?.Contains($"l{l.Id.Value}") != false)
                    .Select(l => Part($"{now.PieceOf(l).Title}: {l.Title}", now.PieceOf(l), l.Minutes))).ToArray();

            Dictionary<string, string> Part(string title, Core.Content.Piece p, int? minutes) => new()
            {
                ["title"] = title,
                ["shelf"] = now.ShelfById[p.ShelfId].Name,
                ["length"] = minutes is { } m ? $" · {m} min" : "",
            };
            model["edition_link"] = address.Url + EditionPath.Of(edition);
        }
        return model;
    }

    /// <summary>The name to greet with.</summary>
    static string Greeting(string name) => FirstName(name) is { Length: > 0 } first ? first : "there";

    /// <summary>
    /// The first name; empty where it isn't one. Names are typed by strangers: one that looks like an address would carry it into somebody else's letterbox.
    /// </summary>
    internal static string FirstName(string name)
    {
        var first = Member.FirstNameOf(name);
        var isAddress = first.AsSpan().IndexOfAny('/', '@', ':') >= 0 || first.Trim('.').Contains('.');
        return isAddress ? "" : first.Length > 40 ? first[..40] : first;
    }

    /// <summary>Where one click ends letters of this kind; null for letters about the member's own money and access.</summary>
    public string? UnsubscribeLink(Letter letter) =>
        letter is { Kind: LetterKind.Talk or LetterKind.Words, MemberId: { } reader } ? $"{address.Url}/no-more/{tokens.ForUnsubscribe(reader)}?of=talk"
            : letter is { Kind: LetterKind.Edition, MemberId: { } member } ? $"{address.Url}/no-more/{tokens.ForUnsubscribe(member)}" : null;
}
