using System.Globalization;
using FreshBoot.Core.Handover;
using PdfSharp.Drawing;
using PdfSharp.Fonts;
using PdfSharp.Pdf;
using PdfSharp.UniversalAccessibility;

namespace FreshBoot.Server.Handover;

/// <summary>The sheet for the new owner as PDF (ISO 32000), on A4, with its fonts in it.</summary>
internal static class HandoverPdf
{
    private const double Margin = 48;
    private const double Gap = 22;
    private const double Indent = 11;
    private static readonly XBrush Ink = new XSolidBrush(XColor.FromArgb(0x1c, 0x2b, 0x2d));
    private static readonly XBrush Quiet = new XSolidBrush(XColor.FromArgb(0x56, 0x64, 0x63));
    private static readonly XPen Rule = new(XColor.FromArgb(0x1c, 0x2b, 0x2d), 0.8);

    static HandoverPdf() => GlobalFontSettings.FontResolver ??= new ShippedFonts();

    /// <summary>The file.</summary>
    /// <param name="sheet">What it says.</param>
    /// <param name="words">Words of its language, for the numbers of its pages.</param>
    public static byte[] Of(OwnerSheet sheet, OwnerWords words)
    {
        // Once to count its pages, and once to write them with their numbers.
        using (var counted = new PdfDocument())
            return Write(sheet, words, Fill(counted, sheet, words, 0));
    }

    private static int Fill(PdfDocument document, OwnerSheet sheet, OwnerWords words, int pages)
    {
        var paper = new Paper(
            document,
            sheet.Foot,
            page => words.Say("page", ("page", Text(page)), ("pages", Text(pages)))
        );
        paper.Head(sheet);
        foreach (var part in sheet.Parts)
            paper.Part(part, running: part.Id == OwnerSheet.TriedPart);
        return paper.End();
    }

    private static byte[] Write(OwnerSheet sheet, OwnerWords words, int pages)
    {
        using var document = new PdfDocument();
        // The library ends its compressed streams early, which strict readers tell; uncompressed ones are whole.
        document.Options.NoCompression = true;
        document.Options.CompressContentStreams = false;
        // A hard space has no place in the encoding of titles (ISO 32000-2, D.3): there it is another sign.
        document.Info.Title = $"{sheet.Tag} · {sheet.Title}".Replace('\u00a0', ' ');
        UAManager.ForDocument(document).SetDocumentLanguage(sheet.Language);
        Fill(document, sheet, words, pages);
        using var file = new MemoryStream();
        document.Save(file, closeStream: false);
        return file.ToArray();
    }

    private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);

    /// <summary>Two columns that fill from the top, page after page.</summary>
    private sealed class Paper(PdfDocument document, string foot, Func<int, string> number)
    {
        // Structure is told as it is drawn: headings, paragraphs, and what is only decoration.
        private readonly StructureBuilder _structure = UAManager.ForDocument(document).StructureBuilder;
        private XGraphics? _page;
        private int _pages;
        private double _width;
        private double _height;
        private double _top;
        private double _y;
        private int _column;

        private XGraphics Page => _page!;

        private double ColumnWidth => (_width - (2 * Margin) - Gap) / 2;

        private double Left => Margin + (_column * (ColumnWidth + Gap));

        private double Bottom => _height - Margin - 24;

        public void Head(OwnerSheet sheet)
        {
            NextPage();
            var title = new XFont("name", 25, XFontStyleEx.Bold);
            _structure.BeginElement(PdfBlockLevelElementTag.Heading1);
            foreach (var line in Wrapped(sheet.Title, title, _width - (2 * Margin)))
            {
                Page.DrawString(line, title, Ink, Margin, _y + 22);
                _y += 28;
            }
            _structure.End();
            _y += 6;
            var tag = new XFont("name", 17, XFontStyleEx.Bold);
            var plate = new XFont("text", 10, XFontStyleEx.Regular);
            var start = Margin + 24 + Page.MeasureString(sheet.Tag, tag).Width;
            var room = _width - Margin - 10 - start;
            string[] lines = [.. sheet.Plate.Where(p => p.Length > 0).SelectMany(p => Wrapped(p, plate, room))];
            var height = 14 + (Math.Max(lines.Length, 2) * 13.5);
            Decoration(() =>
                Page.DrawRectangle(
                    new XPen(XColor.FromArgb(0x1c, 0x2b, 0x2d), 1.5),
                    Margin,
                    _y,
                    _width - (2 * Margin),
                    height
                )
            );
            _structure.BeginElement(PdfBlockLevelElementTag.Paragraph);
            Page.DrawString(sheet.Tag, tag, Ink, Margin + 10, _y + 25);
            for (var i = 0; i < lines.Length; i++)
                Page.DrawString(lines[i], plate, Ink, start, _y + 17 + (i * 13.5));
            _structure.End();
            _y += height + 18;
            _top = _y;
        }

        /// <summary>A part with its heading, as a list, or running on where it is for those who ask.</summary>
        public void Part(OwnerPart part, bool running)
        {
            const double size = 10;
            const double step = size * 1.34;
            var head = new XFont("text", 11, XFontStyleEx.Bold);
            var font = new XFont("text", size, XFontStyleEx.Regular);
            var indent = running ? 0 : Indent;
            IReadOnlyList<string> items = running ? [string.Join(' ', part.Items)] : part.Items;
            var wrapped = items.Select(i => Wrapped(i, font, ColumnWidth - indent).ToArray()).ToArray();
            // A heading is never alone at the end of a column.
            Room(26 + (Math.Min(wrapped[0].Length, 4) * step));
            Decoration(() => Page.DrawLine(Rule, Left, _y, Left + ColumnWidth, _y));
            _structure.BeginElement(PdfBlockLevelElementTag.Heading2);
            Page.DrawString(part.Title, head, Ink, Left, _y + 15);
            _structure.End();
            _y += 22;
            foreach (var lines in wrapped)
            {
                Room(Math.Min(lines.Length, 4) * step);
                _structure.BeginElement(PdfBlockLevelElementTag.Paragraph);
                if (!running)
                    Page.DrawString("•", font, Ink, Left, _y + size);
                foreach (var line in lines)
                {
                    // What goes on in another column or on another page is a paragraph of its own there.
                    if (_y + step > Bottom)
                    {
                        _structure.End();
                        Room(step);
                        _structure.BeginElement(PdfBlockLevelElementTag.Paragraph);
                    }
                    Page.DrawString(line, font, Ink, Left + indent, _y + size);
                    _y += step;
                }
                _structure.End();
                _y += 2;
            }
            _y += 10;
        }

        /// <summary>Ends the last page.</summary>
        /// <returns>How many there are.</returns>
        public int End()
        {
            Foot();
            return _pages;
        }

        private void Foot()
        {
            if (_page is null)
                return;
            var font = new XFont("text", 8.5, XFontStyleEx.Regular);
            var y = _height - Margin;
            Decoration(() =>
            {
                Page.DrawLine(Rule, Margin, y - 14, _width - Margin, y - 14);
                Page.DrawString(foot, font, Quiet, Margin, y);
                Page.DrawString(
                    number(_pages),
                    font,
                    Quiet,
                    new XRect(Margin, y - 10, _width - (2 * Margin), 12),
                    XStringFormats.TopRight
                );
            });
            _page.Dispose();
            _page = null;
        }

        /// <summary>What a reader that speaks passes over (ISO 32000-2, 14.8.2.2: artifacts).</summary>
        private void Decoration(Action draw)
        {
            _structure.BeginArtifact();
            draw();
            _structure.End();
        }

        private void Room(double height)
        {
            if (_y + height <= Bottom)
                return;
            if (_column == 0)
            {
                _column = 1;
                _y = _top;
            }
            else
                NextPage();
        }

        private void NextPage()
        {
            Foot();
            var page = document.AddPage();
            page.Size = PdfSharp.PageSize.A4;
            (_width, _height) = (page.Width.Point, page.Height.Point);
            _page = XGraphics.FromPdfPage(page);
            _pages++;
            (_y, _top, _column) = (Margin, Margin, 0);
        }

        private IEnumerable<string> Wrapped(string text, XFont font, double width)
        {
            var line = "";
            foreach (
                var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries).SelectMany(w => Cut(w, font, width))
            )
            {
                var longer = line.Length == 0 ? word : $"{line} {word}";
                if (line.Length > 0 && Page.MeasureString(longer, font).Width > width)
                {
                    yield return line;
                    line = word;
                }
                else
                    line = longer;
            }
            if (line.Length > 0)
                yield return line;
        }

        /// <summary>A word that is wider than the column is cut, so that nothing runs off the paper.</summary>
        private IEnumerable<string> Cut(string word, XFont font, double width)
        {
            var start = 0;
            for (var end = 1; end <= word.Length; end++)
                if (end - start > 1 && Page.MeasureString(word[start..end], font).Width > width)
                {
                    yield return word[start..(end - 1)];
                    start = end - 1;
                }
            yield return word[start..];
        }
    }

    /// <summary>The fonts of the screens, which ship with the application; no font of the computer is asked for.</summary>
    private sealed class ShippedFonts : IFontResolver
    {
        public FontResolverInfo ResolveTypeface(string familyName, bool isBold, bool isItalic) =>
            new(
                familyName == "name" ? "name-bold"
                : isBold ? "text-bold"
                : "text"
            );

        public byte[] GetFont(string faceName)
        {
            using var stream =
                typeof(HandoverPdf).Assembly.GetManifestResourceStream($"fonts/{faceName}.ttf")
                ?? throw new InvalidOperationException($"The font {faceName} is not in the application.");
            var bytes = new byte[stream.Length];
            stream.ReadExactly(bytes);
            return bytes;
        }
    }
}
