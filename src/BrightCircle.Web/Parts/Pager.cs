namespace BrightCircle.Web.Parts;

/// <summary>The one way to page: how far, of how many, and the links on.</summary>
public sealed record Pager(int Page, int Total, int Size, Func<int, string> Link)
{
    public int Pages => Math.Max(1, (Total + Size - 1) / Size);
    public int First => (Page - 1) * Size + 1;
    public int Last => Math.Min(Total, Page * Size);
}
