using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Xml;
using FreshBoot.Formats;
using FreshBoot.Formats.FileSystems;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Patching;

/// <summary>Thrown by an operation whose precondition does not hold: file, place, and what would be right.</summary>
public sealed class DoesNotFitException(string path, string place, string what)
    : RefusedException(
        RefusalKind.Conflict,
        what,
        place.Length == 0 ? path : $"{path}, {place}",
        "The file as the recipe was proved with."
    );

/// <summary>How an operation stands to the files it finds.</summary>
public enum Fitting
{
    /// <summary>It can be applied.</summary>
    Fits,

    /// <summary>What it would do is there already.</summary>
    Done,
}

/// <summary>
/// One change to files. An operation looks before it touches: <see cref="Look"/> says whether it can be applied or is applied
/// already, or throws; <see cref="Apply"/> is only called where it fits.
/// </summary>
[JsonPolymorphic(
    TypeDiscriminatorPropertyName = "op",
    UnknownDerivedTypeHandling = JsonUnknownDerivedTypeHandling.FailSerialization
)]
[JsonDerivedType(typeof(ReplaceText), "replaceText")]
[JsonDerivedType(typeof(InsertLines), "insertLines")]
[JsonDerivedType(typeof(RemoveLines), "removeLines")]
[JsonDerivedType(typeof(SetIni), "setIni")]
[JsonDerivedType(typeof(PatchJson), "patchJson")]
[JsonDerivedType(typeof(SetXml), "setXml")]
[JsonDerivedType(typeof(SetPropertyList), "setPropertyList")]
[JsonDerivedType(typeof(AddFile), "addFile")]
[JsonDerivedType(typeof(AddArchive), "addArchive")]
[JsonDerivedType(typeof(ReplaceFile), "replaceFile")]
[JsonDerivedType(typeof(RemoveFile), "removeFile")]
[JsonDerivedType(typeof(RenameFile), "renameFile")]
[JsonDerivedType(typeof(ReplaceBytes), "replaceBytes")]
[JsonDerivedType(typeof(AppendArguments), "appendArguments")]
public abstract record Operation
{
    /// <summary>The file that it is about.</summary>
    [JsonPropertyOrder(-1)]
    public required string Path { get; init; }

    /// <summary>Every path that it names.</summary>
    public virtual IEnumerable<string> Paths() => [Path];

    /// <summary>The items of its lists.</summary>
    public virtual IEnumerable<string?> Lists() => [];

    /// <summary>What is wrong with it whatever the files are; null where nothing is.</summary>
    public virtual string? Fault() => null;

    /// <summary>Whether it fits the files or is done already.</summary>
    /// <exception cref="DoesNotFitException">Neither.</exception>
    public abstract Fitting Look(PatchFiles files);

    /// <summary>Does it.</summary>
    public abstract void Apply(PatchFiles files);
}

/// <summary>An operation on the text of a file.</summary>
public abstract record TextOperation : Operation
{
    /// <inheritdoc/>
    public sealed override Fitting Look(PatchFiles files) => Change(files.Text(Path)).Fitting;

    /// <inheritdoc/>
    public sealed override void Apply(PatchFiles files) =>
        files.Put(Path, files.Encode(Path, Change(files.Text(Path)).After));

    /// <summary>The text afterwards, or that it is done already.</summary>
    protected abstract (Fitting Fitting, string After) Change(string text);

    /// <summary>The line of a place in a text, from 1.</summary>
    protected static string LineOf(string text, int index) => $"line {text.AsSpan(0, index).Count('\n') + 1}";

    private protected static (Fitting, string) Done(string text) => (Fitting.Done, text);

    private protected static (Fitting, string) Fits(string text) => (Fitting.Fits, text);

    /// <summary>The text as an XML document.</summary>
    private protected XmlDocument Document(string text)
    {
        try
        {
            return XmlDocuments.Read(text);
        }
        catch (FormatRefusedException e)
        {
            throw No(e.Message, e.Where);
        }
    }

    private protected DoesNotFitException No(string what, string place = "") => new(Path, place, what);
}

/// <summary>Replaces a text that must occur exactly so many times.</summary>
public sealed record ReplaceText : TextOperation
{
    /// <summary>The text to look for.</summary>
    public required string Find { get; init; }

    /// <summary>What to put in its place.</summary>
    public required string With { get; init; }

    /// <summary>How often it must occur.</summary>
    public int Count { get; init; } = 1;

    /// <inheritdoc/>
    public override string? Fault() =>
        Find.Length == 0 ? "The text to look for is empty."
        : Count < 1 ? "The count is less than one."
        : Find == With ? "It replaces a text by itself."
        : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        // An occurrence inside what was put in its place is done, not to do.
        var done = With.Length == 0 ? [] : Places(text, With);
        var open = Places(text, Find)
            .Where(p => !done.Exists(d => p >= d && p + Find.Length <= d + With.Length))
            .ToList();
        if (open.Count == Count)
        {
            var after = new StringBuilder(text);
            for (var i = open.Count - 1; i >= 0; i--)
                after.Remove(open[i], Find.Length).Insert(open[i], With);
            return Fits(after.ToString());
        }
        if (open.Count == 0 && (With.Length == 0 || done.Count >= Count))
            return Done(text);
        throw No(
            $"“{Short(Find)}” {(open.Count == 0 ? "does not occur" : $"occurs {Times(open.Count)}")}; the recipe wants it {Times(Count)}.",
            open.Count > 0 ? LineOf(text, open[0]) : ""
        );
    }

    private static string Times(int count) =>
        count switch
        {
            1 => "once",
            2 => "twice",
            _ => $"{Numbers.Word(count)} times",
        };

    private static List<int> Places(string text, string find)
    {
        var all = new List<int>();
        for (
            var at = text.IndexOf(find, StringComparison.Ordinal);
            at >= 0;
            at = text.IndexOf(find, at + find.Length, StringComparison.Ordinal)
        )
            all.Add(at);
        return all;
    }

    internal static string Short(string text) => text.Length > 60 ? text[..60] + "…" : text;
}

/// <summary>Inserts lines before or after a line.</summary>
public sealed record InsertLines : TextOperation
{
    /// <summary>The whole line after which they go; null for <see cref="Before"/>.</summary>
    public string? After { get; init; }

    /// <summary>The whole line before which they go.</summary>
    public string? Before { get; init; }

    /// <summary>The lines.</summary>
    public required IReadOnlyList<string> Lines { get; init; }

    /// <inheritdoc/>
    public override IEnumerable<string?> Lists() => Lines;

    /// <inheritdoc/>
    public override string? Fault() =>
        After is null == Before is null ? "It says “after” or “before”, one of them."
        : Lines.Count == 0 ? "There are no lines."
        : Lines.Any(l => l.Contains('\n', StringComparison.Ordinal)) ? "A line holds a line feed."
        : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var (lines, feed) = TextLines.Split(text);
        var anchor = After ?? Before!;
        var places = Enumerable.Range(0, lines.Count).Where(i => lines[i] == anchor).ToList();
        if (places is not [var place])
            throw No(
                $"The line “{ReplaceText.Short(anchor)}” is there {Numbers.Word(places.Count)} times; it must be there once.",
                places.Count > 1 ? $"lines {Numbers.Join(places.Select(p => $"{p + 1}"), "and")}" : ""
            );
        var at = After is null ? place : place + 1;
        var begin = After is null ? at - Lines.Count : at;
        if (
            begin >= 0
            && begin + Lines.Count <= lines.Count
            && lines.Skip(begin).Take(Lines.Count).SequenceEqual(Lines)
        )
            return Done(text);
        lines.InsertRange(at, Lines);
        return Fits(TextLines.Join(lines, feed));
    }
}

/// <summary>Removes lines that follow one another and must be there once.</summary>
public sealed record RemoveLines : TextOperation
{
    /// <summary>The whole lines.</summary>
    public required IReadOnlyList<string> Lines { get; init; }

    /// <inheritdoc/>
    public override IEnumerable<string?> Lists() => Lines;

    /// <inheritdoc/>
    public override string? Fault() => Lines.Count == 0 ? "There are no lines." : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var (lines, feed) = TextLines.Split(text);
        var places = Enumerable
            .Range(0, Math.Max(0, lines.Count - Lines.Count + 1))
            .Where(i => lines.Skip(i).Take(Lines.Count).SequenceEqual(Lines))
            .ToList();
        if (places.Count == 0)
            // All of them there, but apart, is neither before nor after.
            return Lines.All(lines.Contains)
                ? throw No(
                    "The lines to remove are there, but do not follow one another.",
                    $"line {lines.FindIndex(l => Lines.Contains(l)) + 1}"
                )
                : Done(text);
        if (places.Count > 1)
            throw No($"The lines to remove are there {Numbers.Word(places.Count)} times.", $"line {places[1] + 1}");
        lines.RemoveRange(places[0], Lines.Count);
        return Fits(TextLines.Join(lines, feed));
    }
}

/// <summary>Sets a key of a section of an INI file; everything else stays as it is.</summary>
public sealed record SetIni : TextOperation
{
    /// <summary>The section, without brackets; empty for what stands above the first one.</summary>
    public required string Section { get; init; }

    /// <summary>The key.</summary>
    public required string Key { get; init; }

    /// <summary>The value to set.</summary>
    public required string Value { get; init; }

    /// <summary>The value that it must have before; null where the key must not be there yet.</summary>
    public string? Old { get; init; }

    /// <inheritdoc/>
    public override string? Fault() =>
        string.IsNullOrWhiteSpace(Key) || Key.Contains('=', StringComparison.Ordinal)
            ? "The key is empty or holds an equals sign."
        : (Section + Key + Value).Any(char.IsControl) ? "A control character in section, key or value."
        : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var (lines, feed) = TextLines.Split(text);
        var place = IniText.Find(lines, Section, Key);
        if (place.Twice is { } twice)
            throw No($"The key “{Key}” is there twice.", $"line {twice + 1}");
        if (place.End is not { } end)
            throw No($"There is no section [{Section}].");
        if (place.Line is not { } at)
        {
            if (Old is not null)
                throw No($"The key “{Key}” is not there; the recipe wants it to be “{Old}”.", $"section [{Section}]");
            lines.Insert(end, $"{Key} = {Value}");
            return Fits(TextLines.Join(lines, feed));
        }
        var found = IniText.ValueOf(lines[at]);
        if (found == Value)
            return Done(text);
        if (Old is null || found != Old)
            throw No(
                $"“{Key}” is “{found}”; the recipe wants {(Old is null ? "it not to be there" : $"“{Old}”")}.",
                $"line {at + 1}"
            );
        lines[at] = IniText.WithValue(lines[at], Value);
        return Fits(TextLines.Join(lines, feed));
    }
}

/// <summary>Appends arguments to the lines of a loader's configuration that begin with a command.</summary>
public sealed record AppendArguments : TextOperation
{
    /// <summary>The command with which the lines begin, such as <c>linux</c> or <c>arguments</c>.</summary>
    public required string Command { get; init; }

    /// <summary>The arguments.</summary>
    public required IReadOnlyList<string> Arguments { get; init; }

    /// <inheritdoc/>
    public override IEnumerable<string?> Lists() => Arguments;

    /// <summary>How many such lines there must be.</summary>
    public int Count { get; init; } = 1;

    /// <inheritdoc/>
    public override string? Fault() =>
        Command.Length == 0 || Command.Any(char.IsWhiteSpace) ? "The command is empty or holds a space."
        : Arguments.Count == 0
        || Arguments.Any(a => a.Length == 0 || a.Any(c => char.IsWhiteSpace(c) || char.IsControl(c)))
            ? "An argument is empty or holds a space."
        : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var (lines, feed) = TextLines.Split(text);
        var places = Enumerable
            .Range(0, lines.Count)
            .Where(i => lines[i].TrimStart().Split((char[])[' ', '\t'], 2)[0] == Command)
            .ToList();
        if (places.Count != Count)
            throw No(
                $"{Numbers.Word(places.Count)} lines begin with “{Command}”; the recipe wants {Numbers.Word(Count)}."
            );
        var changed = false;
        foreach (var i in places)
        {
            var there = lines[i].Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries);
            var missing = Arguments.Where(a => !there.Contains(a)).ToArray();
            if (missing.Length == 0)
                continue;
            lines[i] = $"{lines[i].TrimEnd()} {string.Join(' ', missing)}";
            changed = true;
        }
        return changed ? Fits(TextLines.Join(lines, feed)) : Done(text);
    }
}

/// <summary>Applies a JSON Patch (RFC 6902). The file comes out with its indentation made even.</summary>
public sealed record PatchJson : TextOperation
{
    /// <summary>The patch: an array of operations of RFC 6902.</summary>
    public required JsonArray Patch { get; init; }

    /// <inheritdoc/>
    public override string? Fault() => Patch.Count == 0 ? "The patch is empty." : JsonPatch.Fault(Patch);

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        JsonNode? node;
        try
        {
            node = JsonNode.Parse(text);
        }
        catch (JsonException e)
        {
            throw No("The file is no JSON.", $"line {e.LineNumber + 1}");
        }
        if (JsonPatch.IsDone(node, Patch))
            return Done(text);
        try
        {
            var after = JsonPatch.Apply(node, Patch);
            return Fits((after?.ToJsonString(Recipe.Json) ?? "null") + (text.EndsWith('\n') ? "\n" : ""));
        }
        catch (JsonPatch.FailedException e)
        {
            throw No(e.Message, e.Place);
        }
    }
}

/// <summary>Adds a file that must not be there.</summary>
public sealed record AddFile : Operation
{
    /// <summary>Its content as text.</summary>
    public string? Text { get; init; }

    /// <summary>Its content in Base64.</summary>
    public string? Base64 { get; init; }

    /// <inheritdoc/>
    public override string? Fault() => Content.Fault(Text, Base64);

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files)
    {
        if (files.Read(Path) is not { } there)
            return Fitting.Fits;
        return there.AsSpan().SequenceEqual(Content.Bytes(Text, Base64))
            ? Fitting.Done
            : throw new DoesNotFitException(Path, "", "The file to add is there already, with another content.");
    }

    /// <inheritdoc/>
    public override void Apply(PatchFiles files) => files.Put(Path, Content.Bytes(Text, Base64));
}

/// <summary>
/// Adds a cpio archive that must not be there, with one file in its root: a loader gives it to the kernel behind the installer's own
/// archive, which stays as it is.
/// </summary>
public sealed record AddArchive : Operation
{
    /// <summary>The name of the file in it.</summary>
    public required string Name { get; init; }

    /// <summary>Its content as text.</summary>
    public string? Text { get; init; }

    /// <summary>Its content in Base64.</summary>
    public string? Base64 { get; init; }

    /// <inheritdoc/>
    public override string? Fault()
    {
        if (Content.Fault(Text, Base64) is { } fault)
            return fault;
        try
        {
            Bytes();
            return null;
        }
        catch (FormatRefusedException e)
        {
            return e.Message;
        }
    }

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files)
    {
        if (files.Read(Path) is not { } there)
            return Fitting.Fits;
        return there.AsSpan().SequenceEqual(Bytes())
            ? Fitting.Done
            : throw new DoesNotFitException(Path, "", "The archive to add is there already, with another content.");
    }

    /// <inheritdoc/>
    public override void Apply(PatchFiles files) => files.Put(Path, Bytes());

    private byte[] Bytes() => CpioArchive.Of(Name, Content.Bytes(Text, Base64));
}

/// <summary>Replaces a file whose old checksum is known.</summary>
public sealed record ReplaceFile : Operation
{
    /// <summary>SHA-256 that it must have.</summary>
    public required string OldSha256 { get; init; }

    /// <summary>Its new content as text.</summary>
    public string? Text { get; init; }

    /// <summary>Its new content in Base64.</summary>
    public string? Base64 { get; init; }

    /// <inheritdoc/>
    public override string? Fault() => Content.Fault(Text, Base64);

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files)
    {
        var there = files.Need(Path);
        return there.AsSpan().SequenceEqual(Content.Bytes(Text, Base64)) ? Fitting.Done
            : Content.Hash(there) == OldSha256 ? Fitting.Fits
            : throw new DoesNotFitException(
                Path,
                "",
                $"The file has SHA-256 {Content.Hash(there)[..16]}…, the recipe was proved with {OldSha256[..Math.Min(16, OldSha256.Length)]}…."
            );
    }

    /// <inheritdoc/>
    public override void Apply(PatchFiles files) => files.Put(Path, Content.Bytes(Text, Base64));
}

/// <summary>Removes a file whose checksum is known.</summary>
public sealed record RemoveFile : Operation
{
    /// <summary>SHA-256 that it must have.</summary>
    public required string OldSha256 { get; init; }

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files)
    {
        if (files.Read(Path) is not { } there)
            return Fitting.Done;
        return Content.Hash(there) == OldSha256
            ? Fitting.Fits
            : throw new DoesNotFitException(
                Path,
                "",
                $"The file to remove has SHA-256 {Content.Hash(there)[..16]}…, the recipe was proved with {OldSha256[..Math.Min(16, OldSha256.Length)]}…."
            );
    }

    /// <inheritdoc/>
    public override void Apply(PatchFiles files) => files.Remove(Path);
}

/// <summary>Renames a file; nothing may lie at the new place.</summary>
public sealed record RenameFile : Operation
{
    /// <summary>Its new path.</summary>
    public required string To { get; init; }

    /// <inheritdoc/>
    public override IEnumerable<string> Paths() => [Path, To];

    /// <inheritdoc/>
    public override string? Fault() => Path == To ? "It renames a file to itself." : null;

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files) =>
        (files.Has(Path), files.Has(To)) switch
        {
            (true, false) => Fitting.Fits,
            (false, true) => Fitting.Done,
            (false, false) => throw new DoesNotFitException(Path, "", "The file to rename is not there."),
            _ => throw new DoesNotFitException(To, "", "Something lies at the new place already."),
        };

    /// <inheritdoc/>
    public override void Apply(PatchFiles files) => files.Move(Path, To);
}

/// <summary>Replaces bytes at an offset where the old ones must be what is expected; the size stays.</summary>
public sealed record ReplaceBytes : Operation
{
    /// <summary>Offset in bytes.</summary>
    public required long Offset { get; init; }

    /// <summary>The bytes that must be there, hexadecimal.</summary>
    public required string Old { get; init; }

    /// <summary>The bytes to put there, hexadecimal, as many.</summary>
    public required string New { get; init; }

    /// <inheritdoc/>
    public override string? Fault() =>
        Offset < 0 ? "The offset is below zero."
        : !IsHex(Old) || !IsHex(New) ? "Old and new bytes are pairs of hexadecimal digits."
        : Old.Length != New.Length ? "There must be as many new bytes as old ones."
        : string.Equals(Old, New, StringComparison.OrdinalIgnoreCase) ? "It replaces bytes by themselves."
        : null;

    /// <inheritdoc/>
    public override Fitting Look(PatchFiles files)
    {
        var bytes = files.Need(Path);
        var length = Old.Length / 2;
        if (Offset > bytes.Length - length)
            throw new DoesNotFitException(Path, $"offset {Offset}", $"The file ends at {bytes.Length}.");
        var found = bytes.AsSpan((int)Offset, length);
        return found.SequenceEqual(Convert.FromHexString(Old)) ? Fitting.Fits
            : found.SequenceEqual(Convert.FromHexString(New)) ? Fitting.Done
            : throw new DoesNotFitException(
                Path,
                $"offset {Offset}",
                $"There is {Convert.ToHexStringLower(found)}; the recipe wants {Old}."
            );
    }

    /// <inheritdoc/>
    public override void Apply(PatchFiles files)
    {
        var bytes = files.Need(Path).ToArray();
        Convert.FromHexString(New).CopyTo(bytes.AsSpan((int)Offset));
        files.Put(Path, bytes);
    }

    private static bool IsHex(string text) => text.Length > 0 && text.Length % 2 == 0 && text.All(char.IsAsciiHexDigit);
}

/// <summary>Content of a file as a recipe holds it.</summary>
internal static class Content
{
    public static string? Fault(string? text, string? base64)
    {
        if (text is null == base64 is null)
            return "The content is given as “text” or as “base64”, one of them.";
        return base64 is not null && !Convert.TryFromBase64String(base64, new byte[base64.Length], out _)
            ? "The content is no Base64."
            : null;
    }

    public static byte[] Bytes(string? text, string? base64) =>
        text is null ? Convert.FromBase64String(base64!) : Encoding.UTF8.GetBytes(text);

    public static string Hash(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));
}
