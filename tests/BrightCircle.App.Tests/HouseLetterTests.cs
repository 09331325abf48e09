using System.Text.RegularExpressions;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>The house’s own letters in the owner’s words: what can be written, whom it reaches, and that what went out stays what it was.</summary>
public class HouseLetterTests
{
    static HouseLetter Of(LetterKind kind) => HouseLetters.Of(kind)!;
    static Task<Result> Save(House house, LetterKind kind, string subject, string body, PlanId? plan = null, int basedOn = 0) =>
        house.Get<ChangeLetter, Result>(s => s.Save(house.Owner, Of(kind), plan, new(subject, "", body, basedOn), default));

    [Fact]
    public void Every_kind_of_letter_can_be_changed_but_those_the_team_writes_or_gets() =>
        Assert.Equal([LetterKind.OwnerNews, LetterKind.Many], Enum.GetValues<LetterKind>().Where(k => HouseLetters.Of(k) is null));

    /// <summary>What the editor opens with says word for word what goes out as it came with the house, for the facts of a sample.</summary>
    [Fact]
    public async Task Each_letter_can_be_saved_as_it_came_and_then_says_the_same()
    {
        await using var house = await House.Open();
        static string Words(string text) => Regex.Replace(text.Replace("- ", "", StringComparison.Ordinal), @"[\s\\>]+", " ").Trim();
        static string Body(string text) => Words(text.Split("Stuck, or just wondering?")[0]);
        foreach (var of in HouseLetters.All)
        {
            var read = await house.Get<ChangeLetter, Result<LetterText>>(s => Task.FromResult(s.Read(of, null, s.Open(of, null, 0))));
            Assert.True(read.Ok, $"{of.Kind}: {read.Refusal}");
            var sample = HouseLetters.Sample(of, null, "Una Voss", "una@post.example", house.Catalogue.Now, house.Clock.Moment);
            foreach (var variant in Variants(sample))
            {
                var (came, own) = await house.Get<LetterModels, (RenderedLetter, RenderedLetter)>(m =>
                    Task.FromResult((m.Render(variant, null, false), m.Render(variant, read.Value, false))));
                Assert.Equal((came.Subject, Body(came.Text)), (own.Subject, Body(own.Text)));
                Assert.DoesNotContain("{{", own.Html, StringComparison.Ordinal);
                foreach (var html in new[] { came.Html, own.Html })
                    Assert.EndsWith("font-size:16px;line-height:1.55", new AngleSharp.Html.Parser.HtmlParser().ParseDocument(html).Body!.GetAttribute("style"),
                        StringComparison.Ordinal);
                Assert.DoesNotContain("href=\"#", own.Html, StringComparison.Ordinal);
                Assert.DoesNotContain("href=\"\"", own.Html, StringComparison.Ordinal);
                Assert.Contains($"You get this because {of.Why}.", own.Text, StringComparison.Ordinal);
                Assert.Contains($"You get this because {of.Why}.", came.Text, StringComparison.Ordinal);
            }
        }
    }

    /// <summary>What the text editor makes of the letter as it came, read in a browser: ends of lines within links and bold words, bold within links.</summary>
    [Fact]
    public async Task What_the_text_editor_makes_of_a_letter_reads_as_it_came()
    {
        await using var house = await House.Open();
        var welcome = HouseLetters.Of(LetterKind.Welcome)!;
        const string edited = "<div>Hello {{ first_name }},<br><br></div><div>{{ what_happened }}<br><br></div><div><a href=\"#personal_link\">"
            + "<strong>Come in and start reading<br></strong></a><br></div><div>Lives <em><strong>here<br></strong></em>"
            + "and there: <a href=\"#phone_link\">how it goes there<br></a><br></div><div>1 Lane<br>2 Road</div>"
            + "<div>{{ open_now }} {{ opens_next }}<br><br></div>";
        var read = await house.Get<ChangeLetter, Result<LetterText>>(s => Task.FromResult(s.Read(welcome, null, new("Welcome", "", edited, 0))));
        Assert.True(read.Ok, read.Refusal);
        Assert.Contains("<div><strong><a href=\"#personal_link\">Come in and start reading</a></strong></div>", read.Value!.Body, StringComparison.Ordinal);
        Assert.Contains("<div>Lives <em><strong>here</strong></em><br>and there: <a href=\"#phone_link\">how it goes there</a></div>", read.Value.Body,
            StringComparison.Ordinal);
        // Read again it stays as it is.
        var again = await house.Get<ChangeLetter, Result<LetterText>>(s => Task.FromResult(s.Read(welcome, null, new("Welcome", "", read.Value.Body, 0))));
        Assert.Equal(read.Value.Body, again.Value!.Body);
        var sample = HouseLetters.Sample(welcome, null, "Una Voss", "una@post.example", house.Catalogue.Now, house.Clock.Moment);
        var html = (await house.Get<LetterModels, RenderedLetter>(m => Task.FromResult(m.Render(sample, read.Value, false)))).Html;
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(html);
        // The way in is a button, and paragraphs are paragraphs, whose lines stay together.
        Assert.Contains("background", page.QuerySelectorAll("a").Single(a => a.TextContent == "Come in and start reading").GetAttribute("style"),
            StringComparison.Ordinal);
        Assert.Single(page.QuerySelectorAll("p"), p => p.TextContent == "Hello Una,");
        Assert.Single(page.QuerySelectorAll("p"), p => p.InnerHtml == "1 Lane<br>2 Road");
    }

    /// <summary>The sample, and the same with each of its facts once empty and once said where the sample has none.</summary>
    static IEnumerable<Letter> Variants(Letter sample)
    {
        yield return sample;
        foreach (var (key, value) in sample.Fields.Where(f =>
            f.Key is "gift_from" or "bought" or "current" or "opens_next" or "credit" or "left" or "at" or "passed"
            or "called_off" or "reference" or "open" or "confirm" or "retry" or "ended" or "for" or "words" or "next" or "keep" or "reason" or "opening"))
            yield return new Letter
            {
                Kind = sample.Kind,
                ToName = sample.ToName,
                ToAddress = sample.ToAddress,
                SignInLinkId = sample.SignInLinkId,
                Fields = new(sample.Fields) { [key] = key == "reason" ? "lapsed" : value.Length > 0 ? "" : "twelve * of_them" },
            };
    }

    [Theory]
    [InlineData("Hello {{ firstname }}", "<div><strong><a href=\"#personal_link\">In</a></strong></div>", "There is no field “firstname”")]
    [InlineData("Hello", "<div>{{ amount }} <a href=\"#personal_link\">In</a></div>", "There is no field “amount”")]
    [InlineData("Hello", "<div>Two { { braces }} <a href=\"#personal_link\">In</a></div>", "can’t be read")]
    [InlineData("Hello", "<div>{% if plan %} <a href=\"#personal_link\">In</a></div>", "can’t be read")]
    [InlineData("", "<div><a href=\"#personal_link\">In</a></div>", "needs a subject")]
    [InlineData("Hello", "<div><br></div>", "nothing in the letter")]
    [InlineData("Hello", "<div>Come to <a href=\"#account_link\">us</a> or <a href=\"#personal_link\">in</a></div>", "No link leads to “#account_link”")]
    [InlineData("Hello", "<div>Come in by yourself.</div>", "Without the link to “#personal_link”")]
    public async Task What_would_go_wrong_later_is_said_at_once(string subject, string body, string why)
    {
        await using var house = await House.Open();
        Assert.Contains(why, (await Save(house, LetterKind.Welcome, subject, body)).Refusal, StringComparison.Ordinal);
        Assert.Equal(0, await house.Ask(db => db.LetterTexts.CountAsync()));
    }

    [Fact]
    public async Task A_list_stands_on_a_line_of_its_own_and_gets_one_where_it_was_typed_below_something()
    {
        await using var house = await House.Open();
        Assert.Contains("on a line of its own", (await Save(house, LetterKind.Edition, "News", "<div>Look: {{ list }}</div>")).Refusal,
            StringComparison.Ordinal);
        Assert.Contains("on a line of its own", (await Save(house, LetterKind.Edition, "{{ list }}", "<div>Look</div>")).Refusal, StringComparison.Ordinal);
        Assert.True((await Save(house, LetterKind.Edition, "News", "<div>Look:<br>{{ list }}<br><br>Come<br>soon.</div>")).Ok);
        Assert.Equal("<div>Look:</div><div>{{ list }}</div><div>Come<br>soon.</div>",
            (await house.Ask(db => db.LetterTexts.SingleAsync())).Body);
    }

    [Fact]
    public async Task The_next_letter_has_the_new_words_and_one_that_went_out_keeps_the_old()
    {
        await using var house = await House.Open();
        string email = House.NewAddress(), second = House.NewAddress(), third = House.NewAddress();
        await house.Join(house.Free, email: email);
        await house.Deliver();
        const string body = "<div>Dear {{ first_name }},</div><div>{{ open_now }}</div><div>{{ what_happened }} Look about.</div>"
            + "<div><strong><a href=\"#personal_link\">Begin</a></strong></div>";
        Assert.True((await Save(house, LetterKind.Welcome, "So good, {{ first_name }}!", body)).Ok);
        await house.Join(house.Free, email: second);
        await house.Deliver();
        var sent = await House.Letter(second, "So good,");
        var html = sent.GetProperty("html").GetString()!;
        Assert.Matches("<a style=\"[^\"]+\" href=\"http[^\"]+/in/[^\"]+\">Begin</a>", html);
        Assert.Contains("Look about.", html, StringComparison.Ordinal);
        Assert.DoesNotContain("<div></div>", html, StringComparison.Ordinal);
        // The first one reads as it did when it went out, and the second one too, whatever is changed later.
        Assert.True((await Save(house, LetterKind.Welcome, "Later", body.Replace("Look about", "Sit down", StringComparison.Ordinal), basedOn: 1)).Ok);
        async Task<string> AsSent(string to)
        {
            var letter = await house.Ask(db => db.Letters.AsNoTracking().SingleAsync(l => l.ToAddress == to && l.Kind == LetterKind.Welcome));
            return (await house.Get<LetterAsSent, RenderedLetter>(s => s.Of(letter, default))).Text;
        }
        Assert.Contains("Come in and start reading", await AsSent(email), StringComparison.Ordinal);
        Assert.Contains("Look about.", await AsSent(second), StringComparison.Ordinal);
        Assert.DoesNotContain("/in/" + html.Split("/in/")[1].Split('"')[0], await AsSent(second), StringComparison.Ordinal);
        // What waits in the outbox goes with the words of the moment it goes out.
        await house.Join(house.Free, email: third);
        Assert.Contains("Sit down.", await AsSent(third), StringComparison.Ordinal);
        Assert.True((await house.Get<ChangeLetter, Result>(s => s.Restore(house.Owner, Of(LetterKind.Welcome), null, 2, default))).Ok);
        await house.Deliver();
        Assert.Contains("Come in and start reading", await AsSent(third), StringComparison.Ordinal);
        Assert.True((await house.Get<ChangeLetter, Result>(s => s.Take(house.Owner, Of(LetterKind.Welcome), null, 1, 3, default))).Ok);
        Assert.Equal("So good, {{ first_name }}!", house.Catalogue.Now.People.TextFor(LetterKind.Welcome, null)!.Subject);
    }

    [Fact]
    public async Task A_plan_has_words_of_its_own_until_they_are_taken_back()
    {
        await using var house = await House.Open();
        var (one, other) = (house.Keeper, new PlanId(-1));
        const string link = "<div><strong><a href=\"#personal_link\">Begin</a></strong></div>";
        Assert.True((await Save(house, LetterKind.Welcome, "For all", link)).Ok);
        Assert.True((await Save(house, LetterKind.Welcome, "For one", link, one)).Ok);
        string? Reads(PlanId? plan) => house.Catalogue.Now.People.TextFor(LetterKind.Welcome, plan)?.Subject;
        Assert.Equal(("For one", "For all", "For all"), (Reads(one), Reads(other), Reads(null)));
        Assert.True((await house.Get<ChangeLetter, Result>(s => s.Restore(house.Owner, Of(LetterKind.Welcome), one, 1, default))).Ok);
        Assert.Equal(("For all", "For all"), (Reads(one), Reads(other)));
        Assert.True((await house.Get<ChangeLetter, Result>(s => s.Restore(house.Owner, Of(LetterKind.Welcome), null, 1, default))).Ok);
        Assert.Null(Reads(other));
        // A letter about no plan has none.
        Assert.False((await Save(house, LetterKind.SignIn, "In", link, one)).Ok);
    }

    [Fact]
    public async Task Of_two_who_change_one_letter_at_once_the_later_is_told_and_loses_nothing()
    {
        await using var house = await House.Open();
        const string link = "<div><strong><a href=\"#personal_link\">Begin</a></strong></div>";
        var both = await Task.WhenAll(Save(house, LetterKind.Welcome, "A", link), Save(house, LetterKind.Welcome, "B", link));
        var told = Assert.Single(both, r => !r.Ok);
        Assert.Equal("Overtaken", told.Field);
        Assert.Equal(1, await house.Ask(db => db.LetterTexts.CountAsync()));
        Assert.Equal("Overtaken", (await Save(house, LetterKind.Welcome, "C", link, basedOn: 2)).Field);
        Assert.Equal("Overtaken", (await Save(house, LetterKind.Welcome, "C", link, basedOn: 0)).Field);
        var helper = house.Owner with { Role = TeamRole.Support };
        await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<ChangeLetter, Result>(s =>
            s.Save(helper, Of(LetterKind.Welcome), null, new("A", "", link, 1), default)));
    }

    /// <summary>What somebody is called or writes is never a field, a link or a mark.</summary>
    [Fact]
    public async Task What_members_wrote_stays_what_they_wrote()
    {
        await using var house = await House.Open();
        var read = await house.Get<ChangeLetter, Result<LetterText>>(s => Task.FromResult(s.Read(Of(LetterKind.Answered), null, new("{{ lesson }}", "",
            "<div>{{ question }}</div><div><a href=\"#lesson_link\">There</a></div>", 0))));
        var letter = HouseLetters.Sample(Of(LetterKind.Answered), null, "Una", "una@post.example", house.Catalogue.Now, house.Clock.Moment);
        letter.Fields["question"] = "<b>Bold</b> {{ answer }}\n[click](http://bad.example) & **so**";
        var own = await house.Get<LetterModels, RenderedLetter>(m => Task.FromResult(m.Render(letter, read.Value, false)));
        Assert.Contains("&lt;b&gt;Bold&lt;/b&gt; {{ answer }}<br>[click](http://bad.example) &amp; **so**", own.Html, StringComparison.Ordinal);
        Assert.DoesNotContain("href=\"http://bad.example\"", own.Html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_copy_of_a_letter_to_many_goes_again_in_its_own_words()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        var audience = (await house.Get<App.Members.Audiences, Result<AudienceId>>(s => s.Save(house.Owner, null, "All",
            new Core.Members.Condition.Named("post.example"), default))).Value;
        var id = (await house.Get<Mailings, Result<long>>(s => s.New(house.Owner, null, null, null, default))).Value;
        Assert.True((await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, id, new("Once more", "", "<div>So it is.</div>", audience, false, null, 1),
            default))).Ok);
        Assert.True((await house.Get<SendMailing, Result>(s => s.Do(house.Owner, id, null, false, default))).Ok);
        await house.Services.GetRequiredService<Due.RunDue>().Run();
        var copy = await house.Ask(async db =>
        {
            await db.Letters.Where(l => l.MailingId == id).ExecuteUpdateAsync(u => u.SetProperty(l => l.State, LetterState.Refused));
            return await db.Letters.SingleAsync(l => l.MailingId == id && l.MemberId == member);
        });
        var again = await house.Get<SendLetterAgain, Result<long>>(s => s.Do(house.Owner, copy.Id, default));
        await house.Deliver();
        Assert.Equal((LetterState.Sent, "Once more"), await house.Ask(async db =>
        {
            var l = await db.Letters.SingleAsync(x => x.Id == again.Value);
            return (l.State, l.Subject!);
        }));
    }
}
