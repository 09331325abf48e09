using System.Text.RegularExpressions;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace BrightCircle.Web.Parts;

/// <summary>What the pages of the Desk leave out for somebody of the team whose it isn’t.</summary>
public abstract partial class RoleTagHelper : TagHelper
{
    [ViewContext, HtmlAttributeNotBound] public ViewContext View { get; set; } = null!;
    // After those that make the address.
    public override int Order => 2000;

    /// <summary>The page, where it is one of the Desk and whoever looks at it isn't the owner, whose everything is.</summary>
    protected DeskPage? Page => View.HttpContext.GetEndpoint() is not null && View.HttpContext.Items[typeof(DeskPage)] is DeskPage { IsOwner: false } page
        ? page : null;

    /// <summary>An attribute’s address, as a whole one; null for addresses elsewhere.</summary>
    protected string? Address(string? written)
    {
        var here = View.HttpContext.Request.Path.Value ?? "";
        return string.IsNullOrEmpty(written) ? here : written[0] == '?' ? here + written : written.StartsWith("/desk", StringComparison.OrdinalIgnoreCase)
            ? written : null;
    }

    [GeneratedRegex("<(?:select|textarea|input (?![^>]*type=\"hidden\"))", RegexOptions.IgnoreCase)] protected static partial Regex Fields();
}

/// <summary>
/// A form of the Desk that its reader may not send: one that is a button alone isn't there, one with fields shows what stands in them and says whose it is.
/// </summary>
[HtmlTargetElement("form")]
public sealed class RoleFormTagHelper : RoleTagHelper
{
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        if (Page is not { } page) return;
        var sends = string.Equals(output.Attributes["method"]?.Value?.ToString(), "post", StringComparison.OrdinalIgnoreCase);
        if (Address(output.Attributes["action"]?.Value?.ToString()) is not { } address || page.May(sends, address)) return;
        var inside = await output.GetChildContentAsync();
        if (!Fields().IsMatch(inside.GetContent()))
        {
            output.SuppressOutput();
            return;
        }
        output.TagName = "div";
        foreach (var name in output.Attributes.Select(a => a.Name).Where(n => n is not ("class" or "id")).ToArray()) output.Attributes.RemoveAll(name);
        // Said once on a page, however many forms it has.
        var said = View.HttpContext.Items.TryAdd(typeof(RoleFormTagHelper), true) ? Markup.Of(
            $"<p class=\"note\">You can look at this; {DeskRoles.Whose(address)} may change it.</p>") : Markup.Nothing;
        output.PreContent.SetHtmlContent(Markup.Of($"{said}<fieldset disabled class=\"closed-form {output.Attributes["class"]?.Value?.ToString()}\">"));
        output.Attributes.RemoveAll("class");
        output.PostContent.SetHtmlContent("</fieldset>");
    }
}

/// <summary>A button of a form that sends it elsewhere.</summary>
[HtmlTargetElement("button", Attributes = "formaction")]
public sealed class RoleButtonTagHelper : RoleTagHelper
{
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Page is { } page && Address(output.Attributes["formaction"]?.Value?.ToString()) is { } address
            && !page.May(output.Attributes["formmethod"]?.Value?.ToString() != "get", address)) output.SuppressOutput();
    }
}

/// <summary>A link to a page of the Desk that isn't its reader's: a button and what can be done for a member aren't there, any other link is its words.
/// </summary>
[HtmlTargetElement("a", Attributes = "href")]
public sealed class RoleLinkTagHelper : RoleTagHelper
{
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Page is not { } page || output.Attributes["href"]?.Value?.ToString() is not { Length: > 0 } href || href[0] == '#'
            || Address(href) is not { } address || page.May(false, address)) return;
        if (address.StartsWith("/desk/members/", StringComparison.Ordinal)
            || output.Attributes["class"]?.Value?.ToString()?.Contains("btn", StringComparison.Ordinal) == true)
        {
            output.SuppressOutput();
            return;
        }
        output.TagName = "span";
        foreach (var name in output.Attributes.Select(a => a.Name).Where(n => n != "class").ToArray()) output.Attributes.RemoveAll(name);
    }
}
