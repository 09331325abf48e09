using BrightCircle.App.Insight;

namespace BrightCircle.Web.House;

/// <summary>One place of the Desk: an entry of the rail, or one that belongs to an entry and stands in the row under its title.</summary>
/// <param name="Key">By which pages say where they are.</param>
/// <param name="Under">The entry it belongs to; null for an entry itself.</param>
/// <param name="Words">What people would type to find it, beside its name.</param>
/// <param name="Help">What it is for, in three sentences.</param>
/// <param name="InRow">Whether it stands in the row under the title; what is only a step is reached from where it is taken.</param>
public sealed record DeskPlace(string Key, string Word, string Icon, string Path, string Words, string Help = "", string? Room = null, string? Under = null,
    bool InRow = true);

/// <summary>The places of the Desk, in the order of the work. The rail, the rows under the titles, quick find and the help beside each page are made from this
/// list.</summary>
public static class DeskPlaces
{
    /// <summary>How many wait for a person at a place itself.</summary>
    public static int Waits(string place, WaitingCounts waiting) => place switch
    {
        "questions" => waiting.Questions,
        "marking" => waiting.Sheets,
        "letters" => waiting.Letters,
        "look-at" => waiting.Payments,
        "tasks" => waiting.Tasks,
        "inbox" => waiting.Messages,
        "talk" => waiting.Reports,
        _ => 0,
    };

    /// <summary>The same for an entry with all that belongs to it.</summary>
    public static int WaitsIn(string entry, WaitingCounts waiting) => All.Where(p => p.Key == entry || p.Under == entry).Sum(p => Waits(p.Key, waiting));

    public static IReadOnlyList<DeskPlace> All { get; } =
    [
        new("today", "Today", "bi-sun", "/desk", "start overview to do dashboard news",
            "What needs you stands first, each with the way to deal with it. Below is what happens by itself in the coming days, and what has "
            + "just happened. When the first list is empty, there is nothing you have to do."),
        new("tiers", "Tiers & passes", "bi-layers", "/desk/tiers", "plan price offer product subscription join link sell membership level promise",
            "A tier is a membership that goes on; a pass is bought once and stands beside it. What a tier or pass promises is exactly what it "
            + "opens, so changing a promise changes what people can open from then on. A price is joined by its own link, and whoever has it keeps "
            + "it when you change the offer.", "Offer"),
        new("doors", "Doors", "bi-door-open", "/desk/doors", "access locks permissions who can open table matrix csv teaser public",
            "Which tier or pass opens which piece, in one table. What is promised to nobody is said first, since only the team can open it. Below "
            + "stands what strangers can open without anything.", "Offer"),
        new("shelves", "Shelves", "bi-bookshelf", "/desk/shelves", "content piece course lesson module topic category write",
            "Shelves are your lasting themes; each piece stands on one. A piece is written as a draft, made ready, and released with an edition "
            + "or by itself. What a piece needs before it can be ready is said beside it.", "Content"),
        new("files", "Files", "bi-folder2", "/desk/files", "upload media picture video audio document library",
            "Everything that was uploaded is here once, however often it is used. A file can be replaced, and every place that uses it shows the "
            + "new one. What nothing uses can be put into the trash.", Under: "shelves"),
        new("tallies", "Tallies", "bi-check2-circle", "/desk/tallies", "habit streak weekly aim count tracker",
            "A tally is something members do again and again, with an aim for each week. A follow-along can offer to mark it at its end. Weeks "
            + "are counted where the member is.", Under: "shelves"),
        new("marking", "To mark", "bi-pencil-square", "/desk/marking", "grade practice sheet open answers correct homework",
            "Open answers of practice sheets wait here, the oldest first. Points and a word from you go to the member by letter. A sheet that "
            + "asks for reading counts as passed only when you have read it.", Under: "shelves"),
        new("questions", "Questions", "bi-chat-left-text", "/desk/questions", "comment ask answer discussion",
            "What members ask under lessons where you take questions. An answer stands under the lesson for everybody who can open it, and "
            + "whoever asked gets it by letter. Something unkind can be hidden, and something settled set aside.", Under: "shelves"),
        new("import", "In and out", "bi-box-arrow-in-down", "/desk/import", "import export markdown zip csv backup move migrate download",
            "Whole outlines come in from a table, lessons from Markdown files, and everything goes out the same way. A dry run shows what would "
            + "happen before anything does. Doing it twice makes nothing twice.", Under: "shelves"),
        new("trash", "Trash", "bi-trash", "/desk/trash", "deleted restore bin recover",
            "What was thrown away stays for thirty days and comes back as it was, with all that members did in it. After that it goes by itself. "
            + "Members see nothing of what is here.", Under: "shelves"),
        new("editions", "Editions", "bi-calendar3", "/desk/editions", "month release schedule board plan calendar issue announce",
            "An edition is what comes out together, for a month, a week or a day. When it is scheduled it opens by itself, and the members for "
            + "whom something opens get a letter. Parts that are drafts then stay behind, and Today says so.", "Content"),
        new("pages", "Pages", "bi-file-richtext", "/desk/pages", "landing sales about terms front words confirmation website text testimonial faq slug",
            "Your own words: on the front, on the page of a tier or pass, beside joining, after it, and on pages by themselves. They are made of "
            + "the same sections everywhere, and what is inside and what it costs are worked out, never typed. A draft is seen by the team only.", "Content"),
        new("spaces", "Spaces", "bi-chat-square-text", "/desk/spaces", "community forum room talk thread discuss group guests introduce announce",
            "A space is a room with a purpose, in which members talk with each other. It is open to whoever holds a plan that promises it, or to everybody "
            + "with an account. The talk itself is on the member side, where you write as one of the team and can take away what doesn’t belong.", "People"),
        new("sessions", "Sessions", "bi-camera-video", "/desk/sessions", "live meeting clinic call webinar room calendar seats attendance event recording",
            "Live sessions are planned by series, and a series is promised by tiers and passes. Whoever says that they come is reminded, a seat that "
            + "becomes free goes to who has waited longest, and the way in shows only to those who may come, shortly before. Afterwards a lesson is made of it "
            + "in one step.", Under: "spaces"),
        new("challenges", "Challenges", "bi-flag", "/desk/challenges", "challenge weeks together habit group board cheer aim",
            "A challenge is made from one form: the tally with its aim, the pass people take part with, a space to talk in. Its board shows everybody, week by "
            + "week, with those who have done nothing yet first. A word to somebody is one press away, and a letter to all under the aim, too.",
            Under: "spaces"),
        new("talk", "Keeping it good", "bi-shield-check", "/desk/talk", "report moderation hide warn suspend ban rules abuse",
            "What members say doesn’t belong waits here until somebody of the team has looked at it. It can be left standing or taken away, with a word to "
            + "whoever wrote it. Somebody can be kept from writing for a time; they read why, and can answer.", Under: "spaces"),
        new("inbox", "Inbox", "bi-inbox", "/desk/inbox", "messages conversation support help write answer chat mail",
            "What members write to you, one conversation for each. Take one, answer it, and it is done, or you wait for theirs; an answer goes by letter, too. "
            + "Answers you give again and again can be kept.", "People"),
        new("members", "Members", "bi-people", "/desk/members", "people person customer contact csv export standing search "
            + "merge duplicate two accounts phone postal address language correct delete",
            "Everybody who joined, was added, or once held something. The standing says how things are: on trial, active, in grace after a failed "
            + "payment, leaving, lapsed. A member’s page says why anything is open to them or not, on any day.", "People"),
        new("add", "Add a person", "bi-person-plus", "/desk/members/add", "new invite create member gift",
            "Somebody who didn’t join by themselves. They hold nothing until you give them something.", Under: "members", InRow: false),
        new("audiences", "Audiences", "bi-people-fill", "/desk/audiences", "segment condition filter saved view list group who count live",
            "An audience is a sentence about members, put together from lines. It is counted anew each time it is looked at, so nobody has to keep "
            + "it. Two can be laid beside each other, and each can be shown as the list of members.", Under: "members"),
        new("tags", "Tags & fields", "bi-tags", "/desk/tags", "tag label mark colour own custom field attribute property ask",
            "A tag is a word that members bear: put on by hand, or following a condition by itself. An own field holds what you want to know of "
            + "them, and can be asked of whoever joins. Both can be used in audiences.", Under: "members"),
        new("tasks", "To do", "bi-check2-square", "/desk/tasks", "task todo reminder follow up call ring write team",
            "What somebody of the team is to do for a member, asked by a routine or written down on a member’s page. It stands on Today until "
                + "somebody says that it "
            + "is done. What is done can be looked up, and opened again.", Under: "members"),
        new("keys", "Key links", "bi-key", "/desk/keys", "invite voucher gift link access code free elsewhere",
            "A key link gives a tier or a pass to whoever opens it, without paying here. It can be used so often, until a day, and taken back at "
            + "any time; who used it keeps what they have. Links travel, so set a number of uses where it matters.", Under: "members"),
        new("move-in", "Moving in", "bi-box-seam", "/desk/members/move-in", "import csv members people migrate list bring upload",
            "People you bring along from elsewhere come from a list. You say what its columns are, a dry run shows every line, and then they come "
            + "in with their plans and dates. Nobody is written to unless you want it, and doing it twice makes nothing twice.", Under: "members"),
        new("look", "View as", "bi-eye", "/desk/look", "view as impersonate preview visitor member joiner see date",
            "The site through somebody else’s eyes: a member’s, a visitor’s, or those of somebody who would join a plan, on any day. Nothing is "
            + "recorded while you look, and nothing can be changed. A bar at the top leads back.", Under: "members"),
        new("arrivals", "Arrivals", "bi-sunrise", "/desk/arrivals", "onboarding new joined welcome stuck sign in first steps activation newcomers",
            "Everybody who joined in the last four weeks, by how far they have come. Whoever is stuck stands out, with the cause and the way to "
                + "help. Each paid order is "
            + "looked at: what is held by it, its letter, and whether there is a way in.", "People"),
        new("departures", "Departures", "bi-sunset", "/desk/departures", "churn leaving lapsed grace cancelled risk retention win back reasons failed",
            "Who may go, who goes, and who went: payments that failed, those who decided to leave, those who are gone, and those who show signs of "
                + "it. What they said stands "
            + "beside them. The month’s comings and goings are on top.", "People"),
        new("mailings", "Letters", "bi-envelope-paper", "/desk/mailings", "email newsletter weekly broadcast campaign write send audience series",
            "Letters to many: written beside how a reader gets them, sent now or later, held up or stopped. Who gets one is counted before it goes, and "
            + "nobody gets it twice. What comes every week has a place for each week.", "Letters"),
        new("letters", "Letters sent", "bi-envelope-check", "/desk/letters", "email mail outbox newsletter bounce undelivered",
            "Every letter that went out or waits to. Letters write themselves from what happens: joining, paying, an edition opening. One that "
            + "couldn’t be delivered can be sent again once the address is right, or set aside.", Under: "mailings"),
        new("house-letters", "The house’s letters", "bi-envelope-open", "/desk/letters/house",
            "template welcome receipt transactional wording text email change edit",
            "The letters that are written by themselves when something happens: joining, paying, leaving, an edition. Each can be put into your own words, "
            + "for all or for one tier or pass. Every version is kept, and how it came is one click away.", Under: "mailings"),
        new("series", "What comes every week", "bi-calendar-week", "/desk/mailings/series", "series weekly day time kind", Under: "mailings", InRow: false),
        new("routines", "Routines", "bi-signpost-split", "/desk/routines", "automation workflow sequence drip welcome trigger by itself birthday",
            "A routine does something by itself for each member: when this happens, these steps, in this order, at these times. It is off until "
                + "you turn it on, "
            + "and can be tried on somebody first. What was done stands with each member, step by step.", "Letters"),
        new("programs", "Other programs", "bi-plug", "/desk/routines/programs", "webhook api integration connect post call address key",
            "Another program can report something about a member here, and a routine begins with it. A routine’s step can tell another program of somebody. "
            + "What is told is signed, tried again for some days, and listed.", Under: "routines"),
        new("payments", "Payments", "bi-receipt", "/desk/payments", "money refund receipt charge invoice income ledger",
            "Every charge that was asked for, with what came of it. Money goes back from a payment’s page, whole or in part, and the membership "
            + "can end with it. Receipts are numbered without gaps, year by year.", "Money"),
        new("look-at", "To look at", "bi-cash-coin", "/desk/payments/look", "failed refused dispute concern problem wrong waits attention",
            "What happened with money that a person has to see: a payment that was refused for good, a dispute, a sum that isn’t what was asked. Each "
            + "leads to where it can be dealt with. When you have, say so, and it goes.", Under: "payments"),
        new("orders", "Orders", "bi-bag", "/desk/orders", "checkout abandoned cart transfer waiting open voucher gift order cash unpaid",
            "What was bought, from the first click on. Those paid by transfer or by hand wait here until you say that their money came; half-way "
            + "they are reminded, at the end given up. Whoever began and went away stands here for thirty days.", Under: "payments"),
        new("bank", "The bank’s list", "bi-bank", "/desk/orders/bank", "csv import statement transfer match reference reconcile",
            "What your bank says came in, beside the orders that wait for it. A line pays an order by its reference and its exact amount, and "
            + "nothing is guessed. What doesn’t fit is shown with the reason, for you to look at.", Under: "payments", InRow: false),
        new("subscriptions", "Subscriptions", "bi-arrow-repeat", "/desk/subscriptions", "recurring renewals instalments next payment upcoming mrr who pays",
            "What runs just now: what is paid again and again, what is paid in instalments, what was bought once, and what was given. The next "
            + "payment stands first, with what it comes to and the card that is asked. A member’s page is one click away.", Under: "payments"),
        new("sales", "Sales", "bi-bar-chart", "/desk/sales", "revenue income turnover report chart month plan price coupon compare",
            "What came in, day by day, with as many days before beside it; and by plan, price and coupon. What went back is said apart, on the "
            + "day it went. Only what was really paid counts.", Under: "payments"),
        new("compare", "Compare", "bi-check2-all", "/desk/payments/compare", "reconcile reconciliation differences bank payout check books till",
            "The payment service’s own list of a month, charge by charge beside what is written down here. Where all is well it says so. What "
            + "differs is listed with both sides, so that you can look it up there.", Under: "payments"),
        new("payouts", "Payouts", "bi-bank2", "/desk/payments/payouts", "bank fees settlement payout transfer till deposit",
            "What the payment service sent to your bank, week by week, with the fees it kept. Each is beside the payments it is made of, so that "
            + "you can tick it off on the bank’s list. What was given back is taken from it.", Under: "payments"),
        new("disputes", "Disputes", "bi-shield-exclamation", "/desk/payments/disputes", "chargeback dispute evidence bank claim taken back",
            "A cardholder can have their bank take a payment back; what it paid for ends then. You can say something to it until a day. Where the "
            + "bank decides for you, the money comes back.", Under: "payments"),
        new("coupons", "Coupons", "bi-ticket-perforated", "/desk/coupons", "coupon discount voucher code promo rebate percent off",
            "A coupon takes a percentage or an amount off what is paid: once, for some payments or for all. It can be for some plans, for "
            + "newcomers, until a day, so many times. What it took off and what it brought stand beside it.", Under: "payments"),
        new("settings", "Settings", "bi-sliders", "/desk/settings", "name colour picture help address culture currency time zone business receipt",
            "The site’s name and face, and what stands on receipts. The time zone and the currency stay as they were set up, since payments rest "
            + "on them. How numbers and dates are written can be changed at any time.", "House"),
        new("paying", "Paying", "bi-credit-card", "/desk/settings/money", "ways to pay transfer bank cash terms of sale agree owner letters notify sale iban",
            "The ways people can pay, and what is said to them beside it. Your terms of sale are kept with each order in the version that was "
            + "agreed to. Which news about money is written to you, and when, is set here too.", Under: "settings", InRow: false),
        new("content-settings", "Content settings", "bi-file-earmark-text", "/desk/settings/content",
            "language search video host embed document kinds aims cadence",
            "In which language your pieces are searched, and what you aim to bring out in a month. Which documents can be uploaded, and which video "
            + "addresses are shown as players. A video that fits none of them opens in a window of its own.", Under: "settings", InRow: false),
        new("doorway", "Doorways", "bi-door-closed", "/desk/doorway/site", "locked teaser paywall extract preview words not found redirect counts",
            "A doorway is what somebody meets who may not open something. The site says how they are, a shelf or a piece can say otherwise, and "
            + "the nearest word counts. How often each was met, and what came of it, stands beside.", Under: "doors"),
        new("deeds", "The house’s journal", "bi-journal-text", "/desk/settings/journal", "audit log history who changed did viewed",
            "What the team changed that everybody meets, the newest first, with who did it. Who looked through whose eyes stands here too. "
            + "What is done to one person stands in their own journal.", Under: "settings", InRow: false),
        new("team", "Team", "bi-person-badge", "/desk/settings/team", "team helper invite role owner editor host support permission staff access user",
            "Who helps, and what each may do. Somebody new is asked by letter, with a link that is good for seven days. Whoever is let in no "
                + "longer is out at once, "
            + "wherever they are signed in; what they did keeps their name.", Under: "settings", InRow: false),
        new("mail", "Sending letters", "bi-send-check", "/desk/settings/mail", "dkim spf dmarc dns sign deliver spam bounce returned server smtp domain",
            "What your domain says about who sends for it decides whether letters arrive. A key to sign them with is made here, and the lines for the DNS are "
            + "ready to copy. Letters that come back later can be handed in.", Under: "settings", InRow: false),
        new("signing-in", "How you sign in", "bi-shield-lock", "/desk/signing-in",
            "password second factor two step code phone app authenticator sign out session",
            "Your own way in. With the second step a code from your phone is asked for after your letter or password, so that neither is enough by itself. "
            + "Keep the spare codes where the phone isn’t.", Under: "settings", InRow: false),
        new("welcome", "First steps", "bi-door-open", "/desk/settings/welcome", "welcome newcomers onboarding hello greeting start here first visit checklist "
            + "remind half-way abandoned",
            "What newcomers find on their home for their first thirty days: saying hello to you, saying where they are, telling about themselves. "
            + "What each tier or pass starts with is chosen on its own page. Whoever says hello stands among your tasks. Whoever goes away while joining "
            + "can be reminded once, if they say that they may be.", Under: "settings", InRow: false),
        new("menu", "Menus", "bi-list", "/desk/settings/menu", "navigation header links entries",
            "What stands in the menu of the front and of the member side. An entry is seen by those for whom it is meant: the signed-out, guests, "
            + "holders. Where people land after signing in is set per tier or pass.", Under: "settings", InRow: false),
        new("live", "Going live", "bi-broadcast", "/desk/settings/live", "trial rehearsal launch start real",
            "Until it goes live a site rehearses: its orders, people and letters are trials, and its clock can be moved. What is better seen to "
            + "before is looked up and listed. Going live takes the trials out, and can’t be taken back.", Under: "settings", InRow: false),
        new("calendar", "Releases in your calendar", "bi-calendar-plus", "/desk/calendar", "ics ical subscribe feed",
            "An address that your calendar program subscribes to, with every edition and its parts. It changes by itself when you move something. "
            + "Whoever has the address can read it, so keep it in the team.", Under: "editions", InRow: false),
        new("new-piece", "New piece", "bi-file-earmark-plus", "/desk/pieces/new", "write create course lesson", Under: "shelves", InRow: false),
        new("new-tier", "New tier", "bi-layers", "/desk/tiers/new", "create plan membership", Under: "tiers", InRow: false),
        new("new-pass", "New pass", "bi-ticket", "/desk/tiers/new?kind=pass", "create plan once sell", Under: "tiers", InRow: false),
        new("new-edition", "New edition", "bi-calendar-plus", "/desk/editions/new", "create month release", Under: "editions", InRow: false),
        new("new-shelf", "New shelf", "bi-bookshelf", "/desk/shelves/new", "create topic", Under: "shelves", InRow: false),
        new("password", "Password", "bi-key", "/me/password", "change sign in security account", Under: "settings", InRow: false),
        new("passkeys", "Passkeys", "bi-key", "/me/passkeys", "sign in security account finger face pin device", Under: "settings", InRow: false),
    ];

    public static IEnumerable<DeskPlace> Rail => All.Where(p => p.Under is null);

    public static DeskPlace? Find(string key) => All.FirstOrDefault(p => p.Key == key);

    /// <summary>The entry of the rail that is lit on a page.</summary>
    public static string EntryOf(string key) => Find(key)?.Under ?? key;

    /// <summary>What stands in the row under the title: the entry and what belongs to it, without what is only an action.</summary>
    public static IReadOnlyList<DeskPlace> RowOf(string key)
    {
        var entry = EntryOf(key);
        return [.. All.Where(p => p.Key == entry || p.Under == entry && p.InRow)];
    }

    /// <summary>Places that a typed word may mean: by their name first, then by what people call them.</summary>
    public static IEnumerable<DeskPlace> Meant(string typed)
    {
        var words = typed.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        bool In(string text) => words.All(w => text.Split(' ').Any(t => t.StartsWith(w, StringComparison.CurrentCultureIgnoreCase)));
        return All.Where(p => In(p.Word) || In(p.Words) || In(p.Word + " " + p.Words)).OrderBy(p => In(p.Word) ? 0 : 1);
    }
}
