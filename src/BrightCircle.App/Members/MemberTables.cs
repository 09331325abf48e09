namespace BrightCircle.App.Members;

/// <summary>What becomes of a table when a person is deleted.</summary>
public enum WhenForgotten
{
    /// <summary>It goes.</summary>
    Goes,
    /// <summary>The books rest on it: numbers, days and amounts stay, and nothing that says who it was.</summary>
    Stays,
}

/// <summary>A table in which members leave something.</summary>
/// <param name="Table">In the database.</param>
/// <param name="Of">Which rows are a member’s: a condition in which $1 is their number.</param>
/// <param name="File">What it is called in the data handed to them; null where there is nothing of theirs in it that isn’t elsewhere.</param>
/// <param name="Says">What is in it.</param>
/// <param name="Scrub">For what stays: what is put in the place of what says who it was, $1 being their number; null for nothing to put.</param>
/// <param name="Hide">Columns that are never handed out: they would act in their name.</param>
public sealed record MemberTable(string Table, string Of, string? File, string Says, WhenForgotten When, string? Scrub = null, params string[] Hide);

/// <summary>Every table in which members leave something, in one place: for handing people their data, and for deleting a person. A test finds one that is
/// missing.</summary>
public static class MemberTables
{
    const string Theirs = "member_id = $1", Account = "account_id = $1", Orders = "checkout_id in (select id from checkouts where member_id = $1)";

    /// <summary>Children before parents.</summary>
    public static IReadOnlyList<MemberTable> All { get; } =
    [
        new("bookmarks", Theirs, "kept", "what you kept for later", WhenForgotten.Goes),
        new("notes", Theirs, "notes", "your notes beside lessons", WhenForgotten.Goes),
        new("form_entries", Theirs, "forms", "what you said in forms", WhenForgotten.Goes),
        new("sheet_drafts", Theirs, "practice-drafts", "practice sheets you began", WhenForgotten.Goes),
        new("sheet_tries", Theirs, "practice", "practice sheets you handed in, and what was said of them", WhenForgotten.Goes),
        new("played", Theirs, "played", "how far you listened or watched", WhenForgotten.Goes),
        new("openings", Theirs, "opened", "lessons you opened and finished", WhenForgotten.Goes),
        new("lesson_questions", "account_id = $1 or answers_id in (select id from lesson_questions where account_id = $1)", "questions",
            "questions you asked, with their answers", WhenForgotten.Goes),
        new("talk_nods", Account, "talk-agreed", "where you agreed", WhenForgotten.Goes),
        new("talk_reports", Account, "talk-reported", "what you reported in spaces", WhenForgotten.Goes),
        new("talk_votes", Account, "talk-chosen", "what you chose in threads that ask for it", WhenForgotten.Goes),
        new("person_cards", Account, "shown-to-others", "how you want to be seen by other members", WhenForgotten.Goes),
        new("talk_drafts", Account, "talk-drafts", "what you began to write in spaces", WhenForgotten.Goes),
        new("talk_follows", Account, null, "", WhenForgotten.Goes),
        new("space_tellings", Account, "talk-told", "when you are told of what is said in spaces", WhenForgotten.Goes),
        new("talk_bars", Account, "talk-barred", "that you couldn’t write in spaces for a time, and why", WhenForgotten.Goes),
        new("messages", Theirs, "messages", "what you and the team wrote to each other", WhenForgotten.Goes),
        new("dialogues", Theirs, null, "", WhenForgotten.Goes),
        // What the other wrote is theirs too, and stays with the other.
        new("push_notices", "device_id in (select id from push_devices where member_id = $1)", null, "", WhenForgotten.Goes),
        new("push_devices", Theirs, "browsers-told", "browsers in which you see what is new", WhenForgotten.Goes, null, "endpoint", "key", "secret"),
        new("exchange_messages", "exchange_id in (select exchange_id from exchange_people where member_id = $1)", "messages-with-members",
            "what you and other members wrote to each other", WhenForgotten.Stays, "body = case when member_id = $1 then '' else body end, "
            + "member_id = nullif(member_id, $1)"),
        new("exchanges", "last_by_id = $1", null, "", WhenForgotten.Stays, "last_by_id = null"),
        new("exchange_people", Theirs, "written-with", "with whom you write", WhenForgotten.Stays,
            "shut_at = coalesce(shut_at, seen_at, 'epoch'), seen_at = null"),
        new("talk_seen", Account, null, "", WhenForgotten.Goes),
        new("space_seen", Account, null, "", WhenForgotten.Goes),
        // What others answered to would hang in the air: the places stay, the words go.
        new("talk_threads", "id in (select thread_id from talk_posts where is_first and account_id = $1)", "talk-begun", "threads you began",
            WhenForgotten.Stays, "title = 'Begun by a former member'"),
        new("talk_posts", Account, "talk", "what you wrote in spaces", WhenForgotten.Stays,
            "name = 'A former member', body = '', taken_body = null, held = null, gone_at = coalesce(gone_at, at), account_id = null"),
        new("talk_pictures", Account, "talk-pictures", "pictures and files you put up in spaces and messages", WhenForgotten.Stays,
            "account_id = null, post_id = null, message_id = null, words_id = null, alt = '', "
                + "file_name = case when file_name is null then null else 'file' end",
            "address", "small"),
        new("session_questions", Theirs, "session-questions", "questions you brought to live sessions", WhenForgotten.Goes),
        new("hour_bookings", Theirs, "hours", "hours you had with a host", WhenForgotten.Goes),
        new("session_people", Theirs, "sessions", "live sessions you came to", WhenForgotten.Goes),
        new("piece_places", Theirs, "places", "places you took or wait for", WhenForgotten.Goes),
        new("tally_marks", Theirs, "tallies", "what you marked in tallies", WhenForgotten.Goes),
        new("cohort_members", Theirs, "cohorts", "cohorts you were in", WhenForgotten.Goes),
        new("member_tags", Theirs, "tags", "tags put on for you", WhenForgotten.Goes),
        new("own_field_values", Theirs, "fields", "what was asked of you on joining, and later", WhenForgotten.Goes),
        new("team_notes", Theirs, "team-notes", "what the team noted", WhenForgotten.Goes),
        new("team_tasks", Theirs, "team-tasks", "what the team meant to do for you", WhenForgotten.Goes),
        new("first_steps", Theirs, "first-steps", "which of the first steps you took", WhenForgotten.Goes),
        new("last_seen", Theirs, "last-seen", "when you were last here", WhenForgotten.Goes),
        new("outgoing_calls", Theirs, "told-to-programs", "what other programs were told of you", WhenForgotten.Goes),
        new("routine_done", "run_id in (select id from routine_runs where member_id = $1)", null, "", WhenForgotten.Goes),
        new("routine_runs", Theirs, "routines", "what was done for you by itself", WhenForgotten.Goes),
        new("series_refusals", Theirs, "letters-refused", "letters you asked for no more of", WhenForgotten.Goes),
        new("opened_links", Theirs, "links-opened", "links of letters you opened, where that was counted", WhenForgotten.Goes),
        new("letters", Theirs, "letters", "letters written to you", WhenForgotten.Goes, Hide: ["sign_in_link_id"]),
        new("mailings", Theirs, "letters-to-you-alone", "letters the team wrote to you alone", WhenForgotten.Goes),
        new("journal", Theirs, "journal", "what happened, in order", WhenForgotten.Goes),
        new("cards", Theirs, "cards", "cards kept at the payment service", WhenForgotten.Goes, Hide: ["token"]),
        new("editing", "account_id = $1", null, "", WhenForgotten.Goes),
        new("uploads", "account_id = $1", null, "", WhenForgotten.Goes),
        new("sign_ins", "account_id = $1", "signed-in", "browsers you were signed in with", WhenForgotten.Goes),
        new("account_passkeys", "user_id = $1", "passkeys", "passkeys you made", WhenForgotten.Goes),
        new("sign_in_links", "account_id = $1", null, "", WhenForgotten.Goes),
        new("group_seats", $"{Theirs} or holding_id in (select id from holdings where member_id = $1)", "seats", "seats in groups", WhenForgotten.Stays,
            "email = 'former-' || $1 || '@nobody.invalid'", "code"),
        new("coupon_uses", $"{Theirs} or {Orders}", "coupons", "coupons you used", WhenForgotten.Stays,
            "email = 'former-' || $1 || '@nobody.invalid'"),
        new("key_links", "order_id in (select id from checkouts where member_id = $1)", "vouchers", "vouchers you bought", WhenForgotten.Stays, "name = ''",
            "code"),
        new("checkout_sessions", Orders, null, "", WhenForgotten.Stays),
        new("checkouts", Theirs, "orders", "what you ordered", WhenForgotten.Stays,
            "name = 'A former member', email = 'former-' || $1 || '@nobody.invalid', voucher = null, browser_hash = null, country = null, "
                + "may_remind = false", "browser_hash", "session"),
        new("charge_asks", Theirs, "charges", "what was asked of your card", WhenForgotten.Stays, null, "key", "card_token"),
        new("payments", Theirs, "payments", "your payments", WhenForgotten.Stays, null, "key", "charge_ref"),
        new("payments_to_look_at", Theirs, null, "", WhenForgotten.Stays),
        new("disputes", Theirs, "disputes", "payments your bank took back", WhenForgotten.Stays),
        new("ledger", Theirs, "ledger", "how your payments stand in the books", WhenForgotten.Stays),
        new("holdings", Theirs, "holdings", "what you hold and held", WhenForgotten.Stays),
        new("holding_facts", "holding_id in (select id from holdings where member_id = $1)", "holdings-facts", "what happened to what you hold",
            WhenForgotten.Stays),
        new("standing_changes", Theirs, "standing", "how your standing changed", WhenForgotten.Stays),
    ];
}
