using System.Globalization;

namespace FreshBoot.Core.Dossiers;

/// <summary>
/// Which of a machine's drives gets the system. Everywhere in the product that is drive 0; probes list drives as the machine
/// names them. Where a person chose another one, it and the first change places whenever a dossier is read, and back again
/// when somebody says something of a drive. What is stored stays as it was read.
/// </summary>
public static class DriveOrder
{
    /// <summary>The fact that names the chosen drive: by its serial number, or <c>#1</c> by the place that it was read at.</summary>
    public const string Key = "plan.drive";

    /// <summary>Drives that a machine can have.</summary>
    public const int Most = 10;

    private const string Prefix = "storage.";

    /// <summary>The place, as it was read, of the drive that gets the system; 0 where nobody chose, or the chosen one is gone.</summary>
    public static int Target(IFacts asRead)
    {
        if (asRead.Word(Key) is not { Length: > 0 } name)
            return 0;
        if (
            name[0] == '#'
            && int.TryParse(name.AsSpan(1), NumberStyles.None, CultureInfo.InvariantCulture, out var place)
            && place < Most
        )
            return asRead[$"storage.{place}.sizeBytes"] is null ? 0 : place;
        return Enumerable.Range(0, Most).FirstOrDefault(i => asRead.Word($"storage.{i}.serial") == name);
    }

    /// <summary>How a drive is named so that it is found again: by its serial number, or by the place that it was read at.</summary>
    /// <param name="facts">The dossier, with its drives in their order.</param>
    /// <param name="index">The drive's place in that order.</param>
    /// <param name="target">The place of the chosen drive as it was read.</param>
    public static string NameOf(IFacts facts, int index, int target) =>
        facts.Word($"storage.{index}.serial") is { Length: > 0 } serial
            ? serial
            : string.Create(
                CultureInfo.InvariantCulture,
                $"#{(index == 0 ? target
                : index == target ? 0
                : index)}"
            );

    /// <summary>A key as it is called when the drive at <paramref name="target"/> and the first change places.</summary>
    public static string Swapped(string key, int target)
    {
        if (target == 0 || key.Length < Prefix.Length + 3 || !key.StartsWith(Prefix, StringComparison.Ordinal))
            return key;
        var digit = key[Prefix.Length] - '0';
        return key[Prefix.Length + 1] != '.' || (digit != 0 && digit != target)
            ? key
            : string.Create(
                CultureInfo.InvariantCulture,
                $"{Prefix}{(digit == 0 ? target : 0)}{key.AsSpan(Prefix.Length + 1)}"
            );
    }

    /// <summary>A dossier with the chosen drive first.</summary>
    public static Dossier InOrder(Dossier asRead) =>
        Target(asRead) is > 0 and var target
            ? Dossier.From(asRead.Readings.Select(r => r with { Key = Swapped(r.Key, target) }))
            : asRead;
}
