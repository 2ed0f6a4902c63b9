using System.Globalization;
using System.Text.Json;
using System.Xml;
using System.Xml.XPath;

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
    protected override (Standing Standing, string After) Change(string text)
    {
        var document = Xml.Read(text, this);
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
        return changed ? Fits(Xml.Write(document, text)) : Done(text);
    }
}

/// <summary>Sets a key of an XML property list.</summary>
public sealed record SetPropertyList : TextOperation
{
    /// <summary>Keys from the outside in; a whole number picks an item of an array.</summary>
    public required IReadOnlyList<string> Keys { get; init; }

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
    protected override (Standing Standing, string After) Change(string text)
    {
        var document = Xml.Read(text, this);
        var at = document.DocumentElement?.ChildNodes.OfType<XmlElement>().FirstOrDefault();
        if (document.DocumentElement?.Name != "plist" || at is null)
            throw No("The file is no XML property list.");
        var place = string.Join('/', Keys);
        var (name, value) = Form(Value)!.Value;
        for (var depth = 0; ; depth++)
        {
            var last = depth == Keys.Count - 1;
            if (Inside(at, Keys[depth]) is not { } found)
            {
                if (!last || at.Name != "dict" || Old is not null)
                    throw No(
                        Old is not null && last
                            ? $"The key is not there; the recipe wants it to be {Old}."
                            : $"There is no key “{Keys[depth]}”.",
                        place
                    );
                Add(document, at, Keys[depth], name, value);
                return Fits(Xml.Write(document, text));
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
            found.ParentNode!.ReplaceChild(Element(document, name, value), found);
            return Fits(Xml.Write(document, text));
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

    private static XmlElement? Inside(XmlElement at, string key)
    {
        var children = at.ChildNodes.OfType<XmlElement>().ToList();
        if (at.Name == "array")
            return int.TryParse(key, NumberStyles.None, CultureInfo.InvariantCulture, out var i) && i < children.Count
                ? children[i]
                : null;
        var name = at.Name == "dict" ? children.FindIndex(c => c.Name == "key" && c.InnerText == key) : -1;
        return name >= 0 && name + 1 < children.Count ? children[name + 1] : null;
    }

    private static XmlElement Element(XmlDocument document, string name, string value)
    {
        var element = document.CreateElement(name);
        if (value.Length > 0)
            element.InnerText = value;
        else
            element.IsEmpty = name is "true" or "false";
        return element;
    }

    private static void Add(XmlDocument document, XmlElement dict, string key, string name, string value)
    {
        var element = document.CreateElement("key");
        element.InnerText = key;
        // With the white space that stands before the last entry, so that it is indented like the others.
        var indent = dict.FirstChild is XmlWhitespace white ? white.Value : null;
        var end = dict.LastChild is XmlWhitespace ? dict.LastChild : null;
        foreach (XmlNode node in new[] { element, Element(document, name, value) })
        {
            if (indent is not null)
                dict.InsertBefore(document.CreateWhitespace(indent!), end);
            dict.InsertBefore(node, end);
        }
    }
}

/// <summary>XML that stays as it is where nothing is set: white space, comments, and the document type, which is never fetched.</summary>
internal static class Xml
{
    public static XmlDocument Read(string text, Operation operation)
    {
        var document = new XmlDocument { PreserveWhitespace = true, XmlResolver = null };
        try
        {
            using var reader = XmlReader.Create(
                new StringReader(text),
                new XmlReaderSettings
                {
                    DtdProcessing = DtdProcessing.Parse,
                    XmlResolver = null,
                    MaxCharactersFromEntities = 4096,
                    MaxCharactersInDocument = 16 << 20,
                }
            );
            document.Load(reader);
            return document;
        }
        catch (XmlException e)
        {
            throw new DoesNotFitException(operation.Path, $"line {e.LineNumber}", "The file is no well-formed XML.");
        }
    }

    public static string Write(XmlDocument document, string before)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (
            var writer = XmlWriter.Create(
                text,
                new XmlWriterSettings
                {
                    OmitXmlDeclaration = true,
                    NewLineHandling = NewLineHandling.None,
                    ConformanceLevel = ConformanceLevel.Auto,
                }
            )
        )
            foreach (XmlNode node in document.ChildNodes)
                if (node is not XmlDeclaration)
                    node.WriteTo(writer);
        // The declaration stays to the letter: a writer would name its own encoding.
        var end = before.StartsWith("<?xml", StringComparison.Ordinal)
            ? before.IndexOf("?>", StringComparison.Ordinal) + 2
            : 0;
        var after = before[..end] + text;
        return before.EndsWith('\n') && !after.EndsWith('\n') ? after + "\n" : after;
    }
}
