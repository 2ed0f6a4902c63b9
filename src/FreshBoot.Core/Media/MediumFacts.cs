using System.Text.Json.Serialization;
using FreshBoot.Formats.Discs;

namespace FreshBoot.Core.Media;

/// <summary>What a medium is.</summary>
[JsonConverter(typeof(CamelCaseNames<MediumKind>))]
public enum MediumKind
{
    /// <summary>A USB stick or drive.</summary>
    Stick,

    /// <summary>A memory card.</summary>
    Card,

    /// <summary>A recordable CD, 700 MiB.</summary>
    Cd,

    /// <summary>A recordable DVD, one layer.</summary>
    Dvd,

    /// <summary>A recordable DVD, two layers.</summary>
    DvdDouble,

    /// <summary>An image file for download.</summary>
    File,
}

/// <summary>A medium as it is known.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="SizeBytes">Size that it claims, in bytes; discs have that of their type.</param>
/// <param name="UsbGeneration">USB generation of a stick: 1, 2 or 3.</param>
/// <param name="WriteBytesPerSecond">How fast it writes.</param>
/// <param name="ReadBytesPerSecond">How fast it reads.</param>
public sealed record MediumFacts(
    MediumKind Kind,
    long SizeBytes,
    int UsbGeneration,
    long WriteBytesPerSecond,
    long ReadBytesPerSecond
)
{
    /// <summary>Bytes on a disc of a type; 0 for what is no disc.</summary>
    public static long DiscBytes(MediumKind kind) =>
        kind switch
        {
            MediumKind.Cd => DiscSizes.Cd,
            MediumKind.Dvd => DiscSizes.Dvd,
            MediumKind.DvdDouble => DiscSizes.DvdDouble,
            _ => 0,
        };

    /// <summary>Whether it is a disc.</summary>
    public bool IsDisc => DiscBytes(Kind) > 0;

    /// <summary>What a USB port carries in practice, in bytes a second: 12, 480 and 5,000 Mbit/s less what the protocol takes.</summary>
    public static long PortBytesPerSecond(int generation) =>
        generation switch
        {
            <= 1 => 1_000_000,
            2 => 35_000_000,
            _ => 400_000_000,
        };
}
