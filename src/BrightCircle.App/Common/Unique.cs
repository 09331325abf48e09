using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace BrightCircle.App;

/// <summary>The database refused what stands there already, or what overlaps it: somebody was quicker.</summary>
public static class Unique
{
    public static bool Violated(Exception e) => e is DbUpdateException { InnerException: PostgresException { SqlState: PostgresErrorCodes.UniqueViolation } };

    /// <returns>The name of the rule that what overlaps would break; null where it is something else.</returns>
    public static string? Overlaps(Exception e) =>
        e is DbUpdateException { InnerException: PostgresException { SqlState: PostgresErrorCodes.ExclusionViolation, ConstraintName: var name } } ? name
            : null;
}
