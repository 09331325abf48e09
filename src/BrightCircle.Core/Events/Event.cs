using System.Text.Json.Serialization;
using NodaTime;

namespace BrightCircle.Core.Events;

/// <summary>
/// Something that happened to a member, with all that is needed to tell of it. It is written in the transaction of what it tells of, and never changed.
/// Journal lines, letters and what the Desk shows as just happened are made from events.
/// </summary>
[JsonDerivedType(typeof(Joined), "joined")]
[JsonDerivedType(typeof(Given), "given")]
[JsonDerivedType(typeof(Begun), "begun")]
[JsonDerivedType(typeof(Paid), "paid")]
[JsonDerivedType(typeof(PaidTwice), "paid-twice")]
[JsonDerivedType(typeof(OrderPlaced), "order-placed")]
[JsonDerivedType(typeof(PaymentWanted), "payment-wanted")]
[JsonDerivedType(typeof(OrderReminded), "order-reminded")]
[JsonDerivedType(typeof(OrderOver), "order-over")]
[JsonDerivedType(typeof(VoucherBought), "voucher-bought")]
[JsonDerivedType(typeof(VoucherSent), "voucher-sent")]
[JsonDerivedType(typeof(CardRunsOut), "card-runs-out")]
[JsonDerivedType(typeof(Covered), "covered")]
[JsonDerivedType(typeof(Changed), "changed")]
[JsonDerivedType(typeof(ChangeRefused), "change-refused")]
[JsonDerivedType(typeof(ChangeTakenBack), "change-taken-back")]
[JsonDerivedType(typeof(Paused), "paused")]
[JsonDerivedType(typeof(PauseOver), "pause-over")]
[JsonDerivedType(typeof(Closed), "closed")]
[JsonDerivedType(typeof(PaymentFailed), "payment-failed")]
[JsonDerivedType(typeof(PeriodMissed), "period-missed")]
[JsonDerivedType(typeof(OpenWaived), "open-waived")]
[JsonDerivedType(typeof(Left), "left")]
[JsonDerivedType(typeof(Stayed), "stayed")]
[JsonDerivedType(typeof(LeaveOffered), "leave-offered")]
[JsonDerivedType(typeof(PriceTold), "price-told")]
[JsonDerivedType(typeof(Ended), "ended")]
[JsonDerivedType(typeof(Refunded), "refunded")]
[JsonDerivedType(typeof(Credited), "credited")]
[JsonDerivedType(typeof(RefundRefused), "refund-refused")]
[JsonDerivedType(typeof(ChargedBack), "charged-back")]
[JsonDerivedType(typeof(DisputeAnswered), "dispute-answered")]
[JsonDerivedType(typeof(DisputeDecided), "dispute-decided")]
[JsonDerivedType(typeof(CardChanged), "card-changed")]
[JsonDerivedType(typeof(Added), "added")]
[JsonDerivedType(typeof(SignedIn), "signed-in")]
[JsonDerivedType(typeof(Corrected), "corrected")]
[JsonDerivedType(typeof(Merged), "merged")]
[JsonDerivedType(typeof(AddressConfirmed), "address-confirmed")]
[JsonDerivedType(typeof(Opened), "opened")]
[JsonDerivedType(typeof(Finished), "finished")]
[JsonDerivedType(typeof(HandedIn), "handed-in")]
[JsonDerivedType(typeof(Marked), "marked")]
[JsonDerivedType(typeof(Asked), "asked")]
[JsonDerivedType(typeof(Answered), "answered")]
[JsonDerivedType(typeof(GotPlace), "got-place")]
[JsonDerivedType(typeof(PromiseMoved), "promise-moved")]
[JsonDerivedType(typeof(LetterRefused), "letter-refused")]
[JsonDerivedType(typeof(TagPutOn), "tag-put-on")]
[JsonDerivedType(typeof(TagTakenOff), "tag-taken-off")]
[JsonDerivedType(typeof(FieldFilled), "field-filled")]
[JsonDerivedType(typeof(Reported), "reported")]
[JsonDerivedType(typeof(SaidHello), "said-hello")]
[JsonDerivedType(typeof(TalkCared), "talk-cared")]
[JsonDerivedType(typeof(WroteToTeam), "wrote-to-team")]
[JsonDerivedType(typeof(TeamWrote), "team-wrote")]
[JsonDerivedType(typeof(SaidComing), "said-coming")]
[JsonDerivedType(typeof(CameLive), "came-live")]
[JsonDerivedType(typeof(SessionNews), "session-news")]
[JsonDerivedType(typeof(HourNews), "hour-news")]
[JsonDerivedType(typeof(ChallengeNews), "challenge-news")]
[JsonDerivedType(typeof(Noted), "noted")]
public abstract record Event
{
    private Event() { }

    static readonly System.Collections.Frozen.FrozenDictionary<Type, string> Kinds = System.Collections.Frozen.FrozenDictionary.ToFrozenDictionary(
        typeof(Event).GetCustomAttributes(typeof(JsonDerivedTypeAttribute), false).Cast<JsonDerivedTypeAttribute>(), a => a.DerivedType,
            a => (string)a.TypeDiscriminator!);

    /// <summary>Its name, as it is stored and filtered by: "payment-failed".</summary>
    [JsonIgnore] public string Kind => Kinds[GetType()];

    /// <summary>The name of a kind of event.</summary>
    public static string KindOf<T>() where T : Event => Kinds[typeof(T)];

    /// <param name="Price">Null for none.</param>
    /// <param name="Returned">Something was held before.</param>
    public sealed record Joined(HoldingId Holding, PlanId Plan, PriceId? Price, bool Returned) : Event;
    /// <summary>They got a plan without paying for it.</summary>
    /// <param name="Until">The last day; null for good.</param>
    /// <param name="Source">Through what.</param>
    /// <param name="From">The first day, where that is still to come.</param>
    /// <param name="Quietly">No letter goes out.</param>
    public sealed record Given(HoldingId Holding, PlanId Plan, LocalDate? Until, Members.HoldingSource Source = Members.HoldingSource.Gift,
        LocalDate? From = null, bool Quietly = false) : Event;
    /// <summary>What was given for a later day has begun.</summary>
    public sealed record Begun(HoldingId Holding, PlanId Plan, bool Quietly) : Event;
    /// <param name="To">The end of the stretch it pays for; null for good.</param>
    /// <param name="Next">What will be charged next, and when; null where nothing will.</param>
    /// <param name="Way">How it came in.</param>
    /// <param name="Recovered">One had failed before.</param>
    public sealed record Paid(PaymentId Payment, HoldingId Holding, PlanId Plan, Money Amount, string Card, Instant From, Instant? To, Money? Next,
        Instant? NextAt, Offer.PayWay Way = Offer.PayWay.Card, bool Recovered = false) : Event;
    /// <summary>Something was ordered, and its money comes by another way than the card.</summary>
    /// <param name="Order">Its number.</param>
    /// <param name="Until">Until when the money is waited for.</param>
    /// <param name="OpenAtOnce">It is open meanwhile.</param>
    public sealed record OrderPlaced(long Order, PlanId Plan, Money Amount, string Reference, Offer.PayWay Way, Instant Until, bool OpenAtOnce) : Event;
    /// <summary>What falls due is asked for by another way than the card.</summary>
    public sealed record PaymentWanted(long Order, HoldingId Holding, PlanId Plan, Money Amount, string Reference, Offer.PayWay Way, Instant DueAt,
        Instant Until) : Event;
    /// <summary>They were reminded of what isn't there yet.</summary>
    public sealed record OrderReminded(long Order, PlanId Plan, Money Amount, string Reference, Offer.PayWay Way, Instant Until) : Event;
    /// <summary>The money of an order didn't come in time, or it was called off.</summary>
    public sealed record OrderOver(long Order, PlanId Plan, Money Amount, bool CalledOff) : Event;
    /// <summary>They bought a plan for somebody else.</summary>
    /// <param name="Payment">Null where nothing was to be paid.</param>
    /// <param name="Key">The key link that opens it.</param>
    /// <param name="For">Whom it is for; empty where they didn't say.</param>
    public sealed record VoucherBought(PaymentId? Payment, PlanId Plan, Money Amount, string Card, long Key, string For) : Event;
    /// <summary>A voucher went to whom it is for.</summary>
    public sealed record VoucherSent(PlanId Plan, long Key, string To) : Event;
    /// <summary>The card on file won't be good for what is charged next.</summary>
    public sealed record CardRunsOut(HoldingId Holding, PlanId Plan, string Card, LocalDate LastDay, Money Amount, Instant NextAt) : Event;
    /// <summary>Money came in for something that was paid or over already; it goes back.</summary>
    public sealed record PaidTwice(PaymentId Payment, HoldingId? Holding, PlanId Plan, Money Amount) : Event;
    /// <summary>Nothing was to be paid for a stretch: credit or a coupon covered it.</summary>
    /// <param name="Credit">The credit it used.</param>
    /// <param name="StillCredit">The credit that is left.</param>
    public sealed record Covered(HoldingId Holding, PlanId Plan, Money Credit, Money StillCredit, Instant From, Instant? To) : Event;
    /// <summary>Another price or plan takes the place of one, at once or at the end of the paid time.</summary>
    /// <param name="Old">The holding that gives way.</param>
    /// <param name="New">The one that takes its place.</param>
    /// <param name="At">When.</param>
    /// <param name="AtOnce">It took place when it was decided.</param>
    /// <param name="Credit">What was credited of the old one.</param>
    /// <param name="Charged">What the first charge of the new one asks for.</param>
    /// <param name="StillCredit">The credit that is left after it.</param>
    public sealed record Changed(HoldingId Old, PlanId From, PriceId FromPrice, HoldingId New, PlanId To, PriceId ToPrice, Instant At, bool AtOnce,
        Money Credit, Money Charged, Money StillCredit) : Event;
    /// <summary>The card refused what a change asks for: nothing was changed.</summary>
    public sealed record ChangeRefused(HoldingId Holding, PlanId To, Money Amount, string Card, string Refusal) : Event;
    public sealed record ChangeTakenBack(HoldingId Holding, PlanId Plan, PlanId To) : Event;
    /// <param name="Until">When it goes on.</param>
    /// <param name="PaidThrough">The end of the paid time then.</param>
    public sealed record Paused(HoldingId Holding, PlanId Plan, Instant Until, Instant PaidThrough) : Event;
    /// <param name="Early">It was ended before its time.</param>
    public sealed record PauseOver(HoldingId Holding, PlanId Plan, bool Early, Instant PaidThrough) : Event;
    /// <summary>An instalment failed to the last retry: closed until it is paid.</summary>
    public sealed record Closed(HoldingId Holding, PlanId Plan, Money Amount) : Event;
    /// <param name="RetryAt">When the same card is asked again; null where another is needed.</param>
    /// <param name="OpenUntil">Until when it stays open.</param>
    /// <param name="NeedsCardholder">The bank wants the cardholder to confirm it.</param>
    /// <param name="First">Nothing was ever paid for this holding.</param>
    public sealed record PaymentFailed(PaymentId Payment, HoldingId Holding, PlanId Plan, Money Amount, string Card, string Refusal, Instant? RetryAt,
        Instant OpenUntil, bool NeedsCardholder, bool First) : Event;
    /// <summary>A period went by uncharged because the site stood still.</summary>
    public sealed record PeriodMissed(HoldingId Holding, PlanId Plan, Money Amount, Instant From, Instant To) : Event;
    /// <summary>The team waived what was missed.</summary>
    public sealed record OpenWaived(HoldingId Holding, PlanId Plan, Money Amount) : Event;
    /// <param name="OpenUntil">Until when it stays open; null where it ended at once.</param>
    /// <param name="ChangedPlan">It gave way to another plan.</param>
    /// <param name="Why">What they said of it; null where they said nothing.</param>
    public sealed record Left(HoldingId Holding, PlanId Plan, Instant? OpenUntil, bool ChangedPlan, string? Why = null) : Event;
    /// <summary>They were told that another price will count.</summary>
    /// <param name="On">From their first payment on or after that day.</param>
    public sealed record PriceTold(HoldingId Holding, PlanId Plan, PriceId From, PriceId To, LocalDate On) : Event;
    /// <summary>About to leave, they were shown a pause or a cheaper way.</summary>
    public sealed record LeaveOffered(HoldingId Holding, PlanId Plan) : Event;
    public sealed record Stayed(HoldingId Holding, PlanId Plan) : Event;
    public sealed record Ended(HoldingId Holding, PlanId Plan, EndReason Reason) : Event;
    /// <param name="AlsoEnded">The holding ended with it.</param>
    public sealed record Refunded(PaymentId Payment, HoldingId? Holding, PlanId Plan, Money Amount, Instant PaidAt, string Card, string Reason, bool AlsoEnded)
        : Event;
    /// <summary>Instead of going back it is their credit.</summary>
    public sealed record Credited(PaymentId Payment, HoldingId Holding, PlanId Plan, Money Amount, Instant PaidAt, string Reason) : Event;
    public sealed record RefundRefused(PaymentId Payment, Money Amount, string Reason) : Event;
    /// <param name="AlreadyRefunded">All of it had gone back before, so nothing more did.</param>
    public sealed record ChargedBack(PaymentId Payment, HoldingId? Holding, PlanId Plan, Money Amount, bool AlreadyRefunded) : Event;
    /// <summary>The team said something to a bank that took a payment back.</summary>
    public sealed record DisputeAnswered(PaymentId Payment, Money Amount) : Event;
    /// <param name="Won">The money came back.</param>
    public sealed record DisputeDecided(PaymentId Payment, Money Amount, bool Won) : Event;
    public sealed record CardChanged(string Card) : Event;
    /// <summary>The team made the account.</summary>
    public sealed record Added : Event;
    public sealed record SignedIn : Event;
    /// <summary>The team corrected name or address.</summary>
    public sealed record Corrected(string OldName, string OldEmail, string NewName, string NewEmail) : Event;
    /// <summary>Another account of the same person was taken into this one.</summary>
    public sealed record Merged(string Name, string Email) : Event;
    public sealed record AddressConfirmed(string Email) : Event;
    /// <summary>A lesson was opened for the first time.</summary>
    public sealed record Opened(LessonId Lesson, PieceId Piece) : Event;
    /// <param name="Title">As it was called then.</param>
    /// <param name="PieceTitle">Null for the single lesson of a piece.</param>
    public sealed record Finished(LessonId Lesson, PieceId Piece, string Title, string? PieceTitle) : Event;
    /// <param name="Passed">Null where something waits to be read.</param>
    public sealed record HandedIn(LessonId Lesson, BlockId Block, string Title, int Earned, int Points, bool? Passed) : Event;
    public sealed record Marked(LessonId Lesson, long Try, string Title, int Earned, int Points, bool Passed) : Event;
    public sealed record Asked(LessonId Lesson, long Question, string Title, string Text) : Event;
    public sealed record Answered(LessonId Lesson, long Answer, string Title, string Question, string Text) : Event;
    public sealed record GotPlace(PieceId Piece, string Title) : Event;
    /// <summary>What they hold lives by another version of the plan's promise.</summary>
    /// <param name="Move">The act by which many were moved.</param>
    public sealed record PromiseMoved(HoldingId Holding, PlanId Plan, int From, int To, long Move) : Event;
    public sealed record LetterRefused(long Letter, string Subject, string Reason) : Event;
    /// <param name="Name">As it was called then.</param>
    public sealed record TagPutOn(TagId Tag, string Name) : Event;
    public sealed record TagTakenOff(TagId Tag, string Name) : Event;
    /// <summary>Something stands in one of the owner's own fields, or nothing any more.</summary>
    /// <param name="Name">As it was called then.</param>
    /// <param name="Text">What stands there now; empty for nothing.</param>
    public sealed record FieldFilled(OwnFieldId Field, string Name, string Text) : Event;
    /// <summary>Another program told of them.</summary>
    /// <param name="Name">Under which name.</param>
    /// <param name="Reference">By which that program knows it: the same is told once.</param>
    public sealed record Reported(string Name, string Reference) : Event;
    /// <summary>A newcomer's first words to the team.</summary>
    public sealed record SaidHello(string Text) : Event;
    /// <summary>The team saw to what they wrote in a space.</summary>
    /// <param name="Until">For how long they can’t write; null where they can.</param>
    /// <param name="Words">The team’s, to them.</param>
    public sealed record TalkCared(TalkCareKind What, string Thread, string Words, Instant? Until = null) : Event;
    /// <summary>They wrote to the team.</summary>
    public sealed record WroteToTeam(long Message, string Text) : Event;
    /// <summary>The team wrote to them.</summary>
    public sealed record TeamWrote(long Message, string Text) : Event;
    /// <summary>They said that they come to a live session.</summary>
    /// <param name="Waiting">There is no seat for them yet.</param>
    public sealed record SaidComing(LiveSessionId Session, string Title, Instant StartsAt, bool Waiting) : Event;
    /// <summary>They were at a live session.</summary>
    public sealed record CameLive(LiveSessionId Session, string Title) : Event;
    /// <summary>Something is to be told of a live session that they come to.</summary>
    /// <param name="Words">The team’s, where it has some to say.</param>
    public sealed record SessionNews(LiveSessionId Session, string Title, Instant StartsAt, int Minutes, SessionNewsKind What, string Words = "") : Event;
    /// <summary>Something is to be told of an hour that they have with the host alone.</summary>
    /// <param name="Sequence">How often it was moved or cancelled.</param>
    /// <param name="Place">Where, in words; empty where it is in a room, whose address shows on its page only.</param>
    /// <param name="Words">The team’s, where it has some to say.</param>
    public sealed record HourNews(long Hour, LiveSeriesId Series, string Title, Instant StartsAt, int Minutes, int Sequence, HourNewsKind What,
        string Place = "",
        string Words = "") : Event;
    /// <summary>A challenge in which they take part begins, or is over.</summary>
    /// <param name="Met">In so many of its weeks they reached the aim.</param>
    /// <param name="Aim">Of its first week.</param>
    public sealed record ChallengeNews(ChallengeId Challenge, string Name, ChallengeNewsKind What, int Met, int Weeks, int Aim) : Event;
    /// <summary>A line in words, from before events were typed.</summary>
    public sealed record Noted(string Text) : Event;
}
