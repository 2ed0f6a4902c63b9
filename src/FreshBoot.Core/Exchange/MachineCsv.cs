using System.Text.Json;
using CsvHelper;
using FreshBoot.Core.Dossiers;

namespace FreshBoot.Core.Exchange;

/// <summary>Something wrong in a table.</summary>
/// <param name="Line">Line of the file, 1 for the header.</param>
/// <param name="Column">Header of the column; empty where the whole line is meant.</param>
/// <param name="What">What is wrong.</param>
/// <param name="Wanted">What would be right.</param>
public sealed record CsvFault(int Line, string Column, string What, string Wanted);

/// <summary>A column and what it was taken for.</summary>
/// <param name="Header">Its header.</param>
/// <param name="Key">A fact key, <c>tag</c>, or null where it is left out.</param>
public sealed record CsvColumn(string Header, string? Key);

/// <summary>A machine of a table.</summary>
/// <param name="Line">Line of the file.</param>
/// <param name="Tag">Its asset tag.</param>
/// <param name="Facts">Its facts by key.</param>
public sealed record CsvMachine(int Line, string Tag, IReadOnlyDictionary<string, FactValue> Facts);

/// <summary>A table as it was understood.</summary>
/// <param name="Columns">Its columns.</param>
/// <param name="Machines">The machines of the lines that are right.</param>
/// <param name="Faults">What is wrong; empty in a table that can be taken in.</param>
public sealed record CsvTable(
    IReadOnlyList<CsvColumn> Columns,
    IReadOnlyList<CsvMachine> Machines,
    IReadOnlyList<CsvFault> Faults
);

/// <summary>Thrown for a table with faults; nothing of it is taken in.</summary>
public sealed class CsvRefusedException(IReadOnlyList<CsvFault> faults)
    : RefusedException(
        RefusalKind.Unreadable,
        $"{faults.Count} {(faults.Count == 1 ? "place" : "places")} in the table cannot be taken; the first: {faults[0].What}",
        $"line {faults[0].Line}{(faults[0].Column.Length > 0 ? $", column {faults[0].Column}" : "")}",
        faults[0].Wanted
    )
{
    /// <summary>What is wrong.</summary>
    public IReadOnlyList<CsvFault> Faults { get; } = faults;
}

/// <summary>
/// Machines as a table (RFC 4180): a header line, then a machine a line. A header is a fact key, its label on the screen, or
/// a common word for it; others have to be mapped. Cells that a spreadsheet would run as a formula are written with an
/// apostrophe before them, which is taken off again on the way in.
/// </summary>
public static partial class MachineCsv
{
    /// <summary>Most machines in one table.</summary>
    public const int MostRows = 50_000;

    private const int MostColumns = 200;
    private const int MostFaults = 200;
    private const int LongestRow = 200_000;

    /// <summary>What takes the place of a key for the asset tag.</summary>
    public const string TagKey = "tag";

    private static readonly Dictionary<string, string> Common = new(StringComparer.OrdinalIgnoreCase)
    {
        ["tag"] = TagKey,
        ["asset tag"] = TagKey,
        ["assettag"] = TagKey,
        ["asset"] = TagKey,
        ["manufacturer"] = "identity.maker",
        ["maker"] = "identity.maker",
        ["model"] = "identity.model",
        ["serial"] = "identity.serial",
        ["serial number"] = "identity.serial",
        ["board"] = "identity.board",
        ["cpu"] = "cpu.model",
        ["processor"] = "cpu.model",
        ["ram"] = "memory.installedMiB",
        ["memory"] = "memory.installedMiB",
        ["disk"] = "storage.0.sizeBytes",
        ["drive"] = "storage.0.sizeBytes",
        ["order"] = "order.name",
    };

    /// <summary>Reads a table.</summary>
    /// <param name="text">The table.</param>
    /// <param name="map">By header what it stands for, where that does not show: a key, or an empty text to leave it out.</param>
    /// <param name="taken">Tags that are in use.</param>
    public static CsvTable Read(TextReader text, IReadOnlyDictionary<string, string> map, IReadOnlySet<string> taken)
    {
        var faults = new List<CsvFault>();
        var machines = new List<CsvMachine>();
        var columns = Array.Empty<CsvColumn>();
        try
        {
            using var reader = CsvReader.Create(
                text,
                CsvReaderOptions.Default with
                {
                    HasHeader = false,
                    TrackLineNumbers = true,
                    MaxRecordSize = LongestRow,
                    MalformedData = CsvMalformedDataHandling.Throw,
                }
            );
            if (!reader.Read())
                return new CsvTable(
                    [],
                    [],
                    [new CsvFault(1, "", "The table is empty.", "A header line, then machines.")]
                );
            columns = [.. Cells(reader).Select(h => Column(h.Trim().TrimStart('\ufeff'), map, faults))];
            CheckColumns(columns, faults);
            while (faults.Count < MostFaults && reader.Read())
            {
                if (machines.Count >= MostRows)
                {
                    faults.Add(
                        new CsvFault(
                            (int)reader.LineNumber,
                            "",
                            "The table is too long.",
                            $"At most {MostRows} machines."
                        )
                    );
                    break;
                }
                // A blank line is no machine.
                var cells = Cells(reader);
                if (cells.Any(c => c.Length > 0))
                    TakeRow(cells, (int)reader.LineNumber, columns, machines, faults);
            }
        }
        catch (CsvFormatException e)
        {
            faults.Add(
                new CsvFault(
                    (int)Math.Max(1, e.LineNumber),
                    "",
                    "The table cannot be read from here on: a quote stands where none may, or a line is too long.",
                    $"Lines of at most {LongestRow / 1000} kB; cells in quotes where they hold a comma, quote or line break, and a quote inside doubled (RFC 4180)."
                )
            );
        }
        CheckTags(machines, taken, faults);
        return new CsvTable(columns, machines, [.. faults.OrderBy(f => f.Line).Take(MostFaults)]);
    }

    /// <summary>A table of texts; what a spreadsheet would take for a formula is made harmless.</summary>
    public static string Table(IReadOnlyList<string> heading, IEnumerable<IReadOnlyList<string>> rows)
    {
        using var text = new StringWriter();
        using (var writer = CsvWriter.Create(text, CsvWriterOptions.Default, leaveOpen: true))
        {
            writer.WriteRecord([.. heading]);
            foreach (var row in rows)
                writer.WriteRecord([.. row.Select(Harmless)]);
        }
        return text.ToString();
    }

    /// <summary>Writes machines: a column for every key that one of them has, without what follows from other facts.</summary>
    public static void Write(TextWriter text, IEnumerable<(string Tag, Dossier Dossier)> machines)
    {
        var all = machines.ToArray();
        string[] keys =
        [
            .. all.SelectMany(m => m.Dossier.Facts.Where(f => f.Origin != Origin.Derived).Select(f => f.Key))
                .Distinct(StringComparer.Ordinal)
                .OrderBy(FactRegistry.Position)
                .ThenBy(k => k, StringComparer.Ordinal),
        ];
        using var writer = CsvWriter.Create(text, CsvWriterOptions.Default, leaveOpen: true);
        writer.WriteRecord([TagKey, .. keys]);
        foreach (var (tag, dossier) in all)
            writer.WriteRecord([
                tag,
                .. keys.Select(key =>
                    dossier.Find(key) is { Origin: not Origin.Derived } fact ? Harmless(fact.Value.ToString()) : ""
                ),
            ]);
    }

    private static string[] Cells(CsvReader reader)
    {
        var cells = new string[reader.FieldCount];
        for (var i = 0; i < cells.Length; i++)
            cells[i] = reader.GetString(i);
        return cells;
    }

    /// <summary>A text that no spreadsheet takes for a formula.</summary>
    public static string Harmless(string text) =>
        text.Length > 0 && StartsFormula(text[0]) || text.StartsWith('\'') ? $"'{text}" : text;

    private static string Plain(string text) =>
        text.Length > 1 && text[0] == '\'' && (StartsFormula(text[1]) || text[1] == '\'') ? text[1..] : text;

    private static bool StartsFormula(char c) =>
        c is '=' or '+' or '-' or '@' or '\t' or '\r' or '\n' or '＝' or '＋' or '－' or '＠';

    private static CsvColumn Column(string header, IReadOnlyDictionary<string, string> map, List<CsvFault> faults)
    {
        if (map.TryGetValue(header, out var mapped))
        {
            if (mapped.Length == 0)
                return new CsvColumn(header, null);
            if (mapped == TagKey || FactRegistry.Find(mapped) is not null)
                return new CsvColumn(header, mapped);
        }
        var key =
            FactRegistry.Find(header) is not null ? header
            : Common.TryGetValue(header, out var common) ? common
            : FactRegistry.All.FirstOrDefault(d => d.Label.Equals(header, StringComparison.OrdinalIgnoreCase))?.Key;
        if (key is null)
            faults.Add(
                new CsvFault(
                    1,
                    header,
                    $"Nobody knows what the column “{header}” holds.",
                    "A fact key or its label as the header, or map it to a key or to nothing."
                )
            );
        return new CsvColumn(header, key);
    }

    private static void CheckColumns(CsvColumn[] columns, List<CsvFault> faults)
    {
        if (columns.Length > MostColumns)
            faults.Add(new CsvFault(1, "", $"{columns.Length} columns are too many.", $"At most {MostColumns}."));
        if (columns.All(c => c.Key != TagKey))
            faults.Add(new CsvFault(1, TagKey, "There is no column with the asset tags.", "A column “tag”."));
        foreach (var twice in columns.Where(c => c.Key is not null).GroupBy(c => c.Key).Where(g => g.Count() > 1))
            faults.Add(
                new CsvFault(
                    1,
                    twice.Last().Header,
                    $"Two columns hold {twice.Key}.",
                    "One column a fact: map the other to nothing."
                )
            );
    }

    private static void TakeRow(
        string[] cells,
        int line,
        CsvColumn[] columns,
        List<CsvMachine> machines,
        List<CsvFault> faults
    )
    {
        if (cells.Length != columns.Length)
        {
            faults.Add(
                new CsvFault(
                    line,
                    "",
                    $"The line has {cells.Length} cells where the header has {columns.Length}.",
                    "As many cells as the header; a comma inside a cell wants quotes around the cell."
                )
            );
            return;
        }
        var tag = "";
        var facts = new Dictionary<string, FactValue>(StringComparer.Ordinal);
        for (var i = 0; i < cells.Length; i++)
        {
            var cell = Plain(cells[i].Trim());
            if (columns[i].Key is not { } key)
                continue;
            if (key == TagKey)
            {
                tag = cell.ToUpperInvariant();
                if (!AssetTag.Form().IsMatch(tag))
                    faults.Add(
                        new CsvFault(
                            line,
                            columns[i].Header,
                            tag.Length == 0 ? "The asset tag is missing." : "That is no asset tag.",
                            "Letters and digits in up to four groups with hyphens between them, such as MR-0417."
                        )
                    );
            }
            else if (cell.Length > 0)
            {
                try
                {
                    facts[key] = FactEntry.Read(key, JsonSerializer.SerializeToElement(cell));
                }
                catch (RefusedException e)
                {
                    faults.Add(new CsvFault(line, columns[i].Header, e.Refusal.What, e.Refusal.Wanted));
                }
            }
        }
        machines.Add(new CsvMachine(line, tag, facts));
    }

    private static void CheckTags(List<CsvMachine> machines, IReadOnlySet<string> taken, List<CsvFault> faults)
    {
        var seen = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var machine in machines.Where(m => m.Tag.Length > 0))
            if (!seen.TryAdd(machine.Tag, machine.Line))
                faults.Add(
                    new CsvFault(
                        machine.Line,
                        TagKey,
                        $"The tag {machine.Tag} stands in line {seen[machine.Tag]} already.",
                        "Each tag once."
                    )
                );
        foreach (var machine in machines.Where(m => taken.Contains(m.Tag)))
            faults.Add(
                new CsvFault(
                    machine.Line,
                    TagKey,
                    $"The tag {machine.Tag} is in use.",
                    "A new tag, or leave the line out."
                )
            );
    }
}
