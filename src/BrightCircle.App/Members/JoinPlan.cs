using BrightCircle.App.Billing;
using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>How a join begins or why it can't.</summary>
public abstract record JoinStart
{
    private JoinStart() { }
    public sealed record Begun(long Checkout) : JoinStart;
    public sealed record Refused(string Why, string? Field = null) : JoinStart;
    /// <summary>The address belongs to an account already: the way in is to sign in.</summary>
    public sealed record HasAccount(string Email) : JoinStart;
}

/// <summary>What the review page shows: the price as it is for this person, and the schedule it makes.</summary>
public sealed record JoinReview(Checkout Checkout, Price Price, Plan Plan, PriceTerms Terms, PaymentSchedule Schedule, IReadOnlyList<(Plan Plan, Instant Until)> Replaces);

/// <summary>
/// Somebody joins a plan: name and address, review, the Till, back. The account, the holding, the payment, the letters and the journal of one joining
/// commit together, once, whether the Till's callback or the returning browser comes first.
/// </summary>
public sealed class JoinPlan(BrightContext db, Ids ids, Books books, IPaymentGateway gateway, Catalogue catalogue, IClock clock, SiteAddress address, Wake wake)
{
    CatalogueSnapshot Now => catalogue.Now;

    public Price? PriceByCode(string code) => Now.Prices.FirstOrDefault(p => p.Code == code);

    /// <param name="member">Who is signed in, or null.</param>
    public async Task<JoinStart> Start(Price price, string? name, string? email, MemberId? member, CancellationToken ct)
    {
        if (!price.OnOffer) return new JoinStart.Refused("This price is no longer on offer.");
        var at = clock.GetCurrentInstant();
        var heldBefore = false;
        if (member is { } id)
        {
            var known = await db.Members.SingleAsync(m => m.Id == id, ct);
            (name, email) = (known.Name, known.Email);
            var holdings = await db.Holdings.Where(h => h.MemberId == id && h.PlanId == price.PlanId).Include(h => h.Facts).AsNoTracking().ToListAsync(ct);
            if (HeldNow(holdings, price.PlanId, at) is { } refusal) return new JoinStart.Refused(refusal);
            heldBefore = holdings.Count > 0;
        }
        else
        {
            name = name?.Trim();
            if (string.IsNullOrEmpty(name)) return new JoinStart.Refused("Tell us your name.", "Name");
            if (name.Length > 120) return new JoinStart.Refused("That name is too long; 120 letters are the most.", "Name");
            if (!EmailAddress.TryRead(email, out email)) return new JoinStart.Refused("That doesn’t look like an email address. It needs the form name@example.com.", "Email");
            var normal = EmailAddress.Normalise(email);
            if (await db.Users.AnyAsync(a => a.NormalizedEmail == normal, ct)) return new JoinStart.HasAccount(email);
        }
        var checkout = new Checkout
        {
            Id = ids.Next(),
            Purpose = CheckoutPurpose.Join,
            PriceId = price.Id,
            MemberId = member,
            Email = email!,
            Name = name!,
            CreatedAt = at,
            WithTrial = !heldBefore && price.Terms is PriceTerms.Recurring { Trial: not null },
        };
        db.Add(checkout);
        await db.SaveChangesAsync(ct);
        return new JoinStart.Begun(checkout.Id);
    }

    string? HeldNow(IEnumerable<Holding> holdings, PlanId plan, Instant at)
    {
        var name = Now.PlanName(plan);
        foreach (var h in holdings)
            switch (h.StateAt(at))
            {
                case HoldingState.Active or HoldingState.Trial: return $"You already hold {name}.";
                case HoldingState.Ending: return $"You hold {name} until {Now.Calendar.Date(h.LeavingAt(at)!.Value).ToString("d MMMM", Now.Culture)}. To keep it, take your leaving back on your account page.";
                case HoldingState.Grace: return $"You hold {name}, and a payment is open. See to it on your account page, and everything goes on.";
            }
        return null;
    }

    public async Task<JoinReview?> Review(long checkout, CancellationToken ct)
    {
        var c = await db.Checkouts.AsNoTracking().FirstOrDefaultAsync(x => x.Id == checkout && x.Purpose == CheckoutPurpose.Join, ct);
        if (c?.PriceId is not { } id || !Now.PriceById.TryGetValue(id, out var price)) return null;
        var at = clock.GetCurrentInstant();
        var terms = TermsFor(price, c.WithTrial);
        var replaces = new List<(Plan, Instant)>();
        if (c.MemberId is { } member)
            foreach (var h in await Others(member, price.PlanId, ct))
                if (h.StateAt(at) is HoldingState.Active or HoldingState.Trial && h.PaidThrough(at) is { } until) replaces.Add((Now.PlanById[h.PlanId], until));
        return new(c, price, Now.PlanById[price.PlanId], terms, PaymentSchedule.For(terms, at, Now.Calendar), replaces);
    }

    static PriceTerms TermsFor(Price price, bool withTrial) =>
        price.Terms is PriceTerms.Recurring { Trial: not null } r && !withTrial ? r with { Trial = null } : price.Terms;

    /// <summary>A member's other holdings that renew by themselves: joining another plan lets them run out.</summary>
    async Task<List<Holding>> Others(MemberId member, PlanId joining, CancellationToken ct)
    {
        var open = await db.Holdings.Where(h => h.MemberId == member && h.PlanId != joining && !h.IsOver && h.Source == HoldingSource.Bought).Include(h => h.Facts).ToListAsync(ct);
        return [.. open.Where(h => h.PriceId is { } p && Now.PriceById[p].Terms is PriceTerms.Recurring)];
    }

    /// <summary>Opens the hosted card page for a checkout, or finishes a free one.</summary>
    /// <returns>Where the browser goes next: the Till; null where nothing needs paying and it is done.</returns>
    public async Task<string?> GoOn(long checkout, string returnUrl, CancellationToken ct)
    {
        var c = await db.Checkouts.FirstAsync(x => x.Id == checkout, ct);
        var price = Now.PriceById[c.PriceId!.Value];
        var terms = TermsFor(price, c.WithTrial);
        if (!terms.NeedsCard)
        {
            await Complete(checkout, null, ct);
            return null;
        }
        var amount = terms.DueAtStart is { IsZero: false } due ? due : (Money?)null;
        var session = await gateway.Open(new($"checkout-{c.Id}", amount, $"{Now.Site!.Name}: {Now.PlanName(price.PlanId)}, {Say.FullPrice(terms, Now.Culture)}", c.Email, returnUrl, clock.GetCurrentInstant()), ct);
        c.Session = session.Id;
        await db.SaveChangesAsync(ct);
        return session.Url;
    }

    /// <summary>Finishes the checkout a session belongs to. Called by the callback and by the returning browser; the second finds it done.</summary>
    /// <returns>The checkout, or null where no checkout has that session.</returns>
    public async Task<Checkout?> Complete(SessionResult result, CancellationToken ct)
    {
        var id = await db.Checkouts.Where(c => c.Session == result.Session).Select(c => (long?)c.Id).FirstOrDefaultAsync(ct);
        return id is { } checkout ? await Complete(checkout, result, ct) : null;
    }

    /// <summary>The returning browser asks the Till what came of it.</summary>
    public async Task<Checkout?> CompleteOnReturn(long checkout, CancellationToken ct)
    {
        var c = await db.Checkouts.AsNoTracking().FirstOrDefaultAsync(x => x.Id == checkout, ct);
        if (c is null || c.State == CheckoutState.Completed || c.Session is null) return c;
        return await gateway.Result(c.Session, ct) is { } result ? await Complete(checkout, result, ct) : c;
    }

    async Task<Checkout> Complete(long checkout, SessionResult? result, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // Whoever comes second waits here, and then finds it completed.
        var c = await db.Checkouts.FromSql($"select * from checkouts where id = {checkout} for update").SingleAsync(ct);
        await db.Entry(c).ReloadAsync(ct);
        if (c.State == CheckoutState.Completed) return c;
        var at = clock.GetCurrentInstant();
        (c.State, c.CompletedAt) = (CheckoutState.Completed, at);
        switch (c.Purpose)
        {
            case CheckoutPurpose.Join: await Join(c, result, at, ct); break;
            case CheckoutPurpose.ChangeCard: ChangeCard(c, result!, at); break;
            case CheckoutPurpose.ConfirmPayment: await PayInGrace(c, result!, at, ct); break;
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return c;
    }

    async Task Join(Checkout c, SessionResult? result, Instant at, CancellationToken ct)
    {
        var price = Now.PriceById[c.PriceId!.Value];
        var plan = Now.PlanById[price.PlanId];
        var member = await FindOrAdd(c, at, ct);
        var all = await db.Holdings.Where(h => h.MemberId == member.Id).Include(h => h.Facts).ToListAsync(ct);
        c.MemberId = member.Id;
        if (result is not null) AddCard(member.Id, result, at);

        var terms = TermsFor(price, c.WithTrial);
        var held = all.FirstOrDefault(h => h.PlanId == plan.Id && h.StateAt(at) is not (HoldingState.Over or HoldingState.NotYet));
        if (held is not null)
        {
            // Two checkouts of one person were paid. The plan is held once; the second payment goes back by itself.
            c.HoldingId = held.Id;
            if (result is { ChargeRef.Length: > 0 }) GiveBackDouble(new(member, held, all, price), terms.DueAtStart!.Value, result, at);
            return;
        }

        foreach (var other in all.Where(h => h.PlanId != plan.Id && h.Source == HoldingSource.Bought && h.PriceId is { } p && Now.PriceById[p].Terms is PriceTerms.Recurring))
            await LetRunOut(member, other, all, at, ct);

        var returning = all.Count > 0;
        var holding = new Holding
        {
            Id = ids.Next<HoldingId>(),
            MemberId = member.Id,
            PlanId = plan.Id,
            PriceId = price.Id,
            Source = HoldingSource.Bought,
            StartsAt = at,
            Anchor = terms is PriceTerms.Recurring r ? PaymentSchedule.Anchor(r, at, Now.Calendar) : at,
        };
        db.Add(holding);
        all.Add(holding);
        c.HoldingId = holding.Id;
        books.Journal(member.Id, at, returning ? JournalKind.Returned : JournalKind.Joined, $"{(returning ? "came back to" : "joined")} {Say.Joined(plan, price, Now.Culture)}");
        new Letterbox(db, ids, catalogue).Welcome(member, plan, price, holding.Id, at);

        var subject = new Subject(member, holding, all, price);
        var charge = new ChargeResult.Answered(ChargeOutcome.Approved, result?.ChargeRef ?? "", null);
        var label = result?.CardLabel ?? "";
        switch (terms)
        {
            case PriceTerms.Free:
                db.HoldingFacts.Add(HoldingFact.Given(ids.Next<HoldingFactId>(), holding.Id, at, null));
                break;
            case PriceTerms.OnePayment once:
                books.Paid(subject, new(PaymentPurpose.Once, 0, 1, at, null, once.Amount), charge, label, at);
                break;
            case PriceTerms.Recurring { Trial: { } trial }:
                if (trial.Price.IsZero) db.HoldingFacts.Add(HoldingFact.Trial(ids.Next<HoldingFactId>(), holding.Id, at, holding.Anchor, at, null));
                else books.Paid(subject, new(PaymentPurpose.Trial, 0, 1, at, holding.Anchor, trial.Price), charge, label, at);
                books.DueRenewal(holding.Id, holding.Anchor, 0);
                break;
            case PriceTerms.Recurring recurring:
                books.Paid(subject, Turn.Of(holding, recurring, Now.Calendar, 0, 1), charge, label, at);
                break;
        }
        books.Restand(member, all, at);
    }

    /// <summary>A holding that another plan takes the place of: not renewed any more, open to the end of its paid time; without any it ends now.</summary>
    async Task LetRunOut(Member member, Holding other, List<Holding> all, Instant at, CancellationToken ct)
    {
        var state = other.StateAt(at);
        if (state is HoldingState.Active or HoldingState.Trial && other.PaidThrough(at) is { } until && until > at)
        {
            db.HoldingFacts.Add(HoldingFact.Leaving(ids.Next<HoldingFactId>(), other.Id, at, until));
            books.Due(DueKind.EndHolding, other.Id.Value, until, $"end-{other.Id.Value}-{until.ToUnixTimeSeconds()}");
            books.Journal(member.Id, at, JournalKind.Left, $"won’t renew {Now.PlanName(other.PlanId)}, having changed plan");
        }
        else if (state == HoldingState.Grace)
        {
            books.End(member, other, all, EndReason.Replaced, at);
        }
        else return;
        await db.DropDue(other.Id, ct);
    }

    async Task<Member> FindOrAdd(Checkout c, Instant at, CancellationToken ct)
    {
        if (c.MemberId is { } known) return await db.Members.FromSql($"select * from members where id = {known.Value} for update").SingleAsync(ct);
        var normal = EmailAddress.Normalise(c.Email);
        var account = await db.Users.FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct);
        if (account is not null)
        {
            var existing = await db.Members.FromSql($"select * from members where id = {account.Id} for update").FirstOrDefaultAsync(ct);
            if (existing is not null) return existing;
            var ofTeam = new Member { Id = new(account.Id), Name = account.Name, Email = account.Email!, JoinedAt = at };
            db.Add(ofTeam);
            return ofTeam;
        }
        c.MadeAccount = true;
        return db.AddPerson(ids, c.Name, c.Email, at);
    }

    void AddCard(MemberId member, SessionResult result, Instant at) =>
        db.Cards.Add(new() { Id = ids.Next(), MemberId = member, Token = result.CardToken, Label = result.CardLabel, AddedAt = at });

    void GiveBackDouble(Subject subject, Money amount, SessionResult result, Instant at)
    {
        var payment = books.PaidAgain(subject, amount, result, at);
        books.Due(DueKind.Refund, payment.Id.Value, at, $"refund-{payment.Id.Value}-1", payload: RefundOrder.Write(new(amount.Minor, false, "Paid twice", null)));
    }

    void ChangeCard(Checkout c, SessionResult result, Instant at)
    {
        AddCard(c.MemberId!.Value, result, at);
        books.Journal(c.MemberId.Value, at, JournalKind.CardChanged, $"put in the card {result.CardLabel}");
    }

    async Task PayInGrace(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        await db.DropDue(c.HoldingId!.Value, ct);
        var subject = (await db.LoadSubjects([c.HoldingId.Value], Now, ct))[c.HoldingId.Value];
        AddCard(subject.Member.Id, result, at);
        books.Journal(subject.Member.Id, at, JournalKind.CardChanged, $"put in the card {result.CardLabel}");
        var attempt = await db.Payments.Where(p => p.HoldingId == c.HoldingId && p.Turn == c.Turn && p.Purpose == PaymentPurpose.Recurring).MaxAsync(p => (int?)p.Attempt, ct) ?? 0;
        var turn = Turn.Of(subject.Holding, subject.Recurring, Now.Calendar, c.Turn, attempt + 1);
        if (subject.Holding.Facts.Any(f => f.Kind == HoldingFactKind.Paid && f.From == turn.From) || subject.Holding.Ending is not null)
        {
            // A retry was quicker, or grace ran out while the card was typed in: this money goes back.
            GiveBackDouble(subject, turn.Amount, result, at);
            if (subject.Holding.Ending is null && subject.Holding.PaidThrough(at) is { } next) books.DueRenewal(subject.Holding.Id, next, c.Turn + 1, 1);
            return;
        }
        // Paying in grace keeps the anchor: the turn is the one that was due.
        books.Paid(subject, turn, new(ChargeOutcome.Approved, result.ChargeRef, null), result.CardLabel, at);
    }

    /// <summary>Opens the card page for a member: to pay what is open in grace, or only to keep another card.</summary>
    public async Task<string> OpenCardPage(MemberId member, Func<long, string> returnUrl, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var m = await db.Members.AsNoTracking().SingleAsync(x => x.Id == member, ct);
        var holdings = await db.Holdings.Where(h => h.MemberId == member && !h.IsOver).Include(h => h.Facts).AsNoTracking().ToListAsync(ct);
        var open = holdings.FirstOrDefault(h => h.StateAt(at) == HoldingState.Grace);
        Money? amount = null;
        var turn = 0;
        if (open is not null)
        {
            turn = await db.Payments.Where(p => p.HoldingId == open.Id && p.Purpose == PaymentPurpose.Recurring).MaxAsync(p => p.Turn, ct);
            amount = ((PriceTerms.Recurring)Now.PriceById[open.PriceId!.Value].Terms).Amount;
        }
        var c = new Checkout
        {
            Id = ids.Next(),
            Purpose = open is null ? CheckoutPurpose.ChangeCard : CheckoutPurpose.ConfirmPayment,
            MemberId = member,
            HoldingId = open?.Id,
            Turn = turn,
            Email = m.Email,
            Name = m.Name,
            CreatedAt = at,
        };
        var text = open is null ? $"{Now.Site!.Name}: another card" : $"{Now.Site!.Name}: {Now.PlanName(open.PlanId)}";
        var session = await gateway.Open(new($"checkout-{c.Id}", amount, text, m.Email, returnUrl(c.Id), at), ct);
        c.Session = session.Id;
        db.Add(c);
        await db.SaveChangesAsync(ct);
        return session.Url;
    }

    /// <summary>The public address of a path of this site, for the Till to return to.</summary>
    public string Absolute(string path) => address.Url + path;
}
