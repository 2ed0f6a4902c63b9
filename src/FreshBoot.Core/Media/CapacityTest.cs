using System.Buffers.Binary;
using System.IO.Hashing;
using FreshBoot.Formats.FileSystems;

namespace FreshBoot.Core.Media;

/// <summary>What a capacity test found.</summary>
/// <param name="ClaimedBytes">Size that the medium claims.</param>
/// <param name="TrueBytes">Size up to which what is written is what is read.</param>
/// <param name="Manner"><c>sound</c>, <c>wraps</c> (the end overwrites the beginning), <c>loses</c> (the end is lost) or <c>bad</c> (places in the middle fail).</param>
/// <param name="BadAt">Offsets at which it failed; at most twenty.</param>
/// <param name="Says">The finding in a sentence.</param>
public sealed record CapacityFinding(
    long ClaimedBytes,
    long TrueBytes,
    string Manner,
    IReadOnlyList<long> BadAt,
    string Says
);

/// <summary>
/// Finds the true size of a medium that claims a larger one: blocks are stamped with their own place across the whole medium
/// and read back. It destroys what is on it.
/// </summary>
public static class CapacityTest
{
    /// <summary>Size of a stamped block.</summary>
    public const int Block = 4096;
    private static ReadOnlySpan<byte> Mark => "FRESH BOOT STAMP"u8;
    private const int MostTold = 20;

    /// <summary>Tests a medium.</summary>
    /// <param name="medium">The medium.</param>
    /// <param name="step">Distance of the stamped blocks in bytes: the size found is right to so much.</param>
    /// <param name="run">A number that no other test has, so that old stamps are not taken for new ones.</param>
    /// <param name="progress">Told the part that is done, 0 to 1.</param>
    /// <param name="stop">Stops it.</param>
    public static CapacityFinding Run(
        IBlockDevice medium,
        long step,
        ulong run,
        Action<double> progress,
        CancellationToken stop
    )
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(step, Block);
        var places = new List<long>();
        for (var at = 0L; at + Block <= medium.SizeBytes; at += step)
            places.Add(at);
        // The very end too: what is lost is lost there.
        if (medium.SizeBytes >= Block && medium.SizeBytes - Block > places[^1])
            places.Add((medium.SizeBytes - Block) / Block * Block);

        var block = new byte[Block];
        var refused = new HashSet<long>();
        for (var i = 0; i < places.Count; i++)
        {
            stop.ThrowIfCancellationRequested();
            Stamp(block, places[i], run);
            try
            {
                medium.Write(places[i], block);
            }
            catch (MediumGoneException)
            {
                throw;
            }
            catch (IOException)
            {
                refused.Add(places[i]);
            }
            progress((i + 1) / 2.0 / places.Count);
        }
        medium.Flush();

        var failed = new List<long>();
        var period = long.MaxValue;
        for (var i = 0; i < places.Count; i++)
        {
            stop.ThrowIfCancellationRequested();
            var found = refused.Contains(places[i]) ? null : Read(medium, places[i], block, run);
            if (found != places[i])
                failed.Add(places[i]);
            // Another block's stamp: the medium folds its addresses, and the distance is a whole number of true sizes.
            if (found is { } other && other != places[i])
                period = Math.Min(period, Math.Abs(other - places[i]));
            progress(0.5 + (i + 1) / 2.0 / places.Count);
        }

        var told = failed.Take(MostTold).ToList();
        if (failed.Count == 0)
            return new CapacityFinding(medium.SizeBytes, medium.SizeBytes, "sound", [], "It holds what it claims.");
        if (period < long.MaxValue)
            return new CapacityFinding(
                medium.SizeBytes,
                period,
                "wraps",
                told,
                $"It claims {medium.SizeBytes} bytes and has {period}: what is written beyond that overwrites the beginning. Do not use it."
            );
        // All that fails lies at the end, or there are places in the middle.
        var first = failed[0];
        return failed.Count == places.Count - places.IndexOf(first)
            ? new CapacityFinding(
                medium.SizeBytes,
                first,
                "loses",
                told,
                $"It claims {medium.SizeBytes} bytes and keeps what is written up to about {first}: the rest is lost. Do not use it."
            )
            : new CapacityFinding(
                medium.SizeBytes,
                first,
                "bad",
                told,
                $"{failed.Count} of {places.Count} places cannot be written or read back, the first at {first}. It is dying: do not use it."
            );
    }

    private static void Stamp(Span<byte> block, long at, ulong run)
    {
        Mark.CopyTo(block);
        BinaryPrimitives.WriteInt64LittleEndian(block[16..], at);
        BinaryPrimitives.WriteUInt64LittleEndian(block[24..], run);
        // The rest follows from place and run, so that a block that is half there is found out.
        var state = (ulong)at * 0x9e37_79b9_7f4a_7c15 ^ run;
        for (var i = 32; i < Block - 8; i += 8)
        {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            BinaryPrimitives.WriteUInt64LittleEndian(block[i..], state);
        }
        BinaryPrimitives.WriteUInt64LittleEndian(block[^8..], XxHash64.HashToUInt64(block[..^8]));
    }

    /// <summary>The place that the stamp names, or null where there is no whole stamp of this run.</summary>
    private static long? Read(IBlockDevice medium, long at, Span<byte> block, ulong run)
    {
        try
        {
            medium.Read(at, block);
        }
        catch (MediumGoneException)
        {
            throw;
        }
        catch (IOException)
        {
            return null;
        }
        return
            block[..16].SequenceEqual(Mark)
            && BinaryPrimitives.ReadUInt64LittleEndian(block[24..]) == run
            && BinaryPrimitives.ReadUInt64LittleEndian(block[^8..]) == XxHash64.HashToUInt64(block[..^8])
            ? BinaryPrimitives.ReadInt64LittleEndian(block[16..])
            : null;
    }
}

/// <summary>The medium was pulled out.</summary>
public sealed class MediumGoneException() : IOException("The medium is no longer there.");
