using BrightCircle.App.Demo;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Money as its people meet it, without scripts: what each page says is what is then charged.</summary>
[Collection("demo")]
public class MoneyPlainTests(DemoSite site)
{
    /// <summary>A member of the demo, by a letter's link.</summary>
    async Task<(Plain Browser, MemberId Id)> As(string email)
    {
        await using var scope = site.App.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var at = scope.ServiceProvider.GetRequiredService<IClock>().GetCurrentInstant();
        var member = await db.Members.SingleAsync(m => m.Email == email);
        var link = db.Add(new SignInLink
        {
            Id = scope.ServiceProvider.GetRequiredService<Ids>().Next(),
            AccountId = member.Id.Value,
            CreatedAt = at,
            ExpiresAt = at + Duration.FromHours(1)
        }).Entity;
        await db.SaveChangesAsync();
        var p = new Plain(site.App.Url);
        await p.Open("/in/" + scope.ServiceProvider.GetRequiredService<SignInTokens>().ForSignIn(link.Id));
        await p.Press("Come in");
        return (p, member.Id);
    }

    Task<Holding> Held(MemberId member) => site.Db(async db => (await db.Holdings.AsNoTracking().Where(h => h.MemberId == member && !h.IsOver)
        .Include(h => h.Facts.OrderBy(f => f.Seq)).OrderBy(h => h.Id).ToListAsync())[0]);

    // Every penny of one member, on paper: 16.20 (18.00 less 10 %) on 19 November to 19 December is 30 days, 25 of them unused on the 24th: 13.50.
    // 180.00 − 13.50 = 166.50. A year later 18.00 a month.
    [Fact]
    public async Task From_month_to_year_paused_down_and_left()
    {
        var (p, id) = await As("odile.farnham@post.example");
        using var browser = p;
        var month = await Held(id);
        await p.Open($"/me/change/{month.Id.Value}");
        p.Says("Yearly");
        await p.Open($"/me/change/{month.Id.Value}?to=keeper-year");
        p.Says("25 unused days of 30");
        p.Says("£13.50");
        await p.Press("Pay £166.50 and change");
        p.Says("you’re on Keeper");
        var year = await Held(id);
        Assert.Equal((month.Id, 16650L),
            (year.Continues!.Value, (await site.Db(db => db.Payments.Where(x => x.HoldingId == year.Id).SingleAsync())).Amount.Minor));
        var receipt = await site.Db(db => db.Payments.Where(x => x.HoldingId == year.Id).Select(x => x.Id).SingleAsync());
        await p.Open($"/me/receipts/{receipt.Value}");
        p.Says("Paid with credit");

        await p.Open($"/me/pause/{year.Id.Value}");
        await p.Press("Pause it", ("Until", "2030-01-01"));
        p.Says("at most 60 days");
        await p.Press("Pause it", ("Until", "2026-12-04"));
        p.Says("paused until 4 December 2026");
        await p.Press("Go on now");
        p.Says("goes on from here");

        await p.Open($"/me/change/{year.Id.Value}?to=keeper-month");
        p.Says("at the end of what is paid");
        await p.Press("Change on 24 November 2027");
        p.Says("takes its place");
        await p.Press("Don’t change after all");
        p.Says("stays as it was");

        await p.Open($"/me/leave/{year.Id.Value}");
        p.Says("24 November 2027");
        await p.Press("Leave Keeper");
        p.Says("It’s done");
        Assert.Equal(HoldingState.Ending, (await Held(id)).StateAt(site.App.Services.GetRequiredService<IClock>().GetCurrentInstant()));
    }

    [Fact]
    public async Task The_rest_of_three_parts_is_paid_at_once()
    {
        var (p, id) = await As("anselm.quarrie@post.example");
        using var browser = p;
        await p.Open("/me/account");
        p.Says("Payment 2 of 3 is £26.00 on 12 December 2026");
        await p.Press("Pay £52.00");
        p.Says("All of it is paid");
        p.Says("All paid, open until 12 November 2027");
        Assert.Equal([2600, 5200], await site.Db(db => db.Payments.Where(x => x.MemberId == id).OrderBy(x => x.Id).Select(x => x.Amount.Minor).ToListAsync()));
    }

    // 18.00 and 69.00, ticked without scripts: nobody pays what they haven't seen.
    [Fact]
    public async Task Where_a_way_is_of_some_countries_buyers_say_where_they_live()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/settings/money");
        await owner.Press("Save", ("ways[0].Countries", "Narnia"));
        owner.Says("“Narnia” isn’t a country we know");
        await owner.Press("Save", ("ways[0].Countries", "France"), ("ways[1].Countries", "France"), ("ways[2].Countries", "Ireland, France"));
        owner.Says("Saved");
        try
        {
            using var buyer = new Plain(site.App.Url);
            await buyer.Open("/join/keeper-month");
            await buyer.Press("Go on", ("Name", "Tamsin Fell"), ("Email", "tamsin.fell@post.example"));
            await buyer.Press("Pay £18.00", ("agreed", "true"));
            buyer.Says("Where do you live? How you can pay depends on it");
            await buyer.Press("Pay £18.00", ("agreed", "true"), ("country", "JP"));
            buyer.Says("We can’t be paid from there yet");
            await buyer.Press("Pay £18.00", ("agreed", "true"), ("country", "IE"), ("way", "Card"));
            buyer.Says("Where you live it can be paid like this");
            Assert.DoesNotContain("Bank transfer", buyer.Text, StringComparison.Ordinal);
            await buyer.Press("Order for £18.00", ("agreed", "true"));
            buyer.Says("At the Saturday market");
            Assert.Equal("/me", buyer.Link("To what is open"));
            var order = await site.Db(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Email == "tamsin.fell@post.example"));
            Assert.Equal((CheckoutState.Placed, "IE"), (order.State, order.Country));
            await owner.Open($"/desk/orders/{order.Id}");
            owner.Says("Ireland");
        }
        finally
        {
            await owner.Open("/desk/settings/money");
            await owner.Press("Save", ("ways[0].Countries", ""), ("ways[1].Countries", ""), ("ways[2].Countries", ""));
        }
    }

    [Fact]
    public async Task Something_beside_it_is_ticked_without_scripts_and_ordered_by_transfer()
    {
        using var buyer = new Plain(site.App.Url);
        await buyer.Open("/join/keeper-month");
        await buyer.Press("Go on", ("Name", "Wilder Hock"), ("Email", "wilder.hock@post.example"));
        await buyer.Press("Pay £18.00");
        buyer.Says("tick that you agree");
        await buyer.Press("Pay £18.00", ("agreed", "true"), ("extra", "true"), ("way", "Transfer"));
        buyer.Says("It is £87.00 with what you chose");
        buyer.Says("First Winter, once");
        await buyer.Press("Order for £87.00", ("agreed", "true"));
        buyer.Says("Thank you, Wilder Hock");
        buyer.Says("To Tansy Lane, account 00000000");
        var order = await site.Db(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Email == "wilder.hock@post.example"));
        buyer.Says(CreditorReference.Show(order.Reference!));
        Assert.Equal((CheckoutState.Placed, 8700L), (order.State, order.AskedMinor!.Value));
        Assert.NotNull(order.TermsVersion);
        await buyer.Open("/me/account");
        buyer.Says("We wait for your £87.00");
        await buyer.Open($"/me/orders/{order.Id}/terms");
        buyer.Says("Within fourteen days");

        // A stranger with the address sees nothing of it.
        using var stranger = new Plain(site.App.Url);
        await stranger.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await stranger.Get($"/me/orders/{order.Id}")).StatusCode);

        using var owner = await site.Owner();
        await owner.Open("/desk/orders/bank");
        owner.Attach("list", "bank.csv", System.Text.Encoding.UTF8.GetBytes(
            $"Date,Text,Amount\r\n2026-11-23,Hock {CreditorReference.Show(order.Reference!)},87.00\r\n2026-11-23,Somebody,12.00\r\n"));
        await owner.Press("Read it");
        owner.Says("1 line of 2 pay");
        owner.Says("reference and amount are right");
        await owner.Press("The money of those marked is here");
        owner.Says("1 order paid");
        await buyer.Open("/me/account");
        buyer.Says("First Winter");
        buyer.Says("transfer, 23 Nov 2026");
        Assert.Equal(2, await site.Db(db => db.Holdings.CountAsync(h => h.MemberId == order.MemberId)));
    }

    [Fact]
    public async Task A_voucher_is_bought_printed_and_used()
    {
        var price = site.Catalogue.Now.Prices.First(p => p.AsVoucher);
        using var buyer = new Plain(site.App.Url);
        await buyer.Open($"/join/{price.Code}?gift=true");
        await buyer.Press("Go on", ("Name", "Tobias Wren"), ("Email", "tobias.wren@post.example"), ("ForName", "Aunt Lou"), ("ForWords", "For the garden"));
        buyer.Says("Aunt Lou");
        await buyer.Press("Pay £69.00", ("agreed", "true"), ("way", "Elsewhere"));
        buyer.Says("Your voucher is made as soon as the money is here");
        var order = await site.Db(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Email == "tobias.wren@post.example"));
        using var owner = await site.Owner();
        await owner.Open($"/desk/orders/{order.Id}");
        await owner.Press("The money is here");
        owner.Says("Noted");
        await buyer.Open("/me/account");
        await buyer.Open(buyer.Link("First Winter"));
        buyer.Says("For Aunt Lou, from Tobias Wren");
        buyer.Says("For the garden");
        var key = await site.Db(db => db.KeyLinks.AsNoTracking().SingleAsync(k => k.OrderId == order.Id));
        using var aunt = new Plain(site.App.Url);
        await aunt.Open($"/key/{key.Code}");
        aunt.Says("First Winter");
    }

    // Whoever pays it by card comes back to their order, signed in by that, and so to the voucher.
    [Fact]
    public async Task A_voucher_paid_by_card_leads_to_its_page()
    {
        using var till = new DemoTill(App.Tests.TestServers.Till, App.Tests.TestServers.Postbox);
        using var buyer = new Plain(site.App.Url);
        await buyer.Open($"/join/{site.Catalogue.Now.Prices.First(p => p.AsVoucher).Code}?gift=true");
        await buyer.Press("Go on", ("Name", "Tilda Marsh"), ("Email", "tilda.marsh@post.example"), ("ForName", "Uncle Hal"));
        var order = await site.Db(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Email == "tilda.marsh@post.example"));
        var back = $"/join/back?c={buyer.At.Query.Split("c=")[1]}";
        await buyer.Press("Pay £69.00", ("agreed", "true"));
        await till.Pay((await site.Db(db => db.CheckoutSessions.SingleAsync(s => s.CheckoutId == order.Id))).Session, DemoTill.Approves);
        await buyer.Open(back);
        Assert.Equal($"/me/orders/{order.Id}", buyer.At.AbsolutePath);
        await buyer.Open(buyer.Link("Your voucher"));
        buyer.Says("For Uncle Hal, from Tilda Marsh");
    }

    [Fact]
    public async Task Whoever_thinks_of_leaving_is_shown_another_way_once()
    {
        var (p, id) = await As("caspian.rudd@post.example");
        using var browser = p;
        var holding = await Held(id);
        await p.Open($"/me/leave/{holding.Id.Value}");
        p.Says("before you go");
        await p.Open($"/me/leave/{holding.Id.Value}");
        Assert.DoesNotContain("before you go", p.Text, StringComparison.Ordinal);
        p.Says("Leave Keeper?");
    }

    [Fact]
    public async Task A_coupon_is_made_typed_and_closed()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/coupons/new");
        await owner.Press("Save", ("Code", "x"), ("Off", "10"));
        owner.Says("3 to 40 letters");
        await owner.Press("Save", ("Code", "plain 20"), ("Off", "120"));
        owner.Says("from 1 to 100");
        await owner.Press("Save", ("Code", "plain 20"), ("Off", "20"), ("Until", "2026-12-24"));
        owner.Says("PLAIN20");
        owner.Says("20 % off the first payment");

        using var buyer = new Plain(site.App.Url);
        await buyer.Open("/join/keeper-month");
        await buyer.Press("Go on", ("Name", "Wenna Tarrow"), ("Email", "wenna.tarrow@post.example"));
        buyer.Says("£18.00");
        await buyer.Press("Use it", ("Coupon", "plain21"));
        buyer.Says("no coupon of that name");
        await buyer.Press("Use it", ("Coupon", " Plain 20 "));
        buyer.Says("Coupon PLAIN20");
        buyer.Says("Pay £14.40");

        await owner.Press("Close it");
        owner.Says("Nobody new can use it");
        await buyer.Press("Use it", ("Coupon", "plain20"));
        buyer.Says("isn’t valid any more");
    }

    [Fact]
    public async Task A_link_brings_its_coupon_along()
    {
        using var buyer = new Plain(site.App.Url);
        await buyer.Open("/join/keeper-month?coupon=heather");
        await buyer.Press("Go on", ("Name", "Tegen Marrack"), ("Email", "tegen.marrack@post.example"));
        buyer.Says("Coupon HEATHER");
        buyer.Says("£16.20");
        buyer.Says("saves £36.00");
    }

    [Fact]
    public async Task A_price_gets_another_amount_words_and_those_it_is_for()
    {
        using var owner = await site.Owner();
        var pass = site.Catalogue.Now.Plans.Single(p => p.Name == "A look in");
        var price = site.Catalogue.Now.PricesOf(pass.Id).Single();
        await owner.Open($"/desk/tiers/{pass.Id.Value}/price?of={price.Id.Value}");
        await owner.Press("Save this price", ("Amount", "24.00"));
        owner.Says("costs what the old one does");
        await owner.Press("Save this price", ("Amount", "28.00"), ("HasSale", "true"), ("SaleAmount", "30"), ("SaleUntil", "2026-12-01"));
        owner.Says("less than usual");
        await owner.Press("Save this price", ("SaleAmount", "21"));
        owner.Says("at the same link");
        var made = site.Catalogue.Now.PricesOf(pass.Id).Single(p => p.Id != price.Id);
        Assert.Equal(price.Code, made.Code);
        using var visitor = new Plain(site.App.Url);
        await visitor.Open($"/tiers/{pass.Id.Value}");
        visitor.Says("£21");
        visitor.Says("usually £28.00");
        await owner.Open($"/desk/prices/{made.Id.Value}");
        await owner.Press("Save", ("Code", "keeper-month"));
        owner.Says("Another price has this link");
        await owner.Press("Save", ("Code", "look-in"), ("Text", "For a friend."), ("Buyers", "Holders"));
        owner.Says("Of which plan?");
        await owner.Press("Save", ("Buyers", "Newcomers"));
        owner.Says("The price is saved");
        await visitor.Open($"/tiers/{pass.Id.Value}");
        visitor.Says("For a friend.");
        await visitor.Open("/join/look-in");
        visitor.Says("£28.00");
    }

    [Fact]
    public async Task What_runs_and_what_was_sold_is_counted()
    {
        using var owner = await site.Owner();
        var held = await site.Db(db => db.Holdings.AsNoTracking().Where(h => !h.IsOver && h.Source == HoldingSource.Bought).ToListAsync());
        await owner.Open("/desk/subscriptions?how=Instalments");
        owner.Says($"in instalments ({held.Count(h => h.Agreement.IsInstalments)})");
        owner.Says($"again and again ({held.Count(h => h.Agreement.Renews)})");
        var calendar = site.Catalogue.Now.Calendar;
        var (from, to) = (calendar.At(new(2026, 10, 1, 0, 0)), calendar.At(new(2026, 11, 1, 0, 0)));
        var october = await site.Db(db => db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved && p.At >= from && p.At < to).Select(p => p.Amount.Minor)
            .ToListAsync());
        await owner.Open("/desk/sales?from=2026-10-01&to=2026-10-31");
        owner.Says($"{new Money(october.Sum(), new("GBP")).Format(site.Catalogue.Now.Culture)} in {october.Count} payments");
        await owner.Open("/desk/sales?from=nonsense&to=2026-02-31");
        owner.Says("received");
        var winter = site.Catalogue.Now.Plans.Single(p => p.Name == "First Winter").Id;
        await owner.Open("/desk/payments?plan=" + winter.Value);
        owner.Says($"{await site.Db(db => db.Payments.CountAsync(p => db.Prices.Any(x => x.Id == p.PriceId && x.PlanId == winter)))} payments");
    }
}
