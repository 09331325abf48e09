using System.Security.Cryptography;
using BrightCircle.App.Catalogues;
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
    public async Task<JoinStart> Do(Price price, string? name, string? email, MemberId? member, CancellationToken ct, PieceId? from = null,
        string? coupon = null)
    {
        if (price.Within(Now.PlanById[price.PlanId]) == Availability.Closed) return new JoinStart.Refused("This price is no longer on offer.");
        var at = clock.GetCurrentInstant();
        if (price.Terms.Access?.EndFrom(at, Now.Calendar) is { } ends && (ends <= at
            || new Agreement(price.Terms, true, at, Now.Calendar.Zone.Id) is { IsInstalments: true } parts && parts.Charges().Last().DueAt >= ends))
            return new JoinStart.Refused("It is too late for this one: what it opens ends before all of it would be paid.");
        var heldBefore = false;
        if (member is { } id)
        {
            var person = await db.Members.AsNoTracking().SingleAsync(m => m.Id == id, ct);
            (name, email) = (person.Name, person.Email);
            var holdings = await db.Holdings.Where(h => h.MemberId == id).Include(h => h.Facts).AsNoTracking().ToListAsync(ct);
            if (HeldNow.Says(Now, holdings.Where(h => h.PlanId == price.PlanId), price.PlanId, at) is { } refusal) return new JoinStart.Refused(refusal);
            if (price.Buyers?.Allows(holdings, at) == false) return new JoinStart.Refused(NotForThem);
            heldBefore = holdings.Any(h => h.PlanId == price.PlanId);
        }
        else
        {
            if (price.Buyers?.Allows([], at) == false) return new JoinStart.Refused("This price is for people who hold or held something here. Sign in first.");
            name = name?.Trim();
            if (string.IsNullOrEmpty(name)) return new JoinStart.Refused("Tell us your name.", "Name");
            if (name.Length > 120) return new JoinStart.Refused("That name is too long; 120 letters are the most.", "Name");
            if (!EmailAddress.TryRead(email, out email))
                return new JoinStart.Refused("That doesn’t look like an email address. It needs the form name@example.com.", "Email");
            // Whether somebody is here already is told by a letter, never by this form.
            await known.TellByLetter(email, $"/join/{price.Code}", at, ct);
        }
        // What a link says of a coupon is looked at on the next page, with the price it makes.
        async Task<AppliedCoupon?> CouponOf(string? typed, CancellationToken stop) => Coupon.Normalise(typed) is { Length: > 0 } code
            && await db.Coupons.AsNoTracking().FirstOrDefaultAsync(c => c.Code == code, stop) is { } found
            && found.Refuses(price, at, 0, 0, false) is null ? found.Applied : null;
        var secret = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        var checkout = new Checkout
        {
            Id = ids.Next(),
            Purpose = CheckoutPurpose.Join,
            PriceId = price.Id,
            FromPieceId = from is { } f && Now.PieceById.ContainsKey(f) ? f : null,
            MemberId = member,
            Email = email!,
            Name = name!,
            CreatedAt = at,
            Coupon = await CouponOf(coupon, ct),
            WithTrial = !heldBefore && price.Terms.TrialOrNull is not null,
            BrowserHash = CheckoutSecret.Hash(secret),
        };
        db.Add(checkout);
        await db.SaveChangesAsync(ct);
        return new JoinStart.Begun(checkout.Id, secret);
    }
}

/// <summary>The secret of the browser that began a checkout.</summary>
public static class CheckoutSecret
{
    /// <summary>So long after its beginning a checkout can be gone on with.</summary>
    public static Duration Lasts { get; } = Duration.FromHours(2);

    public static string Hash(string secret) => Convert.ToHexStringLower(SHA256.HashData(System.Text.Encoding.ASCII.GetBytes(secret)));

    public static bool Fits(Checkout checkout, string? secret, Instant now) =>
        secret is { Length: 64 } && checkout.BrowserHash is { } hash && now < checkout.CreatedAt + Lasts
        && CryptographicOperations.FixedTimeEquals(System.Text.Encoding.ASCII.GetBytes(hash), System.Text.Encoding.ASCII.GetBytes(Hash(secret)));
}

/// <summary>What somebody who holds a plan hears when they want it again.</summary>
public static class HeldNow
{
    /// <returns>Null where they don't hold it.</returns>
    public static string? Says(CatalogueSnapshot now, IEnumerable<Holding> holdings, PlanId plan, Instant at)
    {
        var name = now.PlanName(plan);
        foreach (var h in holdings)
        {
            if (h.PlanId != plan) continue;
            switch (h.StateAt(at))
            {
                case HoldingState.Active or HoldingState.Trial:
                    return $"You already hold {name}.";
                case HoldingState.Ending:
                    return $"You hold {name} until {now.Calendar.Date(h.LeavingAt(at)!.Value).ToString("d MMMM", now.Culture)}. To keep it, take your "
                        + $"leaving back on your account page.";
                case HoldingState.Grace:
                    return $"You hold {name}, and a payment is open. See to it on your account page, and everything goes on.";
                case HoldingState.NotYet:
                    return $"{name} waits for you: it begins on {now.Calendar.Date(h.StartsAt).ToString("d MMMM", now.Culture)}.";
                case HoldingState.Paused:
                    return $"You hold {name}, and it is paused. On your account page you can go on before the pause is over.";
                case HoldingState.Closed:
                    return $"You hold {name}, and an instalment is open. See to it on your account page, and it opens again at once.";
                case HoldingState.Over:
                    break;
            }
        }
        return null;
    }
}
