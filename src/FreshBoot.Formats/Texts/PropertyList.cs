using System.Globalization;
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
}
