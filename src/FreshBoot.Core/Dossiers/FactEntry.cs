using System.Globalization;
using System.Text.Json;

namespace FreshBoot.Core.Dossiers;

/// <summary>Checks a value that a person or a script hands in, and turns it into a <see cref="FactValue"/>.</summary>
public static class FactEntry
{
    /// <summary>Reads a JSON value for <paramref name="key"/>; a number may come as text with a unit, "8 GB".</summary>
    /// <exception cref="RefusedException">Unknown key, wrong form, wrong unit, out of range, not among the choices.</exception>
    public static FactValue Read(string key, JsonElement value)
    {
        var definition = FactRegistry.Get(key);
        if (!Readable(value))
            throw new RefusedException(
                RefusalKind.Invalid,
                "The value holds half of a surrogate pair: it is no text.",
                key,
                "Whole characters."
            );
        if (definition.Derived && definition.Form == FactForm.Choice)
            throw Refuse(
                definition,
                $"{definition.Label} is computed from other facts and cannot be entered.",
                "Correct the fact it follows from."
            );
        return definition.Form switch
        {
            FactForm.Whole => FactValue.Of(Whole(definition, value)),
            FactForm.Choice => FactValue.Of(OneOf(definition, value)),
            FactForm.Words => FactValue.Of(WordsOf(definition, value)),
            _ => FactValue.Of(Text(definition, value)),
        };
    }

    /// <summary>Whether its texts can be read at all.</summary>
    private static bool Readable(JsonElement value)
    {
        try
        {
            if (value.ValueKind == JsonValueKind.String)
                value.GetString();
            else if (value.ValueKind == JsonValueKind.Array)
                return value.EnumerateArray().All(Readable);
            return true;
        }
        catch (InvalidOperationException)
        {
            return false;
        }
    }

    private static long Whole(FactDefinition definition, JsonElement value)
    {
        var number = value.ValueKind switch
        {
            JsonValueKind.Number => value.TryGetInt64(out var n) ? n : null,
            JsonValueKind.String when definition.Unit is "B" or "MiB" => Quantity.Parse(
                value.GetString()!,
                definition.Unit
            ),
            JsonValueKind.String when definition.Unit is { } unit => Counted(value.GetString()!, unit),
            JsonValueKind.String => long.TryParse(
                value.GetString(),
                NumberStyles.None,
                CultureInfo.InvariantCulture,
                out var n
            )
                ? n
                : null,
            _ => (long?)null,
        };
        var range = $"a whole number from {definition.Min} to {definition.Max}";
        var wanted = definition.Unit switch
        {
            "MiB" => $"{range} (MiB), or an amount such as “8 GiB”.",
            "B" => $"{range} (bytes), or an amount such as “250 GB”.",
            { } unit => $"{range} ({unit}).",
            _ => $"{range}.",
        };
        if (number is not { } found)
            throw Refuse(
                definition,
                $"“{Shown(value)}” is not {(definition.Unit is "B" or "MiB" ? "an amount of bytes" : "a whole number")}.",
                wanted
            );
        if (found < definition.Min || found > definition.Max)
            throw Refuse(definition, $"{definition.Label} of {Shown(value)} is out of range.", wanted);
        if (definition.Key == "cpu.wordBits" && found is not (32 or 64))
            throw Refuse(definition, $"A word size of {found} bits does not exist here.", "32 or 64.");
        return found;
    }

    /// <summary>A number that may have its unit behind it: "87 %", "1240 h".</summary>
    private static long? Counted(string text, string unit)
    {
        var bare = text.Trim();
        if (bare.EndsWith(unit, StringComparison.OrdinalIgnoreCase))
            bare = bare[..^unit.Length].TrimEnd();
        return long.TryParse(bare, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
    }

    private static string OneOf(FactDefinition definition, JsonElement value)
    {
        var text = value.ValueKind == JsonValueKind.String ? value.GetString()! : Shown(value);
        return definition.Choices.Any(c => c.Value == text)
            ? text
            : throw Refuse(
                definition,
                $"“{text}” is no value of {definition.Key}.",
                "One of: " + string.Join(", ", definition.Choices.Select(c => c.Value)) + "."
            );
    }

    private static List<string> WordsOf(FactDefinition definition, JsonElement value)
    {
        var words = value.ValueKind switch
        {
            JsonValueKind.String => value.GetString()!.Split(' ', StringSplitOptions.RemoveEmptyEntries),
            JsonValueKind.Array when value.EnumerateArray().All(e => e.ValueKind == JsonValueKind.String) => value
                .EnumerateArray()
                .Select(e => e.GetString()!)
                .ToArray(),
            _ => [],
        };
        if (words.Length is 0 or > 1000 || words.Any(w => w.Length is 0 or > 60 || w.Any(c => c <= ' ')))
            throw Refuse(
                definition,
                $"“{Shown(value)}” is no list of words.",
                "An array of words, or a text with blanks between them."
            );
        return [.. words];
    }

    private static string Text(FactDefinition definition, JsonElement value)
    {
        var text = value.ValueKind == JsonValueKind.String ? value.GetString()!.Trim() : "";
        if (
            text.Length == 0
            || text.Length > definition.Longest
            || text.Any(c => char.IsControl(c) && !(definition.Lines && (c is '\n' or '\r' or '\t')))
        )
            throw Refuse(
                definition,
                $"“{Shown(value)}” is no text for {definition.Key}.",
                $"A text of 1 to {definition.Longest} characters{(definition.Lines ? "" : " on one line")}."
            );
        return text;
    }

    private static string Shown(JsonElement value)
    {
        var text = value.ValueKind == JsonValueKind.String ? value.GetString()! : value.GetRawText();
        return text.Length <= 60 ? text : text[..60] + "…";
    }

    private static RefusedException Refuse(FactDefinition definition, string what, string wanted) =>
        new(RefusalKind.Invalid, what, definition.Key, wanted);
}
