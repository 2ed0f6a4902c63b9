using System.Text;
using FreshBoot.Core.Catalogue;

namespace FreshBoot.Core.Patching;

/// <summary>
/// The gate file of the demo system's installer, <c>setup/gates.conf</c> on its medium: a plain text that says for each gate
/// whether the installer checks it. docs/demo-installers.md describes the format.
/// </summary>
public sealed record GateFile(string System, IReadOnlyList<(string Gate, bool Checks)> Gates)
{
    /// <summary>Where it lies on the medium.</summary>
    public const string Path = "setup/gates.conf";

    private const string Magic = "gates 1";

    /// <summary>The file as it stands on the maker's medium: every blocking gate is checked.</summary>
    public static GateFile Original(SystemEntry system) =>
        new(
            system.Id,
            [.. system.Requirements.Where(r => r.Kind.OnlyChecked() && !r.Advisory).Select(r => (r.Id, true))]
        );

    /// <summary>The file with some gates not checked.</summary>
    /// <exception cref="RefusedException">The file has no such gate, or it is lifted already.</exception>
    public GateFile Lift(IReadOnlyCollection<string> gates)
    {
        foreach (var gate in gates)
            if (Gates.All(g => g.Gate != gate))
                throw new RefusedException(
                    RefusalKind.Conflict,
                    $"The gate file has no gate “{gate}”.",
                    $"gates.conf of {System}",
                    "A recipe that belongs to this system and build."
                );
        return this with { Gates = [.. Gates.Select(g => (g.Gate, g.Checks && !gates.Contains(g.Gate)))] };
    }

    /// <summary>
    /// A recipe that has a system's installer pass over some of its gates: one line changed for each, each of which must be as
    /// its maker left it.
    /// </summary>
    /// <exception cref="RefusedException">The system has no such gate.</exception>
    public static Recipe RecipeFor(SystemEntry system, IReadOnlyList<string> gates)
    {
        Original(system).Lift([.. gates]);
        return new Recipe
        {
            Id = $"gates-{system.Id}",
            Name = $"Pass over {Numbers.Join(gates, "and")} of {system.FullName}",
            About = "Made here from the gates that the route lifts. What it costs stands with the cures of the route.",
            For = new RecipeFor(system.Id, [], [new FileCondition(Path, Contains: $"{Magic}\nsystem {system.Id}\n")]),
            Lifts = [.. gates.Select(g => $"{system.Id}/{g}")],
            Operations =
            [
                .. gates.Select(g => new ReplaceText
                {
                    Path = Path,
                    Find = $"gate {g} check\n",
                    With = $"gate {g} skip\n",
                }),
            ],
        };
    }

    /// <summary>The text, with line feeds.</summary>
    public string Write()
    {
        var text = new StringBuilder($"{Magic}\nsystem {System}\n");
        foreach (var (gate, checks) in Gates)
            text.Append($"gate {gate} {(checks ? "check" : "skip")}\n");
        return text.ToString();
    }

    /// <summary>Reads a gate file.</summary>
    /// <exception cref="RefusedException">Another format, or a line that is not understood.</exception>
    public static GateFile Read(string text)
    {
        var lines = text.Split('\n');
        if (lines.Length < 2 || lines[0] != Magic || lines[1].Split(' ') is not ["system", { Length: > 0 } system])
            throw Refuse("The file does not begin as a gate file.", 1, $"“{Magic}”, then “system ID”.");
        var gates = new List<(string, bool)>();
        for (var i = 2; i < lines.Length; i++)
            switch (lines[i].Split(' '))
            {
                case [""]:
                    break;
                case ["gate", { Length: > 0 } gate, "check" or "skip"]:
                    gates.Add((gate, lines[i].EndsWith("check", StringComparison.Ordinal)));
                    break;
                default:
                    throw Refuse("A line is not understood.", i + 1, "“gate ID check” or “gate ID skip”.");
            }
        return new GateFile(system, gates);
    }

    private static RefusedException Refuse(string what, int line, string wanted) =>
        new(RefusalKind.Unreadable, what, $"gates.conf, line {line}", wanted);
}
