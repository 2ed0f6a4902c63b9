namespace FreshBoot.Formats;

/// <summary>
/// Thrown where bytes are not what they claim to be, or where a format cannot hold what it is asked to hold. Whoever throws it
/// has written nothing that could be taken for whole.
/// </summary>
/// <param name="what">One sentence that says what is wrong.</param>
/// <param name="where">The place: an offset, a line, a path.</param>
/// <param name="wanted">What would be right.</param>
public sealed class FormatRefusedException(string what, string where, string wanted) : Exception(what)
{
    /// <summary>The place in the input, or the part of it.</summary>
    public string Where { get; } = where;

    /// <summary>What would be right.</summary>
    public string Wanted { get; } = wanted;
}
