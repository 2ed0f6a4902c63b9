using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Xml;
using FreshBoot.Core.Catalogue;
using FreshBoot.Core.Identity;
using FreshBoot.Formats;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.BootKits;

/// <summary>Something that is wrong with a kit.</summary>
/// <param name="File">The file.</param>
/// <param name="Key">The key in it; null for the file as a whole.</param>
/// <param name="Text">What is wrong, and what would be right.</param>
/// <param name="Repair">What a click does about it, in words; null where that is not certain.</param>
public sealed record KitFinding(string File, string? Key, string Text, string? Repair)
{
    /// <summary>The repair itself.</summary>
    internal Action<SortedDictionary<string, byte[]>>? Mend { get; init; }
}

/// <summary>
/// Holds a kit, built here, edited or handed in, against itself and the catalogue: what is listed is there, what is there is listed,
/// what is needed loads first, nothing excludes another, tables, versions and quirks fit, and nothing of a sample is left.
/// </summary>
public static class KitCheck
{
    private static readonly string[] Placeholders =
    [
        "",
        "placeholder",
        "fill-me-in",
        "changeme",
        "none",
        "unknown",
        "0",
    ];

    /// <summary>Everything that is wrong with it; none for a clean one.</summary>
    public static IReadOnlyList<KitFinding> Of(IReadOnlyDictionary<string, byte[]> files, ShopCatalogue catalogue)
    {
        if (!files.TryGetValue(KitFiles.Config, out var bytes))
            return [new KitFinding(KitFiles.Config, null, "There is no configuration in it.", null)];
        try
        {
            var text = Encoding.UTF8.GetString(bytes);
            return PropertyList.Root(XmlDocuments.Read(text)) is { Name: "dict" } root
                ? new Pass(files, catalogue, root).All()
                :
                [
                    new KitFinding(
                        KitFiles.Config,
                        null,
                        "The configuration is no property list with a dictionary in it.",
                        null
                    ),
                ];
        }
        catch (FormatRefusedException e)
        {
            return [new KitFinding(KitFiles.Config, e.Where, $"{e.Message} {e.Wanted}", null)];
        }
    }

    /// <summary>The kit with the certain repairs carried out that somebody chose.</summary>
    /// <param name="files">The kit.</param>
    /// <param name="catalogue">The catalogue.</param>
    /// <param name="which">The findings, by their place in the list; null for all that can be mended.</param>
    /// <exception cref="RefusedException">One of them has no certain repair.</exception>
    public static SortedDictionary<string, byte[]> Repaired(
        IReadOnlyDictionary<string, byte[]> files,
        ShopCatalogue catalogue,
        IReadOnlyCollection<int>? which
    )
    {
        var after = new SortedDictionary<string, byte[]>(
            files.ToDictionary(StringComparer.Ordinal),
            StringComparer.Ordinal
        );
        var findings = Of(files, catalogue);
        foreach (var i in which ?? [.. Enumerable.Range(0, findings.Count).Where(i => findings[i].Mend is not null)])
        {
            if (i < 0 || i >= findings.Count || findings[i].Mend is not { } mend)
                throw new RefusedException(
                    RefusalKind.Impossible,
                    "This finding has no certain repair.",
                    "findings",
                    "One that has; the others are for a person."
                );
            mend(after);
        }
        KitFiles.Sign(after);
        return after;
    }

    /// <summary>An entry of the list of what is loaded.</summary>
    private sealed record Entry(int Place, string? Id, string? File, string? Version, KitComponent? Component);

    private sealed class Pass(IReadOnlyDictionary<string, byte[]> files, ShopCatalogue catalogue, XmlElement root)
    {
        private readonly List<KitFinding> _found = [];

        public List<KitFinding> All()
        {
            if (Text("format") != KitFiles.Format)
                Say(
                    "format",
                    $"The format is “{Text("format")}”.",
                    $"Set it to “{KitFiles.Format}”",
                    d => SetText(d, "format", KitFiles.Format)
                );
            var system = catalogue.System(Text("system") ?? "");
            if (system?.Kit is null)
                Say("system", $"“{Text("system")}” is no system that takes a kit.");
            var entries = Entries();
            Listed(entries);
            Present(entries);
            Together(entries, system);
            Fits(entries, system);
            Quirks();
            Identity();
            Menu();
            Sums();
            return _found;
        }

        private List<Entry> Entries()
        {
            if (PropertyList.Inside(root, "load") is not { Name: "array" } load)
            {
                Say("load", "There is no list “load” of what is loaded.");
                return [];
            }
            return
            [
                .. load
                    .ChildNodes.OfType<XmlElement>()
                    .Select(
                        (e, i) =>
                        {
                            string? Of(string key) => e.Name == "dict" ? PropertyList.Inside(e, key)?.InnerText : null;
                            var (id, file) = (Of("component"), Of("file"));
                            return new Entry(
                                i,
                                id,
                                file,
                                Of("version"),
                                catalogue.Components.FirstOrDefault(c => c.Id == id)
                                    ?? catalogue.Components.FirstOrDefault(c => c.File == file)
                            );
                        }
                    ),
            ];
        }

        private static string At(Entry e) => string.Create(CultureInfo.InvariantCulture, $"load/{e.Place}");

        private static string Named(Entry e) => e.Component?.Name ?? e.Id ?? e.File ?? "an entry without a name";

        /// <summary>What is listed is there, once, and known.</summary>
        private void Listed(List<Entry> entries)
        {
            foreach (var e in entries)
            {
                if (e.File is not { Length: > 0 } file || file.Split('/').Any(p => p is "" or "." or ".."))
                {
                    Say(At(e), $"{Named(e)} names no file within the kit.");
                    continue;
                }
                if (entries.Exists(o => o.Place < e.Place && o.File == file))
                {
                    Say(At(e), $"{file} is listed twice.", "Take the second entry out", d => Drop(d, e.Place));
                    continue;
                }
                if (!files.TryGetValue(KitFiles.Folder + file, out var content))
                    if (e.Component is { } known && known.File == file)
                        Say(
                            At(e),
                            $"{file} is listed and not there.",
                            $"Put {known.Name} in",
                            d => d[KitFiles.Folder + file] = KitFiles.ContentOf(known)
                        );
                    else
                        Say(At(e), $"{file} is listed and not there.");
                else if (content.Length == 0)
                    _found.Add(new KitFinding(KitFiles.Folder + file, null, "The file is empty.", null));
                if (e.Component is null)
                    Say(At(e), $"{Named(e)} is no component of the catalogue: what it needs cannot be checked.");
            }
        }

        /// <summary>What is there is listed; samples go.</summary>
        private void Present(List<Entry> entries)
        {
            var listed = entries.Select(e => KitFiles.Folder + e.File).ToHashSet(StringComparer.Ordinal);
            var samples = catalogue.Components.SelectMany(c => c.Samples).ToHashSet(StringComparer.Ordinal);
            foreach (var path in files.Keys.Where(p => p is not (KitFiles.Config or KitFiles.Manifest)))
            {
                var below = path.StartsWith(KitFiles.Folder, StringComparison.Ordinal)
                    ? path[KitFiles.Folder.Length..]
                    : path;
                if (samples.Contains(below) || below.Contains("sample", StringComparison.OrdinalIgnoreCase))
                    _found.Add(
                        new KitFinding(
                            path,
                            null,
                            "A sample that came with a component: it is not for use.",
                            "Take it out"
                        )
                        {
                            Mend = d =>
                            {
                                d.Remove(path);
                                Change(d, r => DropFile(r, below));
                            },
                        }
                    );
                else if (!listed.Contains(path))
                    _found.Add(new KitFinding(path, null, "It is there and not listed: nothing loads it.", null));
            }
        }

        /// <summary>What one needs is there and before it, and nothing excludes another.</summary>
        private void Together(List<Entry> entries, SystemEntry? system)
        {
            foreach (var e in entries)
            {
                if (e.Component is not { } c)
                    continue;
                foreach (var need in c.Needs)
                    if (entries.Find(o => o.Component?.Id == need) is not { } before)
                    {
                        var missing = catalogue.Components.First(o => o.Id == need);
                        Say(
                            At(e),
                            $"{c.Name} needs {missing.Name}, and it is not in the kit.",
                            $"Put {missing.Name} in before it",
                            d => Put(d, missing, c)
                        );
                    }
                    else if (before.Place > e.Place)
                        Say(
                            At(e),
                            $"{c.Name} loads before {Named(before)}, which it needs.",
                            $"Move {Named(before)} before it",
                            d => Move(d, before.Component!.Id, c.Id)
                        );
                foreach (var first in c.After)
                    if (entries.Find(o => o.Component?.Id == first) is { } other && other.Place > e.Place)
                        Say(
                            At(e),
                            $"{c.Name} loads before {Named(other)}, and has to come after it.",
                            $"Move {Named(other)} before it",
                            d => Move(d, other.Component!.Id, c.Id)
                        );
                foreach (var other in entries.Where(o => o.Place > e.Place && o.Component is not null))
                    if (c.Excludes.Contains(other.Component!.Id) || other.Component.Excludes.Contains(c.Id))
                        Say(At(other), $"{other.Component.Name} and {c.Name} exclude each other: one of them goes.");
            }
            if (system?.Kit is not { } kit)
                return;
            var own = kit.OwnMaker is { } maker && Text("machine", "maker") == maker;
            foreach (var part in own ? kit.OwnParts : kit.Parts)
                if (entries.TrueForAll(e => e.Component?.Part != part))
                    Say(
                        "load",
                        $"{system.FullName} asks for a part of the kind “{Word(part)}”, and none is in the kit."
                    );
        }

        /// <summary>Tables, generations, systems, builds and versions.</summary>
        private void Fits(List<Entry> entries, SystemEntry? system)
        {
            var generation = Text("machine", "generation");
            var table = Text("machine", "table");
            _ = int.TryParse(Text("build"), NumberStyles.None, CultureInfo.InvariantCulture, out var build);
            var tool = Text("tool");
            foreach (var e in entries)
            {
                if (e.Component is not { } c)
                    continue;
                var right = catalogue
                    .Components.Where(o =>
                        o.Part == c.Part
                        && o.Id != c.Id
                        && o.Generations.Contains(generation ?? "")
                        && (o.Table is null || Word(o.Table.Value) == table)
                    )
                    .ToArray();
                var wrong =
                    c.Generations.Count > 0 && generation is not null && !c.Generations.Contains(generation)
                        ? $"{c.Name} is for {Numbers.Join(c.Generations, "and")}, and the machine has {Numbers.A(generation)}."
                    : c.Table is { } of && table is not null && Word(of) != table
                        ? $"{c.Name} is the {Word(of)} table, and this machine takes the {table} one."
                    : null;
                if (wrong is not null)
                    if (right.Length == 1)
                        Say(At(e), wrong, $"Take {right[0].Name} instead", d => Swap(d, c, right[0]));
                    else
                        Say(At(e), wrong);
                if (system is not null && c.Systems.Count > 0 && !c.Systems.Contains(system.Id))
                    Say(At(e), $"{c.Name} is not for {system.FullName}.");
                if (c.LeastBuild > 0 && build > 0 && build < c.LeastBuild)
                    Say(At(e), $"{c.Name} fits builds from {c.LeastBuild}, and the kit is for {build}.");
                if (c.MostBuild > 0 && build > c.MostBuild)
                    Say(At(e), $"{c.Name} fits builds up to {c.MostBuild}, and the kit is for {build}.");
                if (e.Version != c.Version)
                    Say(
                        At(e),
                        $"{c.Name} is listed as version {e.Version ?? "of nobody"}; version {c.Version} is proved.",
                        $"Take version {c.Version}",
                        d => Swap(d, c, c)
                    );
                if (c.Tool is { } least && KitFiles.Version(tool) < KitFiles.Version(least))
                    Say(
                        "tool",
                        $"{c.Name} wants a tool of version {least} at least, and the kit was made with {tool ?? "none that is named"}."
                    );
            }
        }

        private void Quirks()
        {
            var quirks = PropertyList.Inside(root, "quirks");
            var maker = Text("machine", "maker");
            foreach (var q in catalogue.Quirks)
            {
                var on = quirks is { Name: "dict" } && PropertyList.Inside(quirks, q.Key)?.Name == "true";
                if (!on && maker is not null && q.Needed.Contains(maker))
                    Say(
                        $"quirks/{q.Key}",
                        $"Firmware of {maker} needs it: {q.Why}",
                        "Set it",
                        d => Change(d, r => SetTrue(r, q.Key))
                    );
                if (on && maker is not null && q.Never.Contains(maker))
                    Say(
                        $"quirks/{q.Key}",
                        $"Firmware of {maker} must not have it: {q.Why}",
                        "Take it out",
                        d => Change(d, r => Remove(PropertyList.Inside(r, "quirks")!, q.Key))
                    );
            }
        }

        private void Identity()
        {
            if (PropertyList.Inside(root, "identity") is not { } identity)
                return;
            if (PropertyList.Inside(identity, "serial")?.InnerText is not { } serial)
                return;
            if (
                Placeholders.Contains(serial.ToLowerInvariant())
                || serial.All(c => c is '0' or 'X' or 'x' or '-')
                || serial.Contains("FILL", StringComparison.OrdinalIgnoreCase)
            )
                Say(
                    "identity/serial",
                    $"“{serial}” is a placeholder and no serial number: give the machine an identity."
                );
            else if (!SerialScheme.Checks(serial))
                Say(
                    "identity/serial",
                    "Its check character is wrong: a sign was mistyped, or it is not one that this shop gave."
                );
        }

        private void Menu()
        {
            if (PropertyList.Inside(root, "menu") is not { } menu)
                return;
            if (
                PropertyList.Inside(menu, "seconds") is { } seconds
                && (
                    !int.TryParse(seconds.InnerText, NumberStyles.None, CultureInfo.InvariantCulture, out var s)
                    || s is < 1 or > 60
                )
            )
                Say("menu/seconds", $"“{seconds.InnerText}” is no time for a menu: 1 to 60 seconds.");
        }

        private void Sums()
        {
            if (!files.TryGetValue(KitFiles.Manifest, out var list))
                return;
            foreach (var line in Encoding.UTF8.GetString(list).Split('\n', StringSplitOptions.RemoveEmptyEntries))
                if (
                    line.Split("  ", 2) is [var sum, var path]
                    && files.TryGetValue(path, out var content)
                    && Convert.ToHexStringLower(SHA256.HashData(content)) != sum
                )
                    _found.Add(
                        new KitFinding(
                            path,
                            null,
                            "Its SHA-256 is not the one of the manifest: it was changed since the kit was made.",
                            null
                        )
                    );
        }

        private string? Text(params string[] keys)
        {
            var at = root;
            foreach (var key in keys)
                if (PropertyList.Inside(at, key) is { } below)
                    at = below;
                else
                    return null;
            return at.InnerText;
        }

        private void Say(
            string key,
            string text,
            string? repair = null,
            Action<SortedDictionary<string, byte[]>>? mend = null
        ) => _found.Add(new KitFinding(KitFiles.Config, key, text, repair) { Mend = mend });
    }

    private static string Word<T>(T value)
        where T : struct, Enum => char.ToLowerInvariant($"{value}"[0]) + $"{value}"[1..];

    /// <summary>Changes the configuration; keys that nobody knows, their order and comments stay.</summary>
    private static void Change(SortedDictionary<string, byte[]> files, Action<XmlElement> change)
    {
        var text = Encoding.UTF8.GetString(files[KitFiles.Config]);
        var document = XmlDocuments.Read(text);
        change(PropertyList.Root(document)!);
        files[KitFiles.Config] = Encoding.UTF8.GetBytes(XmlDocuments.Write(document, text));
    }

    private static void SetText(SortedDictionary<string, byte[]> files, string key, string value) =>
        Change(
            files,
            r =>
            {
                if (PropertyList.Inside(r, key) is { } at)
                    at.ParentNode!.ReplaceChild(PropertyList.Element(r.OwnerDocument, "string", value), at);
                else
                    PropertyList.Add(r.OwnerDocument, r, key, "string", value);
            }
        );

    private static void SetTrue(XmlElement root, string key)
    {
        if (PropertyList.Inside(root, "quirks") is not { } quirks)
        {
            PropertyList.Add(root.OwnerDocument, root, "quirks", "dict", "");
            quirks = PropertyList.Inside(root, "quirks")!;
        }
        if (PropertyList.Inside(quirks, key) is { } at)
            quirks.ReplaceChild(PropertyList.Element(root.OwnerDocument, "true", ""), at);
        else
            PropertyList.Add(root.OwnerDocument, quirks, key, "true", "");
    }

    /// <summary>Takes a key and its value out of a dictionary, with the white space before them.</summary>
    private static void Remove(XmlElement dict, string key)
    {
        if (PropertyList.Inside(dict, key) is not { } value)
            return;
        var name = dict.ChildNodes.OfType<XmlElement>().First(e => e.Name == "key" && e.InnerText == key);
        foreach (var node in (XmlNode[])[value, name])
        {
            if (node.PreviousSibling is XmlWhitespace white)
                dict.RemoveChild(white);
            dict.RemoveChild(node);
        }
    }

    private static List<XmlElement> LoadOf(XmlElement root) =>
        [.. PropertyList.Inside(root, "load")!.ChildNodes.OfType<XmlElement>()];

    private static void Drop(SortedDictionary<string, byte[]> files, int place) =>
        Change(files, r => Out(LoadOf(r).ElementAtOrDefault(place)));

    private static void DropFile(XmlElement root, string file)
    {
        foreach (var e in LoadOf(root).Where(e => PropertyList.Inside(e, "file")?.InnerText == file))
            Out(e);
    }

    private static void Out(XmlElement? entry)
    {
        if (entry?.ParentNode is not { } list)
            return;
        if (entry.PreviousSibling is XmlWhitespace white)
            list.RemoveChild(white);
        list.RemoveChild(entry);
    }

    /// <summary>Puts a component into the list before another, and its file into the kit.</summary>
    private static void Put(SortedDictionary<string, byte[]> files, KitComponent missing, KitComponent before)
    {
        files[KitFiles.Folder + missing.File] = KitFiles.ContentOf(missing);
        Change(
            files,
            r =>
            {
                if (LoadOf(r).Exists(e => PropertyList.Inside(e, "component")?.InnerText == missing.Id))
                    return;
                var at = LoadOf(r).First(e => IsOf(e, before));
                var entry = (XmlElement)at.CloneNode(deep: true);
                Set(entry, missing);
                Insert(entry, at);
            }
        );
    }

    private static bool IsOf(XmlElement entry, KitComponent c) =>
        PropertyList.Inside(entry, "component")?.InnerText == c.Id
        || PropertyList.Inside(entry, "file")?.InnerText == c.File;

    private static void Move(SortedDictionary<string, byte[]> files, string id, string before) =>
        Change(
            files,
            r =>
            {
                var load = LoadOf(r);
                var moved = load.First(e => PropertyList.Inside(e, "component")?.InnerText == id);
                var at = load.First(e => PropertyList.Inside(e, "component")?.InnerText == before);
                if (load.IndexOf(moved) < load.IndexOf(at))
                    return;
                var entry = (XmlElement)moved.CloneNode(deep: true);
                Out(moved);
                Insert(entry, at);
            }
        );

    private static void Insert(XmlElement entry, XmlElement before)
    {
        var list = before.ParentNode!;
        list.InsertBefore(entry, before);
        if (before.PreviousSibling == entry && entry.PreviousSibling is XmlWhitespace white)
            list.InsertBefore(list.OwnerDocument!.CreateWhitespace(white.Value!), before);
    }

    private static void Set(XmlElement entry, KitComponent c)
    {
        foreach (var (key, value) in new[] { ("component", c.Id), ("file", c.File), ("version", c.Version) })
            if (PropertyList.Inside(entry, key) is { } at)
                at.InnerText = value;
            else
                PropertyList.Add(entry.OwnerDocument, entry, key, "string", value);
    }

    /// <summary>Puts one component in the place of another, or its proved version in the place of what is there.</summary>
    private static void Swap(SortedDictionary<string, byte[]> files, KitComponent old, KitComponent right)
    {
        files.Remove(KitFiles.Folder + old.File);
        files[KitFiles.Folder + right.File] = KitFiles.ContentOf(right);
        Change(
            files,
            r =>
            {
                foreach (var e in LoadOf(r).Where(e => IsOf(e, old)))
                    Set(e, right);
            }
        );
    }
}
