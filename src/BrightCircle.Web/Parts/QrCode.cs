using QRCoder;

namespace BrightCircle.Web.Parts;

/// <summary>A QR code (ISO/IEC 18004) as a picture in the page.</summary>
public static class QrCode
{
    /// <param name="says">What the picture is, for who doesn't see it.</param>
    public static string Svg(string text, string says)
    {
        using var codes = new QRCodeGenerator();
        using var data = codes.CreateQrCode(text, QRCodeGenerator.ECCLevel.M);
        return new SvgQRCode(data).GetGraphic(new System.Drawing.Size(200, 200), "#1F2A30", "#FFFFFF", sizingMode: SvgQRCode.SizingMode.ViewBoxAttribute)
            .Replace("<svg ", $"<svg role=\"img\" aria-label=\"{System.Net.WebUtility.HtmlEncode(says)}\" ", StringComparison.Ordinal);
    }
}
