namespace FreshBoot.Core.Terms;

/// <summary>What kind of "no" a <see cref="Refusal"/> is; the server turns it into a status code.</summary>
public enum RefusalKind
{
    /// <summary>The request itself is malformed: a missing field, a value out of range.</summary>
    Invalid,

    /// <summary>A file that was handed in cannot be read as what it claims to be.</summary>
    Unreadable,

    /// <summary>It can be read, and what it asks for cannot be made.</summary>
    Impossible,

    /// <summary>Something larger than the limit.</summary>
    TooLarge,

    /// <summary>A thing that is named does not exist.</summary>
    Missing,

    /// <summary>It would contradict what already stands: a tag used twice, a bay taken.</summary>
    Conflict,

    /// <summary>There is no room for it.</summary>
    Full,

    /// <summary>It was there once and is over: a code that was used or has run out.</summary>
    Gone,
}

/// <summary>A refusal as people read it: what is wrong, where, and what would be right.</summary>
/// <param name="Kind">The kind of refusal.</param>
/// <param name="What">One sentence that says what is wrong.</param>
/// <param name="Where">The place: a field, a file, a member of an archive, a line.</param>
/// <param name="Wanted">What would be right.</param>
public sealed record Refusal(RefusalKind Kind, string What, string Where, string Wanted);

/// <summary>Thrown when input is refused. Whoever throws it has changed nothing.</summary>
public class RefusedException(Refusal refusal) : Exception(refusal.What)
{
    /// <summary>The refusal to show.</summary>
    public Refusal Refusal { get; } = refusal;

    /// <inheritdoc cref="RefusedException(FreshBoot.Core.Terms.Refusal)"/>
    public RefusedException(RefusalKind kind, string what, string where, string wanted)
        : this(new Refusal(kind, what, where, wanted)) { }
}
