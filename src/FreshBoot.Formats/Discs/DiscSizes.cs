namespace FreshBoot.Formats.Discs;

/// <summary>What recordable discs hold, in bytes.</summary>
public static class DiscSizes
{
    /// <summary>CD: 360,000 sectors, 80 minutes at 75 sectors a second (ECMA-130).</summary>
    public const long Cd = 360_000L * 2048;

    /// <summary>DVD of one layer, in sectors of 2,048 bytes (ECMA-267).</summary>
    public const long Dvd = 2_295_104L * 2048;

    /// <summary>DVD of two layers (ECMA-384).</summary>
    public const long DvdDouble = 4_171_712L * 2048;
}
