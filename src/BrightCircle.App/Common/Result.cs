namespace BrightCircle.App;

/// <summary>What came of a use case that may be refused for a reason a person can read. Bugs and broken services are exceptions.</summary>
public readonly record struct Result(string? Refusal, string? Field = null)
{
    public bool Ok => Refusal is null;
    public static Result Done { get; } = new(null);
    public static Result Refused(string why, string? field = null) => new(why, field);
}

public readonly record struct Result<T>(T? Value, string? Refusal, string? Field = null)
{
    public bool Ok => Refusal is null;
    public static implicit operator Result<T>(T value) => new(value, null);
    public static implicit operator Result<T>(Result refused) =>
        new(default, refused.Refusal ?? throw new InvalidOperationException("Done without a value."), refused.Field);
}

/// <summary>Somebody of the team who acts. Use cases ask it, so that a page that forgets to can't give anything away.</summary>
public sealed record TeamActor(long AccountId, string Name, Data.TeamRole Role)
{
    /// <exception cref="NotAllowedException">None of the roles.</exception>
    public void Need(params ReadOnlySpan<Data.TeamRole> roles)
    {
        if (!roles.Contains(Role)) throw new NotAllowedException($"{Name} ({Role}) may not do this.");
    }

    public void NeedEditor() => Need(Data.TeamRole.Owner, Data.TeamRole.Editor);
    public void NeedOwner() => Need(Data.TeamRole.Owner);
    public void NeedSupport() => Need(Data.TeamRole.Owner, Data.TeamRole.Support);
}

public sealed class NotAllowedException(string message) : Exception(message);
