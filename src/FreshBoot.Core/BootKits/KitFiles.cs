using System.Globalization;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Dossiers;
using FreshBoot.Core.Identity;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.BootKits;

/// <summary>
/// The files of a kit by their path: the components, the configuration as an XML property list with the keys that docs/bootkits.md
/// tells, and a manifest that <c>sha256sum -c</c> takes.
/// </summary>
public static class KitFiles
{
    /// <summary>The folder of a kit on its medium.</summary>
    public const string Folder = "kit/";

    /// <summary>The configuration.</summary>
    public const string Config = Folder + "config.plist";

    /// <summary>The list of checksums.</summary>
    public const string Manifest = Folder + "manifest.sha256";

    /// <summary>The format that the configuration names.</summary>
    public const string Format = "fresh-boot-kit 1";

    private const string AppliedPrefix = "boot-kit-";

    /// <summary>What the manifest of an image calls a kit that was put on it, in the place of a recipe.</summary>
    /// <param name="tag">The machine that the kit is for; null for none.</param>
    public static string AppliedTo(string? tag) => AppliedPrefix + (tag?.ToLowerInvariant() ?? "any");

    /// <summary>Whether a manifest tells of a kit, not of a recipe.</summary>
    public static bool IsApplied(string recipe) => recipe.StartsWith(AppliedPrefix, StringComparison.Ordinal);

    private const int MostEntries = 1000;
    private const int LargestFile = 16 << 20;
    private const int LargestKit = 64 << 20;
    private const int UnixLink = 0xa000;
    private const int UnixKind = 0xf000;
    private static readonly DateTimeOffset Zip = new(2026, 1, 1, 0, 0, 0, TimeSpan.Zero);

    /// <summary>The files of a kit that was built. The same kit gives the same bytes.</summary>
    /// <param name="kit">The kit.</param>
    /// <param name="facts">The machine.</param>
    /// <param name="identity">The identity that it takes; null for none.</param>
    public static SortedDictionary<string, byte[]> Of(BootKit kit, IFacts facts, IdentityProfile? identity)
    {
        var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal)
        {
            [Config] = Encoding.UTF8.GetBytes(PropertyList.Write(ConfigOf(kit, facts, identity))),
        };
        foreach (var (component, _) in kit.Components)
            files[Folder + component.File] = ContentOf(component);
        Sign(files);
        return files;
    }

    /// <summary>
    /// What stands in for a component where the shop has none of its own on the shelf: a text that says what it is. It is read by
    /// the twin's loader, which checks that it is there and in its order; it drives nothing.
    /// </summary>
    public static byte[] ContentOf(KitComponent component) =>
        Encoding.UTF8.GetBytes(
            $"component {component.Id}\nversion {component.Version}\nA stand-in: it holds the place of “{component.Name}” and drives nothing.\n"
        );

    /// <summary>Writes the manifest anew.</summary>
    public static void Sign(SortedDictionary<string, byte[]> files)
    {
        files.Remove(Manifest);
        files[Manifest] = Encoding.UTF8.GetBytes(
            string.Concat(files.Select(f => $"{Convert.ToHexStringLower(SHA256.HashData(f.Value))}  {f.Key}\n"))
        );
    }

    /// <summary>The files as a ZIP archive; the same files give the same bytes.</summary>
    public static byte[] Pack(IReadOnlyDictionary<string, byte[]> files)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (path, content) in files.OrderBy(f => f.Key, StringComparer.Ordinal))
            {
                var entry = zip.CreateEntry(path);
                entry.LastWriteTime = Zip;
                using var into = entry.Open();
                into.Write(content);
            }
        return bytes.ToArray();
    }

    /// <summary>The files of an archive that somebody handed in.</summary>
    /// <exception cref="RefusedException">It is none, it is too large, or a path leads out of it.</exception>
    public static SortedDictionary<string, byte[]> Unpack(Stream stream)
    {
        ZipArchive zip;
        try
        {
            zip = new ZipArchive(stream, ZipArchiveMode.Read);
        }
        catch (InvalidDataException)
        {
            throw Refuse(RefusalKind.Unreadable, "It is no ZIP archive.", "A kit as a ZIP archive.");
        }
        using (zip)
        {
            if (zip.Entries.Count > MostEntries)
                throw Refuse(RefusalKind.TooLarge, $"It has {zip.Entries.Count} entries.", $"At most {MostEntries}.");
            var files = new SortedDictionary<string, byte[]>(StringComparer.Ordinal);
            long all = 0;
            foreach (var entry in zip.Entries)
            {
                var path = entry.FullName;
                if (((entry.ExternalAttributes >> 16) & UnixKind) == UnixLink)
                    throw Refuse(RefusalKind.Unreadable, $"“{Shown(path)}” is a link.", "Plain files only.");
                if (path.EndsWith('/'))
                    continue;
                if (
                    path.Length > 200
                    || path.StartsWith('/')
                    || path.Contains('\\', StringComparison.Ordinal)
                    || path.Contains(':', StringComparison.Ordinal)
                    || path.Any(char.IsControl)
                    || path.Split('/').Any(p => p is "" or "." or "..")
                )
                    throw Refuse(
                        RefusalKind.Unreadable,
                        $"“{Shown(path)}” is no path within a kit.",
                        "Paths below the archive, with / between the names."
                    );
                var content = ReadEntry(entry, path, LargestKit - all);
                all += content.Length;
                if (!files.TryAdd(path, content))
                    throw Refuse(RefusalKind.Unreadable, $"“{Shown(path)}” is in it twice.", "Each file once.");
            }
            return files;
        }
    }

    private static byte[] ReadEntry(ZipArchiveEntry entry, string path, long room)
    {
        // The length in the directory is the archive's own word: what unfolds is counted while it does.
        var most = Math.Min(LargestFile, room);
        try
        {
            using var from = entry.Open();
            using var into = new MemoryStream();
            var buffer = new byte[64 * 1024];
            int read;
            while ((read = from.Read(buffer)) > 0)
            {
                if (into.Length + read > most)
                    throw Refuse(
                        RefusalKind.TooLarge,
                        $"“{Shown(path)}” unfolds to more than {Quantity.Drive(most)}.",
                        $"Files of at most {Quantity.Drive(LargestFile)}, {Quantity.Drive(LargestKit)} in all."
                    );
                into.Write(buffer, 0, read);
            }
            return into.ToArray();
        }
        catch (InvalidDataException)
        {
            throw Refuse(RefusalKind.Unreadable, $"“{Shown(path)}” is damaged.", "A whole archive.");
        }
    }

    private static string Shown(string path) => string.Concat(path.Take(80).Select(c => char.IsControl(c) ? '?' : c));

    private static Dictionary<string, object> ConfigOf(BootKit kit, IFacts facts, IdentityProfile? identity)
    {
        var tree = new Dictionary<string, object>(StringComparer.Ordinal)
        {
            ["format"] = Format,
            ["system"] = kit.System.Id,
            ["build"] = kit.Build,
            ["tool"] = kit.Components.Select(c => c.Component.Tool).Where(t => t is not null).MaxBy(Version) ?? "1.0",
            ["machine"] = Known(
                ("maker", facts.Word("identity.maker")),
                ("board", facts.Word("identity.board")),
                ("generation", facts.Word("cpu.generation")),
                ("table", kit.Table == PowerTableKind.Mobile ? "mobile" : "desktop")
            ),
        };
        if (identity is not null)
            tree["identity"] = Known(
                ("maker", identity.Maker),
                ("model", identity.Model),
                ("serial", identity.Serial),
                ("uuid", identity.Uuid?.ToString()),
                ("boardId", identity.BoardId),
                ("processor", identity.Processor)
            );
        tree["load"] = kit
            .Components.Select(c => new Dictionary<string, object>(StringComparer.Ordinal)
            {
                ["component"] = c.Component.Id,
                ["file"] = c.Component.File,
                ["version"] = c.Component.Version,
            })
            .ToList();
        var quirks = new Dictionary<string, object>(StringComparer.Ordinal);
        foreach (var quirk in kit.Quirks)
            quirks[quirk.Key] = true;
        tree["quirks"] = quirks;
        var settings = new Dictionary<string, object>(StringComparer.Ordinal);
        foreach (var trial in kit.Trials)
            settings[trial.Key] = trial.Values[0];
        foreach (var (key, value) in kit.Profile?.Settings ?? new Dictionary<string, int>())
            settings[key] = value;
        tree["settings"] = settings;
        tree["menu"] = new Dictionary<string, object>(StringComparer.Ordinal)
        {
            ["shown"] = facts.Word("plan.menu") != "hidden",
            ["seconds"] = 5,
        };
        return tree;
    }

    private static Dictionary<string, object> Known(params (string Key, string? Value)[] members) =>
        members.Where(m => m.Value is not null).ToDictionary(m => m.Key, m => (object)m.Value!, StringComparer.Ordinal);

    /// <summary>A version as numbers that can be compared: "1.10" is later than "1.9".</summary>
    public static long Version(string? version)
    {
        long sum = 0;
        var parts = (version ?? "").Split('.');
        for (var i = 0; i < 3; i++)
            sum =
                sum * 100_000
                + (
                    i < parts.Length
                    && int.TryParse(parts[i], NumberStyles.None, CultureInfo.InvariantCulture, out var n)
                        ? Math.Min(n, 99_999)
                        : 0
                );
        return sum;
    }

    private static RefusedException Refuse(RefusalKind kind, string what, string wanted) =>
        new(kind, what, "file", wanted);
}
