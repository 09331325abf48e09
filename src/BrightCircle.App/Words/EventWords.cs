using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using NodaTime;

namespace BrightCircle.App.Words;

/// <summary>Events as the journal tells them: sentence parts that stand after a member's name.</summary>
public static class EventWords
{
    public static string Of(Event e, CatalogueSnapshot now)
    {
        string Show(Money m) => m.Format(now.Culture);
        string Day(Instant at) => now.Calendar.Date(at).ToString("d MMMM uuuu", now.Culture);
        string Plan(PlanId id) => now.PlanName(id);
        string Price(PlanId plan, PriceId id) => now.PriceById.TryGetValue(id, out var price) ? $"{Plan(plan)} ({Say.Price(price.Terms, now.Culture)})"
            : Plan(plan);
        return e switch
        {
            Event.Joined j => $"{Joins(j, now)} {(j.Price is { } p ? Say.Joined(now.PlanById[j.Plan], now.PriceById[p], now.Culture) : Plan(j.Plan))}",
            Event.Given g => $"{Got(g.Source)} {Plan(g.Plan)}{(g.From is { } first ? " from " + first.ToString("d MMMM uuuu", now.Culture) : "")}"
                + (g.Until is { } u ? " until " + u.ToString("d MMMM uuuu", now.Culture) : ""),
            Event.Begun b => $"{Plan(b.Plan)} began",
            Event.Paid p => $"paid {Show(p.Amount)} for {Plan(p.Plan)}",
            Event.Covered c => c.Credit.IsZero ? $"had nothing to pay for {Plan(c.Plan)} this time"
                : $"paid for {Plan(c.Plan)} with {Show(c.Credit)} of credit; {Show(c.StillCredit)} is left",
            Event.Changed { AtOnce: true } c => $"changed from {Price(c.From, c.FromPrice)} to {Price(c.To, c.ToPrice)}; {Show(c.Credit)} was credited",
            Event.Changed c => $"changes from {Price(c.From, c.FromPrice)} to {Price(c.To, c.ToPrice)} on {Day(c.At)}",
            Event.ChangeRefused c => $"couldn’t change to {Plan(c.To)}: {Show(c.Amount)} was refused, {c.Refusal}",
            Event.ChangeTakenBack c => $"stays with {Plan(c.Plan)} after all, and doesn’t change to {Plan(c.To)}",
            Event.Paused p => $"paused {Plan(p.Plan)} until {Day(p.Until)}",
            Event.PauseOver { Early: true } p => $"goes on with {Plan(p.Plan)} before the pause was over",
            Event.PauseOver p => $"goes on with {Plan(p.Plan)} after a pause",
            Event.Closed c => $"has {Plan(c.Plan)} closed until {Show(c.Amount)} is paid",
            Event.OrderPlaced o => $"ordered {Plan(o.Plan)}: {Show(o.Amount)} by {Way(o.Way)}, {CreditorReference.Show(o.Reference)}",
            Event.PaymentWanted w => $"was asked for {Show(w.Amount)} for {Plan(w.Plan)} by {Way(w.Way)}, {CreditorReference.Show(w.Reference)}",
            Event.OrderReminded r => $"was reminded of {Show(r.Amount)} for {Plan(r.Plan)}",
            Event.OrderOver { CalledOff: true } o => $"has the order of {Plan(o.Plan)} called off",
            Event.OrderOver o => $"didn’t send {Show(o.Amount)} for {Plan(o.Plan)} in time: the order is given up",
            Event.VoucherBought v => $"bought a voucher for {Plan(v.Plan)}{(v.For.Length > 0 ? $" for {v.For}" : "")}",
            Event.VoucherSent v => $"had the voucher for {Plan(v.Plan)} sent to {v.To}",
            Event.CardRunsOut c => $"has a card that runs out before {Show(c.Amount)} for {Plan(c.Plan)} is due on {Day(c.NextAt)}",
            Event.PaidTwice p => $"paid {Show(p.Amount)} a second time; it goes back",
            Event.PaymentFailed f => $"didn’t pay {Show(f.Amount)} for {Plan(f.Plan)}: {f.Refusal}",
            Event.PeriodMissed m => $"wasn’t charged {Show(m.Amount)} for {Plan(m.Plan)} from {Day(m.From)} to {Day(m.To)}; it stays open until you waive it",
            Event.OpenWaived w => $"was let off {Show(w.Amount)} for {Plan(w.Plan)}",
            Event.Left { ChangedPlan: true } l => $"won’t renew {Plan(l.Plan)}, having changed plan",
            Event.Left l => $"left {Plan(l.Plan)}{(l.Why is { } why ? $" (“{why}”)" : "")}" + (l.OpenUntil is { } until ? $"; open until {Day(until)}" : ""),
            Event.PriceTold t => $"was told that {Price(t.Plan, t.To)} counts from {t.On.ToString("d MMMM uuuu", now.Culture)} on",
            Event.LeaveOffered l => $"thought of leaving {Plan(l.Plan)}, and was shown what they could do instead",
            Event.Stayed s => $"stays with {Plan(s.Plan)} after all",
            Event.Ended { Reason: EndReason.Lapsed } x => $"lapsed from {Plan(x.Plan)}: the last retry failed",
            Event.Ended x => $"{Plan(x.Plan)} ended: {x.Reason.Words()}",
            Event.Refunded r => $"got {Show(r.Amount)} back{(r.Reason.Length > 0 ? ": " + r.Reason : "")}",
            Event.Credited c => $"got {Show(c.Amount)} to their credit{(c.Reason.Length > 0 ? ": " + c.Reason : "")}",
            Event.RefundRefused r => $"could not be given {Show(r.Amount)} back: {r.Reason}",
            Event.ChargedBack { AlreadyRefunded: true } c => $"took {Show(c.Amount)} back through the bank, which had been refunded before",
            Event.ChargedBack c => $"took {Show(c.Amount)} back through the bank",
            Event.DisputeAnswered d => $"took {Show(d.Amount)} back through the bank, and was answered",
            Event.DisputeDecided { Won: true } d => $"doesn’t get the {Show(d.Amount)} that the bank took back: it was decided for the house",
            Event.DisputeDecided d => $"keeps the {Show(d.Amount)} that the bank took back",
            Event.CardChanged c => $"put in the card {c.Card}",
            Event.Added => "was added by hand",
            Event.SignedIn => "signed in by link",
            Event.Corrected c => c.OldEmail == c.NewEmail ? $"is now written {c.NewName} instead of {c.OldName}"
                : $"has another address: {c.NewEmail} instead of {c.OldEmail}",
            Event.Merged x => $"had another account, {x.Email}; it is one with this now",
            Event.AddressConfirmed c => $"proved the address {c.Email}",
            Event.Opened o => $"opened {(now.LessonById.TryGetValue(o.Lesson, out var l) ? $"“{l.Title}”" : "a lesson")}",
            Event.Finished f => f.PieceTitle is { } piece ? $"finished “{f.Title}” in “{piece}”" : $"finished “{f.Title}”",
            Event.HandedIn h =>
                $"handed in “{h.Title}”: {h.Earned} of {h.Points}{(h.Passed is null ? ", some of it to be read" : h.Passed == true ? ", passed" : ", not "
                + $"passed")}",
            Event.Marked m => $"has “{m.Title}” read: {m.Earned} of {m.Points}",
            Event.Asked a => $"asked in “{a.Title}”",
            Event.Answered a => $"got an answer in “{a.Title}”",
            Event.GotPlace g => $"has a place in “{g.Title}”",
            Event.PromiseMoved m => $"has version {m.To} of what {Plan(m.Plan)} promises, instead of version {m.From}",
            Event.LetterRefused r => $"could not be written to: {r.Reason}",
            Event.TagPutOn t => $"bears the tag {t.Name}",
            Event.TagTakenOff t => $"bears the tag {t.Name} no more",
            Event.FieldFilled { Text.Length: 0 } f => $"has nothing in {f.Name} any more",
            Event.FieldFilled f => $"has {f.Name}: {f.Text}",
            Event.Reported r => $"was reported by another program as “{r.Name}”",
            Event.SaidHello h => $"said hello: {h.Text}",
            Event.TalkCared { What: TalkCareKind.Barred } c => $"can’t write in spaces{(c.Until is { } until ? $" until {Day(until)}" : "")}: {c.Words}",
            Event.TalkCared { What: TalkCareKind.TakenAway } c => $"had words taken away in “{c.Thread}”: {c.Words}",
            Event.TalkCared c => $"was told about what they wrote in “{c.Thread}”: {c.Words}",
            Event.WroteToTeam w => $"wrote to you: {w.Text}",
            Event.TeamWrote w => $"was written to: {w.Text}",
            Event.SaidComing { Waiting: true } s => $"waits for a seat in “{s.Title}” of {Day(s.StartsAt)}",
            Event.SaidComing s => $"comes to “{s.Title}” on {Day(s.StartsAt)}",
            Event.CameLive c => $"was at “{c.Title}”",
            Event.SessionNews { What: SessionNewsKind.Cancelled } s => $"was told that “{s.Title}” of {Day(s.StartsAt)} doesn’t take place",
            Event.SessionNews { What: SessionNewsKind.Moved } s => $"was told that “{s.Title}” was changed",
            Event.SessionNews { What: SessionNewsKind.GotSeat } s => $"has a seat in “{s.Title}” of {Day(s.StartsAt)}",
            Event.SessionNews s => $"was reminded of “{s.Title}”",
            Event.HourNews { What: HourNewsKind.Booked } h => $"booked “{h.Title}” on {Day(h.StartsAt)}",
            Event.HourNews { What: HourNewsKind.Moved } h => $"moved “{h.Title}” to {Day(h.StartsAt)}",
            Event.HourNews { What: HourNewsKind.GaveBack } h => $"gave back “{h.Title}” of {Day(h.StartsAt)}",
            Event.HourNews { What: HourNewsKind.Cancelled } h => $"was told that “{h.Title}” of {Day(h.StartsAt)} doesn’t take place",
            Event.HourNews h => $"was reminded of “{h.Title}”",
            Event.ChallengeNews { What: ChallengeNewsKind.Begins } c => $"was told that {c.Name} begins",
            Event.ChallengeNews { What: ChallengeNewsKind.Finished } c => $"finished {c.Name}, every week of it",
            Event.ChallengeNews c => $"was told that {c.Name} is over: {c.Met} of {Say.Count(c.Weeks, "week")}",
            Event.Noted n => n.Text,
            _ => throw new InvalidOperationException($"{e.Kind} has no words."),
        };
    }

    static string Joins(Event.Joined j, CatalogueSnapshot now) =>
        now.PlanById.GetValueOrDefault(j.Plan) is { IsTier: false }
            ? j.Price is { } p && now.PriceById.GetValueOrDefault(p)?.Terms is Core.Offer.PriceTerms.Free ? "took" : "bought" : j.Returned ? "came back to"
                : "joined";

    static string Way(Core.Offer.PayWay way) => way switch
    {
        Core.Offer.PayWay.Card => "card",
        Core.Offer.PayWay.Transfer => "transfer",
        Core.Offer.PayWay.Elsewhere => "hand",
        _ => throw new ArgumentOutOfRangeException(nameof(way), way, "No such way."),
    };

    static string Got(Core.Members.HoldingSource source) => source switch
    {
        Core.Members.HoldingSource.Gift => "was given",
        Core.Members.HoldingSource.Key => "took with a key link:",
        Core.Members.HoldingSource.MovedIn => "brought along",
        Core.Members.HoldingSource.Arrival => "got, as everybody does,",
        Core.Members.HoldingSource.Seat => "took a seat in a group:",
        Core.Members.HoldingSource.Routine => "was given, by a routine,",
        Core.Members.HoldingSource.Bought => throw new ArgumentOutOfRangeException(nameof(source), source, "What was bought wasn’t given."),
    };

    /// <summary>What the mark before a line says: something went wrong, something good began, or neither.</summary>
    public static string MarkOf(Event e) => e switch
    {
        Event.PaymentFailed or Event.OrderOver or Event.CardRunsOut or Event.Closed or Event.ChangeRefused or Event.Ended { Reason: EndReason.Lapsed }
            or Event.ChargedBack
            or Event.LetterRefused or Event.RefundRefused => "no",
        Event.Joined or Event.OrderPlaced or Event.VoucherBought or Event.Given or Event.Begun or Event.Changed => "sun",
        _ => "",
    };

    /// <summary>Kinds that are too many to stand among what just happened.</summary>
    public static IReadOnlyList<string> Small { get; } = ["opened", "signed-in", "address-confirmed"];
}
