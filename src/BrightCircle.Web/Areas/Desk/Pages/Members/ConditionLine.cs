using BrightCircle.Core.Members;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One line of a condition as it is typed: a group, or something that is asked of a member. What its kind doesn't need is left alone.</summary>
public sealed class ConditionLine
{
    /// <summary>1 for the outermost lines; a group's own lines stand one deeper, right after it.</summary>
    public int Depth { get; set; } = 1;
    public string? Kind { get; set; } = "standing";
    /// <summary>For a group: all, any, none.</summary>
    public string? Mode { get; set; } = "all";
    public bool Not { get; set; }
    public List<Standing> Standings { get; set; } = [];
    public List<long> Plans { get; set; } = [];
    public long Price { get; set; }
    public string? Source { get; set; }
    public long Tag { get; set; }
    public long Field { get; set; }
    public string? Test { get; set; } = "filled";
    public string? Text { get; set; }
    public string? When { get; set; } = "last";
    public string? Days { get; set; } = "30";
    public string? From { get; set; }
    public string? To { get; set; }
    public long Piece { get; set; }
    public long Edition { get; set; }
    public string? Lessons { get; set; }
    public long Tally { get; set; }
    public int Weeks { get; set; } = 1;
    public string? Amount { get; set; }
    public long Cohort { get; set; }

    public string? Reads { get; set; }

    public bool IsGroup => Kind == "group";
}
