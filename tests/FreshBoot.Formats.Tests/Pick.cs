using CsCheck;

namespace FreshBoot.Formats.Tests;

/// <summary>Generators that the tests share.</summary>
internal static class Pick
{
    /// <summary>One of the values.</summary>
    public static Gen<T> From<T>(params T[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);
}
