using System.Globalization;
using System.Text.Json;
using System.Xml;
using System.Xml.XPath;
using FreshBoot.Formats.Texts;

namespace FreshBoot.Core.Patching;

/// <summary>Sets the text of elements or the value of attributes that an XPath 1.0 expression names.</summary>
public sealed record SetXml : TextOperation
{
    /// <summary>The expression.</summary>
    public required string XPath { get; init; }

    /// <summary>The value to set.</summary>
    public required string Value { get; init; }

    /// <summary>The value that each must have before.</summary>
    public required string Old { get; init; }

    /// <summary>How many nodes it must name.</summary>
    public int Count { get; init; } = 1;

    /// <inheritdoc/>
    public override string? Fault()
    {
        try
        {
            XPathExpression.Compile(XPath);
            return Value == Old ? "It sets a value to itself." : null;
        }
        catch (XPathException)
        {
            return $"“{XPath}” is no XPath 1.0 expression.";
        }
    }

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var document = Document(text);
        XmlNodeList? nodes;
        try
        {
            nodes = document.SelectNodes(XPath);
        }
        catch (XPathException)
        {
            throw No("The expression names no nodes of this file.", XPath);
        }
        if (nodes is null || nodes.Count != Count)
            throw No(
                $"The expression names {Numbers.Word(nodes?.Count ?? 0)} nodes; the recipe wants {Numbers.Word(Count)}.",
                XPath
            );
        var changed = false;
        foreach (XmlNode node in nodes)
        {
            if (node is XmlElement element && element.ChildNodes.OfType<XmlElement>().Any())
                throw No("An element with other elements inside has no value to set.", XPath);
            var found = node.InnerText;
            if (found == Value)
                continue;
            if (found != Old)
                throw No($"It is “{ReplaceText.Short(found)}”; the recipe wants “{Old}”.", XPath);
            node.InnerText = Value;
            changed = true;
        }
        return changed ? Fits(XmlDocuments.Write(document, text)) : Done(text);
    }
}

/// <summary>Sets a key of an XML property list.</summary>
public sealed record SetPropertyList : TextOperation
{
    /// <summary>Keys from the outside in; a whole number picks an item of an array.</summary>
    public required IReadOnlyList<string> Keys { get; init; }

    /// <inheritdoc/>
    public override IEnumerable<string?> Lists() => Keys;

    /// <summary>The value: a text, a whole number, true or false.</summary>
    public required JsonElement Value { get; init; }

    /// <summary>The value that it must have before; left out where the key must not be there yet.</summary>
    public JsonElement? Old { get; init; }

    /// <inheritdoc/>
    public override string? Fault() =>
        Keys.Count == 0 ? "There are no keys."
        : Form(Value) is null || Old is { } old && Form(old) is null
            ? "A value is a text, a whole number, true or false."
        : null;

    /// <inheritdoc/>
    protected override (Fitting Fitting, string After) Change(string text)
    {
        var document = Document(text);
        if (PropertyList.Root(document) is not { } at)
            throw No("The file is no XML property list.");
        var place = string.Join('/', Keys);
        var (name, value) = Form(Value)!.Value;
        for (var depth = 0; ; depth++)
        {
            var last = depth == Keys.Count - 1;
            if (PropertyList.Inside(at, Keys[depth]) is not { } found)
            {
                if (!last || at.Name != "dict" || Old is not null)
                    throw No(
                        Old is not null && last
                            ? $"The key is not there; the recipe wants it to be {Old}."
                            : $"There is no key “{Keys[depth]}”.",
                        place
                    );
                PropertyList.Add(document, at, Keys[depth], name, value);
                return Fits(XmlDocuments.Write(document, text));
            }
            if (!last)
            {
                at = found;
                continue;
            }
            if (Is(found, name, value))
                return Done(text);
            if (Old is not { } old || Form(old) is not { } wanted || !Is(found, wanted.Name, wanted.Value))
                throw No(
                    $"It is {found.OuterXml}; the recipe wants {(Old is null ? "it not to be there" : Old.ToString())}.",
                    place
                );
            found.ParentNode!.ReplaceChild(PropertyList.Element(document, name, value), found);
            return Fits(XmlDocuments.Write(document, text));
        }
    }

    private static bool Is(XmlElement element, string name, string value) =>
        element.Name == name && element.InnerText == value;

    private static (string Name, string Value)? Form(JsonElement value) =>
        value.ValueKind switch
        {
            JsonValueKind.String => ("string", value.GetString()!),
            JsonValueKind.True => ("true", ""),
            JsonValueKind.False => ("false", ""),
            JsonValueKind.Number when value.TryGetInt64(out var number) => (
                "integer",
                number.ToString(CultureInfo.InvariantCulture)
            ),
            _ => null,
        };
}
