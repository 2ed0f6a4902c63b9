using System.Globalization;
using System.Xml;

namespace FreshBoot.Formats.Texts;

/// <summary>XML that stays as it is where nothing is set: white space, comments, and the document type, which is never fetched.</summary>
public static class XmlDocuments
{
    /// <summary>Reads a document.</summary>
    /// <exception cref="FormatRefusedException">It is not well-formed, or tries to unfold itself into something large.</exception>
    public static XmlDocument Read(string text)
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
            throw new FormatRefusedException(
                "The file is no well-formed XML.",
                $"line {e.LineNumber}",
                "Well-formed XML."
            );
        }
    }

    /// <summary>Writes a document that was read from <paramref name="before"/>; one that nobody changed comes back to the byte.</summary>
    public static string Write(XmlDocument document, string before)
    {
        var after = Text(document, before);
        // The same sign can be written in several ways: what was not changed keeps its own.
        return after == Text(Read(before), before) ? before : after;
    }

    private static string Text(XmlDocument document, string before)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (
            var writer = XmlWriter.Create(
                text,
                new XmlWriterSettings
                {
                    OmitXmlDeclaration = true,
                    NewLineHandling = NewLineHandling.Entitize,
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
        // A writer sets a space before the end of an empty element; where the file has none, none comes in. Elsewhere “>” is escaped.
        var written = before.Contains(" />", StringComparison.Ordinal)
            ? text.ToString()
            : text.ToString().Replace(" />", "/>", StringComparison.Ordinal);
        var after = before[..end] + written;
        return before.EndsWith('\n') && !after.EndsWith('\n') ? after + "\n" : after;
    }
}
