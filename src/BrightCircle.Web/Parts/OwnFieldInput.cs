using System.Globalization;
using BrightCircle.Core.Members;

namespace BrightCircle.Web.Parts;

/// <summary>The owner's own fields in a form: each by its number.</summary>
public static class OwnFieldInput
{
    public static string NameOf(OwnField field) => string.Create(CultureInfo.InvariantCulture, $"own-{field.Id.Value}");

    /// <summary>What was sent for fields there are; those the form didn't have are left out.</summary>
    public static Dictionary<OwnFieldId, string?> Read(IFormCollection form, CatalogueSnapshot now) =>
        now.OwnFields.Where(f => form.ContainsKey(NameOf(f))).ToDictionary(f => f.Id, f => (string?)form[NameOf(f)].ToString());
}
