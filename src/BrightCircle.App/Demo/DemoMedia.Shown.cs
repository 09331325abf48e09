using SkiaSharp;

namespace BrightCircle.App.Demo;

/// <summary>What the demo’s people show each other, drawn here.</summary>
public static partial class DemoMedia
{
    /// <summary>PNG, 1200 × 800.</summary>
    public static byte[] Shown(string what) => Picture(what switch
    {
        "row" => Row,
        "comb" => Comb,
        "candles" => Candles,
        "orchard" => Orchard,
        "guard" => Guard,
        "label" => Label,
        "snow" => WinterHive,
        "jars" => Jars,
        _ => throw new ArgumentOutOfRangeException(nameof(what), what, "There is no such picture."),
    });

    static void Hive(SKCanvas c, float x, float y, float size, string wood)
    {
        Fill(c, wood, p => { c.DrawRect(x, y, size, size * .42f, p); c.DrawRect(x, y + size * .45f, size, size * .5f, p); });
        Fill(c, "#E9E4D8", p => c.DrawRect(x - size * .06f, y - size * .1f, size * 1.12f, size * .1f, p));
        Fill(c, "#1F2A30", p => c.DrawRect(x + size * .3f, y + size * .86f, size * .4f, size * .05f, p));
    }

    static void Row(SKCanvas c)
    {
        Sky(c, "#CBDDE3", "#F2EEDD");
        Fill(c, "#7C8F5A", p => c.DrawOval(new SKRect(-200, 560, 1400, 1100), p));
        foreach (var (x, wood) in new[] { (140f, "#A8743F"), (470f, "#7E8C8F"), (800f, "#B98B3E") }) Hive(c, x, 360, 250, wood);
        Fill(c, "#5A4A36", p => c.DrawRect(100, 606, 1000, 16, p));
    }

    static void Comb(SKCanvas c)
    {
        Sky(c, "#6B4A22", "#8C6430");
        for (var row = 0; row < 9; row++)
            for (var i = 0; i < 13; i++)
            {
                float x = 20 + i * 98 + row % 2 * 49, y = 20 + row * 86, r = 50;
                using var corners = new SKPathBuilder();
                corners.AddPoly([.. Enumerable.Range(0, 6).Select(k => (Angle: MathF.PI / 3 * k + MathF.PI / 6, 0))
                    .Select(k => new SKPoint(x + r * MathF.Cos(k.Angle), y + r * MathF.Sin(k.Angle)))], true);
                using var path = corners.Detach();
                var capped = (row - 4) * (row - 4) + (i - 6) * (i - 6) > 14;
                Fill(c, capped ? "#EBC77A" : row * i % 3 == 0 ? "#5A3A16" : "#C98A2B", p => c.DrawPath(path, p));
            }
    }

    static void Candles(SKCanvas c)
    {
        Sky(c, "#2B3440", "#4B3E33");
        Fill(c, "#6B5138", p => c.DrawRect(0, 640, 1200, 160, p));
        foreach (var (x, height) in new[] { (260, 330), (520, 420), (790, 280) })
        {
            Fill(c, "#FFD98A33", p => c.DrawCircle(x + 55, 600 - height, 150, p));
            Fill(c, "#E3B04B", p => c.DrawRoundRect(new SKRect(x, 640 - height, x + 110, 640), 16, 16, p));
            Fill(c, "#FFF0C2", p => c.DrawOval(new SKRect(x + 40, 560 - height, x + 70, 636 - height), p));
        }
    }

    static void Orchard(SKCanvas c)
    {
        Sky(c, "#DCE6D2", "#F6EEDC");
        Fill(c, "#8FA566", p => c.DrawRect(0, 590, 1200, 210, p));
        foreach (var (x, size) in new[] { (120f, 190f), (620f, 230f), (980f, 170f) })
        {
            Fill(c, "#6B5138", p => c.DrawRect(x + size * .44f, 590 - size * .7f, size * .12f, size * .75f, p));
            Fill(c, "#F1D9DE", p =>
            {
                c.DrawCircle(x + size * .5f, 590 - size, size * .48f, p); c.DrawCircle(x + size * .15f, 590 - size * .8f, size * .32f, p);
                c.DrawCircle(x + size * .85f, 590 - size * .8f, size * .32f, p);
            });
        }
        Hive(c, 370, 470, 150, "#5F7F8C");
    }

    static void Guard(SKCanvas c)
    {
        Sky(c, "#B08A57", "#8F6A3C");
        Fill(c, "#D9D3C6", p => c.DrawRect(120, 430, 960, 130, p));
        Fill(c, "#1F2A30", p => { for (var i = 0; i < 11; i++) c.DrawCircle(190 + i * 82, 495, 22, p); });
        Fill(c, "#6E5334", p => c.DrawRect(0, 590, 1200, 40, p));
    }

    static void Label(SKCanvas c)
    {
        Sky(c, "#EDE3CC", "#F8F3E6");
        Fill(c, "#D98E1F", p => c.DrawRoundRect(new SKRect(380, 170, 820, 760), 50, 50, p));
        Fill(c, "#55636B", p => c.DrawRoundRect(new SKRect(400, 90, 800, 190), 18, 18, p));
        Fill(c, "#FBF8F1", p => c.DrawRect(430, 330, 340, 240, p));
        Fill(c, "#8E3B2E", p =>
        {
            c.DrawRect(470, 380, 260, 22, p); c.DrawRect(500, 430, 200, 12, p); c.DrawRect(520, 462, 160, 12, p);
            c.DrawOval(new SKRect(560, 490, 640, 540), p);
        });
    }
}
