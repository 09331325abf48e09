using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>What can stand in a letter of the house.</summary>
/// <param name="Key">As it is written: {{ amount }}; for a link, what it leads to: #account_link.</param>
/// <param name="Words">What it is, for whoever writes.</param>
/// <param name="Optional">It is a whole sentence or nothing, so that nothing need stand in its place.</param>
public sealed record HouseField(string Key, string Words, bool Optional)
{
    /// <summary>As it is put into a text.</summary>
    public string AsWritten => $"{{{{ {Key} }}}}";
}

/// <summary>A letter that the house writes by itself, and what can be put into it.</summary>
/// <param name="When">When it is written, as a clause: “somebody joins”.</param>
/// <param name="Why">Why it came, for its reader.</param>
/// <param name="Needs">The link without which it would be of no use; null for none.</param>
/// <param name="ByPlan">It is about a plan, and each plan can have words of its own.</param>
public sealed record HouseLetter(LetterKind Kind, string Name, string Group, string When, string Why, IReadOnlyList<HouseField> Fields,
    IReadOnlyList<HouseField> Links, string? Needs, bool ByPlan)
{
    public IEnumerable<string> FieldKeys => Fields.Select(f => f.Key);
}

/// <summary>Every letter of the house that the owner can change.</summary>
public static class HouseLetters
{
    // Before what is made of them: static members are made in the order in which they stand.
    static Dictionary<string, string> Words { get; } = new()
    {
        ["plan"] = "the tier or pass",
        ["joined"] = "what they joined, with its price’s name",
        ["what_happened"] = "what happened, in a sentence",
        ["open_now"] = "what is open for them now",
        ["opens_next"] = "what opens next",
        ["minutes"] = "for how many minutes the link is good",
        ["by"] = "by whom",
        ["their_words"] = "what the giver says, on a line of its own",
        ["invited_by"] = "who asks",
        ["may"] = "what they may do",
        ["edition"] = "the edition",
        ["opening"] = "its opening words",
        ["list"] = "what opens for them, on a line of its own",
        ["lesson"] = "the lesson",
        ["question"] = "what was asked",
        ["answer"] = "the answer",
        ["sheet"] = "the practice sheet",
        ["earned"] = "the points",
        ["passes"] = "that it passes, if it does",
        ["piece"] = "the piece",
        ["amount"] = "the amount",
        ["date"] = "the day",
        ["paid_for"] = "what is paid for by it",
        ["from"] = "by which way it came",
        ["next"] = "the next payment",
        ["nothing_to_pay"] = "that there was nothing to pay, and why",
        ["credit_left"] = "the credit that is left",
        ["until"] = "until when",
        ["what_next"] = "what happens next",
        ["card"] = "the card",
        ["last_day"] = "its last day",
        ["old"] = "the price until now",
        ["new"] = "the new price",
        ["on"] = "from which day",
        ["paid_on"] = "when it was paid",
        ["also_ended"] = "that it ended with it, if it did",
        ["way"] = "the way to pay",
        ["words"] = "your words to this way of paying",
        ["please_name"] = "the reference, in a sentence",
        ["when_it_opens"] = "when it opens",
        ["reference"] = "the reference",
        ["due"] = "the day it is due",
        ["news"] = "the news in short, for the subject",
        ["voucher"] = "the voucher, and for whom",
        ["paid"] = "what was paid, if anything was",
        ["what_happens"] = "what happens, in a sentence",
        ["paid_through"] = "until when it is paid",
        ["keep"] = "what they keep",
        ["why_it_ended"] = "why it ended",
        ["said"] = "what was said, on a line of its own",
        ["spaces_link"] = "the thread, or the spaces",
        ["message"] = "what was written",
        ["messages_link"] = "what they and you write to each other",
        ["session"] = "the session",
        ["challenge"] = "the challenge’s name",
        ["when"] = "when it is, by their own clock",
        ["session_link"] = "the session’s page",
        ["challenge_link"] = "the challenge’s page",
        ["personal_link"] = "their own way in: it signs them in",
        ["price"] = "what it costs",
        ["join_link"] = "where they were",
        ["seat_link"] = "the seat",
        ["voucher_link"] = "the voucher",
        ["edition_link"] = "the edition",
        ["lesson_link"] = "the lesson",
        ["piece_link"] = "the piece",
        ["receipt_link"] = "the receipt",
        ["account_link"] = "their account",
        ["order_link"] = "the order",
        ["tiers_link"] = "what is on offer",
        ["phone_link"] = "how it goes onto a phone",
    };

    /// <summary>In the order in which a member meets them.</summary>
    public static IReadOnlyList<HouseLetter> All { get; } =
    [
        Letter(LetterKind.Welcome, "Welcome", "Coming in", "somebody joins, or is given something", "you came to us",
            "plan joined what_happened open_now? opens_next?", "personal_link! phone_link"),
        Letter(LetterKind.HalfWay, "Half-way", "Coming in", "somebody goes away while joining, a day later, if they said so",
            "you began to join, and said that we may remind you once", "plan price", "join_link!"),
        Letter(LetterKind.Confirm, "Proving an address", "Coming in", "an address is corrected", "this address was given for letters from us",
            "", "personal_link!"),
        Letter(LetterKind.SignIn, "Sign-in link", "Coming in", "somebody asks for a way in", "somebody asked for it on the sign-in page",
            "minutes", "personal_link!"),
        Letter(LetterKind.HasAccount, "Here already", "Coming in", "somebody begins to join with an address that has an account",
            "somebody began to join with this address", "minutes", "personal_link!"),
        Letter(LetterKind.Seat, "A seat in a group", "Coming in", "a seat is kept for somebody", "somebody keeps a seat for this address",
            "plan by", "seat_link!"),
        Letter(LetterKind.VoucherFor, "A voucher, for whom it is", "Coming in", "a voucher’s day has come", "somebody bought a voucher for this address",
            "plan by their_words?", "voucher_link!"),
        Letter(LetterKind.TeamInvite, "Asked into the team", "Coming in", "somebody is asked into the team", "somebody of the team asks you in",
            "invited_by may", "personal_link!"),

        Letter(LetterKind.Edition, "An edition opens", "Content", "an edition opens for them", "it opens for you, and you take letters about it",
            "edition opening? list?", "edition_link"),
        Letter(LetterKind.Answered, "An answer", "Content", "the team answers a question", "you asked a question", "lesson question answer by", "lesson_link"),
        Letter(LetterKind.Marked, "Answers read", "Content", "the team has read a practice sheet", "you handed in a practice sheet",
            "sheet earned passes? by", "lesson_link"),
        Letter(LetterKind.Place, "A place", "Content", "a place becomes free for whoever waits", "you are on a waiting list", "piece", "piece_link"),

        Letter(LetterKind.Session, "A live session", "Content", "a session they come to is near, or has changed", "you said that you come to it",
            "session when news what_happened", "session_link"),

        Letter(LetterKind.Challenge, "A challenge turns", "Community", "a challenge they take part in begins, or is over", "you take part in it",
            "challenge news what_happened", "challenge_link"),
        Letter(LetterKind.Talk, "What was said", "Community", "something is said in spaces, as often as they chose", "you chose to be told",
            "news said?", "spaces_link"),
        Letter(LetterKind.TalkWord, "About what they wrote", "Community", "you see to what somebody wrote in a space", "the team saw to something you wrote",
            "news what_happened", "spaces_link"),
        Letter(LetterKind.Message, "A message", "Community", "you write to somebody in the inbox", "somebody of the team wrote to you",
            "message by", "messages_link"),
        Letter(LetterKind.Words, "Words of a member", "Community", "another member writes to them", "another member wrote to you",
            "by news what_happened", "messages_link"),

        Letter(LetterKind.Receipt, "Receipt", "Money", "a payment comes in", "a payment of yours came in",
            "plan amount date paid_for from next?", "receipt_link"),
        Letter(LetterKind.Covered, "Nothing to pay", "Money", "a renewal costs nothing", "something of yours goes on",
            "plan paid_for nothing_to_pay credit_left?", "account_link"),
        Letter(LetterKind.PaymentFailed, "A payment failed", "Money", "a card is refused", "a payment of yours didn’t go through",
            "plan amount until what_happened what_next", "personal_link!"),
        Letter(LetterKind.Closed, "Closed until paid", "Money", "an instalment stays unpaid", "a payment of yours didn’t go through",
            "plan amount", "personal_link!"),
        Letter(LetterKind.CardRunsOut, "A card runs out", "Money", "a card runs out before the next payment", "we keep a card of yours",
            "plan amount card last_day next", "personal_link!"),
        Letter(LetterKind.PriceTold, "Another price", "Money", "their price will change", "you hold what it is about", "plan old new on", "account_link"),
        Letter(LetterKind.Refund, "Refund", "Money", "money goes back", "a payment of yours goes back", "plan amount paid_on card also_ended?", "receipt_link"),
        Letter(LetterKind.Credited, "Credit", "Money", "a payment becomes credit", "a payment of yours became credit", "plan amount paid_on", "account_link"),

        Letter(LetterKind.OrderPlaced, "How to pay", "Orders", "somebody orders by transfer or by hand", "you ordered something",
            "plan amount way words? please_name? until when_it_opens", "order_link"),
        Letter(LetterKind.PaymentWanted, "A payment is due", "Orders", "a renewal is to be paid by transfer or by hand", "you hold what it is about",
            "plan amount way words? reference due until", "order_link"),
        Letter(LetterKind.OrderReminder, "A reminder", "Orders", "money for an order isn’t here half-way", "you ordered something",
            "plan amount way words? reference until", "order_link"),
        Letter(LetterKind.OrderOver, "An order is over", "Orders", "an order is called off or given up", "you ordered something",
            "plan amount news what_happened", "tiers_link"),
        Letter(LetterKind.Voucher, "A voucher bought", "Orders", "somebody buys a voucher", "you bought a voucher", "plan voucher news paid?",
            "personal_link!"),

        Letter(LetterKind.Changed, "Another plan", "Changes", "somebody changes from plan to plan", "you changed what you hold",
            "plan news what_happens", "account_link"),
        Letter(LetterKind.Paused, "Paused", "Changes", "somebody pauses", "you asked for a pause", "plan until paid_through", "account_link"),
        Letter(LetterKind.Ending, "Leaving", "Changes", "somebody decides to leave", "you decided to leave", "plan until keep?", "account_link"),
        Letter(LetterKind.Lapsed, "It has ended", "Changes", "a membership ends", "something you held has ended", "plan why_it_ended keep?", "personal_link!"),
    ];

    static readonly Dictionary<LetterKind, HouseLetter> ByKind = All.ToDictionary(l => l.Kind);

    /// <summary>Null for letters that are written by the team, or to it.</summary>
    public static HouseLetter? Of(LetterKind kind) => ByKind.GetValueOrDefault(kind);

    /// <summary>Why a letter came, as its reader is told; empty where its text says so.</summary>
    public static string Why(LetterKind kind) => Of(kind) is { } l ? $"You get this because {l.Why}." : "";

    /// <param name="fields">Keys with a ? behind those that are a sentence or nothing.</param>
    /// <param name="links">Keys with a ! behind the one that must stay.</param>
    static HouseLetter Letter(LetterKind kind, string name, string group, string when, string why, string fields, string links)
    {
        var keys = fields.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return new(kind, name, group, when, why,
            [.. Everywhere, .. keys.Select(k => new HouseField(k.TrimEnd('?'), Words[k.TrimEnd('?')], k.EndsWith('?')))],
            [.. links.Split(' ').Select(k => new HouseField(k.TrimEnd('!'), Words[k.TrimEnd('!')], !k.EndsWith('!')))],
            links.Split(' ').FirstOrDefault(k => k.EndsWith('!'))?.TrimEnd('!'), keys.Contains("plan"));
    }

    static HouseField[] Everywhere => [new("first_name", "their first name", false), new("email", "their address", false),
        new("site", "this site’s name", false),
        new("help_address", "where to ask for help", false)];

    /// <summary>A letter of a kind that was never written, for looking at its words.</summary>
    public static Letter Sample(HouseLetter house, PlanId? plan, string name, string email, CatalogueSnapshot now, Instant at)
    {
        string Day(int days) => now.Calendar.Date(at).PlusDays(days).ToString("d MMMM uuuu", now.Culture);
        var price = new Money(1800, now.Site!.Currency).Format(now.Culture);
        var titled = plan is { } id ? now.PlanName(id) : now.Plans.FirstOrDefault(p => p.IsTier)?.Name ?? "your tier";
        return new()
        {
            Kind = house.Kind,
            ToName = name,
            ToAddress = email,
            PlanId = plan,
            CreatedAt = at,
            SignInLinkId = house.Needs == "personal_link" ? 0 : null,
            Fields = new()
            {
                ["plan"] = titled,
                ["joined"] = titled,
                ["gift_from"] = "",
                ["bought"] = "",
                ["current"] = now.CurrentEdition?.Title ?? "",
                ["opens_next"] = "",
                ["minutes"] = "30",
                ["by"] = now.Site.Name,
                ["words"] = "",
                ["invited_by"] = now.Site.Name,
                ["may"] = "answer questions",
                ["edition"] = now.CurrentEdition?.Title ?? "the newest edition",
                ["opening"] = now.CurrentEdition?.Opening ?? "",
                ["lesson"] = "a lesson",
                ["question"] = "How often?",
                ["answer"] = "Once a week is enough.",
                ["sheet"] = "a sheet",
                ["earned"] = "8 of 10 points",
                ["passed"] = "yes",
                ["piece"] = "a piece",
                ["amount"] = price,
                ["date"] = Day(0),
                ["paid_for"] = $"{Day(0)} to {Day(30)}",
                ["from"] = "from the card •••• 4242",
                ["next"] = $"The next payment is {price} on {Day(30)}.",
                ["credit"] = "",
                ["left"] = "",
                ["until"] = Day(10),
                ["card"] = "•••• 4242",
                ["refusal"] = "the card was refused",
                ["retry"] = Day(3),
                ["confirm"] = "",
                ["last_day"] = Day(20),
                ["old"] = price,
                ["new"] = new Money(2000, now.Site.Currency).Format(now.Culture),
                ["on"] = Day(40),
                ["paid_on"] = Day(-3),
                ["ended"] = "",
                ["way"] = "by transfer",
                ["reference"] = "RF18 5390 0754 7034",
                ["open"] = "",
                ["due"] = Day(7),
                ["called_off"] = "",
                ["for"] = "",
                ["price"] = price,
                ["at"] = "",
                ["charged"] = price,
                ["paid_through"] = Day(30),
                ["keep"] = "",
                ["reason"] = "left",
                ["session"] = now.Community.Series.Count > 0 ? now.Community.Series[0].Name : "a session",
                ["when"] = $"{Day(1)}, 19:30",
                ["time"] = "19:30",
                ["what"] = nameof(SessionNewsKind.Tomorrow),
                ["challenge"] = now.Community.Challenges.Count > 0 ? now.Community.Challenges[0].Name : "a challenge",
                ["turn"] = nameof(ChallengeNewsKind.Begins),
                ["weeks"] = "six weeks",
                ["met"] = "five weeks",
                ["a_week"] = "3 times",
                ["next"] = "",
                ["next_day"] = "",
                ["challenge_path"] = "/me",
                ["news"] = "New in 2 threads",
                ["lines"] = "“Wasps”, the bench: 3 new posts, the last by Ann\n“First pollen”, the bench: 1 new post, the last by Bo",
                ["spaces_path"] = "/spaces",
                ["care"] = nameof(TalkCareKind.TakenAway),
                ["thread"] = "Wasps",
                ["message"] = "Thank you for writing. Yes, it can wait until spring.",
                ["messages_path"] = "/me/messages",
                ["asks"] = "yes",
                ["session_path"] = "/sessions",
                ["join_path"] = "/tiers",
                ["seat_path"] = "/seat/…",
                ["voucher_path"] = "/key/…",
                ["edition_path"] = "/me",
                ["lesson_path"] = "/me",
                ["piece_path"] = "/me",
                ["receipt_path"] = "/me/account",
                ["account_path"] = "/me/account",
                ["order_path"] = "/me/account",
                ["tiers_path"] = "/tiers",
            },
        };
    }
}
