using System.Text.RegularExpressions;
using ArchUnitNET.Loader;

namespace FreshBoot.Core.Tests;

/// <summary>The storeys of Core as docs/architecture.md names them, held against what was compiled.</summary>
public partial class HouseTests
{
    /// <summary>A folder of Core: its storey, and the neighbours on it that it may use.</summary>
    private sealed record Room(int Storey, IReadOnlyList<string> Beside);

    /// <summary>One folder that uses another, and a type that does.</summary>
    private sealed record Use(string From, string To, string By);

    private const string Root = "FreshBoot.Core.";

    [Fact]
    public void Every_folder_of_core_uses_only_what_lies_below_it() => Faults(Table(), Compiled()).ShouldBeEmpty();

    [Fact]
    public void Formats_use_nothing_of_ours() =>
        typeof(Formats.FormatRefusedException)
            .Assembly.GetReferencedAssemblies()
            .Select(a => a.Name)
            .ShouldAllBe(n => !n!.StartsWith("FreshBoot", StringComparison.Ordinal));

    [Theory]
    [InlineData("Dossiers", "Routes", "up")]
    [InlineData("Ladder", "Release", "beside")]
    [InlineData("Attic", "Terms", "not in the table")]
    [InlineData("Terms", "Attic", "not in the table")]
    public void A_use_that_is_not_allowed_is_told(string from, string to, string says) =>
        Faults(Table(), [.. Compiled(), new Use(from, to, "Planted")]).ShouldContain(f => f.Contains(says));

    [Fact]
    public void A_circle_is_told_even_where_the_table_allows_each_of_its_uses()
    {
        var table = new Dictionary<string, Room>(StringComparer.Ordinal)
        {
            ["A"] = new(1, ["B"]),
            ["B"] = new(1, ["C"]),
            ["C"] = new(1, ["A"]),
        };
        Faults(table, [new("A", "B", "x"), new("B", "C", "y"), new("C", "A", "z")])
            .ShouldContain(f => f.Contains("circle"));
    }

    [Fact]
    public void A_folder_of_the_table_that_is_empty_is_told() =>
        Faults(new Dictionary<string, Room>(StringComparer.Ordinal) { ["Nowhere"] = new(1, []) }, [])
            .ShouldContain(f => f.Contains("Nowhere holds nothing"));

    private static List<string> Faults(Dictionary<string, Room> table, IReadOnlyList<Use> uses)
    {
        var faults = new List<string>();
        foreach (
            var folder in uses.SelectMany(u => (string[])[u.From, u.To]).Distinct().Where(f => !table.ContainsKey(f))
        )
            faults.Add($"{folder} is not in the table");
        foreach (var folder in table.Keys.Where(f => uses.All(u => u.From != f && u.To != f)))
            faults.Add($"{folder} holds nothing that is used or uses");
        foreach (var use in uses)
            if (
                table.TryGetValue(use.From, out var from)
                && table.TryGetValue(use.To, out var to)
                && use.From != use.To
            )
            {
                if (to.Storey > from.Storey)
                    faults.Add($"{use.From} uses {use.To} further up ({use.By})");
                else if (to.Storey == from.Storey && !from.Beside.Contains(use.To))
                    faults.Add($"{use.From} uses {use.To} beside it, which the table does not name ({use.By})");
            }
        var next = uses.Where(u => u.From != u.To).ToLookup(u => u.From, u => u.To, StringComparer.Ordinal);
        foreach (var start in next.Select(g => g.Key))
        {
            var reached = new HashSet<string>(StringComparer.Ordinal);
            var open = new Stack<string>(next[start]);
            while (open.TryPop(out var at))
                if (reached.Add(at))
                    foreach (var further in next[at])
                        open.Push(further);
            if (reached.Contains(start))
                faults.Add($"{start} stands in a circle");
        }
        return faults;
    }

    private static List<Use> Compiled() =>
        [
            .. new ArchLoader()
                .LoadAssembly(typeof(RefusedException).Assembly)
                .Build()
                // A type uses at least its own folder: one that nobody uses yet is there all the same.
                .Types.SelectMany(t => t.Dependencies.Select(d => d.Target).Prepend(t).Select(to => (From: t, To: to)))
                .Select(d => (From: Folder(d.From.FullName), To: Folder(d.To.FullName), d.From.FullName))
                .Where(d => d.From.Length > 0 && d.To.Length > 0)
                .DistinctBy(d => (d.From, d.To))
                .Select(d => new Use(d.From, d.To, d.FullName)),
        ];

    private static string Folder(string type) =>
        type.StartsWith(Root, StringComparison.Ordinal) ? type[Root.Length..].Split('.')[0] : "";

    private static Dictionary<string, Room> Table()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "FreshBoot.slnx")))
            folder = Path.GetDirectoryName(folder)!;
        return File.ReadLines(Path.Combine(folder, "docs", "architecture.md"))
            .Select(l => Row().Match(l))
            .Where(m => m.Success)
            .ToDictionary(
                m => m.Groups["folder"].Value,
                m => new Room(
                    int.Parse(m.Groups["storey"].Value),
                    m.Groups["beside"]
                        .Value.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                ),
                StringComparer.Ordinal
            );
    }

    [GeneratedRegex(
        @"^\| (?<storey>\d) [^|]*\| `(?<folder>[A-Za-z]+)` \|[^|]*\|(?<beside>[^|]*)\|$",
        RegexOptions.ExplicitCapture
    )]
    private static partial Regex Row();
}
