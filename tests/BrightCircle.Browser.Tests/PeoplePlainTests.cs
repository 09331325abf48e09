using BrightCircle.App.Demo;
using BrightCircle.App.Members;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>The people of the demo, and what they are told apart by, without scripts.</summary>
[Collection("demo")]
public class PeoplePlainTests(DemoSite site)
{
    [Fact]
    public async Task An_audience_is_put_together_line_by_line_compared_and_taken_away()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/audiences");
        owner.Says("Haven’t opened November yet");
        await owner.Open(owner.Link("New audience"));
        // What isn't clear yet is marked at its line, and nothing typed is lost.
        await owner.Press("Add a line", ("Name", "Apiary folk"));
        await owner.Press("Save", ("Name", "Apiary folk"), ("Lines[1].Kind", "tag"));
        owner.Says("Choose a tag.");
        Assert.Equal("Apiary folk", owner.Page.QuerySelector("#Name")!.GetAttribute("value"));
        var apiary = site.App.Services.GetRequiredService<App.Catalogues.Catalogue>().Now.Plans.Single(p => p.Name == "Apiary").Id.Value;
        await owner.Press("Save", ("Name", "Apiary folk"), ("Lines[1].Kind", "holds"), ("Lines[1].Plans", $"{apiary}"));
        owner.Says("Apiary folk is saved.");
        owner.Says("is on trial or active, and holds Apiary");
        var kept = await site.Db(db => db.Audiences.SingleAsync(a => a.Name == "Apiary folk"));
        Assert.Equal([typeof(Condition.InStanding), typeof(Condition.Holds)], ((Condition.AllOf)kept.Condition).Of.Select(c => c.GetType()));
        var (expected, other) = await site.Db(async db => (await db.Members.CountAsync(m => (m.Standing == Standing.Active || m.Standing == Standing.Trial)
            && db.Holdings.Any(h => h.MemberId == m.Id && h.PlanId == new PlanId(apiary) && !h.IsOver)), (await db.Audiences.SingleAsync(a => a.Name ==
            "Current members")).Id));
        owner.Says($"{expected} people just now");
        // As the list of members: as many rows.
        await owner.Open($"/desk/members?audience={kept.Id.Value}");
        owner.Says($"{expected} people in this list");
        var csv = await (await owner.Get(owner.Link("CSV"))).Content.ReadAsStringAsync();
        Assert.Equal(expected + 1, csv.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
        await owner.Open($"/desk/audiences/{kept.Id.Value}?with={other.Value}");
        owner.Says("only in Current members");
        // The same name twice is refused, and a name alone isn't enough.
        await owner.Open("/desk/audiences/new");
        await owner.Press("Save", ("Name", "Apiary folk"));
        owner.Says("There is an audience called Apiary folk already.");
        await owner.Press("Save", ("Name", ""));
        owner.Says("An audience needs a name");
        await owner.Open($"/desk/audiences/{kept.Id.Value}");
        await owner.Press("Take the audience away");
        owner.Says("Apiary folk is taken away.");
        await owner.Open($"/desk/members?audience={kept.Id.Value}");
        owner.Says("0 people in this list");
        Assert.Equal(404, (int)(await owner.Get($"/desk/audiences/{kept.Id.Value}")).StatusCode);
    }

    [Fact]
    public async Task Groups_stand_in_groups_four_deep_and_no_deeper()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/audiences/new");
        await owner.Press("Take line 1 away");
        owner.Says("No line yet: that is everybody.");
        await owner.Press("Add a group");
        for (var deep = 2; deep <= 4; deep++)
        {
            await owner.Press($"Add a line to it, the group in line {deep - 1}");
            if (deep < 4) await owner.Press("Who fits?", ($"Lines[{deep - 1}].Kind", "group"));
        }
        Assert.Equal([1, 2, 3, 4], owner.Page.QuerySelectorAll("input[name$=Depth]").Select(i => int.Parse(i.GetAttribute("value")!, null)));
        // The deepest is a line, even if it is sent as a group.
        await owner.Press("Save", ("Name", "Too deep"), ("Lines[3].Kind", "group"));
        owner.Says("Something in the lines isn’t clear yet");
        Assert.Empty(await site.Db(db => db.Audiences.Where(a => a.Name == "Too deep").ToListAsync()));
    }

    [Fact]
    public async Task A_member_is_tagged_noted_and_asked_about_themselves()
    {
        using var owner = await site.Owner();
        var member = await site.Db(db => db.Members.OrderBy(m => m.Id).LastAsync(m => m.Standing == Standing.Active
            && !db.OwnFieldValues.Any(v => v.MemberId == m.Id)
            && !db.MemberTags.Any(t => t.MemberId == m.Id)));
        var page = $"/desk/members/{member.Id.Value}";
        await owner.Open(page);
        await owner.Press("Put on", ("tags", "Mentor, brings cake"));
        owner.Says("It is put on.");
        Assert.Equal(["brings cake", "mentor"], (await site.Db(db => db.MemberTags.Where(t => t.MemberId == member.Id).Join(db.Tags, t => t.TagId, t => t.Id,
            (_, t) => t.Name).ToListAsync())).Order());
        owner.Says("bears the tag brings cake, by Ines Maren");
        await owner.Press("Put on", ("tags", "at it every week"));
        owner.Says("follows a condition");
        await owner.Press("Take brings cake off");
        owner.Says("bears the tag brings cake no more");
        await owner.Press("Note it", ("note", "Asked about a second hive."));
        owner.Says("Asked about a second hive.");
        await owner.Press("Take this note away");
        owner.Says("The note is taken away.");
        Assert.DoesNotContain("Asked about a second hive.", owner.Text, StringComparison.Ordinal);
        await owner.Open(page + "/fields");
        var hives = await site.Db(db => db.OwnFields.SingleAsync(f => f.Name == "How many hives"));
        await owner.Press("Save", ($"own-{hives.Id.Value}", "many"));
        owner.Says("How many hives is a number");
        await owner.Press("Save", ($"own-{hives.Id.Value}", "7.5"));
        owner.Says("It is written down.");
        owner.Says("7.5");
        // It bears the tag that follows the field, by itself.
        Assert.Contains(owner.Page.QuerySelectorAll("a.tag-mark"), a => a.TextContent == "many hives");

        // A tag on a list: the effect first, then so many.
        var query = $"?q={Uri.EscapeDataString(member.Email)}";
        await owner.Open("/desk/members/tag" + query);
        owner.Says("1 person gets it");
        var swarm = await site.Db(db => db.Tags.SingleAsync(t => t.Name == "swarm list"));
        await owner.Press("Do it", ("tag", $"{swarm.Id.Value}"), ("off", "false"));
        owner.Says("swarm list is put on 1 person.");
        await owner.Open("/desk/members/tag" + query);
        await owner.Press("Do it", ("tag", $"{swarm.Id.Value}"), ("off", "false"));
        owner.Says("swarm list is put on 0 people.");
        await owner.Open($"/desk/members?tag={swarm.Id.Value}&q={Uri.EscapeDataString(member.Email)}");
        owner.Says("1 person in this list");
        await owner.Open("/desk/members/tag" + query);
        await owner.Press("Do it", ("tag", $"{swarm.Id.Value}"), ("off", "true"));
        owner.Says("swarm list is taken off 1 person.");
    }

    // What the owner does twice a week: the last one copied, changed, looked at, sent; and what a reader can do about it.
    [Fact]
    public async Task A_letter_to_many_is_copied_changed_sent_and_had_fewer_of()
    {
        using var owner = await site.Owner();
        var member = await site.Db(db => db.Members.OrderBy(m => m.Id).FirstAsync(m => m.Standing == Standing.Active && m.WantsNews && m.Email.StartsWith("a")
            && !db.Letters.Any(l => l.MemberId == m.Id && l.State == LetterState.Refused)));
        await owner.Open("/desk/audiences/new");
        await owner.Press("Save", ("Name", "One reader"), ("Lines[0].Kind", "name"), ("Lines[0].Text", member.Email));
        var audience = await site.Db(db => db.Audiences.SingleAsync(a => a.Name == "One reader"));
        await owner.Open("/desk/mailings");
        owner.Says("Before the frost on Friday");
        owner.Says("planned");
        // The next free place of the strip: it begins as the last one of its series was.
        await owner.Press("Write “step by step” for the week of");
        owner.Says("step by step");
        Assert.Equal("Before the frost on Friday", owner.Page.QuerySelector("#Subject")!.GetAttribute("value"));
        var at = owner.At.AbsolutePath;
        await owner.Press("Save", ("Subject", "Mice, and what to do"), ("Audience", $"{audience.Id.Value}"), ("Body", "<div>Dear {{ surname }}</div>"));
        owner.Says("There is no field “surname”");
        Assert.Contains("{{ surname }}", owner.Page.QuerySelector("#Body")!.TextContent, StringComparison.Ordinal);
        await owner.Press("Save", ("Subject", "Mice, and what to do"), ("Audience", $"{audience.Id.Value}"), ("Body",
            "<div>Dear {{ first_name }}, look under the floor.</div>"));
        owner.Says("It is saved.");
        owner.Says("1 person gets it.");
        owner.Says($"As {member.Name} gets it");
        owner.Says($"Dear {member.FirstName}, look under the floor.");
        var frame = await (await owner.Get(at + "/as")).Content.ReadAsStringAsync();
        Assert.Contains("look under the floor", frame, StringComparison.Ordinal);
        await owner.Press("Send it", ("when", "site"), ("SendAt", "2026-11-01T09:00"));
        owner.Says("That moment has passed.");
        await owner.Press("Send it", ("when", "site"), ("SendAt", "2026-12-24T09:00"));
        owner.Says("It is planned.");
        owner.Says("Thursday, 24 December, 09:00");
        await owner.Press("Take it back to a draft");
        await owner.Press("Send it", ("when", "now"));
        owner.Says("It is on its way.");
        // At the reader's: one click for this series, and no other.
        var letter = await SiteSteps.Letter(member.Email, "Mice, and what to do");
        await owner.Open(at);
        owner.Says("1 reader");
        var fewer = SiteSteps.LinkIn(letter, "/no-more/");
        using var reader = new Plain(site.App.Url);
        await reader.Open(fewer);
        reader.Says("No more letters “step by step”?");
        await reader.Press("No more letters “step by step”");
        reader.Says("You won’t get letters “step by step”");
        Assert.True(await site.Db(db => db.Members.Where(m => m.Id == member.Id).Select(m => m.WantsNews).SingleAsync()));
        await owner.Open(at);
        owner.Says("asked for no more of the series");
        await owner.Press("Copy");
        owner.Says("Mice, and what to do");
        var copy = owner.At.AbsolutePath;
        await reader.Open(fewer);
        await reader.Press("None of the letters to all");
        Assert.False(await site.Db(db => db.Members.Where(m => m.Id == member.Id).Select(m => m.WantsNews).SingleAsync()));
        await owner.Open(copy + "?look=true");
        owner.Says("1 asked for no letters to many");
        await owner.Press("Throw this draft away");
        owner.Says("The draft is thrown away.");
    }

    [Fact]
    public async Task A_tag_and_a_field_are_made_used_and_only_taken_away_when_nothing_rests_on_them()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/fields/new");
        await owner.Press("Save", ("Name", "Shoe size"), ("Kind", "Choice"), ("Choices", "one"));
        owner.Says("two at least");
        await owner.Press("Save", ("Name", "Shoe size"), ("Kind", "Choice"), ("Choices", "small\nlarge\nsmall"), ("ByMembers", "true"));
        owner.Says("Shoe size is saved.");
        var field = await site.Db(db => db.OwnFields.SingleAsync(f => f.Name == "Shoe size"));
        Assert.Equal(["small", "large"], field.Choices);
        await owner.Open("/desk/tags/new");
        await owner.Press("Save", ("Name", "big, feet"));
        owner.Says("no comma");
        await owner.Press("Save", ("Name", "big feet"), ("ByItself", "true"), ("Lines[0].Kind", "field"), ("Lines[0].Field", $"{field.Id.Value}"),
            ("Lines[0].Test", "is"), ("Lines[0].Text", "large"));
        owner.Says("big feet is saved.");
        var tag = await site.Db(db => db.Tags.SingleAsync(t => t.Name == "big feet"));
        await owner.Open($"/desk/fields/{field.Id.Value}");
        await owner.Press("Take the field away");
        owner.Says("The tag big feet rests on this field");

        // Members see it in their account, and nothing but what is theirs.
        using var member = new Plain(site.App.Url);
        await member.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        await member.Open("/me/account");
        await member.Open(member.Link("See and change"));
        member.Says("Shoe size");
        await member.Press("Save", ($"own-{field.Id.Value}", "Large"));
        member.Says("Thank you, it’s written down.");
        var mirela = await site.Db(db => db.Members.SingleAsync(m => m.Email == SeedDemo.MemberEmail));
        Assert.Equal("large", (await site.Db(db => db.OwnFieldValues.SingleAsync(v => v.FieldId == field.Id && v.MemberId == mirela.Id))).Text);
        await owner.Open($"/desk/members/{mirela.Id.Value}");
        owner.Says("big feet");
        Assert.Equal(0, await site.Db(db => db.MemberTags.CountAsync(t => t.TagId == tag.Id)));
        Assert.NotEqual(default, await site.Db(db => db.LastSeen.Where(s => s.MemberId == mirela.Id).Select(s => s.At).SingleAsync()));

        await owner.Open($"/desk/tags/{tag.Id.Value}");
        await owner.Press("Take the tag away");
        owner.Says("big feet is taken away.");
        await owner.Open($"/desk/fields/{field.Id.Value}");
        await owner.Press("Take the field away");
        owner.Says("Shoe size is taken away.");
        Assert.Equal(0, await site.Db(db => db.OwnFieldValues.CountAsync(v => v.FieldId == field.Id)));
    }

    [Fact]
    public async Task Somebody_who_joined_twice_is_made_one_and_says_how_else_they_are_reached()
    {
        var name = $"Orla Pym {Guid.NewGuid().ToString("N")[..6]}";
        var (page, email) = await site.Newcomer(name);
        using var member = page;
        await member.Open("/me/about");
        await member.Press("Save how else we reach you", ("Phone", "ring me"), ("PostalAddress", "1 Upper Dell"));
        member.Says("A phone number has");
        Assert.Equal("1 Upper Dell", member.Page.QuerySelector("#PostalAddress")!.TextContent);
        await member.Press("Save how else we reach you", ("Phone", "01632 960123"), ("Reads", "cy"));
        member.Says("written down");
        using var owner = await site.Owner();
        var other = House.NewAddress();
        await owner.Open("/desk/members/add");
        await owner.Press("Add", ("Name", name), ("Email", other));
        var (id, gone) = await site.Db(async db => ((await db.Members.SingleAsync(m => m.Email == email)).Id.Value,
            (await db.Members.SingleAsync(m => m.Email == other)).Id.Value));
        await owner.Open($"/desk/members/{id}");
        owner.Says("01632 960123");
        owner.Says("Welsh");
        await owner.Open(owner.Link("Put it right"));
        await owner.Press("Save", ("Phone", "01632 960124"), ("Zone", "Europe/Lisbon"));
        owner.Says("01632 960124");
        owner.Says("Europe/Lisbon");
        await owner.Open($"/desk/members/{id}/edit");
        await owner.Open(owner.Link("Make two accounts one"));
        await owner.Open(owner.Link(other));
        await owner.Press("Make them one", ("Typed", email));
        owner.Says($"Type the address that goes, {other}");
        await owner.Press("Make them one", ("Typed", other));
        owner.Says("They are one now");
        owner.Says($"had another account, {other}");
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await owner.Get($"/desk/members/{gone}")).StatusCode);
        // A member's page has what they ordered, how far they are and what they asked.
        await owner.Open($"/desk/members/{id}");
        owner.Says("Orders 1");
        var asker = await site.Db(async db =>
        {
            var asked = await db.LessonQuestions.Where(q => q.AnswersId == null && !q.ByTeam).Select(q => q.AccountId).ToListAsync();
            var opened = await db.Openings.Select(o => o.MemberId).Distinct().ToListAsync();
            return asked.First(a => opened.Contains(new(a)));
        });
        await owner.Open($"/desk/members/{asker}");
        owner.Says("How far they are");
        owner.Says("Questions ");
        // What both hold keeps them apart, and a stranger's name is nobody's.
        var (again, second) = await site.Newcomer("Orla Pym");
        using var _ = again;
        var twin = await site.Db(async db => (await db.Members.SingleAsync(m => m.Email == second)).Id.Value);
        await owner.Open($"/desk/members/{id}/merge?goes={twin}");
        owner.Says("Both hold Meadow");
        Assert.DoesNotContain("Make them one", owner.Text, StringComparison.Ordinal);
        await owner.Open($"/desk/members/{id}/merge?q=nobody-at-all");
        owner.Says("Nobody is found by that");
    }

    [Fact]
    public async Task Whoever_begins_to_join_says_whether_they_may_be_reminded()
    {
        var price = site.Catalogue.Now.Prices.First(p => p.Name == "Monthly" || p.Terms is Core.Offer.PriceTerms.Recurring);
        foreach (var may in new[] { true, false })
        {
            using var p = new Plain(site.App.Url);
            var email = House.NewAddress();
            await p.Open($"/join/{price.Code}");
            p.Says("You may remind me by one letter");
            if (may) await p.Press("Go on", ("Name", "Orla Pym"), ("Email", email), ("MayRemind", "true"));
            else await p.Press("Go on", ("Name", "Orla Pym"), ("Email", email));
            Assert.Equal(may, await site.Db(db => db.Checkouts.Where(c => c.Email == email).Select(c => c.MayRemind).SingleAsync()));
        }
        using var owner = await site.Owner();
        // The order says whether they are, and the Desk is found by what one would look for.
        foreach (var (name, says) in new[] { ("Rosalind Tarn", "They were reminded by a letter"), ("Orla Pym", "reminded") })
        {
            var order = await site.Db(db => db.Checkouts.Where(c => c.Name == name && c.State == CheckoutState.Open).OrderBy(c => c.Id).Select(c => c.Id)
                .FirstAsync());
            await owner.Open($"/desk/orders/{order}");
            owner.Says(says);
        }
        await owner.Open("/desk/find?q=half-way");
        owner.Says("First steps");
        await owner.Open("/desk/find?q=merge");
        owner.Says("Members");
        Assert.DoesNotContain("Nothing found", owner.Text, StringComparison.Ordinal);
        await owner.Open("/desk/settings/welcome");
        Assert.NotNull(owner.Page.QuerySelector("input[name=HalfWay][checked]"));
        await owner.Open(owner.Link("Half-way"));
        owner.Says("goes away while joining");
    }
}
