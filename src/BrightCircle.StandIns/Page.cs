namespace BrightCircle.StandIns;

static class Page
{
    /// <summary>A plain page: the stand-ins look like what they are.</summary>
    public static string Of(string title, string body) => $$"""
        <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>{{title}}
        </title><style>
        body{font:16px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#222;background:#f6f6f4}
        h1{font-size:1.5rem;margin:.2em 0}h2{font-size:1.05rem;margin:1.6em 0 .4em}.quiet{color:#5b5b5b;margin:0}.amount{font-size:1.4rem;font-weight:600}
        label{display:block;font-weight:600;margin-top:.8rem}
        input{font:inherit;padding:.5rem;width:22rem;max-width:100%;border:1px solid #777;border-radius:4px;box-sizing:border-box}
        button,.button{font:inherit;font-weight:600;margin-top:1rem;padding:.55rem
        1.1rem;border:0;border-radius:4px;background:#23395b;color:#fff;text-decoration:none;display:inline-block}
        button.plain{background:#fff;color:#23395b;border:1px solid #23395b;margin:0;padding:.1rem .5rem}.wrong{color:#8c1c13;font-weight:600}
        table{border-collapse:collapse;width:100%;background:#fff}td,th{padding:.35rem .6rem;border-bottom:1px solid #ddd;text-align:left;vertical-align:top}
        .r{text-align:right}.num{font-variant-numeric:tabular-nums;white-space:nowrap}
        pre{white-space:pre-wrap;background:#fff;padding:.8rem;overflow-wrap:anywhere}iframe{width:100%;height:70vh;border:1px solid #ccc;background:#fff}
        nav a{margin-right:1rem}a{color:#23395b}
        </style></head><body>{{body}}</body></html>
        """;
}
