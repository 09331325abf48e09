using System.Globalization;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace BrightCircle.Web.Parts;

/// <summary>
/// The one form part: a label, the control inside, its hint, and what was wrong with it, tied together for assistive technology.
/// <code>&lt;form-field name="Email" label="Email" hint="…"&gt;&lt;input type="email" …&gt;&lt;/form-field&gt;</code>
/// A plain text input is made where nothing is inside.
/// </summary>
[HtmlTargetElement("form-field")]
public sealed class FieldTagHelper : TagHelper
{
    [ViewContext, HtmlAttributeNotBound] public ViewContext View { get; set; } = null!;
    public string Name { get; set; } = "";
    public string Label { get; set; } = "";
    public string? Hint { get; set; }
    public string? Value { get; set; }
    public string Type { get; set; } = "text";
    public bool Required { get; set; }
    public string? Autocomplete { get; set; }
    public string? Inputmode { get; set; }
    public int? Maxlength { get; set; }
    /// <summary>More than zero makes a text of that many rows.</summary>
    public int Rows { get; set; }

    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        var inside = await output.GetChildContentAsync();
        output.TagName = "div";
        output.TagMode = TagMode.StartTagAndEndTag;
        var wrong = View.ViewData.ModelState.TryGetValue(Name, out var entry) && entry.Errors.Count > 0 ? entry.Errors[0].ErrorMessage : null;
        var typed = entry?.AttemptedValue ?? Value;
        var described = string.Join(' ', new[] { Hint is null ? null : Name + "-hint", wrong is null ? null : Name + "-wrong" }.Where(x => x is not null));
        var same = Markup.Of($"class=\"field\" id=\"{Name}\" name=\"{Name}\"");
        if (Required) same.Add($" required");
        if (described.Length > 0) same.Add($" aria-describedby=\"{described}\"");
        if (wrong is not null) same.Add($" aria-invalid=\"true\"");
        if (Autocomplete is not null) same.Add($" autocomplete=\"{Autocomplete}\"");
        if (Inputmode is not null) same.Add($" inputmode=\"{Inputmode}\"");
        if (Maxlength is { } max) same.Add($" maxlength=\"{max}\"");
        output.Content.AppendHtml(Markup.Of($"<label class=\"l\" for=\"{Name}\">{Label}</label>"));
        if (!inside.IsEmptyOrWhiteSpace) output.Content.AppendHtml(inside);
        else if (Rows > 0) output.Content.AppendHtml(Markup.Of($"<textarea {same} rows=\"{Rows}\">{typed}</textarea>"));
        else output.Content.AppendHtml(Markup.Of($"<input {same} type=\"{Type}\" value=\"{(Type == "password" ? "" : typed)}\">"));
        if (Hint is not null) output.Content.AppendHtml(Markup.Of($"<p class=\"hint\" id=\"{Name}-hint\">{Hint}</p>"));
        if (wrong is not null) output.Content.AppendHtml(Markup.Of($"<p class=\"wrong\" id=\"{Name}-wrong\" role=\"alert\">{wrong}</p>"));
    }
}

/// <summary>What was wrong with the form as a whole.</summary>
[HtmlTargetElement("form-wrong", TagStructure = TagStructure.WithoutEndTag)]
public sealed class FormWrongTagHelper : TagHelper
{
    [ViewContext, HtmlAttributeNotBound] public ViewContext View { get; set; } = null!;
    /// <summary>Names of what is refused here too, since no field of its own stands on the page.</summary>
    public string Also { get; set; } = "";

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var wrong = Also.Split(',').Prepend("").Distinct()
            .SelectMany(f => View.ViewData.ModelState.TryGetValue(f, out var entry) ? entry.Errors.Select(e => e.ErrorMessage) : []).ToArray();
        if (wrong.Length == 0)
        {
            output.SuppressOutput();
            return;
        }
        output.TagName = "div";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "note bad-note");
        output.Attributes.SetAttribute("role", "alert");
        output.Content.SetContent(string.Join(" ", wrong));
    }
}

/// <summary>A shelf's two-letter mark in its colour.</summary>
[HtmlTargetElement("shelf-mark", TagStructure = TagStructure.WithoutEndTag)]
public sealed class ShelfMarkTagHelper : TagHelper
{
    public Core.Content.Shelf Shelf { get; set; } = null!;

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "span";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", $"shelf k{Shelf.Colour}");
        output.Attributes.SetAttribute("title", Shelf.Name);
        output.Content.SetContent(Shelf.Mark);
    }
}

/// <summary>
/// Every form of ours that posts carries this page's token, also one with an address of its own: without it the form would be refused, always.
/// </summary>
[HtmlTargetElement("form", Attributes = "action")]
public sealed class FormTokenTagHelper(Microsoft.AspNetCore.Antiforgery.IAntiforgery antiforgery) : TagHelper
{
    [ViewContext, HtmlAttributeNotBound] public ViewContext View { get; set; } = null!;
    // After the framework's own, which cares for forms without an address.
    public override int Order => 1000;

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var method = output.Attributes["method"]?.Value?.ToString();
        var action = output.Attributes["action"]?.Value?.ToString() ?? "";
        if (string.Equals(method, "post", StringComparison.OrdinalIgnoreCase) && (action.StartsWith('/') || action.StartsWith('?'))
            && !action.StartsWith("//", StringComparison.Ordinal))
            output.PostContent.AppendHtml(antiforgery.GetHtml(View.HttpContext));
    }
}
