using BrightCircle.App;
using BrightCircle.App.Billing;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A last look before paying: for the browser that began it, and for nobody else.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinReviewModel(ReviewJoin reviews, ChooseOrder choose, GoToTill till, PlaceOrder place, UseCoupon coupons, SiteAddress address)
    : BrightPage
{
    public JoinReview Review { get; private set; } = null!;
    public string Token { get; private set; } = "";

    string Begin => $"/join/{RouteData.Values["code"]}";

    /// <param name="coupon">A coupon of the link that can't be used: it is said why.</param>
    public async Task<IActionResult> OnGet(string? c, string? coupon)
    {
        if (!await Find(c)) return Redirect(Begin);
        if (Review.Checkout.Coupon is null && Coupon.Normalise(coupon) is { Length: > 0 and <= 60 } typed
            && await coupons.Type(Review.Checkout.Id, typed, Ct) is { Ok: false } no)
        {
            CouponSaid = true;
            Refuse($"{no.Refusal} You can go on without it.", "Coupon");
        }
        return Page();
    }

    /// <summary>The way that is marked.</summary>
    public PayWay Way { get; private set; }
    public bool Agreed { get; private set; }
    /// <summary>Something is said of a coupon that came with the link.</summary>
    public bool CouponSaid { get; private set; }

    /// <summary>Until when the money is waited for, chosen now.</summary>
    public NodaTime.Instant By(WayOffered way) => Now.Calendar.PlusDays(Moment, way.Days);

    /// <summary>The first piece that what is offered beside it opens, for its picture; null where it is of no single piece.</summary>
    public Core.Content.Piece? PieceOf(Plan plan) => plan.Promise.Select(i => i.Covers).OfType<Coverage.OnePiece>()
        .Select(c => Now.PieceById.GetValueOrDefault(c.Piece)).FirstOrDefault(p => p is not null);

    public string Button
    {
        get
        {
            var verb = Review.Plan.IsTier ? "Join" : "Get";
            return Way != PayWay.Card ? Review.Order.Due is { } owed ? $"Order for {Money(owed)}" : $"{verb} {Review.Plan.Name}"
                : Review.Order.Due is { } due ? $"Pay {Money(due)}" : Review.Order.NeedsCard ? "Go on to the card" : $"{verb} {Review.Plan.Name}";
        }
    }

    /// <summary>The page as it is, with what was ticked beside it.</summary>
    public async Task<IActionResult> OnPostExtra(string? c, bool extra, PayWay way, bool agreed, string? country)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (!await Take(c, extra, way, agreed, country)) return Redirect(Begin);
        return Page();
    }

    public async Task<IActionResult> OnPost(string? c, bool extra, PayWay way, bool agreed, string? country, int? version, long shown)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (!await Take(c, extra, way, agreed, country)) return Redirect(Begin);
        if ((Review.Order.Due?.Minor ?? 0) != shown)
        {
            // Ticked without scripts, or a sale ended meanwhile: nobody pays what they haven't seen.
            Refuse($"It is {(Review.Order.Due is { } due ? Money(due) : "free")} with what you chose. Look once more, and go on.");
            return Page();
        }
        if (Review.AsksCountry && (Review.Checkout.Country is null || !Review.CanBePaidBy(way)))
        {
            Refuse(Review.Checkout.Country is null ? "Where do you live? How you can pay depends on it." : Review.IsFromNowhere ? NotFromThere
                : "Where you live it can be paid like this. Choose, and go on.", Review.Checkout.Country is null || Review.IsFromNowhere ? "Country" : "Way");
            return Page();
        }
        var agrees = Review.Terms is null ? Result.Done : await choose.Agree(Review.Checkout.Id, agreed, version, Ct);
        if (!agrees.Ok)
        {
            Refuse(agrees.Refusal!, agrees.Field);
            return Page();
        }
        var back = "/join/back?c=" + Uri.EscapeDataString(Token);
        var next = Review.Order.NeedsCard && Way != PayWay.Card ? await Place(Way, back) : await till.Join(Review.Checkout.Id, address.Url + back, Ct);
        if (next.Ok) return Redirect(next.Value!.Length > 0 ? next.Value : back);
        Refuse(next.Refusal!, next.Field);
        // A coupon that had been used up meanwhile is gone from it.
        await Find(c);
        return Page();
    }

    public string NotFromThere => $"We can’t be paid from there yet. Write to us: {Now.Site!.HelpAddress}.";

    async Task<Result<string>> Place(PayWay way, string back) =>
        await place.Do(Review.Checkout.Id, way, Ct) is { Ok: false } refused ? Result.Refused(refused.Refusal!, refused.Field) : back;

    public async Task<IActionResult> OnPostCoupon(string? c, string? coupon, bool extra, PayWay way, bool agreed, string? country)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (!await Take(c, extra, way, agreed, country)) return Redirect(Begin);
        var done = await coupons.Type(Review.Checkout.Id, coupon, Ct);
        if (done.Ok) return Redirect($"{Begin}/review?c={Uri.EscapeDataString(Token)}");
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    /// <summary>Finds the checkout, and takes over what is chosen on the page.</summary>
    async Task<bool> Take(string? c, bool extra, PayWay way, bool agreed, string? country)
    {
        if (!await Find(c)) return false;
        await choose.Extra(Review, extra, Ct);
        await choose.Country(Review, country, Ct);
        await Find(c);
        (Way, Agreed) = (Review.Ways.Any(w => w.Way == way) ? way : Way, agreed);
        return true;
    }

    /// <summary>The other ways to pay for the same plan, with what each saves or costs beside this one.</summary>
    public IEnumerable<(Price Price, string Words)> Sisters => Now.PricesOnOffer(Review.Plan).Where(p => p.Id != Review.Price.Id
            && Visitor.Buyer.May(p, Now.Calendar, Moment))
        .Select(p => (p, PaymentSchedule.For(p.Terms, Moment, Now.Calendar).Beside(PaymentSchedule.For(Review.Price.Terms, Moment, Now.Calendar))))
        .Where(x => x.Item2 is { Difference.Minor: not 0 }).Select(x => (x.p, Say.Beside(x.Item2!.Value, Now.Culture)));

    async Task<bool> Find(string? token)
    {
        if (CheckoutToken.Read(HttpContext, token) is not { } id || await reviews.Find(id, CheckoutToken.SecretOf(HttpContext), Ct) is not { } review)
            return false;
        (Review, Token) = (review, token!);
        Way = review.Ways.Select(w => w.Way).FirstOrDefault();
        return true;
    }
}
