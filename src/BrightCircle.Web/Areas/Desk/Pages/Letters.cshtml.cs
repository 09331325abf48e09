using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class LettersModel(BrightContext db) : DeskPage
{
    public const int PageSize = 50;
    public override string Place => "letters";
    public LetterState? State { get; private set; }
    public string? Q { get; private set; }
    public IReadOnlyList<Letter> Rows { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public static string Word(LetterKind kind) => kind switch { LetterKind.SignIn => "sign-in link", LetterKind.PaymentFailed => "payment failed", LetterKind.Edition => "edition announcement", var k => k.ToString().ToLowerInvariant() };
    public string Query(int page) => QueryString.Create(new Dictionary<string, string?> { ["q"] = Q, ["state"] = State?.ToString(), ["page"] = page.ToString(System.Globalization.CultureInfo.InvariantCulture) }.Where(x => !string.IsNullOrEmpty(x.Value))).ToString();

    public async Task OnGet(LetterState? state, string? q, int page = 1)
    {
        (State, Q, PageNumber) = (state, string.IsNullOrWhiteSpace(q) ? null : q.Trim(), Math.Max(1, page));
        ModelState.Clear();
        var query = db.Letters.AsNoTracking();
        if (State is { } s) query = query.Where(l => l.State == s);
        if (Q is not null) query = query.Where(l => EF.Functions.ILike(l.ToName + " " + l.ToAddress, Like.Containing(Q), Like.Escape));
        var trip = new OneTrip(db);
        var total = trip.Count(query);
        var rows = trip.List(query.OrderByDescending(l => l.Id).Skip((PageNumber - 1) * PageSize).Take(PageSize));
        await trip.Ask(Ct);
        (Total, Rows) = (total.Value, rows.Value);
    }
}
