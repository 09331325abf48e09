using BrightCircle.App.House;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class AccountModel(BrightContext db, OwnMembership own) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<Payment> Payments { get; private set; } = [];
    public string? CardLabel { get; private set; }
    IReadOnlyList<Holding> Holdings => Visitor.Person!.Holdings;
    public IReadOnlyList<Holding> Current => [.. Holdings.Where(h => h.StateAt(Moment) is not (HoldingState.Over or HoldingState.NotYet))];
    public Holding? Past => Holdings.LastOrDefault(h => h.StateAt(Moment) == HoldingState.Over);
    public Standing Standing => Standings.At(Holdings, Now.Book.RankOf, Moment).Standing;
    public Price? ComeBackPrice => Past is null ? null
        : Past.PriceId is { } p && Now.PriceById[p].OnOffer ? Now.PriceById[p] : Now.PricesOf(Past.PlanId).FirstOrDefault(x => x.OnOffer);
    public string PlanOf(Payment p) => Now.PriceById.TryGetValue(p.PriceId, out var price) ? Now.PlanName(price.PlanId) : "";

    public string StandingSentence => Standing switch
    {
        Standing.Active => "You’re an active member.",
        Standing.Trial => "You’re on trial.",
        Standing.Grace => "A payment is open; everything stays open for now.",
        Standing.Ending => "You’ve left; your paid time still runs.",
        Standing.Lapsed => "Your membership has ended.",
        Standing.Guest => "You have an account and hold nothing yet.",
        _ => throw new InvalidOperationException(),
    };

    public string Sentence(Holding h)
    {
        var price = h.PriceId is { } id ? Now.PriceById[id] : null;
        return h.StateAt(Moment) switch
        {
            HoldingState.Grace => $"The last payment didn’t go through. It stays open until {FullDay(h.GraceAt(Moment)!.To!.Value)}; paying before then keeps everything as it was.",
            HoldingState.Ending => $"Open until {FullDay(h.LeavingAt(Moment)!.Value)}; nothing more is charged. {Say.Keeps(Now.PlanById[h.PlanId])}",
            _ when h.Source == HoldingSource.Gift => h.PaidThrough(Moment) is { } until ? $"A gift, open until {FullDay(until)}." : "A gift, for good.",
            _ when price?.Terms is PriceTerms.Recurring r && h.PaidThrough(Moment) is { } next => (h.StateAt(Moment) == HoldingState.Trial ? "On trial. " : "") + $"The next payment is {Money(r.Amount)} on {FullDay(next)}, and again every {r.Every.AfterEvery()}.",
            _ when price?.Terms is PriceTerms.Free => "Free.",
            _ => "Paid once, open for good.",
        };
    }

    public async Task OnGet()
    {
        if (Visitor.Member is not { } member) return;
        var trip = new OneTrip(db);
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.MemberId == member).OrderByDescending(p => p.At).Take(100));
        var card = trip.First(db.Cards.Where(c => c.MemberId == member).OrderByDescending(c => c.AddedAt).ThenByDescending(c => c.Id).Select(c => c.Label));
        await trip.Ask(Ct);
        (Payments, CardLabel) = (payments.Value, card.Value);
    }

    public async Task<IActionResult> OnPostStay(long holding)
    {
        var done = await own.Stay(Member, new(holding), Ct);
        Tell(done.Ok ? "Good that you stay. Everything goes on as before." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostNews(bool wants)
    {
        await own.SetWantsNews(Member, wants, Ct);
        Tell(wants ? "We’ll write to you when an edition opens." : "No more edition letters.");
        return Redirect("/me/account");
    }

    /// <summary>The zones of the tz database that are named for a place.</summary>
    public IEnumerable<string> Zones => NodaTime.TimeZones.TzdbDateTimeZoneSource.Default.ZoneLocations!.Select(l => l.ZoneId).Append("UTC").Distinct().Order(StringComparer.Ordinal);

    public async Task<IActionResult> OnPostZone(string? zone)
    {
        var done = await own.SetZone(Member, string.IsNullOrEmpty(zone) ? null : zone, Ct);
        Tell(done.Ok ? "Your days begin where you are." : done.Refusal!);
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPostEverywhere([FromServices] SignInManager<Data.Account> signIn)
    {
        var account = await signIn.UserManager.FindByIdAsync(Visitor.SignedIn!.AccountId.ToString(System.Globalization.CultureInfo.InvariantCulture));
        await signIn.UserManager.UpdateSecurityStampAsync(account!);
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
