using System.Security.Cryptography;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>How a join begins or why it can't.</summary>
public abstract record JoinStart
{
    private JoinStart() { }
    /// <param name="Secret">For a cookie of the browser that begins: only it goes on, and only it is signed in at the end.</param>
    public sealed record Begun(long Checkout, string Secret) : JoinStart;
    public sealed record Refused(string Why, string? Field = null) : JoinStart;
}

/// <summary>Somebody begins to join or buy a plan: their name and address, or the account they are signed in with.</summary>
public sealed class BeginJoin(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, KnownAddress known)
{
    public const string NotForThem = "This price isn’t for you. What is on offer to you stands on the page of ways to belong.";
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>A price by the last part of its link, unless it or its plan is closed.</summary>
    public Price? PriceByCode(string code) => Now.Prices.FirstOrDefault(p => p.Code == code);

    /// <param name="member">Who is signed in, or null.</param>
    /// <param name="from">The piece whose doorway led here, or null.</param>
    /// <param name="voucher">Whom it is for, where the buyer buys it for somebody else.</param>
    /// <param name="mayRemind">They said that they may be reminded, if they go away half-way; of what is for somebody else nobody is.</param>
    public async Task<JoinStart> Do(Price price, string? name, string? email, MemberId? member, CancellationToken ct, PieceId? from = null,
        string? coupon = null, VoucherWish? voucher = null, bool mayRemind = false)
    {
        if (price.Within(Now.PlanById[price.PlanId]) == Availability.Closed) return new JoinStart.Refused("This price is no longer on offer.");
        var at = clock.GetCurrentInstant();
        if (voucher is not null && Wrong(price, ref voucher, at) is { } wrong) return wrong;
        if (price.Terms.Access?.EndFrom(at, Now.Calendar) is { } ends && (ends <= at
            || new Agreement(price.Terms, true, at, Now.Calendar.Zone.Id) is { IsInstalments: true } parts && parts.Charges().Last().DueAt >= ends))
            return new JoinStart.Refused("It is too late for this one: what it opens ends before all of it would be paid.");
        var (heldBefore, country) = (false, (string?)null);
        if (member is { } id)
        {
            var person = await db.Members.AsNoTracking().SingleAsync(m => m.Id == id, ct);
            (name, email) = (person.Name, person.Email);
            var holdings = await db.Holdings.Where(h => h.MemberId == id).Include(h => h.Facts).AsNoTracking().ToListAsync(ct);
            if (voucher is null && HeldNow.Says(Now, holdings.Where(h => h.PlanId == price.PlanId), price.PlanId, at) is { } refusal)
                return new JoinStart.Refused(refusal);
            if (!Buyer.Of(person, holdings).May(price, Now.Calendar, at)) return new JoinStart.Refused(NotForThem);
            heldBefore = holdings.Any(h => h.PlanId == price.PlanId);
            if (ReviewJoin.AsksCountry(price, Now))
                country = await db.Checkouts.Where(c => c.MemberId == id && c.Country != null).OrderByDescending(c => c.Id).Select(c => c.Country)
                    .FirstOrDefaultAsync(ct);
        }
        else
        {
            if (!Buyer.Stranger.May(price, Now.Calendar, at))
                return new JoinStart.Refused("This price is for people who hold or held something here. Sign in first.");
            name = name?.Trim();
            if (string.IsNullOrEmpty(name)) return new JoinStart.Refused("Tell us your name.", "Name");
            if (name.Length > 120) return new JoinStart.Refused("That name is too long; 120 letters are the most.", "Name");
            if (!EmailAddress.TryRead(email, out email))
                return new JoinStart.Refused("That doesn’t look like an email address. It needs the form name@example.com.", "Email");
            // Whether somebody is here already is told by a letter, never by this form.
            await known.TellByLetter(email, $"/join/{price.Code}", at, ct);
        }
        // What a link says of a coupon is looked at on the next page, with the price it makes; there it is said why, where it can't be used.
        async Task<AppliedCoupon?> CouponOf(string? typed, CancellationToken stop) => Coupon.Normalise(typed) is { Length: > 0 } code
            && await db.Coupons.AsNoTracking().FirstOrDefaultAsync(c => c.Code == code, stop) is { } found
            && found.Fits(price, at) ? found.Applied : null;
        var secret = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        var checkout = new Checkout
        {
            Id = ids.Next(),
            Purpose = CheckoutPurpose.Join,
            PriceId = price.Id,
            Country = country,
            FromPieceId = from is { } f && Now.PieceById.ContainsKey(f) ? f : null,
            MemberId = member,
            Email = email!,
            Name = name!,
            CreatedAt = at,
            Coupon = await CouponOf(coupon, ct),
            WithTrial = voucher is null && !heldBefore && price.Terms.TrialOrNull is not null,
            Voucher = voucher,
            MayRemind = mayRemind && voucher is null && Now.Site!.WritesHalfWay,
            BrowserHash = CheckoutSecret.Hash(secret),
        };
        db.Add(checkout);
        if (checkout.MayRemind) db.PutDue(ids, DueKind.RemindHalfWay, checkout.Id, at + ArrivalFacts.HalfWayFor, RemindHalfWay.KeyOf(checkout.Id));
        db.PutDue(ids, DueKind.ForgetOrders, checkout.Id, at + CheckoutSecret.Lasts, $"forget-{checkout.Id}");
        await db.SaveChangesAsync(ct);
        return new JoinStart.Begun(checkout.Id, secret);
    }

    /// <summary>Why a voucher can't be as it is wished; its texts are trimmed.</summary>
    JoinStart.Refused? Wrong(Price price, ref VoucherWish voucher, Instant at)
    {
        if (!price.AsVoucher || price.Terms is not PriceTerms.OnePayment) return new("This price isn’t sold as a voucher.");
        var (name, words, email) = (voucher.Name.Trim(), voucher.Words.Trim(), voucher.Email?.Trim());
        if (name.Length > 120) return new("That name is too long; 120 letters are the most.", "ForName");
        if (words.Length > 600) return new("Those words are too long; 600 letters are the most.", "ForWords");
        if (string.IsNullOrEmpty(email)) email = null;
        else if (!EmailAddress.TryRead(email, out email))
            return new("That doesn’t look like an email address. Leave it empty to hand the voucher over yourself.", "ForEmail");
        if (email is not null && name.Length == 0) return new("Whom shall we greet? Tell us their name.", "ForName");
        var today = Now.Calendar.Date(at);
        if (voucher.On is { } on && (on < today || on > today.PlusYears(1))) return new("Choose a day from today to a year from now.", "ForDay");
        voucher = new(name, words, email, email is null ? null : voucher.On);
        return null;
    }
}
