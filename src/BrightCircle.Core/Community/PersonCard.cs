using BrightCircle.Core.Members;

namespace BrightCircle.Core.Community;

/// <summary>Who stands among the people here, and under which name. Only whoever wants to be found is.</summary>
public static class PeopleRules
{
    /// <summary>What stands in place of the name of somebody who has gone and wanted it so.</summary>
    public const string Former = "A former member";

    /// <summary>Somebody’s membership is over: they aren’t found any more, and what they wrote bears the name they chose for then. Whoever never had one, or
    /// pauses, is still here.</summary>
    public static bool HasGone(Standing standing) => standing == Standing.Lapsed;
}
