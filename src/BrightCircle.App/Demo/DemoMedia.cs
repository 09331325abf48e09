using BrightCircle.App.Content;
using SkiaSharp;

namespace BrightCircle.App.Demo;

/// <summary>The demo's course with its media: texts, a clip and a recording that ship with it; pictures and a sheet to print that are drawn here.</summary>
public static partial class DemoMedia
{
    public static IContentSource Course()
    {
        var assembly = typeof(DemoMedia).Assembly;
        var files = new Dictionary<string, byte[]>();
        const string prefix = ".Demo.content.course.";
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.Contains(prefix, StringComparison.Ordinal)))
        {
            using var from = assembly.GetManifestResourceStream(name)!;
            using var copy = new MemoryStream();
            from.CopyTo(copy);
            var file = name[(name.IndexOf(prefix, StringComparison.Ordinal) + prefix.Length)..];
            files[file.StartsWith("media.", StringComparison.Ordinal) ? "media/" + file[6..] : "three-quiet-winter-checks/" + file] = copy.ToArray();
        }
        files["media/winter-hive.png"] = Picture(WinterHive);
        files["media/pan.png"] = Picture(Pan);
        files["media/jars.png"] = Picture(Jars);
        files["media/flowers.png"] = Picture(Flowers);
        files["media/hive-sheet.pdf"] = Sheet();
        return new TextSource(files);
    }

    static SKColor C(string hex) => SKColor.Parse(hex);

    static byte[] Picture(Action<SKCanvas> draw)
    {
        using var surface = SKSurface.Create(new SKImageInfo(1200, 800));
        draw(surface.Canvas);
        using var image = surface.Snapshot();
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    static void Fill(SKCanvas c, string hex, Action<SKPaint> draw)
    {
        using var p = new SKPaint { Color = C(hex), IsAntialias = true };
        draw(p);
    }

    static void Sky(SKCanvas c, string top, string bottom)
    {
        using var shader = SKShader.CreateLinearGradient(new(0, 0), new(0, 800), [C(top), C(bottom)], SKShaderTileMode.Clamp);
        using var p = new SKPaint { Shader = shader };
        c.DrawRect(0, 0, 1200, 800, p);
    }

    static void WinterHive(SKCanvas c)
    {
        Sky(c, "#BFD3D9", "#F3EEE2");
        Fill(c, "#FFFFFF", p => { c.DrawOval(new SKRect(-200, 540, 900, 1000), p); c.DrawOval(new SKRect(400, 570, 1500, 1050), p); });
        c.Save();
        c.Translate(285, 250);
        c.Scale(0.52f);
        Fill(c, "#8A6A45", p =>
        {
            c.DrawRect(430, 300, 300, 120, p); c.DrawRect(430, 428, 300, 150, p); c.DrawRect(460, 578, 30, 60, p);
            c.DrawRect(670, 578, 30, 60, p);
        });
        Fill(c, "#6E5334", p => { c.DrawRect(430, 420, 300, 8, p); c.DrawRect(420, 570, 320, 12, p); });
        Fill(c, "#E9E4D8", p => c.DrawRect(410, 272, 340, 30, p));
        Fill(c, "#1F2A30", p => c.DrawRect(520, 552, 120, 14, p));
        Fill(c, "#9AA3A6", p => c.DrawOval(new SKRect(530, 232, 640, 284), p));
        c.Restore();
        var r = new Random(7);
        Fill(c, "#FFFFFF", p => { for (var i = 0; i < 160; i++) c.DrawCircle(r.Next(1200), r.Next(700), 2 + (float)r.NextDouble() * 4, p); });
    }

    static void Pan(SKCanvas c)
    {
        Sky(c, "#F6E6C4", "#E9CE94");
        Fill(c, "#55636B", p => c.DrawRoundRect(new SKRect(320, 330, 860, 660), 40, 40, p));
        Fill(c, "#3B474D", p => { c.DrawRoundRect(new SKRect(860, 380, 1130, 420), 18, 18, p); c.DrawOval(new SKRect(320, 290, 860, 380), p); });
        Fill(c, "#F2C766", p => c.DrawOval(new SKRect(345, 302, 835, 372), p));
        Fill(c, "#FBE7B5", p => { c.DrawCircle(470, 330, 14, p); c.DrawCircle(560, 345, 9, p); c.DrawCircle(680, 326, 12, p); c.DrawCircle(740, 342, 7, p); });
        Fill(c, "#FFFFFF", p => c.DrawRoundRect(new SKRect(600, 120, 628, 340), 12, 12, p));
        Fill(c, "#B4472E", p => { c.DrawRect(608, 190, 12, 140, p); c.DrawCircle(614, 336, 18, p); });
    }

    static void Jars(SKCanvas c)
    {
        Sky(c, "#DDE8E2", "#F8F3E6");
        Fill(c, "#C9B48C", p => c.DrawRect(0, 600, 1200, 200, p));
        foreach (var (x, honey) in new[] { (220, "#D98E1F"), (500, "#E8B14A"), (780, "#B86A16") })
        {
            Fill(c, honey, p => c.DrawRoundRect(new SKRect(x, 320, x + 200, 620), 30, 30, p));
            Fill(c, "#FFFFFF66", p => c.DrawRoundRect(new SKRect(x + 18, 340, x + 40, 600), 10, 10, p));
            Fill(c, "#55636B", p => c.DrawRoundRect(new SKRect(x + 6, 280, x + 194, 326), 10, 10, p));
            Fill(c, "#FBF8F1", p => c.DrawRect(x + 40, 440, 120, 80, p));
        }
    }

    static void Flowers(SKCanvas c)
    {
        Sky(c, "#CFE0D2", "#EFEFE0");
        Fill(c, "#3E6B3A", p => c.DrawRect(0, 0, 1200, 180, p));
        Fill(c, "#5B7A45", p => c.DrawOval(new SKRect(-100, 620, 1300, 1000), p));
        var r = new Random(3);
        for (var i = 0; i < 14; i++)
        {
            float x = 90 + i * 78 + r.Next(-20, 20), y = 420 + r.Next(-40, 60);
            using (var stem = new SKPaint { Color = C("#3E6B3A"), StrokeWidth = 9, Style = SKPaintStyle.Stroke, IsAntialias = true }) c.DrawLine(
                x, y, x + r.Next(-20, 20), 680, stem);
            Fill(c, "#FFFFFF", p =>
            {
                c.DrawOval(new SKRect(x - 26, y - 10, x - 2, y + 60), p); c.DrawOval(new SKRect(x - 12, y - 14, x + 12, y + 66), p);
                c.DrawOval(new SKRect(x + 2, y - 10, x + 26, y + 60), p);
            });
            Fill(c, "#9CCB80", p => c.DrawCircle(x, y + 50, 7, p));
        }
    }

    /// <summary>A page to print: a table for the three checks.</summary>
    static byte[] Sheet()
    {
        using var buffer = new MemoryStream();
        using (var document = SKDocument.CreatePdf(buffer, new SKDocumentPdfMetadata { Title = "Hive sheet", Author = "Tansy Lane" }))
        {
            var c = document.BeginPage(595, 842);
            using var line = new SKPaint { Color = C("#8FA0A0"), StrokeWidth = 1, Style = SKPaintStyle.Stroke };
            Fill(c, "#F2B632", p => c.DrawRect(50, 60, 90, 6, p));
            for (var row = 0; row <= 18; row++) c.DrawLine(50, 110 + row * 36, 545, 110 + row * 36, line);
            for (var column = 0; column <= 4; column++) c.DrawLine(50 + column * 123.75f, 110, 50 + column * 123.75f, 110 + 18 * 36, line);
            document.EndPage();
            document.Close();
        }
        return buffer.ToArray();
    }
}
