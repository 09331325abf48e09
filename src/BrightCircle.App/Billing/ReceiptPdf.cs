namespace BrightCircle.App.Billing;

/// <summary>What stands on a receipt, in words: the page and the PDF are made from the same.</summary>
/// <param name="Number">Gapless within its year.</param>
/// <param name="Facts">Whom it is for, when it was paid and how: a word and what stands beside it.</param>
/// <param name="Lines">What was paid, and what went back.</param>
/// <param name="Total">What is left of it.</param>
/// <param name="Language">Of its words: "en-GB".</param>
public sealed record ReceiptWords(string Number, string Seller, string SellerAddress, string Help, IReadOnlyList<(string Word, string Says)> Facts,
    IReadOnlyList<(string What, string Amount)> Lines, (string Word, string Amount) Total, string Language);

/// <summary>A receipt as PDF, on A4 upright.</summary>
public static class ReceiptPdf
{
    const float Width = 595, Height = 842, Left = 64, Right = Width - 64;

    public static byte[] Of(ReceiptWords r)
    {
        using var sheet = new PdfSheet($"Receipt {r.Number}", r.Seller, r.Language, Width, Height);
        var y = 92f;
        sheet.Text("Receipt", PdfSheet.Serif, 28, PdfSheet.Ink, Left, ref y, 250, 22);
        sheet.Text(r.Number, PdfSheet.Sans, 12, PdfSheet.Soft, Left, ref y, 250, 16);
        var side = 84f;
        sheet.Text(r.Seller, PdfSheet.Sans, 12, PdfSheet.Ink, 330, ref side, Right - 330, 16);
        foreach (var line in r.SellerAddress.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            sheet.Text(line, PdfSheet.Sans, 10, PdfSheet.Soft, 330, ref side, Right - 330, 14);
        sheet.Text(r.Help, PdfSheet.Sans, 10, PdfSheet.Soft, 330, ref side, Right - 330, 14);
        y = Math.Max(y, side) + 26;
        foreach (var (word, says) in r.Facts)
        {
            var row = y;
            sheet.Text(word, PdfSheet.Sans, 10, PdfSheet.Soft, Left, ref row, 90, 15);
            sheet.Text(says, PdfSheet.Sans, 11, PdfSheet.Ink, Left + 96, ref y, Right - Left - 96, 15);
            y = Math.Max(y, row) + 3;
        }
        y += 20;
        sheet.Rule(Left, Right, y - 14, PdfSheet.Sun, 3);
        y += 8;
        foreach (var (what, amount) in r.Lines)
        {
            if (y > Height - 110)
            {
                sheet.NextPage();
                y = 80;
            }
            sheet.Right(amount, PdfSheet.Sans, 11, PdfSheet.Ink, Right, y);
            sheet.Text(what, PdfSheet.Sans, 11, PdfSheet.Ink, Left, ref y, Right - Left - 110, 15);
            sheet.Rule(Left, Right, y - 6, PdfSheet.Line);
            y += 8;
        }
        sheet.Right(r.Total.Amount, PdfSheet.Serif, 14, PdfSheet.Ink, Right, y + 6);
        y += 6;
        sheet.Text(r.Total.Word, PdfSheet.Serif, 14, PdfSheet.Ink, Left, ref y, 200, 18);
        return sheet.Done();
    }
}
