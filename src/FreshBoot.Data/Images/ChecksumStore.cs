using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;

namespace FreshBoot.Data.Images;

/// <summary>What a checksum list says of an image.</summary>
/// <param name="Says"><c>matches</c>, <c>differs</c> or <c>none</c>.</param>
/// <param name="From">Where the list came from.</param>
/// <param name="Listed">The checksum that it lists.</param>
public sealed record ChecksumSays(string Says, string? From, string? Listed);

/// <summary>The lists of checksums that makers publish, and what they say of the images here.</summary>
public sealed partial class ChecksumStore(IDbContextFactory<FreshBootDb> databases, TimeProvider clock)
{
    /// <summary>Reads a checksum list: lines of a checksum, a space, a space or asterisk, and a name.</summary>
    /// <returns>How many lines were taken.</returns>
    /// <exception cref="RefusedException">A line that is none, or no line at all.</exception>
    public async Task<int> TakeListAsync(string text, string from, CancellationToken stop)
    {
        var lines = text.Split('\n')
            .Select((l, i) => (Text: l.TrimEnd('\r'), Number: i + 1))
            .Where(l => l.Text.Length > 0 && l.Text[0] != '#')
            .ToList();
        if (lines.Count is 0 or > 10_000)
            throw new RefusedException(
                RefusalKind.Unreadable,
                $"The list has {lines.Count} lines.",
                "text",
                "1 to 10,000 lines as sha256sum prints them."
            );
        await using var db = await databases.CreateDbContextAsync(stop);
        var known = (await db.Checksums.AsNoTracking().Select(c => new { c.Name, c.Sha256 }).ToListAsync(stop))
            .Select(c => (c.Name, c.Sha256))
            .ToHashSet();
        foreach (var (line, number) in lines)
        {
            if (ListLine().Match(line) is not { Success: true } match)
                throw new RefusedException(
                    RefusalKind.Unreadable,
                    "A line is no line of a checksum list.",
                    $"line {number}",
                    "64 hexadecimal digits, a space, a space or an asterisk, and a file name."
                );
            var (sha256, name) = (
                match.Groups["sum"].Value.ToLowerInvariant(),
                Path.GetFileName(match.Groups["name"].Value)
            );
            if (known.Add((name, sha256)))
                db.Checksums.Add(
                    new ChecksumRow
                    {
                        Name = name,
                        Sha256 = sha256,
                        From = from,
                        At = clock.GetUtcNow(),
                    }
                );
        }
        await db.SaveChangesAsync(stop);
        return lines.Count;
    }

    /// <summary>What checksum lists say of images, by id.</summary>
    public async Task<IReadOnlyDictionary<int, ChecksumSays>> ChecksumsAsync(
        IReadOnlyList<StoredImage> images,
        CancellationToken stop
    )
    {
        await using var db = await databases.CreateDbContextAsync(stop);
        var all = await db.Checksums.AsNoTracking().OrderByDescending(c => c.Id).ToListAsync(stop);
        var byHash = all.ToLookup(c => c.Sha256, StringComparer.Ordinal);
        var byName = all.ToLookup(c => c.Name, StringComparer.Ordinal);
        return images.ToDictionary(
            i => i.Id,
            i =>
                i.Sha256 is null ? new ChecksumSays("none", null, null)
                : byHash[i.Sha256].FirstOrDefault() is { } match ? new ChecksumSays("matches", match.From, match.Sha256)
                : byName[i.Name].FirstOrDefault() is { } other ? new ChecksumSays("differs", other.From, other.Sha256)
                : new ChecksumSays("none", null, null)
        );
    }

    [GeneratedRegex(@"^(?<sum>[0-9A-Fa-f]{64}) [ *](?<name>.+)\z", RegexOptions.ExplicitCapture)]
    private static partial Regex ListLine();
}
