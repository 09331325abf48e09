using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace BrightCircle.App;

/// <summary>The database refused what stands there already: somebody was quicker.</summary>
public static class Unique
{
    public static bool Violated(Exception e) => e is DbUpdateException { InnerException: PostgresException { SqlState: PostgresErrorCodes.UniqueViolation } };
}
