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

    /// <summary>What was left out of the page so far.</summary>
    protected sealed class LeftOut
    {
        public int Forms { get; set; }
        /// <summary>How deep within forms that can only be looked at.</summary>
        public int Depth { get; set; }
        public bool IsSaid { get; set; }
    }

    protected LeftOut Left
    {
        get
        {
            if (View.HttpContext.Items[typeof(LeftOut)] is LeftOut left) return left;
            View.HttpContext.Items[typeof(LeftOut)] = left = new();
            return left;
        }
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
        Left.Forms++;
        Left.Depth++;
        var inside = await output.GetChildContentAsync();
        Left.Depth--;
        if (!Fields().IsMatch(inside.GetContent()))
        {
            output.SuppressOutput();
            return;
        }
        output.TagName = "div";
        foreach (var name in output.Attributes.Select(a => a.Name).Where(n => n is not ("class" or "id")).ToArray()) output.Attributes.RemoveAll(name);
        // Said once on a page, however many forms it has.
        var said = Left.IsSaid ? Markup.Nothing : Markup.Of($"<p class=\"note\">You can look at this; {DeskRoles.Whose(address)} may change it.</p>");
        Left.IsSaid = true;
        output.PreContent.SetHtmlContent(Markup.Of($"{said}<fieldset disabled class=\"closed-form {output.Attributes["class"]?.Value?.ToString()}\">"));
        output.Attributes.RemoveAll("class");
        output.PostContent.SetHtmlContent("</fieldset>");
    }
}

/// <summary>A button that unfolds what would be done: where nothing of it is left, it isn't there either.</summary>
[HtmlTargetElement("details")]
public sealed partial class RoleDetailsTagHelper : RoleTagHelper
{
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        if (Page is null) return;
        var before = Left.Forms;
        var inside = (await output.GetChildContentAsync()).GetContent();
        if (!ButtonLike().IsMatch(inside) || Pressable().IsMatch(inside)) return;
        if (Left.Forms > before || Left.Depth > 0 && !Fields().IsMatch(inside)) output.SuppressOutput();
    }

    [GeneratedRegex("<summary[^>]*btn")] private static partial Regex ButtonLike();
    [GeneratedRegex("<(?:form|a) ")] private static partial Regex Pressable();
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
