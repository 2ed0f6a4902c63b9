using System.Globalization;
using System.Text;
using System.Xml;

namespace FreshBoot.Formats.Texts;

/// <summary>XML property lists: dictionaries in which a key element stands before each value, and arrays.</summary>
public static class PropertyList
{
    /// <summary>The outermost value of a document; null where it is no property list.</summary>
    public static XmlElement? Root(XmlDocument document) =>
        document.DocumentElement is { Name: "plist" } root
            ? root.ChildNodes.OfType<XmlElement>().FirstOrDefault()
            : null;

    /// <summary>What lies under a key of a dictionary, or at a place of an array; null where there is nothing.</summary>
    public static XmlElement? Inside(XmlElement at, string key)
    {
        var children = at.ChildNodes.OfType<XmlElement>().ToList();
        if (at.Name == "array")
            return int.TryParse(key, NumberStyles.None, CultureInfo.InvariantCulture, out var i) && i < children.Count
                ? children[i]
                : null;
        var name = at.Name == "dict" ? children.FindIndex(c => c.Name == "key" && c.InnerText == key) : -1;
        return name >= 0 && name + 1 < children.Count ? children[name + 1] : null;
    }

    /// <summary>An element of a kind (string, integer, true, false) with its value.</summary>
    public static XmlElement Element(XmlDocument document, string name, string value)
    {
        var element = document.CreateElement(name);
        if (value.Length > 0)
            element.InnerText = value;
        else
            element.IsEmpty = name is "true" or "false";
        return element;
    }

    /// <summary>Adds a key to a dictionary, at its end.</summary>
    public static void Add(XmlDocument document, XmlElement dict, string key, string name, string value)
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

    /// <summary>Writes a value as a property list: a dictionary, list, text, whole number or truth value.</summary>
    /// <exception cref="ArgumentException">Something else is in it, or a sign that XML 1.0 does not have.</exception>
    public static string Write(object value)
    {
        var text = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<plist version=\"1.0\">\n");
        Write(value, text, 0);
        return text.Append("</plist>\n").ToString();
    }

    private static void Write(object value, StringBuilder text, int depth)
    {
        var indent = new string('\t', depth);
        switch (value)
        {
            case IEnumerable<KeyValuePair<string, string>> texts:
                Write(texts.Select(p => new KeyValuePair<string, object>(p.Key, p.Value)).ToList(), text, depth);
                break;
            case IEnumerable<KeyValuePair<string, object>> members:
                text.Append(indent).Append("<dict>\n");
                foreach (var (key, member) in members)
                {
                    text.Append(indent).Append("\t<key>").Append(Escaped(key)).Append("</key>\n");
                    Write(member, text, depth + 1);
                }
                text.Append(indent).Append("</dict>\n");
                break;
            case string word:
                text.Append(indent).Append("<string>").Append(Escaped(word)).Append("</string>\n");
                break;
            case bool truth:
                text.Append(indent).Append(truth ? "<true/>\n" : "<false/>\n");
                break;
            case int or long:
                text.Append(indent).Append(CultureInfo.InvariantCulture, $"<integer>{value}</integer>\n");
                break;
            case System.Collections.IEnumerable items:
                text.Append(indent).Append("<array>\n");
                foreach (var item in items)
                    Write(item!, text, depth + 1);
                text.Append(indent).Append("</array>\n");
                break;
            default:
                throw new ArgumentException($"A property list has no place for {value.GetType().Name}.", nameof(value));
        }
    }

    private static string Escaped(string text)
    {
        XmlConvert.VerifyXmlChars(text);
        return text.Replace("&", "&amp;", StringComparison.Ordinal)
            .Replace("<", "&lt;", StringComparison.Ordinal)
            .Replace(">", "&gt;", StringComparison.Ordinal)
            // A reader makes a line feed of it, unless it is written as a number.
            .Replace("\r", "&#13;", StringComparison.Ordinal);
    }
}
